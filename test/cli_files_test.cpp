// Files that commands read and write: folders, names of other plants, units, what is there already, and what
// is not a file.
#include <gtest/gtest.h>
#include <sys/stat.h>

#include "store/study.h"
#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

std::string contentsOf(const std::string& path) {
    std::ifstream file(path);
    return {std::istreambuf_iterator<char>(file), {}};
}

void write(const std::string& path, const std::string& text) {
    std::ofstream(path) << text;
}

TEST(CliFiles, AnOutputThatIsThereIsReplacedOnlyWhenThatIsSaid) {
    Folder f("files-out");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth", out = f / "out.txt";
    for (const std::vector<std::string>& command : {std::vector<std::string>{"report", s},
                                                    {"label", "export", s},
                                                    {"label", "kinds", "export", s},
                                                    {"rule", "export", s}}) {
        write(out, "mine");
        auto with = command;
        with.insert(with.end(), {"--out", out});
        const Said refused = run(with);
        EXPECT_EQ(refused.code, 1) << command[0];
        EXPECT_NE(refused.err.find("exists already; --force replaces it"), std::string::npos) << refused.err;
        EXPECT_EQ(contentsOf(out), "mine");
        with.emplace_back("--force");
        EXPECT_EQ(run(with).code, 0) << command[0];
        EXPECT_NE(contentsOf(out), "mine");
        with[with.size() - 2] = s;
        EXPECT_EQ(run(with).code, 1) << "a study is replaced by nothing";
    }
    EXPECT_TRUE((*Study::open(s))->check().empty());
}

TEST(CliFiles, AReportIsWhatItsNameSays) {
    Folder f("files-report");
    copyDemo(f / "s.jacinth");
    for (const char* name : {"r.pdf", "r.XLSX", "r.docx"}) {
        const Said said = run({"report", f / "s.jacinth", "--out", f / name});
        EXPECT_EQ(said.code, 1);
        EXPECT_NE(said.err.find("the report is written as HTML"), std::string::npos) << said.err;
        EXPECT_FALSE(fs::exists(f / name));
    }
}

TEST(CliFiles, CutsLeaveTheirNeighboursAlone) {
    Folder f("files-cut");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth";
    ASSERT_EQ(run({"label", "add", s, "--asset", "Kiln 1", "--from", "2026-03-05T00:00:00Z", "--to",
                   "2026-03-05T01:00:00Z", "--kind", "normal"})
                  .code,
              0);
    fs::create_directory(f / ".X.part");
    write(f / ".X.part/precious", "mine");
    EXPECT_EQ(run({"label", "cut", s, "--out", f / "X/", "--every", "1m"}).code, 0);
    EXPECT_EQ(contentsOf(f / ".X.part/precious"), "mine");
    EXPECT_TRUE(fs::exists(f / "X/manifest.json"));
}

TEST(CliFiles, PipesAndDevicesAreNotRead) {
    Folder f("files-pipes");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth", pipe = f / "pipe.png";
    ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
    for (const std::string& file : {pipe, std::string("/dev/zero"), f / "."}) {
        for (const std::vector<std::string>& command :
             {std::vector<std::string>{"label", "import", s, file},
              {"label", "kinds", "import", s, file},
              {"rule", "import", s, file},
              {"import", s, file, "--name-table", file},
              {"evidence", "add", s, file, "--begins", "2026-03-05T00:00:00Z"}}) {
            if (command[0] == "import" && file == f / ".") continue;
            const Said said = run(command);
            EXPECT_NE(said.code, 0) << command[0] << " " << file;
            EXPECT_FALSE(said.err.empty());
        }
    }
}

TEST(CliFiles, NestedWithoutEndIsRefused) {
    Folder f("files-nested");
    copyDemo(f / "s.jacinth");
    write(f / "deep.json", std::string(100'000, '['));
    write(f / "deeper.json", "{\"labels\":" + std::string(100'000, '[') + std::string(100'000, ']') + "}");
    for (const char* file : {"deep.json", "deeper.json"})
        for (const char* what : {"label", "rule"}) {
            const Said said = run({what, "import", f / "s.jacinth", f / file});
            EXPECT_EQ(said.code, 1) << said.err;
        }
}

TEST(CliFiles, AFolderComesInWithItsEventsAfterItsSamples) {
    Folder f("files-folder");
    fs::create_directories(f / "in/sub");
    write(f / "in/failures.csv", "asset,time,kind\nPump 7,2026-03-02T00:00:00Z,seal\n");
    write(f / "in/Shift_Log.csv", "time,text\n2026-03-02T01:00:00Z,all well\n");
    write(f / "in/z-record.csv",
          "time,North/Line 1/Pump 7/Flow [m³/h]\n2026-03-01T00:00Z,1\n2026-03-03T00:00Z,2\n");
    write(f / "in/sub/more.csv",
          "time,North/Line 1/Pump 8/Flow [m³/h]\n2026-03-01T00:00Z,1\n2026-03-03T00:00Z,2\n");
    const std::string s = f / "s.jacinth";
    const json preview =
        run({"import", s, f / "in", "--names", "{area}/{line}/{asset}/{tag}", "--preview", "--json"}).json();
    ASSERT_EQ(preview["files"].size(), 4u);
    EXPECT_EQ(preview["files"][0]["names"][0]["assetFacts"]["area"], "North");
    EXPECT_EQ(preview["files"].back()["as"], "failures") << preview["files"].dump();
    EXPECT_FALSE(fs::exists(s));
    const Said said = run({"import", s, f / "in", "--names", "{area}/{line}/{asset}/{tag}", "--json"});
    ASSERT_EQ(said.code, 0) << said.err;
    EXPECT_EQ(said.json()["badRowCount"], 0);
    EXPECT_EQ(run({"fact", "list", s, "--asset", "Pump 8", "--json"}).json()["line"], "Line 1");
    // The next import knows the names.
    write(f / "next.csv", "time,North/Line 1/Pump 9/Flow\n2026-03-01T00:00Z,1\n");
    ASSERT_EQ(run({"import", s, f / "next.csv"}).code, 0);
    EXPECT_EQ(run({"fact", "list", s, "--asset", "Pump 9", "--json"}).json()["area"], "North");
    ASSERT_EQ(run({"import", s, f / "next.csv", "--names", "first-slash"}).code, 0);
    EXPECT_EQ(run({"tags", s, "--asset", "North", "--json"}).json().size(), 1u);
}

TEST(CliFiles, NamesThatWouldBeOneThingAreRefusedBeforeAnythingIsStored) {
    Folder f("files-clash");
    write(f / "r.csv", "time,A/L 1/P 1/Flow,B/L 2/P 1/Flow\n2026-03-01T00:00Z,1,2\n");
    const Said said = run({"import", f / "s.jacinth", f / "r.csv", "--names", "{area}/{line}/{asset}/{tag}"});
    EXPECT_EQ(said.code, 1);
    EXPECT_NE(said.err.find("would both be P 1/Flow"), std::string::npos) << said.err;
    EXPECT_FALSE(fs::exists(f / "s.jacinth"));
    EXPECT_EQ(run({"import", f / "s.jacinth", f / "r.csv", "--names", "{area}/{line}/{asset}/{tag}",
                   "--asset-names", "{line} {asset}"})
                  .code,
              0);
    EXPECT_EQ(run({"import", f / "t.jacinth", f / "r.csv", "--names", "{asset"}).code, 1);
}

TEST(CliFiles, UndoStopsAtAnImport) {
    Folder f("files-undo");
    copyDemo(f / "s.jacinth");
    const std::string s = f / "s.jacinth";
    ASSERT_EQ(run({"fact", "set", s, "--asset", "Kiln 1", "owner=M. L."}).code, 0);
    write(f / "r.csv", "time,Kiln 1/New\n2026-03-01T00:00Z,1\n");
    ASSERT_EQ(run({"import", s, f / "r.csv"}).code, 0);
    const Said stopped = run({"undo", s});
    EXPECT_EQ(stopped.code, 1);
    EXPECT_NE(stopped.err.find("the last change is “import r.csv”"), std::string::npos) << stopped.err;
    EXPECT_NE(stopped.err.find("--past-imports"), std::string::npos);
    EXPECT_EQ(run({"fact", "list", s, "--asset", "Kiln 1", "--json"}).json().count("owner"), 1u);
    EXPECT_EQ(run({"undo", s, "--past-imports"}).code, 0);
    EXPECT_EQ(run({"fact", "list", s, "--asset", "Kiln 1", "--json"}).json().count("owner"), 0u);
    EXPECT_EQ(run({"check", s}).code, 0);
}

TEST(CliFiles, WhatAnotherProgramHasOpenIsNotOverwritten) {
    Folder f("files-open");
    ASSERT_TRUE(Study::create(f / "new.jacinth"));
    auto open = std::move(*Study::open(f / "new.jacinth"));
    open->setSetting("plant", "Held");
    copyDemo(f / "s.jacinth");
    EXPECT_EQ(run({"label", "export", f / "s.jacinth", "--out", f / "new.jacinth", "--force"}).code, 1);
    EXPECT_EQ(open->setting("plant"), "Held");
    EXPECT_TRUE(open->check().empty());
}

}  // namespace
}  // namespace jacinth::test
