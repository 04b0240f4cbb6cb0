// The command `steps` on the demo plant, held against what really happened, and what is done about a step.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

const std::string kDemoPlant = std::string(JACINTH_DEMO_FOLDER) + "/demo.jacinth";

bool isWithin(const json& step, Instant t) {
    return instantOf(step["timeLow"]) - kMinute <= t && t <= instantOf(step["timeHigh"]) + kMinute;
}

TEST(CliSteps, TheDemoPlantsFalseStepsAreFoundWithTheirSizes) {
    const json found = run({"steps", kDemoPlant, "--json"}).json(), truth = demoTruth();
    std::size_t right = 0;
    for (const json& real : truth["falseSteps"]) {
        const auto match = std::find_if(found.begin(), found.end(), [&](const json& s) {
            return s["tag"] == real["tag"] && s["lonely"] == true && isWithin(s, instantOf(real["time"]));
        });
        ASSERT_NE(match, found.end()) << real;
        const double size = real["size"];
        EXPECT_NEAR((*match)["size"].get<double>(), size, 0.1 * std::abs(size)) << *match;
        EXPECT_EQ((*match)["returns"].is_null(), real["returns"].is_null()) << *match;
        ++right;
    }
    std::size_t lonely = 0;
    for (const json& s : found) lonely += s["lonely"] == true;
    EXPECT_LE(lonely - right, 3u);
    for (const json& change : truth["processChanges"])
        EXPECT_TRUE(std::any_of(found.begin(), found.end(), [&](const json& s) {
            return s["tag"].get<std::string>().starts_with(change["asset"].get<std::string>() + "/") &&
                   !s["moved"].empty() && isWithin(s, instantOf(change["time"]));
        })) << change;
}

TEST(CliSteps, OneIsTakenOutWithItsMountAndNotFoundAgain) {
    Folder f("steps");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth";
    const auto listed = [&](const std::string& tag) {
        return run({"steps", s, "--tag", tag, "--json"}).json();
    };
    const json temp = listed("Kiln 6/Air-off temp");
    ASSERT_EQ(temp.size(), 1u);
    EXPECT_EQ(temp[0]["sharedWith"], json::array({"Kiln 6/Air-off RH"}));
    const std::string number = std::to_string(temp[0]["number"].get<int>());
    const json fixes = run({"fix", "add", s, "--step", number, "--why", "mount knocked", "--json"}).json();
    ASSERT_EQ(fixes.size(), 2u);
    EXPECT_EQ(fixes[0]["kind"], "shift");
    EXPECT_NEAR(fixes[0]["by"].get<double>(), -temp[0]["size"].get<double>(), 0.05);
    EXPECT_TRUE(listed("Kiln 6/Air-off temp").empty());
    EXPECT_TRUE(listed("Kiln 6/Air-off RH").empty());
    ASSERT_EQ(run({"undo", s}).code, 0);
    EXPECT_EQ(listed("Kiln 6/Air-off temp").size(), 1u);
    const json alone =
        run({"fix", "add", s, "--step", number, "--alone", "--why", "mount knocked", "--json"}).json();
    EXPECT_EQ(alone["tag"], "Kiln 6/Air-off temp");
    EXPECT_EQ(run({"check", s}).code, 0);
}

TEST(CliSteps, VerdictsAreListedWithTheirReasons) {
    Folder f("verdicts");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth";
    const Said judged = run({"steps", s, "--process", "1", "--why", "new pulley"});
    ASSERT_EQ(judged.code, 0);
    EXPECT_NE(judged.out.find("it is the process"), std::string::npos) << judged.out;
    EXPECT_EQ(run({"steps", s, "--json"}).json()[0]["dismissed"]["why"], "new pulley");
    EXPECT_NE(run({"steps", s}).out.find("new pulley"), std::string::npos);
    ASSERT_EQ(run({"steps", s, "--forget", "1"}).code, 0);
    EXPECT_TRUE(run({"steps", s, "--json"}).json()[0]["dismissed"].is_null());
    EXPECT_EQ(run({"steps", s, "--leave", "1"}).code, 1);
    EXPECT_NE(run({"steps", s, "--leave", "1"}).err.find("say why"), std::string::npos);
}

TEST(CliSpikes, AreFoundAndHiddenAsOneClass) {
    Folder f("spikes");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth", tag = "Kiln 3/Bed ΔP";
    const auto found = [&] { return run({"spikes", s, "--tag", tag, "--json"}).json(); };
    const json before = found(), truth = demoTruth();
    std::size_t planted = 0, seen = 0;
    for (const json& spike : truth["spikes"]) {
        if (spike["tag"] != tag) continue;
        ++planted;
        seen += std::any_of(before.begin(), before.end(), [&](const json& b) {
            return std::chrono::abs(instantOf(b["time"]) - instantOf(spike["time"])) < kMinute;
        });
    }
    ASSERT_GT(planted, 0u);
    EXPECT_EQ(seen, planted);
    const json fix =
        run({"fix", "add", s, "--tag", tag, "--kind", "hide", "--spikes", "--from", "2026-03-01T00:00:00Z",
             "--to", "2026-05-01T00:00:00Z", "--why", "electrical", "--json"})
            .json();
    EXPECT_EQ(fix["parts"].size(), before.size());
    EXPECT_GE(fix["figures"]["hidden"], before.size());
    EXPECT_TRUE(found().empty());
    ASSERT_EQ(run({"undo", s}).code, 0);
    EXPECT_EQ(found().size(), before.size());
    EXPECT_TRUE(run({"spikes", s, "--tag", tag, "--prominence", "1e6", "--json"}).json().empty());
}

TEST(CliSpikes, WhatCannotBeIsRefused) {
    EXPECT_NE(run({"spikes", kDemoPlant, "--tag", "Kiln 3/Kiln step"}).err.find("holds states"),
              std::string::npos);
    EXPECT_EQ(run({"spikes", kDemoPlant, "--tag", "Kiln 3/Bed ΔP", "--prominence", "-1"}).code, 2);
    EXPECT_EQ(run({"spikes", kDemoPlant, "--tag", "Kiln 3/Bed ΔP", "--width", "wide"}).code, 2);
    Folder f("no-spikes");
    copyDemo(f / "s.jacinth");
    const Said none = run({"fix", "add", f / "s.jacinth", "--tag", "Kiln 3/Bed ΔP", "--kind", "hide",
                           "--spikes", "--prominence", "1e6", "--from", "2026-03-01T00:00:00Z", "--to",
                           "2026-03-02T00:00:00Z", "--why", "x"});
    EXPECT_EQ(none.code, 1);
    EXPECT_NE(none.err.find("no spikes"), std::string::npos) << none.err;
    const std::vector<std::string> hide{"fix",
                                        "add",
                                        f / "s.jacinth",
                                        "--tag",
                                        "Kiln 3/Bed ΔP",
                                        "--kind",
                                        "hide",
                                        "--from",
                                        "2026-03-01T00:00:00Z",
                                        "--to",
                                        "2026-03-02T00:00:00Z",
                                        "--why",
                                        "x",
                                        "--prominence",
                                        "9"};
    EXPECT_NE(run(hide).err.find("--spikes"), std::string::npos);  // else it would hide the whole stretch
}

TEST(CliSteps, WhatDoesNotExistIsSaid) {
    EXPECT_NE(run({"steps", kDemoPlant, "--asset", "Kiln 9"}).err.find("Kiln 9"), std::string::npos);
    EXPECT_EQ(run({"steps", kDemoPlant, "--tag", "Kiln 1/Nothing"}).code, 1);
    Folder f("no-step");
    copyDemo(f / "s.jacinth");
    const Said none = run({"fix", "add", f / "s.jacinth", "--step", "99", "--why", "x"});
    EXPECT_EQ(none.code, 1);
    EXPECT_NE(none.err.find("step 99 is not in the list"), std::string::npos) << none.err;
    const Said both = run({"fix", "add", f / "s.jacinth", "--step", "1", "--kind", "hide", "--why", "x"});
    EXPECT_EQ(both.code, 2);
    EXPECT_EQ(run({"fix", "add", f / "s.jacinth", "--why", "x"}).code, 2);
}

TEST(CliStuck, FindsThoseOfTheTruthAndNoOthers) {
    const std::string demo = std::string(JACINTH_DEMO_FOLDER) + "/demo.jacinth";
    const Said said = run({"stuck", demo, "--json"});
    ASSERT_EQ(said.code, 0) << said.err;
    const json found = said.json(), truth = demoTruth()["stuck"];
    EXPECT_EQ(found.size(), truth.size());
    for (const json& t : truth) {
        const bool seen = std::any_of(found.begin(), found.end(), [&](const json& f) {
            return f["tag"] == t["tag"] &&
                   std::abs(toHours(instantOf(f["start"]) - instantOf(t["start"]))) < 0.1 &&
                   std::abs(toHours(instantOf(f["end"]) - instantOf(t["end"]))) < 0.5;
        });
        EXPECT_TRUE(seen) << t << "\n" << found;
    }
    const std::string tag = truth[0]["tag"];
    const Said one = run({"stuck", demo, "--tag", tag, "--least", "20d", "--json"});
    EXPECT_EQ(one.json(), json::array());
    EXPECT_NE(run({"stuck", demo, "--tag", "Kiln 9/RH"}).code, 0);
    EXPECT_NE(run({"stuck", demo, "--asset", "Kiln 9"}).code, 0);
    EXPECT_NE(run({"stuck", demo, "--least", "never"}).code, 0);
    EXPECT_NE(run({"stuck", demo, "--asset", tag.substr(0, tag.find('/'))}).out.find("samples; usual"),
              std::string::npos);
}

}  // namespace
}  // namespace jacinth::test
