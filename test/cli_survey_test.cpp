// The commands of Survey and of imports: what they say of the demo plant, and that removal brings back what
// was.
#include <gtest/gtest.h>

#include <algorithm>

#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

const std::string kDemo = std::string(JACINTH_DEMO_FOLDER) + "/demo.jacinth";

TEST(CliSurvey, PartsOfTheOutsideTemperature) {
    const auto j = run({"parts", kDemo, "--tag", "Site/Outside temp", "--every", "1h", "--json"}).json();
    EXPECT_EQ(j["period"], 24 * 3600);
    EXPECT_EQ(j["multiplied"], false);
    EXPECT_NE(j["reason"].get<std::string>().find("above 0"), std::string::npos);
    EXPECT_EQ(run({"parts", kDemo, "--tag", "Kiln 1/Kiln step"}).code, 1);
    EXPECT_EQ(run({"parts", kDemo, "--tag", "Site/Outside temp", "--way", "magic"}).code, 2);
    const Said tooFew = run({"parts", kDemo, "--tag", "Site/Outside temp", "--period", "50d"});
    EXPECT_EQ(tooFew.code, 1);
    EXPECT_NE(tooFew.err.find("shorter than two periods"), std::string::npos);
    const Said tooMany = run({"parts", kDemo, "--tag", "Site/Outside temp", "--every", "1s"});
    EXPECT_EQ(tooMany.code, 1);
    EXPECT_NE(tooMany.err.find("choose a longer step"), std::string::npos) << tooMany.err;
}

TEST(CliSurvey, KeptPartsAreTagsThatAddUp) {
    Folder f("parts");
    copyDemo(f / "s.jacinth");
    ASSERT_EQ(run({"parts", f / "s.jacinth", "--tag", "Site/Outside temp", "--every", "6h", "--period", "24h",
                   "--keep", "--json"})
                  .code,
              0);
    const auto column = [&](const std::string& tag) {
        std::istringstream in(run({"read", f / "s.jacinth", "--tag", tag}).out);
        std::vector<double> out;
        std::string line;
        for (std::getline(in, line); std::getline(in, line);)
            out.push_back(std::stod(line.substr(line.find(',') + 1)));
        return out;
    };
    const auto trend = column("Site/Outside temp trend"), cycle = column("Site/Outside temp cycle"),
               rest = column("Site/Outside temp remainder");
    std::istringstream in(run({"read", f / "s.jacinth", "--tag", "Site/Outside temp", "--every", "6h"}).out);
    std::string line;
    std::getline(in, line);
    std::size_t k = 0;
    for (; std::getline(in, line); ++k) {
        const std::string value = line.substr(line.find(',') + 1);
        if (value[0] == ',' || k >= trend.size()) break;
        EXPECT_NEAR(trend[k] + cycle[k] + rest[k], std::stod(value), 1e-9) << line;
    }
    EXPECT_GT(k, 200u);
    // A logged tag of the name is not overwritten.
    EXPECT_EQ(
        run({"parts", f / "s.jacinth", "--tag", "Site/Outside temp", "--every", "6h", "--keep", "--json"})
            .code,
        0);
    EXPECT_TRUE(run({"check", f / "s.jacinth"}).code == 0);
}

TEST(CliSurvey, KeptTagsSayThatTheyAreBehindAndAreMadeAgain) {
    Folder f("kept");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth", tag = "Site/Outside temp";
    ASSERT_EQ(run({"parts", s, "--tag", tag, "--every", "6h", "--period", "24h", "--keep", "--json"}).code,
              0);
    const auto upToDate = [&] {
        const auto all = run({"tag", "derived", s, "--json"}).json();
        EXPECT_EQ(all.size(), 3u);
        return std::all_of(all.begin(), all.end(), [](const auto& d) { return d["upToDate"] == true; });
    };
    EXPECT_TRUE(upToDate());
    ASSERT_EQ(run({"fix", "add", s, "--tag", tag, "--kind", "shift", "--by", "2", "--from",
                   "2026-03-02T00:00:00Z", "--to", "2026-03-05T00:00:00Z", "--why", "probe"})
                  .code,
              0);
    EXPECT_FALSE(upToDate());
    EXPECT_NE(run({"tag", "derived", s}).out.find("which has changed since"), std::string::npos);
    const auto made = run({"tag", "again", s, "--tag", tag + " cycle", "--json"}).json();
    EXPECT_EQ(made.size(), 3u);
    EXPECT_TRUE(upToDate());
    const Said logged = run({"tag", "again", s, "--tag", tag});
    EXPECT_EQ(logged.code, 1);
    EXPECT_NE(logged.err.find("only a kept tag"), std::string::npos) << logged.err;
    EXPECT_EQ(run({"tag", "again", s, "--tag", "Site/Outside tmp"}).code, 1);
    ASSERT_EQ(run({"tag", "remove", s, "--tag", tag + " trend"}).code, 0);
    EXPECT_EQ(run({"tag", "derived", s, "--json"}).json().size(), 2u);
    EXPECT_EQ(run({"check", s}).code, 0);
}

TEST(CliSurvey, SpansOfATrackBecomeLabels) {
    Folder f("label-from");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth";
    ASSERT_EQ(
        run({"peaks", s, "--tag", "Kiln 3/Air-off RH", "--prominence", "30", "--keep", "Swings", "--json"})
            .code,
        0);
    const std::string kind = run({"label", "kinds", "list", s, "--json"}).json()[0]["name"];
    const auto labels = [&] { return run({"label", "list", s, "--json"}).json(); };
    const std::size_t before = labels().size();
    const auto done = run({"label", "from", s, "--track", "Swings", "--kind", kind, "--json"}).json();
    EXPECT_GT(done["added"], 3);
    EXPECT_EQ(labels().size(), before + done["added"].get<std::size_t>());
    EXPECT_EQ(run({"label", "from", s, "--track", "Swings", "--kind", kind, "--json"}).json()["added"], 0);
    const Said unknown = run({"label", "from", s, "--track", "Swing", "--kind", kind});
    EXPECT_EQ(unknown.code, 1);
    EXPECT_NE(unknown.err.find("nearest is `Swings`"), std::string::npos) << unknown.err;
    EXPECT_NE(run({"label", "from", s, "--track", "Swings", "--kind", "gremlins"})
                  .err.find("not in the label book"),
              std::string::npos);
    const auto id = labels().back()["id"].get<std::int64_t>();
    ASSERT_EQ(run({"label", "remove", s, std::to_string(id)}).code, 0);
    EXPECT_EQ(labels().size(), before + done["added"].get<std::size_t>() - 1);
    const Said gone = run({"label", "remove", s, std::to_string(id)});
    EXPECT_EQ(gone.code, 1);
    EXPECT_NE(gone.err.find("is not a label"), std::string::npos);
    EXPECT_EQ(run({"check", s}).code, 0);
}

TEST(CliSurvey, FleetStatesCyclesAndPeaks) {
    const auto fleet = run({"fleet", kDemo, "--role", "air_on_temp", "--profile", "day", "--json"}).json();
    EXPECT_EQ(fleet["rows"].size(), 6u);
    EXPECT_EQ(fleet["unit"], "°C");
    double before = 1e9;
    for (const auto& r : fleet["rows"]) {
        EXPECT_LE(r["oddness"].get<double>(), before);
        before = r["oddness"];
        EXPECT_LE(r["q05"].get<double>(), r["q50"].get<double>());
    }
    EXPECT_NE(run({"fleet", kDemo, "--role", "air_on_tmp"}).err.find("no asset has a number tag"),
              std::string::npos);

    const auto truth = demoTruth();
    const auto states =
        run({"by-state", kDemo, "--tag", "Kiln 6/Fan current", "--by", "Kiln 6/Kiln step", "--json"}).json();
    double seconds = 0;
    for (const auto& s : states) seconds += s["seconds"].get<double>();
    EXPECT_NEAR(seconds / 86400, 61, 0.2);
    EXPECT_NE(run({"by-state", kDemo, "--tag", "Kiln 6/Kiln step", "--by", "Kiln 6/Kiln step"})
                  .err.find("not numbers"),
              std::string::npos);
    EXPECT_NE(run({"by-state", kDemo, "--tag", "Kiln 6/Damper", "--by", "Kiln 6/Gas flow"})
                  .err.find("holds no states"),
              std::string::npos);

    const auto cycles = run({"cycles", kDemo, "--tag", "Kiln 2/Bed ΔP", "--say", "belt", "--only",
                             "@kiln_step is \"Free-dry\"", "--json"})
                            .json();
    EXPECT_EQ(cycles["cycles"].size(), 4u);
    EXPECT_LT(cycles["common"]["slopePerDay"].get<double>(), -1);
    EXPECT_GT(cycles["common"]["pSame"].get<double>(), 0.05);
    EXPECT_EQ(run({"cycles", kDemo, "--tag", "Kiln 2/Bed ΔP", "--every", "day"}).code, 0);

    Folder f("peaks");
    copyDemo(f / "s.jacinth");
    const auto peaks = run({"peaks", f / "s.jacinth", "--tag", "Kiln 3/Gas flow", "--prominence", "120",
                            "--keep", "High gas", "--json"})
                           .json();
    ASSERT_FALSE(peaks["peaks"].empty());
    for (const auto& p : peaks["peaks"]) EXPECT_GE(p["prominence"].get<double>(), 120);
    EXPECT_EQ(run({"runs", "list", f / "s.jacinth", "--track", "High gas", "--json"}).json().size(),
              peaks["peaks"].size());
}

TEST(CliImports, AreListedRemovedAndWhatTheyReplacedComesBack) {
    Folder f("imports");
    write(f / "first.csv", "time,K 1/a\n2026-03-01 00:00,1\n2026-03-01 00:01,2\n2026-03-01 00:02,3\n");
    write(f / "second.csv", "time,K 1/a\n2026-03-01 00:01,20\n2026-03-01 00:05,50\n");
    const std::string s = f / "s.jacinth";
    ASSERT_EQ(run({"import", s, f / "first.csv"}).code, 0);
    const std::string before = run({"read", s, "--tag", "K 1/a"}).out;
    EXPECT_EQ(run({"import", s, f / "first.csv", "--json"}).json()["samples"], 0);  // twice changes nothing
    ASSERT_EQ(run({"import", s, f / "second.csv"}).code, 0);
    EXPECT_NE(run({"read", s, "--tag", "K 1/a"}).out.find("00:01:00Z,20"), std::string::npos);
    const auto list = run({"imports", "list", s, "--json"}).json();
    ASSERT_EQ(list.size(), 3u);
    EXPECT_EQ(list[2]["replaced"], 1);
    EXPECT_EQ(list[2]["samples"], 1);
    EXPECT_EQ(list[1]["removable"], false);  // it brought nothing new
    EXPECT_EQ(run({"imports", "replaced", s, "3"}).out,
              "time,tag,value,quality\n2026-03-01T00:01:00Z,K 1/a,2,good\n");
    const auto done = run({"imports", "remove", s, "3", "--why", "wrong file", "--json"}).json();
    EXPECT_EQ(done["samples"], 2);
    EXPECT_EQ(done["restored"], 1);
    EXPECT_EQ(run({"read", s, "--tag", "K 1/a"}).out, before);
    EXPECT_EQ(run({"imports", "remove", s, "3"}).code, 1);
    EXPECT_EQ(run({"imports", "remove", s, "17"}).code, 1);
    EXPECT_EQ(run({"check", s}).code, 0);
    // And it can come in again.
    EXPECT_EQ(run({"import", s, f / "second.csv", "--json"}).json()["samples"], 1);
}

TEST(CliImports, FoldersPackedFilesAndRecipes) {
    Folder f("folder");
    fs::create_directories(f / "in/deeper");
    write(f / "in/b.csv", "when;what;how much\n01.03.2026 00:01;a;1,5\n");
    write(f / "in/a.csv", "when;what;how much\n01.03.2026 00:00;a;0,5\n");
    write(f / "in/deeper/c.txt", "when;what;how much\n01.03.2026 00:02;b;2,5\n");
    write(f / "in/notes.md", "not a table");
    ASSERT_EQ(std::system(("gzip " + quoted(f / "in/b.csv")).c_str()), 0);
    const std::string s = f / "s.jacinth";
    const Said first =
        run({"import", s, f / "in", "--long", "--tag", "what", "--value", "how much", "--asset", "K 1",
             "--zone", "Europe/Oslo", "--save-recipe", "plant export", "--json"});
    ASSERT_EQ(first.code, 0) << first.err;
    EXPECT_EQ(first.json()["samples"], 3);
    EXPECT_EQ(first.json()["files"], (nlohmann::json{"a.csv", "b.csv.gz", "c.txt"}));
    EXPECT_EQ(run({"read", s, "--tag", "K 1/a"}).out,
              "time,value,quality\n2026-02-28T23:00:00Z,0.5,good\n2026-02-28T23:01:00Z,1.5,good\n");
    write(f / "later.csv", "when;what;how much\n02.03.2026 00:00;a;9\n");
    EXPECT_EQ(run({"import", s, f / "later.csv", "--recipe", "plant export", "--json"}).json()["samples"], 1);
    const Said wrong = run({"import", s, f / "later.csv", "--recipe", "plant"});
    EXPECT_EQ(wrong.code, 1);
    EXPECT_NE(wrong.err.find("there are plant export"), std::string::npos) << wrong.err;
    fs::create_directories(f / "empty");
    EXPECT_NE(run({"import", s, f / "empty"}).err.find("holds no text files"), std::string::npos);
}

TEST(CliRead, ByTheCalendar) {
    const Said days = run({"read", kDemo, "--tag", "Site/Outside temp", "--every", "day", "--take", "count",
                           "--from", "2026-03-27T23:00:00Z", "--to", "2026-03-30T22:00:00Z"});
    ASSERT_EQ(days.code, 0) << days.err;
    // Starts in UTC: before the change of clocks 23:00, after it 22:00.
    EXPECT_NE(days.out.find("2026-03-28T23:00:00Z"), std::string::npos) << days.out;
    EXPECT_NE(days.out.find("2026-03-29T22:00:00Z"), std::string::npos);
    EXPECT_EQ(run({"read", kDemo, "--tag", "Site/Outside temp", "--every", "fortnight"}).code, 1);
}

}  // namespace
}  // namespace jacinth::test
