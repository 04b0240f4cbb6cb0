// A search over the settings of a rule on the demo plant, as a user runs it: what it finds, that every
// setting is what a proof of it alone says, what knows nothing, and what cannot be.
#include <gtest/gtest.h>

#include <cmath>

#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

const char* const kRule = "mean(@bearing_vibration over {hours}h) > {limit}";

class CliSearch : public ::testing::Test {
  protected:
    CliSearch() : folder("cli-search"), s(folder / "s.jacinth") { copyDemo(s); }
    json found(std::vector<std::string> more) {
        std::vector<std::string> all{"search", s, "--most", "144h", "--least", "12h", "--json"};
        all.insert(all.end(), more.begin(), more.end());
        const Said said = run(all);
        EXPECT_EQ(said.code, 0) << said.err;
        return said.code == 0 ? said.json() : json();
    }
    Folder folder;
    std::string s;
};

TEST_F(CliSearch, FindsARuleForTheBearingsThatHoldsOnUnseenFailures) {
    const json out = found({"--rule", kRule, "--vary", "limit=0.5:8:16", "--vary", "hours=1:25:5"});
    ASSERT_EQ(out["settings"].size(), 80u);
    const json& best = out["best"];
    EXPECT_GE(best["caught"], 6);
    EXPECT_LE(best["falsePerAssetMonth"].get<double>(), 0.3);
    EXPECT_GE(out["leftOut"]["caught"].get<int>(), best["caught"].get<int>() - 1);
    EXPECT_FALSE(out["shuffled"]["luck"]);
    EXPECT_LE(out["flat"]["limit"][0].get<double>(), best["limit"].get<double>());
    EXPECT_GE(out["flat"]["limit"][1].get<double>(), best["limit"].get<double>());
    // Every setting is what a proof of it alone says.
    for (const std::size_t i : {0, 17, 33, 52, 79}) {
        const json& setting = out["settings"][i];
        const Said said =
            run({"prove", s, "--rule", kRule, "--set", "limit=" + setting["limit"].dump(), "--set",
                 "hours=" + setting["hours"].dump(), "--most", "144h", "--least", "12h", "--json"});
        ASSERT_EQ(said.code, 0) << said.err;
        const json proof = said.json();
        for (const char* figure : {"caught", "missed", "falseAlarms", "falsePerAssetMonth"})
            EXPECT_EQ(setting[figure], proof[figure]) << figure << " of setting " << i;
    }
    for (const json& f : out["front"]) EXPECT_GE(f["caught"], 0);
    EXPECT_EQ(found({"--rule", kRule, "--vary", "limit=0.5:8:16", "--vary", "hours=1:25:5"}), out)
        << "seeded";
}

TEST_F(CliSearch, ATagThatKnowsNothingIsCalledLuck) {
    const json out = found({"--rule", "mean(`Site/Outside temp` over 6h) > {x}", "--vary", "x=-5:20:26",
                            "--leave-out", "asset"});
    EXPECT_EQ(out["best"]["untestable"], 0);
    EXPECT_TRUE(out["shuffled"]["luck"]);
    EXPECT_NE(out["verdict"].get<std::string>().find("do not put it on watch"), std::string::npos);
    EXPECT_EQ(out["leftOut"]["by"], "asset");
}

TEST_F(CliSearch, CostsAndMasksAndKeptRules) {
    const json cheap = found({"--rule", kRule, "--set", "hours=4", "--vary", "limit=0.5:8:31", "--aim",
                              "cost", "--cost", "missed=100,false=1,caught=10", "--shuffle", "0"});
    EXPECT_EQ(cheap["best"]["hours"], 4);
    EXPECT_TRUE(cheap["shuffled"].is_null());
    const std::string best = cheap["best"]["limit"].dump();
    const Said cost =
        run({"prove", s, "--rule", kRule, "--set", "hours=4", "--set", "limit=" + best, "--most", "144h",
             "--least", "12h", "--cost", "missed=100,false=1,caught=10", "--json", "--keep", "Bearing"});
    ASSERT_EQ(cost.code, 0) << cost.err;
    EXPECT_EQ(cost.json()["cost"].get<double>(), -cheap["best"]["score"].get<double>());
    // By its name, with the times it was kept with; a mask by a condition.
    const json named = run({"prove", s, "--name", "Bearing", "--json"}).json();
    EXPECT_EQ(named["caught"], cost.json()["caught"]);
    const json masked =
        run({"prove", s, "--name", "Bearing", "--mask", "@bearing_vibration > -100", "--json"}).json();
    EXPECT_EQ(masked["caught"], 0);
    EXPECT_EQ(masked["untestable"], named["caught"].get<int>() + named["missed"].get<int>());
    EXPECT_EQ(masked["countingSeconds"], 0);
}

TEST_F(CliSearch, RulesAreComparedOnTheSameFailures) {
    const std::vector<std::string> terms{"--most", "144h", "--least", "12h"};
    const std::string vibration = "@bearing_vibration > {limit} for 30m", heat = "@bearing_temp > 75",
                      never = "@bearing_vibration > 1000";
    std::vector<std::string> all{"compare", s,     "--rule", vibration, "--rule", heat,
                                 "--rule",  never, "--set",  "limit=4", "--json"};
    all.insert(all.end(), terms.begin(), terms.end());
    const Said said = run(all);
    ASSERT_EQ(said.code, 0) << said.err;
    const json out = said.json();
    ASSERT_EQ(out["rules"].size(), 3u);
    EXPECT_EQ(out["rules"][0]["rule"], vibration);
    EXPECT_EQ(out["failures"].size(), demoTruth()["failures"].size());
    // Counted again from the failures.
    std::vector<int> alone(3), caught(3);
    int any = 0;
    for (const json& f : out["failures"]) {
        any += !f["caughtBy"].empty();
        for (std::size_t i = 0; i < 3; ++i)
            for (const json& by : f["caughtBy"])
                if (by == out["rules"][i]["rule"]) {
                    ++caught[i];
                    alone[i] += f["caughtBy"].size() == 1;
                }
    }
    EXPECT_EQ(out["caughtByAny"], any);
    EXPECT_GT(any, 3);
    for (std::size_t i = 0; i < 3; ++i) {
        EXPECT_EQ(out["rules"][i]["caught"], caught[i]);
        EXPECT_EQ(out["rules"][i]["alone"], alone[i]);
        EXPECT_EQ(out["rules"][i]["both"][i], caught[i]);
    }
    EXPECT_EQ(caught[2], 0);
    // One alone, one with an error, and in words.
    EXPECT_EQ(run({"compare", s, "--rule", heat}).code, 1);
    const Said wrong = run({"compare", s, "--rule", heat, "--rule", "@nothing > 1"});
    EXPECT_EQ(wrong.code, 1);
    EXPECT_NE(wrong.err.find("@nothing > 1: "), std::string::npos) << wrong.err;
    EXPECT_NE(run({"compare", s, "--rule", heat, "--rule", never}).out.find("by it alone"),
              std::string::npos);
}

TEST_F(CliSearch, ComparedRulesHaveCurvesWhosePointsAreProofs) {
    const std::string vibration = "mean(@bearing_vibration over 2h) > {limit}",
                      slope = "slope(@bearing_vibration over 12h) > @bearing_vibration";
    const Said said =
        run({"compare", s, "--rule", vibration, "--rule", slope, "--set", "limit=4", "--curves", "--json"});
    ASSERT_EQ(said.code, 0) << said.err;
    const json rules = said.json()["rules"];
    EXPECT_TRUE(rules[1]["curve"].is_null()) << "it compares with no number";
    const json& curve = rules[0]["curve"];
    EXPECT_EQ(curve["rule"], vibration);
    EXPECT_EQ(curve["setting"], "limit");
    EXPECT_EQ(curve["settings"]["limit"], 4);
    ASSERT_FALSE(curve["points"].empty());
    int caught = -1;
    for (const json& point : curve["points"]) {
        EXPECT_GT(point["caught"], caught);
        caught = point["caught"];
        const std::string limit = "limit=" + point["limit"].dump();
        const json alone = run({"prove", s, "--rule", vibration, "--set", limit, "--json"}).json();
        EXPECT_EQ(alone["caught"], caught) << limit;
        EXPECT_EQ(alone["falseAlarms"], point["falseAlarms"]) << limit;
    }
    EXPECT_GE(caught, rules[0]["caught"]) << "a better limit is never worse";
    const Said words =
        run({"compare", s, "--rule", vibration, "--rule", slope, "--set", "limit=4", "--curves"});
    EXPECT_NE(words.out.find("    with limit "), std::string::npos) << words.out;
    EXPECT_NE(words.out.find("compares with no number"), std::string::npos) << words.out;
}

TEST_F(CliSearch, WhatCannotBeIsSaid) {
    const auto refused = [&](std::vector<std::string> more, const char* words, int code = 1) {
        std::vector<std::string> all{"search", s};
        all.insert(all.end(), more.begin(), more.end());
        const Said said = run(all);
        EXPECT_EQ(said.code, code) << said.err;
        EXPECT_NE((said.err + said.out).find(words), std::string::npos) << said.err;
    };
    refused({"--rule", kRule, "--vary", "limit=1:8:5"}, "{hours} has no number");
    refused({"--rule", kRule, "--vary", "limit=1:8:5", "--vary", "hour=1:8:5"},
            "no setting {hour}; it has {hours}, {limit}");
    refused({"--rule", kRule, "--vary", "limit=1:8:5", "--set", "limit=3", "--set", "hours=1"},
            "both given and varied");
    refused({"--rule", kRule, "--vary", "limit=8:1:5", "--set", "hours=1"}, "lower to a higher");
    refused({"--rule", kRule, "--vary", "limit=1:8"}, "LOW:HIGH:STEPS", 2);
    refused({"--rule", "@bearing_vibration + {x}", "--vary", "x=1:8:5"}, "a rule is a condition");
    refused({"--rule", "@nothing > {x}", "--vary", "x=1:8:5"}, "nothing");
    refused({"--name", "Nobody", "--vary", "x=1:8:5"}, "`Nobody` is not a rule of this study");
    refused({"--rule", "@bearing_vibration > {x}", "--vary", "x=1:8:5", "--mask", "Stop"},
            "nearest is `Stops`");
    refused({"--rule", "@bearing_vibration > {x}", "--vary", "x=1:8:5", "--aim", "cost"}, "needs --cost", 2);
    const Said never = run({"search", s, "--rule", "@bearing_vibration > {x}", "--vary", "x=1000:2000:5"});
    EXPECT_EQ(never.code, 0);
    EXPECT_NE(never.out.find("0 of 7 caught"), std::string::npos) << never.out;
}

}  // namespace
}  // namespace jacinth::test
