// `label` and `fact` from the command line, on a copy of the demo plant.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

/// A copy of the demo study with its flame losses labelled from the alarms.
class CliLabel : public ::testing::Test {
  protected:
    CliLabel() : folder("label"), s(folder / "s.jacinth") { copyDemo(s); }
    json said(std::vector<std::string> arguments) {
        arguments.emplace_back("--json");
        const Said out = run(arguments);
        EXPECT_EQ(out.code, 0) << out.err;
        return out.code == 0 ? out.json() : json();
    }
    json labels() { return said({"label", "list", s}); }
    json labelAlarms() {
        return said({"label", "from", s, "--track", "Source alarms", "--kind", "flame loss"});
    }
    Folder folder;
    std::string s;
};

TEST_F(CliLabel, AMarkIsAddedChangedSplitMergedAndRemoved) {
    const json added = said({"label", "add", s, "--asset", "Kiln 2", "--from", "2026-03-10T00:00:00Z", "--to",
                             "2026-03-10T04:00:00Z", "--kind", "normal", "--tag", "Air-on temp", "--tag",
                             "Kiln 2/Gas flow", "--certainty", "likely"});
    const Said outside = run({"label", "add", s, "--asset", "Kiln 2", "--from", "2031-03-10T00:00:00Z",
                              "--to", "2031-03-10T04:00:00Z", "--kind", "normal"});
    EXPECT_EQ(outside.code, 1);
    EXPECT_NE(outside.err.find("outside the record"), std::string::npos) << outside.err;
    const std::string id = std::to_string(added["id"].get<int>());
    EXPECT_EQ(added["tags"], json({"Air-on temp", "Gas flow"}));
    EXPECT_EQ(added["certainty"], "likely");
    const json edited = said({"label", "edit", s, id, "--kind", "flame loss", "--to", "2026-03-10T06:00:00Z",
                              "--note", "seen", "--certainty", "sure", "--tag", "Gas flow"});
    EXPECT_EQ(edited["kind"], "flame loss");
    EXPECT_EQ(edited["start"], "2026-03-10T00:00:00Z");
    EXPECT_EQ(edited["end"], "2026-03-10T06:00:00Z");
    EXPECT_EQ(edited["tags"], json({"Gas flow"}));
    const json later = said({"label", "split", s, id, "--at", "2026-03-10T01:00:00Z"});
    EXPECT_EQ(later["start"], "2026-03-10T01:00:00Z");
    const std::string other = std::to_string(later["id"].get<int>());
    EXPECT_EQ(said({"label", "merge", s, id, other})["end"], "2026-03-10T06:00:00Z");
    for (const std::vector<std::string>& wrong :
         {std::vector<std::string>{"label", "edit", s, id, "--certainty", "maybe"},
          {"label", "edit", s, id, "--tag", "Kiln 1/Gas flow"},
          {"label", "edit", s, id, "--to", "2026-03-09T00:00:00Z"},
          {"label", "edit", s, "999999", "--note", "x"},
          {"label", "split", s, id, "--at", "2026-03-11T01:00:00Z"},
          {"label", "merge", s, id},
          {"label", "remove", s, id, other}})
        EXPECT_EQ(run(wrong).code, 1) << wrong[1];
    EXPECT_EQ(said({"label", "remove", s, id})["removed"].size(), 1u);
    EXPECT_EQ(run({"check", s}).code, 0);
}

TEST_F(CliLabel, TheBookIsEditedByCommand) {
    const std::size_t marks = labelAlarms()["added"];
    ASSERT_GT(marks, 10u);
    said({"label", "kinds", "add", s, "--name", "burner", "--meaning", "the burner"});
    const json changed = said({"label", "kinds", "edit", s, "--name", "flame loss", "--rename", "flame out",
                               "--parent", "burner", "--key", "o"});
    EXPECT_EQ(changed["parent"], "burner");
    EXPECT_EQ(labels().back()["kind"], "flame out");
    EXPECT_EQ(run({"label", "kinds", "edit", s, "--name", "burner", "--parent", "flame out"}).code, 1);
    EXPECT_EQ(run({"label", "kinds", "add", s, "--name", "other", "--key", "o"}).code, 1);
    const std::string book = folder / "book.json";
    EXPECT_EQ(run({"label", "kinds", "export", s, "--out", book}).code, 0);
    EXPECT_GE(said({"label", "kinds", "merge", s, "--name", "flame out", "--into", "burner"})["marks"],
              marks);
    EXPECT_GE(said({"label", "kinds", "remove", s, "--name", "burner"})["marks"], marks);
    EXPECT_EQ(labels().back()["kind"], "");
    said({"label", "kinds", "import", s, book});
    const json kinds = said({"label", "kinds", "list", s});
    EXPECT_TRUE(
        std::any_of(kinds.begin(), kinds.end(), [](const json& k) { return k["name"] == "flame out"; }));
    EXPECT_EQ(run({"check", s}).code, 0);
}

TEST_F(CliLabel, ExportAndImportGiveTheSameLabels) {
    labelAlarms();
    const json before = labels();
    for (const char* format : {"csv", "json"}) {
        const std::string file = folder / (std::string("labels.") + format),
                          other = folder / (std::string(format) + ".jacinth");
        ASSERT_EQ(run({"label", "export", s, "--format", format, "--out", file}).code, 0);
        copyDemo(other);
        ASSERT_TRUE(said({"label", "list", other}).empty());
        const json done = said({"label", "import", other, file});
        EXPECT_EQ(done["added"], before.size());
        EXPECT_TRUE(done["aside"].empty());
        json after = said({"label", "list", other}), expected = before;
        for (json* list : {&after, &expected})
            for (json& l : *list) l.erase("id");
        EXPECT_EQ(after, expected);
    }
}

TEST_F(CliLabel, CutOutsAreReadByPandasAndH5py) {
    labelAlarms();
    said({"runs", "find", s, "--track", "Runs", "--where", "@kiln_step is not \"Idle\""});
    const std::string csv = folder / "csv", hdf5 = folder / "hdf5";
    for (const auto& [format, out] : {std::pair("csv", csv), std::pair("hdf5", hdf5)}) {
        const json done = said({"label", "cut", s, "--out", out, "--format", format, "--every", "1m",
                                "--margin", "10m", "--split", "run", "--parts", "60,20,20"});
        EXPECT_GT(done["labels"], 20);
        EXPECT_EQ(done["parts"].size(), 3u);
    }
    const std::string command = std::string("/usr/bin/python3 ") +
                                quoted(JACINTH_SOURCE_FOLDER "/test/read_cut_outs.py") + " " + quoted(csv) +
                                " " + quoted(hdf5);
    EXPECT_EQ(std::system(command.c_str()), 0);
    EXPECT_EQ(run({"label", "cut", s, "--out", csv}).code, 1) << "there is something in it";
    EXPECT_EQ(run({"label", "cut", s, "--out", folder / "x", "--parts", "70,15"}).code, 1);
}

TEST_F(CliLabel, FactsHaveKinds) {
    said({"fact", "kinds", "set", s, "--name", "fan", "--type", "choice", "--choice", "belt", "--choice",
          "direct"});
    EXPECT_EQ(run({"fact", "set", s, "--asset", "Kiln 1", "fan=chain"}).code, 1);
    EXPECT_EQ(said({"fact", "set", s, "--asset", "Kiln 1", "fan=Belt"})["fan"], "belt");
    said({"fact", "set", s, "--asset", "Kiln 1", "fan=direct"});
    const json ledger = said({"ledger", s});
    EXPECT_NE(ledger.back().dump().find("belt"), std::string::npos) << "what was before";
    EXPECT_EQ(run({"fact", "kinds", "set", s, "--name", "fan", "--type", "number"}).code, 1);
    EXPECT_EQ(run({"fact", "kinds", "set", s, "--name", "fan", "--type", "colour"}).code, 1);
    EXPECT_EQ(said({"fact", "kinds", "list", s}).size(), 1u);
    EXPECT_EQ(run({"fact", "kinds", "remove", s, "--name", "fan"}).code, 0);
    EXPECT_EQ(run({"fact", "kinds", "remove", s, "--name", "fan"}).code, 1);
    labelAlarms();
    const std::string id = std::to_string(labels().back()["id"].get<int>());
    EXPECT_EQ(said({"fact", "set", s, "--label", id, "depth=2,5"})["depth"], 2.5);
    EXPECT_EQ(labels().back()["facts"]["depth"], 2.5);
}

TEST_F(CliLabel, EvidenceIsAddedAndItsClockSaid) {
    EXPECT_EQ(run({"evidence", "remove", s, "--name", "Sight glass"}).code, 0);
    const std::string frames = std::string(JACINTH_DEMO_FOLDER) + "/demo-sight-glass";
    const json added =
        said({"evidence", "add", s, "--name", "Camera", "--folder", frames, "--asset", "Kiln 2"});
    EXPECT_GT(added["frames"], 1000);
    EXPECT_EQ(run({"evidence", "add", s, "--name", "Camera", "--folder", frames}).code, 1);
    EXPECT_EQ(run({"evidence", "add", s, "--name", "None", "--folder", folder.path()}).code, 1);
    const json set = said({"evidence", "clock", s, "--name", "Camera", "--offset", "-40s"});
    EXPECT_EQ(set["offset"], -40);
    EXPECT_EQ(instantOf(added["start"]) - instantOf(set["start"]), 40 * kSecond);
    EXPECT_EQ(run({"evidence", "clock", s, "--name", "Other", "--offset", "1s"}).code, 1);
    EXPECT_EQ(run({"evidence", "clock", s, "--name", "Camera", "--offset", "soon"}).code, 1);
    EXPECT_EQ(run({"undo", s}).code, 0);
    EXPECT_EQ(said({"evidence", "list", s})[0]["offset"], 0);
    // One picture, and a video: their moment is told by the name or said.
    const std::string picture = fs::directory_iterator(frames)->path();
    EXPECT_EQ(run({"evidence", "add", s, "--name", "Photo", "--picture", picture, "--folder", frames}).code,
              2);
    const json photo = said({"evidence", "add", s, "--name", "Photo", "--picture", picture});
    EXPECT_EQ(photo["kind"], "picture");
    EXPECT_EQ(photo["frames"], 1);
    EXPECT_EQ(photo["start"], photo["end"]);
    std::ofstream(folder / "drum.avi") << "not looked into";
    const Said unsaid = run({"evidence", "add", s, "--name", "Drum", "--video", folder / "drum.avi"});
    EXPECT_EQ(unsaid.code, 1);
    EXPECT_NE(unsaid.err.find("--begins"), std::string::npos) << unsaid.err;
    const json video = said({"evidence", "add", s, "--name", "Drum", "--video", folder / "drum.avi",
                             "--begins", "2026-03-05T14:00:00Z"});
    EXPECT_EQ(video["kind"], "video");
    EXPECT_EQ(instantOf(video["begins"]), *fromIso("2026-03-05T14:00:00Z"));
    EXPECT_TRUE(video["trouble"].is_null());
    fs::remove(folder / "drum.avi");
    EXPECT_NE(said({"evidence", "list", s}).dump().find("cannot be read"), std::string::npos);
    EXPECT_EQ(run({"evidence", "add", s, "--name", "None", "--video", folder / "none.avi", "--begins",
                   "2026-03-05T14:00:00Z"})
                  .code,
              1);
    EXPECT_EQ(run({"check", s}).code, 0);
}

}  // namespace
}  // namespace jacinth::test
