// The commands of jacinth-cli one by one: output, exit codes, and that what fails changes nothing.
#include <gtest/gtest.h>

#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

TEST(Cli, WrongUsageIsTwoAndWhatTheDataSaysIsOne) {
    Folder f("usage");
    EXPECT_EQ(run({}).code, 2);
    EXPECT_EQ(run({"nonsense"}).code, 2);
    EXPECT_EQ(run({"prove", f / "s.jacinth"}).code, 2);
    EXPECT_EQ(run({"--help"}).code, 0);
    EXPECT_EQ(run({"limits", "build", "--help"}).code, 0);
    const Said missing = run({"tags", f / "nothing.jacinth"});
    EXPECT_EQ(missing.code, 1);
    EXPECT_NE(missing.err.find("there is no file"), std::string::npos);
    EXPECT_TRUE(missing.out.empty());
}

TEST(Cli, AnImportThatFailsLeavesNoStudyBehind) {
    Folder f("refuse");
    write(f / "good.csv", "time,K 1/a\n2026-03-01,1\n");
    write(f / "bad.csv", "a,b\n1,2\n");
    const Said said = run({"import", f / "s.jacinth", f / "good.csv", f / "bad.csv"});
    EXPECT_EQ(said.code, 1);
    EXPECT_NE(said.err.find("no time column"), std::string::npos);
    EXPECT_FALSE(fs::exists(f / "s.jacinth"));
    EXPECT_EQ(run({"import", f / "s.jacinth", f / "good.csv"}).code, 0);
    EXPECT_EQ(run({"import", f / "s.jacinth", f / "bad.csv"}).code, 1);
    EXPECT_EQ(run({"tags", f / "s.jacinth", "--json"}).json().size(), 1u);
}

TEST(Cli, ImportSaysWhatCameAndKeepsBadRows) {
    Folder f("import");
    write(f / "long.csv",
          "time;tag;value;quality\n01.03.2026 10:00;K 1/a;1,5;good\nx;K 1/a;2;good\n01.03.2026 10:02;K "
          "1/a;3;bad\n");
    const auto j = run({"import", f / "s.jacinth", f / "long.csv", "--zone", "Europe/Oslo", "--json"}).json();
    EXPECT_EQ(j["rows"], 3);
    EXPECT_EQ(j["samples"], 2);
    EXPECT_EQ(j["badRowCount"], 1);
    EXPECT_EQ(j["badRows"][0]["line"], 3);
    EXPECT_EQ(j["badRows"][0]["file"], "long.csv");
    const auto preview = run({"import", f / "other.jacinth", f / "long.csv", "--preview"}).json();
    EXPECT_EQ(preview["files"][0]["form"], "long");
    EXPECT_FALSE(fs::exists(f / "other.jacinth"));
    const Said read = run({"read", f / "s.jacinth", "--tag", "K 1/a"});
    EXPECT_EQ(read.out, "time,value,quality\n2026-03-01T09:00:00Z,1.5,good\n2026-03-01T09:02:00Z,3,bad\n");
    EXPECT_EQ(run({"read", f / "s.jacinth", "--tag", "K 1/b"}).code, 1);
}

class Small : public ::testing::Test {
  protected:
    void SetUp() override {
        std::string text = "time,K 1/x [bar],K 1/mode,K 2/x [bar],K 2/mode\n";
        for (int i = 0; i < 600; ++i) {
            const bool on = i % 100 >= 20;
            text +=
                toIso(*fromIso("2026-03-01") + i * kMinute) + "," +
                std::to_string(on ? 5 + i % 100 * 0.1 : 0) + "," + (on ? "On" : "Off") + "," +
                std::to_string(on ? 5 + i % 100 * 0.1 + (i / 100 == 3 ? 3 : 0) + 0.05 * (i / 100 % 2) : 0) +
                "," + (on ? "On" : "Off") + "\n";
        }
        write(folder / "x.csv", text);
        ASSERT_EQ(run({"import", study, folder / "x.csv"}).code, 0);
    }
    Folder folder{"small"};
    std::string study = folder / "s.jacinth";
};

TEST_F(Small, TagSettings) {
    EXPECT_EQ(run({"tag", "set", study, "--tag", "K 1/x", "--role", "pressure", "--unit", "kPa",
                   "--longest-gap", "20m"})
                  .code,
              0);
    const auto tags = run({"tags", study, "--json", "--asset", "K 1"}).json();
    EXPECT_EQ(tags[0]["role"], "pressure");
    EXPECT_EQ(tags[0]["unit"], "kPa");
    EXPECT_EQ(tags[0]["count"], 600);
    EXPECT_EQ(tags[1]["kind"], "state");
    EXPECT_EQ(run({"tag", "set", study, "--tag", "K 1/mode", "--role", "pressure"}).code, 1);
    // Numbers and states turn into each other, and nothing that was read is lost.
    const std::string states = run({"read", study, "--tag", "K 1/mode"}).out;
    EXPECT_EQ(run({"tag", "set", study, "--tag", "K 1/mode", "--kind", "stepped"}).code, 0);
    EXPECT_EQ(run({"tags", study, "--json", "--asset", "K 1"}).json()[1]["kind"], "stepped");
    EXPECT_EQ(run({"tag", "set", study, "--tag", "K 1/mode", "--kind", "state"}).code, 0);
    EXPECT_EQ(run({"read", study, "--tag", "K 1/mode"}).out, states);
    // A rule for a state that has not occurred yet: a warning, and with the state declared none.
    const auto warned = run({"eval", study, "@mode is \"Manual\"", "--asset", "K 1", "--json"});
    EXPECT_EQ(warned.code, 0);
    EXPECT_TRUE(warned.json().empty());
    EXPECT_NE(warned.err.find("has had no state `Manual`"), std::string::npos) << warned.err;
    EXPECT_EQ(run({"tag", "set", study, "--tag", "K 1/mode", "--states", "Manual"}).code, 0);
    EXPECT_EQ(run({"eval", study, "@mode is \"Manual\"", "--asset", "K 1", "--json"}).err, "");
    for (const char* role : {"a b", "1x", "", "a-b", "`"})
        EXPECT_EQ(run({"tag", "set", study, "--tag", "K 1/x", "--role", role}).code, 1) << role;
    for (const char* gap : {"0s", "-5m"})
        EXPECT_NE(run({"tag", "set", study, "--tag", "K 1/x", "--longest-gap", gap}).code, 0) << gap;
    EXPECT_EQ(run({"tag", "set", study, "--tag", "K 1/mode", "--kind", "sideways"}).code, 2);
}

TEST_F(Small, EvalNumbersAndConditions) {
    const auto where = run({"eval", study, "@mode is \"On\"", "--asset", "K 1", "--json"}).json();
    ASSERT_EQ(where.size(), 6u);
    EXPECT_EQ(where[0]["start"], "2026-03-01T00:20:00Z");
    EXPECT_EQ(where[0]["end"], "2026-03-01T01:40:00Z");
    const Said values = run({"eval", study, "`K 2/x` - `K 1/x`", "--every", "1h", "--from",
                             "2026-03-01T05:30:00Z", "--to", "2026-03-01T06:00:00Z"});
    EXPECT_EQ(values.out.substr(0, 32), "time,value\n2026-03-01T05:30:00Z,");
    const Said wrong = run({"eval", study, "share(@modee over 1h)"});
    EXPECT_EQ(wrong.code, 1);
    EXPECT_NE(wrong.err.find("column 7: `modee` is not a role of K; nearest is `mode`"), std::string::npos);
    EXPECT_TRUE(wrong.out.empty());
    EXPECT_EQ(run({"eval", study, "@x"}).code, 1);  // two assets have one: say which
}

TEST_F(Small, FromRunsToExcursions) {
    const auto runs =
        run({"runs", "find", study, "--track", "R", "--where", "@mode is \"On\"", "--json"}).json();
    ASSERT_EQ(runs.size(), 12u);
    EXPECT_EQ(runs[0]["asset"], "K 1");
    EXPECT_EQ(run({"limits", "build", study, "--name", "L", "--track", "R", "--tag", "x"}).code,
              1);  // no golden runs yet
    EXPECT_EQ(run({"golden", "set", study, "--track", "R", "--where", "max(@x) > 99"}).code, 1);
    EXPECT_EQ(run({"golden", "set", study, "--track", "R", "--run", "4711"}).code, 1);
    EXPECT_EQ(run({"golden", "set", study, "--track", "R", "--where", "max(@x) < 15.5", "--json"})
                  .json()["golden"]
                  .size(),
              11u);
    const auto limits = run({"limits", "build", study, "--name", "L", "--track", "R", "--tag", "x", "--every",
                             "5m", "--json"})
                            .json();
    EXPECT_EQ(limits["slices"].size(), 17u);
    EXPECT_EQ(limits["slices"][3]["offset"], 900.0);
    EXPECT_EQ(limits["slices"][3]["n"], 11);
    EXPECT_EQ(run({"limits", "show", study, "--name", "L", "--json"}).json(), limits);
    const auto found = run({"screen", study, "--limits", "L", "--ignore", "20m", "--json"}).json();
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0]["asset"], "K 2");
    EXPECT_EQ(found[0]["tag"], "x");
    EXPECT_EQ(found[0]["side"], "high");
    EXPECT_EQ(found[0]["run"], runs[7]["id"]);
    EXPECT_EQ(run({"screen", study, "--limits", "M"}).code, 1);
    EXPECT_EQ(run({"runs", "list", study, "--track", "R", "--json"}).json(), runs);
}

TEST_F(Small, FixesAreAddedSwitchedAndRemoved) {
    const std::vector<std::string> stretch{
        "--from", "2026-03-01T01:00:00Z", "--to", "2026-03-01T02:00:00Z", "--why", "re-ranged"};
    const auto with = [&](std::vector<std::string> a) {
        a.insert(a.end(), stretch.begin(), stretch.end());
        return run(a);
    };
    const auto added =
        with({"fix", "add", study, "--tag", "K 1/x", "--kind", "shift", "--by", "-2", "--json"});
    ASSERT_EQ(added.code, 0) << added.err;
    EXPECT_EQ(added.json()["by"], -2.0);
    const auto id = std::to_string(added.json()["id"].get<int>());
    const auto at = [&](std::vector<std::string> more = {}) {
        std::vector<std::string> a{"read",   study,
                                   "--tag",  "K 1/x",
                                   "--from", "2026-03-01T01:30:00Z",
                                   "--to",   "2026-03-01T01:30:01Z"};
        a.insert(a.end(), more.begin(), more.end());
        return run(a).out;
    };
    EXPECT_NE(at().find(",12,good"), std::string::npos);
    EXPECT_NE(at({"--as-logged"}).find(",14,good"), std::string::npos);
    EXPECT_EQ(run({"fix", "off", study, id}).code, 0);
    EXPECT_NE(at().find(",14,good"), std::string::npos);
    EXPECT_EQ(run({"fix", "on", study, id}).code, 0);
    EXPECT_EQ(run({"fix", "list", study, "--json"}).json()[0]["on"], true);
    EXPECT_EQ(run({"fix", "remove", study, id}).code, 0);
    EXPECT_EQ(run({"fix", "remove", study, id}).code, 1);
    EXPECT_EQ(with({"fix", "add", study, "--tag", "K 1/x", "--kind", "shift"}).code, 2);
    EXPECT_EQ(with({"fix", "add", study, "--tag", "K 1/mode", "--kind", "shift", "--by", "1"}).code, 1);
    EXPECT_EQ(with({"fix", "add", study, "--tag", "K 1/x", "--kind", "ramp", "--fit-readings"}).code,
              1);  // no readings
}

TEST_F(Small, LabelsAndReport) {
    const std::vector<std::string> label{"label",
                                         "add",
                                         study,
                                         "--asset",
                                         "K 1",
                                         "--tag",
                                         "x",
                                         "--from",
                                         "2026-03-01T01:00:00Z",
                                         "--to",
                                         "2026-03-01T02:00:00Z",
                                         "--note",
                                         "a, \"b\""};
    auto named = label, unknown = label;
    named.insert(named.end(), {"--kind", "fault", "--json"});
    unknown.insert(unknown.end(), {"--kind", "gremlins"});
    EXPECT_EQ(run(named).json()["kind"], "fault");
    EXPECT_EQ(run(unknown).code, 1);
    EXPECT_EQ(run({"label", "kinds", "add", study, "--name", "gremlins", "--key", "g"}).code, 0);
    EXPECT_EQ(run({"label", "kinds", "add", study, "--name", "gremlins"}).code, 1);
    EXPECT_EQ(run({"label", "kinds", "add", study, "--name", "others", "--key", "g"}).code, 1);
    EXPECT_EQ(run({"label", "kinds", "list", study, "--json"}).json().size(), 5u);
    EXPECT_EQ(run({"label", "list", study, "--json"}).json().size(), 1u);
    EXPECT_NE(
        run({"label", "export", study}).out.find("K 1,x,2026-03-01T01:00:00Z,2026-03-01T02:00:00Z,fault,"),
        std::string::npos);
    EXPECT_NE(run({"label", "export", study}).out.find("\"a, \"\"b\"\"\""), std::string::npos);
    EXPECT_EQ(run({"report", study, "--out", folder / "r.html"}).code, 0);
    std::ifstream file(folder / "r.html");
    const std::string html(std::istreambuf_iterator<char>(file), {});
    EXPECT_NE(html.find("fault"), std::string::npos);
    EXPECT_NE(html.find("a, &quot;b&quot;"), std::string::npos);
    EXPECT_EQ(run({"report", study, "--out", folder / "no/such/r.html"}).code, 1);
}

TEST_F(Small, ProveGivesEveryFigure) {
    write(folder / "f.csv", "asset,time,kind,note\nK 2,2026-03-01T06:30:00Z,seal,\n");
    ASSERT_EQ(run({"import-events", study, folder / "f.csv", "--as", "failures"}).code, 0);
    const auto p = run({"prove", study, "--rule", "@x > 14.5", "--most", "2h", "--least", "10m", "--join",
                        "0s", "--json"})
                       .json();
    EXPECT_EQ(p["caught"], 1);
    EXPECT_EQ(p["failures"][0]["asset"], "K 2");
    EXPECT_GT(p["failures"][0]["warningSeconds"], 600);
    for (const char* key : {"missed", "untestable", "alarms", "cameTrue", "falseAlarms", "open", "catchRate",
                            "cameTrueShare", "falsePerAssetMonth", "countingSeconds"})
        EXPECT_TRUE(p.contains(key)) << key;
    EXPECT_EQ(run({"prove", study, "--rule", "@x > 14.5", "--failures", "Failrues"}).code, 1);
    EXPECT_EQ(run({"prove", study, "--rule", "@x + 1"}).code, 1);
    EXPECT_EQ(run({"prove", study, "--rule", "@x > 1", "--most", "soon"}).code, 2);
}

}  // namespace
}  // namespace jacinth::test
