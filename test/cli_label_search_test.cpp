// `label like` and `label agree`: on the demo plant's flame losses, by hand, and on what cannot be.
#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>
#include <nlohmann/json.hpp>

#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

const std::string kDemo = std::string(JACINTH_DEMO_FOLDER) + "/demo.jacinth";

TEST(CliLabelLike, FlameLossesAreFoundFromOneOfThem) {
    const json losses = demoTruth()["flameLosses"];
    const json& example = losses[0];
    const std::string from = toIso(instantOf(example["start"]) - 5 * kMinute),
                      to = toIso(instantOf(example["end"]) + 5 * kMinute);
    const Said said =
        run({"label", "like", kDemo, "--asset", example["asset"], "--tag", "gas_flow", "--from", from, "--to",
             to, "--level", "--most", std::to_string(2 * (losses.size() - 1)), "--json"});
    ASSERT_EQ(said.code, 0) << said.err;
    const json hits = said.json();
    EXPECT_LE(hits.size(), 2 * (losses.size() - 1));
    for (std::size_t i = 1; i < hits.size(); ++i) EXPECT_LE(hits[i - 1]["distance"], hits[i]["distance"]);
    const auto overlaps = [](const json& a, const json& b) {
        return a["asset"] == b["asset"] && instantOf(a["start"]) < instantOf(b["end"]) &&
               instantOf(b["start"]) < instantOf(a["end"]);
    };
    std::size_t found = 0;
    for (std::size_t i = 1; i < losses.size(); ++i)
        found += std::any_of(hits.begin(), hits.end(), [&](const json& h) { return overlaps(h, losses[i]); });
    EXPECT_GE(static_cast<double>(found), 0.85 * static_cast<double>(losses.size() - 1)) << found;
    for (const json& h : hits) EXPECT_FALSE(h["asset"] == example["asset"] && h["start"] == from);
}

TEST(CliLabelLike, OneAssetAloneAndWhatCannotBe) {
    const auto like = [](std::vector<std::string> more) {
        more.insert(more.begin(), {"label", "like", kDemo});
        more.emplace_back("--json");
        return run(more);
    };
    const std::vector<std::string> example{
        "--asset", "Kiln 1", "--from", "2026-03-12T09:40:00Z", "--to", "2026-03-12T10:10:00Z"};
    const auto with = [&](std::vector<std::string> more) {
        more.insert(more.begin(), example.begin(), example.end());
        return like(more);
    };
    const Said own = with({"--tag", "gas_flow", "--in", "Kiln 2", "--stretch", "10", "--most", "5"});
    ASSERT_EQ(own.code, 0) << own.err;
    ASSERT_EQ(own.json().size(), 5u);
    for (const json& h : own.json()) EXPECT_EQ(h["asset"], "Kiln 2");
    EXPECT_NE(with({"--tag", "no_such_role"}).code, 0);
    EXPECT_NE(with({"--tag", "kiln_step"}).code, 0) << "states have no shape";
    EXPECT_NE(with({"--tag", "gas_flow", "--in", "Kiln 9"}).code, 0);
    EXPECT_NE(with({"--tag", "gas_flow", "--stretch", "80"}).code, 0);
    EXPECT_NE(like({"--asset", "Kiln 1", "--tag", "gas_flow", "--from", "2020-01-01T00:00:00Z", "--to",
                    "2020-01-01T01:00:00Z"})
                  .code,
              0);
}

TEST(CliLabelAgree, TwoPeoplesLabelsByHand) {
    Folder f("agree");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth";
    const auto label = [&](const char* who, const char* from, const char* to, const char* kind) {
        ::setenv("JACINTH_USER", who, 1);
        const Said said =
            run({"label", "add", s, "--asset", "Kiln 1", "--from", from, "--to", to, "--kind", kind});
        EXPECT_EQ(said.code, 0) << said.err;
    };
    const std::string kind =
        run({"label", "kinds", "list", s, "--json"}).json()[0]["name"].get<std::string>();
    label("A. One", "2026-03-10T00:00:00Z", "2026-03-10T04:00:00Z", kind.c_str());
    label("B. Two", "2026-03-10T01:00:00Z", "2026-03-10T05:00:00Z", kind.c_str());
    ::setenv("JACINTH_USER", "M. L.", 1);
    const Said said = run({"label", "agree", s, "A. One", "B. Two", "--from", "2026-03-10T00:00:00Z", "--to",
                           "2026-03-10T10:00:00Z", "--json"});
    ASSERT_EQ(said.code, 0) << said.err;
    const json agreed = said.json();
    // Of ten hours 3 both, 1 and 1 alone, 5 none: observed 0.8, by chance 0.16 + 0.36.
    EXPECT_NEAR(agreed["kappa"].get<double>(), 0.28 / 0.48, 1e-9);
    EXPECT_EQ(agreed["seconds"]["both"], 3 * 3600);
    EXPECT_EQ(agreed["seconds"]["neither"], 5 * 3600);
    ASSERT_EQ(agreed["differences"].size(), 2u);
    EXPECT_EQ(agreed["differences"][0]["one"], kind);
    EXPECT_EQ(agreed["differences"][0]["two"], "");
    const Said nobody = run({"label", "agree", s, "A. One", "C. Three"});
    EXPECT_NE(nobody.code, 0);
    EXPECT_NE(nobody.err.find("A. One, B. Two"), std::string::npos) << nobody.err;
}

}  // namespace
}  // namespace jacinth::test
