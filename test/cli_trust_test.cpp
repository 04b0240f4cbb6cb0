// The commands `trust set`, `trust list` and `trust scales`, and what they do to figures.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

TEST(CliTrust, AStretchIsPaintedListedAndLeftOutOfFigures) {
    Folder f("trust");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth", tag = "Kiln 3/Bed ΔP";
    const std::vector<std::string> stretch{"--from", "2026-03-10T00:00:00Z", "--to", "2026-03-12T00:00:00Z"};
    const auto with = [&](std::vector<std::string> command, const std::vector<std::string>& more) {
        command.insert(command.end(), more.begin(), more.end());
        return command;
    };
    EXPECT_TRUE(run({"trust", "list", s, "--tag", tag, "--json"}).json().empty());
    const Said set = run(with({"trust", "set", s, "--tag", tag, "--trust", "unusable", "--sign-off",
                               "checked", "--why", "probe blocked", "--json"},
                              stretch));
    ASSERT_EQ(set.code, 0) << set.err;
    const json listed = run({"trust", "list", s, "--tag", tag, "--json"}).json();
    ASSERT_EQ(listed.size(), 2u);
    EXPECT_EQ(listed[0]["trust"], "unusable");
    EXPECT_EQ(listed[1]["signOff"], "checked");
    EXPECT_EQ(listed[0]["start"], "2026-03-10T00:00:00Z");
    const json found = run(with({"eval", s, "trust(@bed_dp) is \"unusable\"", "--asset", "Kiln 3", "--json"},
                                {"--from", "2026-03-09T00:00:00Z", "--to", "2026-03-13T00:00:00Z"}))
                           .json();
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0]["start"], "2026-03-10T00:00:00Z");
    EXPECT_EQ(found[0]["end"], "2026-03-12T00:00:00Z");
    ASSERT_EQ(run({"undo", s}).code, 0);
    EXPECT_TRUE(run({"trust", "list", s, "--tag", tag, "--json"}).json().empty());
    EXPECT_EQ(run({"check", s}).code, 0);
}

TEST(CliTrust, AFixSaysWhatItsStretchIsWorth) {
    Folder f("trust-fix");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth";
    ASSERT_EQ(run({"fix", "add", s, "--tag", "Kiln 3/Bed ΔP", "--kind", "shift", "--by", "30", "--from",
                   "2026-03-10T00:00:00Z", "--to", "2026-03-12T00:00:00Z", "--why", "range"})
                  .code,
              0);
    const json mended = run({"trust", "list", s, "--tag", "Kiln 3/Bed ΔP", "--json"}).json();
    ASSERT_EQ(mended.size(), 1u);
    EXPECT_EQ(mended[0]["trust"], "fair");
    EXPECT_EQ(mended[0]["from"], "shift");
    EXPECT_TRUE(run({"trust", "list", s, "--tag", "Kiln 3/Bed ΔP", "--as-logged", "--json"}).json().empty());
}

TEST(CliTrust, TheScalesAreTheSitesOwn) {
    Folder f("trust-scales");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth";
    const Said changed = run({"trust", "scales", s, "--trust", "good, fair, poor", "--rule", "hidden=poor",
                              "--who", "signed=R. Osen", "--json"});
    ASSERT_EQ(changed.code, 0) << changed.err;
    EXPECT_EQ(changed.json()["trust"], (json{"good", "fair", "poor"}));
    const std::vector<std::string> paint{"trust",
                                         "set",
                                         s,
                                         "--tag",
                                         "Kiln 3/Bed ΔP",
                                         "--from",
                                         "2026-03-10T00:00:00Z",
                                         "--to",
                                         "2026-03-12T00:00:00Z"};
    const auto painted = [&](const std::string& option, const std::string& grade) {
        std::vector<std::string> command = paint;
        command.insert(command.end(), {option, grade});
        return run(command);
    };
    EXPECT_EQ(painted("--trust", "good").code, 0);
    EXPECT_EQ(painted("--trust", "sound").code, 1);
    const Said signing = painted("--sign-off", "signed");
    EXPECT_EQ(signing.code, 1);
    EXPECT_NE(signing.err.find("may not set `signed`; R. Osen may"), std::string::npos) << signing.err;
    EXPECT_EQ(run({"trust", "scales", s, "--trust", "good,good"}).code, 1);
    EXPECT_EQ(run({"trust", "scales", s, "--rule", "filled=gone"}).code, 1);
    EXPECT_EQ(run({"trust", "scales", s, "--rule", "never=good"}).code, 2);
    EXPECT_EQ(run({"trust", "set", s, "--tag", "Kiln 3/Bed dP", "--trust", "good", "--from",
                   "2026-03-10T00:00:00Z", "--to", "2026-03-12T00:00:00Z"})
                  .code,
              1);
}

}  // namespace
}  // namespace jacinth::test
