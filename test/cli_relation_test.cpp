// The command `relation`: on data that nobody here made, on the demo plant's false step, and on what cannot
// be.
#include <gtest/gtest.h>

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/stats/nile_for_tests.h"
#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

TEST(CliRelation, TheNilesShiftAtAswan) {
    Folder f("relation-nile");
    std::string csv = "time,River/Flow [1e8 m³]\n";
    for (std::size_t i = 0; i < kNile.size(); ++i)
        csv += std::to_string(1871 + i) + "-01-01T00:00:00Z," + std::to_string(kNile[i]) + "\n";
    write(f / "nile.csv", csv);
    ASSERT_EQ(run({"import", f / "nile.jacinth", f / "nile.csv", "--wide", "--zone", "UTC"}).code, 0);
    const std::string s = f / "nile.jacinth";
    ASSERT_EQ(run({"tag", "set", s, "--tag", "River/Flow", "--kind", "stepped"}).code, 0);
    const Said said = run({"relation", s, "--tag", "River/Flow", "--every", "365d", "--kinds", "level",
                           "--alpha", "0.005", "--json"});
    ASSERT_EQ(said.code, 0) << said.err;
    const json found = said.json()["found"];
    ASSERT_EQ(found.size(), 1u) << said.out;
    EXPECT_NEAR(found[0]["size"].get<double>(), -248, 8);
    const std::string year = found[0]["time"].get<std::string>().substr(0, 4);
    EXPECT_TRUE(year == "1898" || year == "1899") << year;
    EXPECT_GT(said.json()["after"]["r2"].get<double>(), said.json()["before"]["r2"].get<double>() + 0.3);
}

TEST(CliRelation, ATagThatSteppedAgainstItsTwin) {
    const std::string demo = std::string(JACINTH_DEMO_FOLDER) + "/demo.jacinth";
    const json truth = demoTruth();
    const Said said = run({"relation", demo, "--tag", "Kiln 6/RH twin", "--on", "Kiln 6/Air-off RH",
                           "--every", "6h", "--kinds", "level", "--alpha", "0.001", "--json"});
    ASSERT_EQ(said.code, 0) << said.err;
    const json relation = said.json();
    EXPECT_EQ(relation["before"]["coefficients"][1]["name"], "Kiln 6/Air-off RH");
    EXPECT_NEAR(relation["after"]["coefficients"][1]["value"].get<double>(), 1, 0.1);
    EXPECT_GT(relation["n"].get<int>(), 200);
    for (const json& step : truth["falseSteps"]) {
        if (step["tag"] != "Kiln 6/RH twin") continue;
        const bool seen = std::any_of(relation["found"].begin(), relation["found"].end(), [&](const json& f) {
            return std::abs(toHours(instantOf(f["time"]) - instantOf(step["time"]))) <= 12 &&
                   std::abs(f["size"].get<double>() - step["size"].get<double>()) < 1.5;
        });
        EXPECT_TRUE(seen) << step << "\n" << relation["found"];
    }
}

TEST(CliRelation, WhatCannotBeIsSaid) {
    const std::string demo = std::string(JACINTH_DEMO_FOLDER) + "/demo.jacinth";
    const auto code = [&](std::vector<std::string> more) {
        more.insert(more.begin(), {"relation", demo});
        return run(more).code;
    };
    EXPECT_EQ(code({"--tag", "Kiln 6/RH twn"}), 1);
    EXPECT_EQ(code({"--tag", "Kiln 6/RH twin", "--on", "Kiln 6/Kiln step"}), 1);
    EXPECT_EQ(code({"--tag", "Kiln 6/RH twin", "--on", "Kiln 6/RH twin"}), 1);
    EXPECT_EQ(code({"--tag", "Kiln 6/RH twin", "--kinds", "bend"}), 2);
    EXPECT_EQ(code({"--tag", "Kiln 6/RH twin", "--every", "10s"}), 1) << "too many rows";
    EXPECT_EQ(code({"--tag", "Kiln 6/RH twin", "--every", "30d"}), 1) << "too few rows";
    EXPECT_EQ(code({"--tag", "Kiln 6/RH twin", "--alpha", "0.9"}), 2);
}

}  // namespace
}  // namespace jacinth::test
