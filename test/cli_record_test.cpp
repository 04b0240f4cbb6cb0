// Reading the record by command line: periods, windows of time, states, as logged; importing in pieces.
#include <gtest/gtest.h>

#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

/// x: every minute its minute number; bad at minute 7; a gap from 20 to 49. mode: On, Off from minute 30.
class Record : public ::testing::Test {
  protected:
    Record() {
        std::ofstream file(folder / "long.csv");
        file << "time,tag,value,quality\n";
        for (int i = 0; i < 60; ++i)
            if (i < 20 || i >= 50)
                file << toIso(start + i * kMinute) << ",K 1/x [m]," << i << "," << (i == 7 ? "bad" : "good")
                     << "\n";
        file << toIso(start) << ",K 1/mode,On,good\n"
             << toIso(start + 30 * kMinute) << ",K 1/mode,\"Off, really\",good\n";
        file.close();
        EXPECT_EQ(run({"import", study, folder / "long.csv"}).code, 0);
    }
    std::vector<std::string> lines(const std::vector<std::string>& arguments) {
        const Said said = run(arguments);
        EXPECT_EQ(said.code, 0) << said.err;
        std::vector<std::string> out;
        std::istringstream in(said.out);
        for (std::string line; std::getline(in, line);) out.push_back(line);
        return out;
    }
    /// The values of `read --every 10m` over the first twenty minutes and the gap after.
    std::vector<std::string> every(const std::string& take) {
        std::vector<std::string> out;
        for (const std::string& l : lines({"read", study, "--tag", "K 1/x", "--every", "10m", "--take", take,
                                           "--from", toIso(start), "--to", toIso(start + 30 * kMinute)}))
            out.push_back(l.substr(l.find(',') + 1));
        out.erase(out.begin());
        return out;
    }
    const Instant start = *fromIso("2026-03-01T00:00:00Z");
    Folder folder{"record"};
    std::string study = folder / "s.jacinth";
};

using Lines = std::vector<std::string>;

TEST_F(Record, OneValueAPeriodByEveryWay) {
    EXPECT_EQ(every("mean"),
              (Lines{"5,", "14.5,", ","}));  // the line over the bad sample; to the last sample; nothing
    EXPECT_EQ(every("min"), (Lines{"0,", "10,", ","}));
    EXPECT_EQ(every("max"), (Lines{"9,", "19,", ","}));
    EXPECT_EQ(every("first"), (Lines{"0,", "10,", ","}));
    EXPECT_EQ(every("last"), (Lines{"9,", "19,", ","}));
    EXPECT_EQ(every("count"), (Lines{"9,", "10,", "0,"}));
}

TEST_F(Record, AWindowIsFromItsStartToBeforeItsEnd) {
    const auto all = lines({"read", study, "--tag", "K 1/x", "--from", toIso(start + 5 * kMinute), "--to",
                            toIso(start + 8 * kMinute)});
    EXPECT_EQ(all, (Lines{"time,value,quality", "2026-03-01T00:05:00Z,5,good", "2026-03-01T00:06:00Z,6,good",
                          "2026-03-01T00:07:00Z,7,bad"}));
    EXPECT_EQ(run({"read", study, "--tag", "K 1/x", "--from", "2026-03-02", "--to", "2026-03-01"}).code, 1);
    EXPECT_EQ(run({"read", study, "--tag", "K 1/x", "--from", "yesterday"}).code, 1);
    EXPECT_EQ(run({"read", study, "--tag", "K 1/x", "--take", "guess"}).code, 2);
}

TEST_F(Record, StatesAreReadByName) {
    EXPECT_EQ(lines({"read", study, "--tag", "K 1/mode"}),
              (Lines{"time,value,quality", "2026-03-01T00:00:00Z,On,good",
                     "2026-03-01T00:30:00Z,\"Off, really\",good"}));
    const auto values = lines({"eval", study, "@mode", "--asset", "K 1", "--every", "30m"});
    ASSERT_EQ(values.size(), 3u);
    EXPECT_EQ(values[1], "2026-03-01T00:00:00Z,On");
    EXPECT_EQ(values[2], "2026-03-01T00:30:00Z,\"Off, really\"");
    EXPECT_EQ(run({"read", study, "--tag", "K 1/mode", "--every", "1h"}).code, 1);  // states have no mean
}

TEST_F(Record, ConditionsAreCutToTheWindowAskedFor) {
    const auto where =
        run({"eval", study, "@x between 3.5 and 12.25", "--json", "--from", toIso(start + 5 * kMinute)})
            .json();
    ASSERT_EQ(where.size(), 1u);
    EXPECT_EQ(where[0]["start"], "2026-03-01T00:05:00Z");
    EXPECT_EQ(where[0]["end"], "2026-03-01T00:12:15Z");
}

TEST_F(Record, AWindowLooksBackBeforeTheStretchAskedFor) {
    const auto values = lines({"eval", study, "mean(@x over 4m)", "--from", toIso(start + 15 * kMinute),
                               "--to", toIso(start + 16 * kMinute)});
    ASSERT_EQ(values.size(), 2u);
    EXPECT_EQ(values[1], "2026-03-01T00:15:00Z,13");
}

TEST_F(Record, FilesInPiecesGiveTheSameAsOneAndAgainNothing) {
    const std::string pieces = folder / "p.jacinth";
    for (int part = 0; part < 3; ++part) {
        std::ofstream file(folder / ("p" + std::to_string(part) + ".csv"));
        file << "time,K 1/x [m]\n";
        // The parts overlap by five minutes.
        for (int i = part * 20; i < part * 20 + 25; ++i)
            file << toIso(start + i * kMinute) << "," << i << "\n";
    }
    const auto first =
        run({"import", pieces, folder / "p2.csv", folder / "p0.csv", folder / "p1.csv", "--json"}).json();
    EXPECT_EQ(first["samples"], 65);
    EXPECT_EQ(first["unchanged"], 10);
    EXPECT_EQ(first["replaced"], 0);
    const auto again =
        run({"import", pieces, folder / "p0.csv", folder / "p1.csv", folder / "p2.csv", "--json"}).json();
    EXPECT_EQ(again["samples"], 0);
    EXPECT_EQ(again["unchanged"], 75);
    EXPECT_EQ(run({"tags", pieces, "--json"}).json()[0]["count"], 65);
    EXPECT_EQ(run({"check", pieces}).code, 0);
}

TEST_F(Record, CheckSaysADamagedFileIsDamaged) {
    const auto size = fs::file_size(study);
    {
        std::fstream file(study, std::ios::in | std::ios::out | std::ios::binary);
        std::string all(size, 0);
        file.read(all.data(), static_cast<std::streamsize>(size));
        // Somewhere in the coded samples: after zstd's magic number.
        const auto at = all.find("\x28\xB5\x2F\xFD");
        ASSERT_NE(at, std::string::npos);
        file.seekp(static_cast<std::streamoff>(at + 14));
        file.put(static_cast<char>(all[at + 14] ^ 0x55));
    }
    const Said said = run({"check", study, "--json"});
    EXPECT_EQ(said.code, 1);
    EXPECT_FALSE(said.json()["clean"].get<bool>());
}

TEST_F(Record, EventsNeedTheirColumnsAndKnownAssets) {
    std::ofstream(folder / "f.csv") << "asset,time,kind,note\nK 1,2026-03-01T00:10:00Z,seal,\"wet, cold\"\nK "
                                       "2,2026-03-01T00:10:00Z,seal,\n";
    const Said said = run({"import-events", study, folder / "f.csv", "--as", "failures", "--json"});
    EXPECT_EQ(said.json()["samples"], 1);
    EXPECT_EQ(said.json()["badRows"][0]["line"], 3);
    EXPECT_EQ(run({"import-events", study, folder / "f.csv", "--as", "stops"}).code, 1);
    EXPECT_EQ(run({"import-events", study, folder / "f.csv", "--as", "rumours"}).code, 2);
    EXPECT_EQ(run({"import-events", study, folder / "none.csv", "--as", "failures"}).code, 1);
}

TEST_F(Record, AFileThatFailsSaysWhatCameInBeforeIt) {
    const std::string all = folder / "all";
    fs::create_directory(all);
    std::ofstream(all + "/a.csv") << "time,Pump 7/flow\n2026-03-01T00:00:00Z,1\n2026-03-01T00:01:00Z,2\n";
    std::ofstream(all + "/stops.csv")
        << "asset,start,end\nPump 9,2026-03-01T00:00:00Z,2026-03-01T00:01:00Z\n";
    const Said said = run({"import", folder / "two.jacinth", all});
    EXPECT_EQ(said.code, 1);
    EXPECT_NE(said.err.find("Nothing of it was imported. What came before it is in: a.csv"),
              std::string::npos)
        << said.err;
    EXPECT_NE(run({"tags", folder / "two.jacinth"}).out.find("Pump 7"), std::string::npos);
}

TEST(DemoCommand, MakesFilesAndTruthAndDoesNotOverwrite) {
    Folder f("demo");
    const Said said = run({"demo", f / "d.jacinth", "--days", "2", "--seed", "9", "--csv", f / "out",
                           "--truth", f / "t.json", "--json"});
    ASSERT_EQ(said.code, 0) << said.err;
    EXPECT_GT(said.json()["files"].size(), 35u);
    EXPECT_TRUE(fs::exists(f / "out/failures.csv"));
    std::ifstream file(f / "t.json");
    EXPECT_EQ(nlohmann::json::parse(file)["seed"], 9);
    EXPECT_EQ(run({"demo", f / "d.jacinth", "--days", "2"}).code, 1);
    EXPECT_EQ(run({"demo", f / "e.jacinth", "--days", "0"}).code, 2);
    EXPECT_EQ(run({"check", f / "d.jacinth"}).code, 0);
}

TEST_F(Record, ADerivedTagIsMadeReadAndFollowsItsTags) {
    const Said made = run({"tag", "derive", study, "--name", "Twice", "@x * 2"});
    EXPECT_EQ(made.code, 0) << made.err;
    EXPECT_NE(made.out.find("K 1/Twice"), std::string::npos) << made.out;
    const auto read = [&] {
        return lines({"read", study, "--tag", "K 1/Twice", "--from", toIso(start + 5 * kMinute), "--to",
                      toIso(start + 7 * kMinute)});
    };
    EXPECT_EQ(read(), (Lines{"time,value,quality", toIso(start + 5 * kMinute) + ",10,good",
                             toIso(start + 6 * kMinute) + ",12,good"}));
    // Over the gap it has no value, and says where it ends.
    const auto all = lines({"read", study, "--tag", "K 1/Twice"});
    EXPECT_NE(std::find(all.begin(), all.end(), "2026-03-01T00:19:00.000000001Z,,missing"), all.end());
    // What is imported later is in it at the next look.
    std::ofstream(folder / "more.csv") << "time,tag,value\n" << toIso(start + 5 * kMinute) << ",K 1/x,50\n";
    EXPECT_EQ(run({"import", study, folder / "more.csv"}).code, 0);
    const Said tags = run({"tag", "derived", study, "--json"});
    EXPECT_NE(tags.err.find("calculating K 1/Twice"), std::string::npos) << tags.err;
    EXPECT_NE(tags.out.find("\"upToDate\": true"), std::string::npos) << tags.out;
    EXPECT_EQ(read()[1], toIso(start + 5 * kMinute) + ",100,good");
    // Nothing is imported into it, and it is removed only by its own command.
    std::ofstream(folder / "into.csv") << "time,tag,value\n" << toIso(start) << ",K 1/Twice,1\n";
    const Said into = run({"import", study, folder / "into.csv"});
    EXPECT_EQ(into.code, 1);
    EXPECT_NE(into.err.find("given by an expression"), std::string::npos) << into.err;
    EXPECT_EQ(run({"tag", "remove", study, "--tag", "K 1/x"}).code, 1);
    EXPECT_EQ(run({"tag", "remove", study, "--tag", "K 1/Twice"}).code, 0);
    EXPECT_EQ(run({"read", study, "--tag", "K 1/Twice"}).code, 1);
    EXPECT_EQ(run({"check", study}).code, 0);
}

TEST_F(Record, WhatIsWrittenOutReadsBackTheSameEndsIncluded) {
    EXPECT_EQ(run({"tag", "derive", study, "--name", "High", "@x > 30"}).code, 0);
    EXPECT_EQ(run({"tag", "derive", study, "--name", "Root", "sqrt(@x - 5)"}).code, 0);
    for (const std::string name : {"High", "Root"}) {
        const Said out = run({"read", study, "--tag", "K 1/" + name});
        EXPECT_NE(out.out.find(",,missing"), std::string::npos) << out.out.substr(0, 300);
        std::istringstream in(out.out);
        std::ofstream file(folder / (name + ".csv"));
        std::string line;
        std::getline(in, line);
        file << "time,tag,value,quality\n";
        while (std::getline(in, line)) {
            const auto comma = line.find(',');
            file << line.substr(0, comma) << ",K 2/" << name << line.substr(comma) << "\n";
        }
        file.close();
        const Said back = run({"import", study, folder / (name + ".csv")});
        EXPECT_EQ(back.code, 0) << back.err;
        EXPECT_EQ(back.err.find("bad"), std::string::npos) << back.err;
        EXPECT_EQ(run({"read", study, "--tag", "K 2/" + name}).out, out.out);
    }
}

TEST_F(Record, ADerivedTagThatCannotBeIsRefused) {
    EXPECT_EQ(run({"tag", "derive", study, "--name", "Twice", "@x * 2"}).code, 0);
    const Said round = run({"tag", "derive", study, "--name", "Twice", "@twice + 1"});
    EXPECT_EQ(round.code, 1);
    EXPECT_NE(round.err.find("would be made from itself: `K 1/Twice` → `K 1/Twice`"), std::string::npos)
        << round.err;
    const Said wrong = run({"tag", "derive", study, "--name", "Thrice", "@xx * 3"});
    EXPECT_EQ(wrong.code, 1);
    EXPECT_NE(wrong.err.find("column 1"), std::string::npos) << wrong.err;
}

}  // namespace
}  // namespace jacinth::test
