// Rules by command: kept in versions, listed, proved by name, compared with older versions and golden limits,
// written to files.
#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>

#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

class CliRules : public ::testing::Test {
  protected:
    CliRules() : folder("cli-rules"), s(folder / "s.jacinth") { copyDemo(s); }
    json said(std::vector<std::string> args) {
        args.push_back("--json");
        const Said out = run(args);
        EXPECT_EQ(out.code, 0) << args[0] << ": " << out.err;
        return out.code == 0 ? out.json() : json();
    }
    Folder folder;
    std::string s;
    const std::string text = "mean(@bearing_vibration over {hours}h) > {limit}";
};

TEST_F(CliRules, AreKeptInVersionsAndProvedByName) {
    said({"rule", "add", s, "Rough", "--rule", text, "--set", "hours=6", "--set", "limit=3.2", "--most",
          "72h", "--note", "first", "--severity", "3", "--advice", "look"});
    const json second = said({"rule", "add", s, "Rough", "--rule", text, "--set", "hours=3", "--set",
                              "limit=2.4", "--most", "72h"});
    EXPECT_EQ(second[0]["version"], 2);
    const json versions = said({"rule", "versions", s, "Rough"});
    ASSERT_EQ(versions.size(), 2u);
    EXPECT_EQ(versions[0]["note"], "first");
    EXPECT_EQ(versions[0]["settings"]["limit"], 3.2);
    EXPECT_EQ(said({"rule", "list", s}).size(), 1u);
    EXPECT_EQ(said({"rule", "show", s, "Rough", "--version", "1"})["advice"], "look");
    // By name is as by text, with the numbers and times that it was kept with.
    const json byName = said({"prove", s, "--name", "Rough", "--version", "1"});
    EXPECT_EQ(byName,
              said({"prove", s, "--rule", text, "--set", "hours=6", "--set", "limit=3.2", "--most", "72h"}));
    const json other = said({"prove", s, "--name", "Rough", "--version", "1", "--set", "limit=2.4"});
    EXPECT_GE(other["caught"].get<int>(), byName["caught"].get<int>());
    const json compared =
        said({"compare", s, "--name", "Rough", "--rule", "@bearing_vibration > 5", "--most", "72h"});
    EXPECT_EQ(compared["rules"][1]["caught"], said({"prove", s, "--name", "Rough"})["caught"]);
    EXPECT_EQ(run({"rule", "show", s, "Ruogh"}).code, 1);
    EXPECT_NE(run({"rule", "show", s, "Ruogh"}).err.find("nearest is `Rough`"), std::string::npos);
    EXPECT_NE(run({"rule", "show", s, "Rough", "--version", "9"}).err.find("has no version 9"),
              std::string::npos);
    said({"rule", "remove", s, "Rough", "--version", "1"});
    EXPECT_EQ(said({"rule", "versions", s, "Rough"}).size(), 1u);
    said({"rule", "rename", s, "Rough", "--to", "Bearing rough"});
    EXPECT_EQ(said({"rule", "list", s})[0]["name"], "Bearing rough");
    EXPECT_EQ(run({"undo", s}).code, 0);
    EXPECT_EQ(said({"rule", "list", s})[0]["name"], "Rough");
}

TEST_F(CliRules, AKeptProofSaysWhenItIsOutOfDate) {
    const json proof =
        said({"prove", s, "--rule", text, "--set", "hours=3", "--set", "limit=2.4", "--keep", "Rough"});
    json kept = said({"rule", "show", s, "Rough"})["proof"];
    EXPECT_EQ(kept["caught"], proof["caught"]);
    EXPECT_EQ(kept["falseAlarms"], proof["falseAlarms"]);
    EXPECT_TRUE(kept["outOfDate"].empty());
    EXPECT_EQ(run({"fix", "add", s, "--tag", "Kiln 2/Bearing vib.", "--kind", "shift", "--by", "0.5",
                   "--from", "2026-03-10T00:00:00Z", "--to", "2026-03-11T00:00:00Z", "--why", "test"})
                  .code,
              0);
    kept = said({"rule", "show", s, "Rough"})["proof"];
    EXPECT_EQ(kept["outOfDate"], json::array({"Kiln 2/Bearing vib. has other fixes"}));
    // Kept again without a change: no version is added, and the newest proof counts.
    said({"prove", s, "--name", "Rough", "--keep", "Rough"});
    EXPECT_EQ(said({"rule", "versions", s, "Rough"}).size(), 1u);
    EXPECT_TRUE(said({"rule", "show", s, "Rough"})["proof"]["outOfDate"].empty());
}

TEST_F(CliRules, GoldenLimitsAreComparedLikeARule) {
    said({"runs", "find", s, "--track", "Batches", "--where", "@kiln_step is not \"Idle\""});
    const json runs = said({"runs", "list", s, "--track", "Batches"});
    std::vector<std::string> golden{"golden", "set", s, "--track", "Batches", "--why", "test"};
    for (std::size_t i = 0; i < 12; ++i) {
        golden.push_back("--run");
        golden.push_back(std::to_string(runs[i]["id"].get<std::int64_t>()));
    }
    said(golden);
    said({"limits", "build", s, "--name", "Usual", "--track", "Batches", "--tag", "bearing_vibration",
          "--every", "30m"});
    const json both =
        said({"compare", s, "--rule", "@bearing_vibration > 4", "--limits", "Usual", "--ignore", "1h"});
    EXPECT_EQ(both["rules"][1]["rule"], "Usual");
    EXPECT_EQ(both["rules"][1]["caught"],
              said({"prove", s, "--rule", "(outside(\"Usual\", @bearing_vibration)) for 1h"})["caught"]);
    EXPECT_NE(run({"compare", s, "--rule", "@bearing_vibration > 4", "--limits", "Usaul"})
                  .err.find("nearest is `Usual`"),
              std::string::npos);
}

TEST_F(CliRules, GoOutAndInAsAFileAndAWrongOneIsRefused) {
    said({"rule", "add", s, "Rough", "--rule", text, "--set", "hours=6", "--set", "limit=3.2", "--mask",
          "Stops"});
    const std::string file = folder / "rules.json";
    EXPECT_EQ(said({"rule", "export", s, "--out", file})["rules"], 1);
    const std::string other = folder / "o.jacinth";
    copyDemo(other);
    EXPECT_EQ(said({"rule", "import", other, file})["rules"], 1);
    json mine = said({"rule", "show", s, "Rough"}), theirs = said({"rule", "show", other, "Rough"});
    for (json* j : {&mine, &theirs}) j->erase("made"), j->erase("proof");
    EXPECT_EQ(mine, theirs);
    std::ofstream(file) << "[{\"name\": \"a\", \"rule\": \"@nothing_there > 1\"}]";
    const Said refused = run({"rule", "import", other, file});
    EXPECT_EQ(refused.code, 1);
    EXPECT_NE(refused.err.find("a: "), std::string::npos) << refused.err;
    EXPECT_EQ(run({"rule", "add", s, "x", "--rule", "mean(@bearing_vibration over 2h)"}).code, 1);
    EXPECT_EQ(run({"rule", "add", s, "x", "--rule", text}).code, 1) << "its settings have no numbers";
    EXPECT_EQ(run({"rule"}).code, 2);
    EXPECT_NE(run({"rule", "list", other}).out.find("Rough, version 1"), std::string::npos);
    EXPECT_NE(run({"rule", "list", s + "x"}).code, 0);
}

}  // namespace
}  // namespace jacinth::test
