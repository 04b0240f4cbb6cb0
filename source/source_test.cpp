#include <gtest/gtest.h>

#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>

#include "core/base/utf8.h"
#include "core/series/text_value.h"
#include "core/time/times_for_tests.h"
#include "source/import_events.h"
#include "source/import_fixture.h"
#include "source/recipe.h"
#include "store/history.h"
#include "store/imports.h"
#include "store/judgement.h"
#include "store/tag_kind.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

TEST_F(ImportTest, WideWithUnitsAndEmptyCells) {
    const auto r = import(
        "\xEF\xBB\xBFtime,Kiln 3/Air-off temp [°C],Kiln 3/Burner mode\n"
        "2026-03-01T00:00:00Z,28.5,Auto\n2026-03-01T00:00:30Z,,Off\n\n2026-03-01T00:01:00.250Z,-1e-3,Auto\n");
    EXPECT_EQ(r.rows, 3);
    EXPECT_EQ(r.samples, 5);
    EXPECT_EQ(r.badRowCount, 0);
    const Tag temp = *study->catalog().tagAt("Kiln 3/Air-off temp");
    EXPECT_EQ(temp.unit, "°C");
    EXPECT_EQ(temp.role, "air_off_temp");
    EXPECT_EQ(read("Kiln 3/Air-off temp").values, (std::vector<double>{28.5, -0.001}));
    EXPECT_EQ(read("Kiln 3/Air-off temp").times[1], *fromIso("2026-03-01T00:01:00.250Z"));
    const Tag mode = *study->catalog().tagAt("Kiln 3/Burner mode");
    EXPECT_EQ(mode.kind, TagKind::State);
    EXPECT_EQ(mode.states, (std::vector<std::string>{"Auto", "Off"}));
}

TEST_F(ImportTest, LongWithQualityQuotesAndReorderedColumns) {
    const auto r = import(
        "value;time;tag;quality\r\n1,5;01.03.2026 10:00;\"Kiln 1/Fan \"\"A\"\"\";good\r\n"
        "2,5;01.03.2026 10:01;\"Kiln 1/Fan \"\"A\"\"\";BAD\r\n3,5;01.03.2026 10:02;\"Kiln 1/Fan "
        "\"\"A\"\"\";0\r\n",
        {.zone = "Europe/Oslo"});
    EXPECT_EQ(r.samples, 3);
    const Series s = read("Kiln 1/Fan \"A\"");
    EXPECT_EQ(s.values, (std::vector<double>{1.5, 2.5, 3.5}));
    EXPECT_EQ(s.times[0], *fromIso("2026-03-01T09:00:00Z"));
    EXPECT_EQ(s.view().qualityAt(1), Quality::Bad);
    EXPECT_EQ(s.view().qualityAt(2), Quality::Bad);
    EXPECT_EQ(study->zone().name(), "Europe/Oslo");
}

TEST_F(ImportTest, TabsDecimalCommaAndAnAssetForTheFile) {
    import("time\tFan [A]\n2026/03/01 00:00:00\t71,25\n2026/03/01 00:00:10\t70\n", {.asset = "Kiln 2"});
    EXPECT_EQ(read("Kiln 2/Fan").values, (std::vector<double>{71.25, 70}));
}

TEST_F(ImportTest, BadRowsAreKeptAsideWithLineAndReason) {
    const auto r = import(
        "time,K 1/a,K 1/b\n2026-03-29 01:59,1,2\n2026-03-29 02:30,1,2\nnever,1,2\n2026-03-29 03:00,oops,3\n"
        "2026-03-29 03:01,1\n2026-03-29 03:02,4,5\n",
        {.zone = "Europe/Oslo"});
    EXPECT_EQ(r.rows, 6);
    EXPECT_EQ(r.samples, 5);
    ASSERT_EQ(r.badRowCount, 3);
    EXPECT_EQ(r.badCellCount, 1);
    EXPECT_EQ(r.badRows[0].line, 3);
    EXPECT_EQ(r.badRows[0].reason, "time 2026-03-29 02:30 does not exist in Europe/Oslo");
    EXPECT_EQ(r.badRows[1].line, 4);
    EXPECT_EQ(r.badRows[2].reason, "`oops` for `K 1/a` is not a number");
    EXPECT_EQ(r.badRows[2].cell, "K 1/a");
    EXPECT_EQ(r.badRows[3].reason, "2 fields where the header has 3");
    EXPECT_EQ(study->imports().badRows(r.import).size(), 4u);
    EXPECT_EQ(study->imports().badRows(r.import)[3].text, "2026-03-29 03:01,1");
}

TEST_F(ImportTest, TheHourThatHappensTwiceIsTakenInFileOrder) {
    const auto r = import(
        "time,K 1/a\n2026-10-25 01:30,1\n2026-10-25 02:30,2\n2026-10-25 02:45,3\n2026-10-25 02:00,4\n"
        "2026-10-25 02:30,5\n2026-10-25 03:00,6\n",
        {.zone = "Europe/Oslo"});
    EXPECT_EQ(r.samples, 6);
    ASSERT_EQ(r.notes.size(), 1u);
    EXPECT_NE(r.notes[0].find("4 rows have a wall time that happened twice"), std::string::npos);
    const Series s = read("K 1/a");
    EXPECT_EQ(s.values, (std::vector<double>{1, 2, 3, 4, 5, 6}));
    EXPECT_EQ(s.times[4], *fromIso("2026-10-25T01:30:00Z"));
}

TEST_F(ImportTest, WhatIsNoTableIsRefusedAndChangesNothing) {
    EXPECT_EQ(refusal(""), "f.csv is empty");
    EXPECT_EQ(refusal(std::string("PK\3\4\0\0\0", 7)), "f.csv is not a text file: it holds binary data");
    EXPECT_EQ(refusal("time,K 1/a\n"), "f.csv has a header and no rows");
    EXPECT_NE(refusal("K 1/a,K 1/b\n1,2\n3,4\n").find("has no time column"), std::string::npos);
    EXPECT_NE(refusal("time,K 1/a,K 1/b\n2026-03-01,1,2\n2026-03-01 00:0").find("stops in the middle"),
              std::string::npos);
    EXPECT_NE(refusal("time,K 1/a\n2026-03-01,\"12").find("stops in the middle"), std::string::npos);
    EXPECT_NE(refusal("time,temp\n2026-03-01,1\n").find("names no asset"), std::string::npos);
    EXPECT_EQ(refusal("time,temp\n2026-03-01,1\n").find("table of"), std::string::npos);
    const std::string stops = refusal("start,end,asset,kind\n2026-03-01 10:00,2026-03-01 11:00,K 1,seal\n");
    EXPECT_NE(stops.find("would fit a table of stops, batches"), std::string::npos) << stops;
    EXPECT_NE(refusal("time,K 1/a\n2026-03-01,1\n", {.zone = "Nowhere"}).find("not a time zone"),
              std::string::npos);
    EXPECT_NE(refusal("time,K 1/a\nyesterday,1\n").find("no times that can be read"), std::string::npos);
    EXPECT_NE(refusal("time,K 1/a\n2026-03-01,1\n", {.timeColumn = "when"}).find("no column `when`"),
              std::string::npos);
}

TEST_F(ImportTest, ALastRowWithoutLineEndIsFine) {
    EXPECT_EQ(import("time,K 1/a\n2026-03-01,1\n2026-03-02,2").samples, 2);
}

TEST_F(ImportTest, ImportingAgainChangesNothing) {
    const std::string text = "time,K 1/a,K 1/s\n2026-03-01,1,On\n2026-03-02,2,Off\n";
    import(text);
    const auto again = import(text);
    EXPECT_EQ(again.samples, 0);
    EXPECT_EQ(again.unchanged, 4);
    const auto newer = import("time,K 1/a,K 1/s\n2026-03-02,7,On\n");
    EXPECT_EQ(newer.replaced, 2);
    EXPECT_EQ(read("K 1/a").values, (std::vector<double>{1, 7}));
}

TEST_F(ImportTest, PreviewSaysWhatItWouldDoAndStoresNothing) {
    const std::string text = "time;K 1/a [bar];K 1/b\n01/03/2026 10:00;1,5;x\n01/03/2026 10:01;oops;y\n";
    const auto p = previewImport(study.get(), {"f.csv", text}, {.zone = "Europe/Oslo"});
    ASSERT_TRUE(p);
    EXPECT_EQ(p->rows, 2);
    EXPECT_EQ(p->layout.separator, ';');
    EXPECT_TRUE(p->layout.decimalComma);
    EXPECT_FALSE(p->layout.timeQuestion.empty());  // the first of March, or the third of January
    EXPECT_EQ(p->layout.columns[1].name.unit, "bar");
    EXPECT_TRUE(p->layout.columns[2].states);
    EXPECT_EQ(p->tags, (std::vector<std::string>{"K 1/a", "K 1/b"}));
    ASSERT_EQ(p->badRows.size(), 1u);
    EXPECT_EQ(p->badRows[0].line, 3);
    EXPECT_TRUE(study->catalog().tags().empty());
}

TEST_F(ImportTest, ManyTagsManyBatchesInAnyOrder) {
    std::mt19937 random(2);
    std::string text = "time,tag,value\n";
    std::map<std::string, std::map<Instant, double>> want;
    for (int i = 0; i < 60000; ++i) {
        const std::string tag = "K " + std::to_string(random() % 3) + "/t" + std::to_string(random() % 4);
        const Instant t = *fromIso("2026-03-01") + static_cast<int>(random() % 40000) * kSecond;
        const double v = static_cast<double>(random() % 100000) / 1000;
        want[tag][t] = v;
        text += toIso(t) + "," + tag + "," + std::to_string(v) + "\n";
    }
    import(text);
    for (const auto& [path, samples] : want) {
        const Series s = read(path);
        ASSERT_EQ(s.size(), samples.size());
        std::size_t i = 0;
        for (const auto& [t, v] : samples) {
            ASSERT_EQ(s.times[i], t);
            ASSERT_EQ(s.values[i++], v);
        }
    }
    EXPECT_TRUE(study->check().empty());
}

TEST_F(ImportTest, RandomBytesNeverCrash) {
    std::mt19937 random(9);
    const std::string good = "time,K 1/a,K 1/b\n2026-03-01 00:00,1,2\n2026-03-01 00:01,\"3\",4\n";
    for (int i = 0; i < 3000; ++i) {
        std::string text = good;
        for (int k = 0; k < 4; ++k) text[random() % text.size()] = static_cast<char>(random() % 256);
        const auto p = previewImport(nullptr, {"f.csv", text}, {});
        if (!p) {
            EXPECT_FALSE(p.error().message.empty());
        }
    }
}

TEST_F(ImportTest, EventsOfEveryKind) {
    import("time,Kiln 1/RH,Kiln 3/RH\n2026-03-01,1,2\n2026-03-02,1,2\n");
    const auto events = [&](const std::string& kind, const std::string& text) {
        const auto r = importEvents(*study, {kind + ".csv", text}, kind, {});
        EXPECT_TRUE(r) << (r ? "" : r.error().message);
        return r ? *r : ImportResult{};
    };
    EXPECT_EQ(
        events("failures", "asset,time,kind,note\nKiln 3,2026-03-01T10:00:00Z,bearing,\"worn, noisy\"\n")
            .samples,
        1);
    EXPECT_EQ(events("work-orders",
                     "text,asset,opened,closed,cost\nnew bearing,Kiln 3,2026-03-01,2026-03-02,120.5\n")
                  .samples,
              1);
    EXPECT_EQ(events("readings", "tag,time,value,by\nKiln 3/RH,2026-03-01T12:00:00Z,41.9,M. L.\n").samples,
              1);
    EXPECT_EQ(
        events("log", "time,asset,author,text\n2026-03-01,,R. O.,quiet night\n2026-03-01,Kiln 1,R. O.,7\n")
            .samples,
        2);
    EXPECT_EQ(events("stops", "asset,start,end,reason\nKiln 1,2026-03-01,2026-03-02,belt\n").samples, 1);
    EXPECT_EQ(events("alarms",
                     "asset,start,end,text\nKiln 1,2026-03-02,2026-03-01,x\nKlin 1,2026-03-01,,y\n"
                     "Kiln 1,2026-03-02,,\"over\ntwo lines\"\n")
                  .badRowCount,
              2);
    EXPECT_EQ(factText(study->tracks().spansOf(track_kind::kAlarms).at(0).facts, "text"), "over\ntwo lines");
    EXPECT_EQ(events("stops", "asset,start,end,reason\nKiln 1,2026-03-01,2026-03-02,belt\n").unchanged, 1);
    const Span failure = study->tracks().spansOf(track_kind::kFailures).at(0);
    EXPECT_EQ(study->catalog().asset(failure.asset)->name, "Kiln 3");
    EXPECT_EQ(factText(failure.facts, "note"), "worn, noisy");
    EXPECT_EQ(factNumber(study->tracks().spansOf(track_kind::kWorkOrders).at(0).facts, "cost"), 120.5);
    EXPECT_EQ(factText(study->tracks().spansOf(track_kind::kLog).at(1).facts, "text"), "7");
    const auto readings = study->judgement().checkReadings(study->catalog().tagAt("Kiln 3/RH")->id);
    ASSERT_EQ(readings.size(), 1u);
    EXPECT_EQ(readings[0].value, 41.9);
    EXPECT_EQ(study->imports().badRows(ImportId(7)).at(1).reason.substr(0, 40),
              "there is no asset `Klin 1`; nearest is `");
    EXPECT_FALSE(importEvents(*study, {"x.csv", "asset,when\nKiln 1,2026-03-01\n"}, "failures", {}));
    EXPECT_FALSE(importEvents(*study, {"x.csv", "asset,time\nKiln 1,2026-03-01\n"}, "gossip", {}));
}

TEST_F(ImportTest, EventsCanBeRemovedAgainAndUndone) {
    import("time,Kiln 1/RH\n2026-03-01,1\n2026-03-02,1\n");
    const auto failures = [&] { return study->tracks().spansOf(track_kind::kFailures).size(); };
    const auto one = importEvents(*study, {"a.csv", "asset,time\nKiln 1,2026-03-01\nKiln 1,2026-03-02\n"},
                                  "failures", {}),
               two = importEvents(*study, {"b.csv", "asset,time\nKiln 1,2026-03-03\n"}, "failures", {});
    ASSERT_TRUE(one && two);
    ASSERT_EQ(failures(), 3u);
    EXPECT_EQ(study->imports().remove(one->import, "wrong list")->spans, 2);
    EXPECT_EQ(failures(), 1u);
    EXPECT_FALSE(study->imports().remove(one->import, "twice"));
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(failures(), 3u);
    ASSERT_TRUE(study->history().undo());  // the import of the second list
    EXPECT_EQ(failures(), 2u);
    EXPECT_TRUE(study->check().empty());
}

TEST_F(ImportTest, AnEmptyListOfEventsIsNoError) {
    import("time,Kiln 1/RH\n2026-03-01,1\n2026-03-02,1\n");
    const auto r = importEvents(*study, {"f.csv", "asset,time,kind\n", {}}, "failures", {});
    ASSERT_TRUE(r) << r.error().message;
    EXPECT_EQ(r->rows, 0);
    EXPECT_FALSE(importEvents(*study, {"f.csv", "asset,time,kind\nKiln 1,never,x\n", {}}, "failures", {}));
}

TEST_F(ImportTest, OneTextAtTheStartDoesNotMakeATagOfNumbersAStateTag) {
    for (const bool longForm : {false, true}) {
        std::string text = longForm ? "time,tag,value\n" : "time,K 1/a\n";
        const std::string tag = longForm ? "K 1/b," : "";
        text += "2026-03-01 00:00:00," + tag + "No Data\n";
        for (int i = 1; i < 5000; ++i)
            text += toIso(*fromIso("2026-03-01") + i * kMinute) + "," + tag + std::to_string(i) + "\n";
        const auto r = import(text);
        EXPECT_EQ(r.samples, 5000);
        EXPECT_EQ(r.noValue.at("No Data"), 1);
        EXPECT_EQ(r.badRowCount + r.badCellCount, 0);
        const std::string path = longForm ? "K 1/b" : "K 1/a";
        EXPECT_EQ(study->catalog().tagAt(path)->kind, TagKind::Continuous);
        const Series s = read(path);
        EXPECT_TRUE(std::isnan(s.values[0]));
        EXPECT_EQ(s.view().qualityAt(0), Quality::Bad);
        EXPECT_EQ(s.values[4999], 4999);
    }
}

TEST_F(ImportTest, TheKindOfATagCanBeChangedBothWaysAndKeepsWhatWasRead) {
    import(
        "time,K 1/a,K 1/s\n2026-03-01,1.5,Off\n2026-03-02,No Data,7\n2026-03-03,3,Auto\n2026-03-04,4,Off\n");
    const auto texts = [&](const char* path) {
        const Tag tag = *study->catalog().tagAt(path);
        std::vector<std::string> out;
        for (const double v : read(path).values) {
            const auto code = tag.kind == TagKind::State
                                  ? std::optional<std::uint32_t>(static_cast<std::uint32_t>(v))
                                  : textOfValue(v);
            out.push_back(code ? tag.states.at(*code) : std::to_string(v).substr(0, 3));
        }
        return out;
    };
    const auto turn = [&](const char* path, TagKind kind) {
        study->changeWithSamples("kind", "", {},
                                 [&] { changeTagKind(*study, study->catalog().tagAt(path)->id, kind); });
    };
    const auto numbers = texts("K 1/a"), states = texts("K 1/s");
    EXPECT_EQ(numbers, (std::vector<std::string>{"1.5", "No Data", "3.0", "4.0"}));
    EXPECT_EQ(states, (std::vector<std::string>{"Off", "7", "Auto", "Off"}));
    turn("K 1/a", TagKind::State);
    EXPECT_EQ(texts("K 1/a"), (std::vector<std::string>{"1.5", "No Data", "3", "4"}));
    turn("K 1/a", TagKind::Continuous);
    EXPECT_EQ(texts("K 1/a"), numbers);
    turn("K 1/s", TagKind::Continuous);
    EXPECT_EQ(read("K 1/s").values[1], 7);
    EXPECT_EQ(texts("K 1/s"), (std::vector<std::string>{"Off", "7.0", "Auto", "Off"}));
    turn("K 1/s", TagKind::State);
    EXPECT_EQ(texts("K 1/s"), states);
    for (int i = 0; i < 4; ++i) ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(texts("K 1/a"), numbers);
    EXPECT_EQ(texts("K 1/s"), states);
    EXPECT_TRUE(study->check().empty());
}

TEST_F(ImportTest, DayOrMonthFirstIsDecidedByTheWholeFile) {
    // January, month first: the first twelve days read either way.
    std::string text = "time,K 1/a\n";
    for (int day = 1; day <= 31; ++day)
        for (int i = 0; i < 3000; ++i)
            text +=
                fmt::format("01/{:02}/2026 {:02}:{:02}:{:02},{}\n", day, i / 360, i / 6 % 60, i % 6 * 10, i);
    EXPECT_EQ(import(text).samples, 31 * 3000);
    EXPECT_EQ(toIso(read("K 1/a").times.back()), "2026-01-31T08:19:50Z");
}

TEST_F(ImportTest, WhereNothingDecidesOrRowsContradictNothingIsStored) {
    EXPECT_NE(refusal("time,K 1/a\n05/01/2026,1\n06/01/2026,2\n").find("day first or month first"),
              std::string::npos);
    EXPECT_NE(refusal("time,K 1/a\n31/01/2026,1\n01/31/2026,2\n").find("can only be day first"),
              std::string::npos);
    EXPECT_NE(refusal("time,K 1/a\n05/01/2026,1\n01/31/2026,2\n", {.timeFormat = "day-first"})
                  .find("can only be month first"),
              std::string::npos);
    EXPECT_NE(refusal("time;K 1/a\n2026-01-01;1,234\n").find("(Decimals, or --decimal"), std::string::npos);
    EXPECT_NE(refusal("time,K 1/a,K 1/a\n2026-01-01,1,2\n").find("more than once (K 1/a)"),
              std::string::npos);
    EXPECT_NE(refusal("time,K 1/a\nnever,1\n2026-01-01,inf\n").find("none of its 2 rows"), std::string::npos);
    EXPECT_EQ(import("time,K 1/a\n05/01/2026,1\n06/01/2026,2\n", {.timeFormat = "day-first"}).samples, 2);
}

TEST_F(ImportTest, SamplesAtTheSameTimeAreCountedAndTheLaterStands) {
    const auto r = import("time,K 1/a\n2026-01-01,1\n2026-01-01,2\n2026-01-02,3\n");
    EXPECT_EQ(r.samples, 2);
    EXPECT_EQ(r.sameTime, 1);
    EXPECT_EQ(read("K 1/a").values, (std::vector<double>{2, 3}));
}

TEST_F(ImportTest, LatinAndUtf16AreReadAndNamesAreUtf8) {
    import(
        "time,K 1/Temp [\xB0"
        "C]\n2026-01-01,1\n");
    EXPECT_EQ(study->catalog().tagAt("K 1/Temp")->unit, "°C");
    std::string wide = "\xFF\xFE";
    for (const char c : std::string("time;K 1/b\r\n2026-01-01;1,5\r\n")) wide += {c, '\0'};
    import(wide);
    EXPECT_EQ(read("K 1/b").values, std::vector<double>{1.5});
    // A byte that is no UTF-8 in a name far down the file: that row is kept aside.
    std::string text = "time,tag,value\n";
    for (int i = 0; i < 400000; ++i) text += "2026-01-01 00:00:00,K 1/c,1\n";
    text.insert(text.size() / 4, "");
    const std::size_t at = text.find('\n', text.size() / 4) + 1;
    text.insert(at, "2026-01-01,K 1/\xFF,1\n");
    const auto r = import(text, {.encoding = "utf-8"});
    EXPECT_EQ(r.badRowCount, 1);
    for (const Tag& t : study->catalog().tags()) EXPECT_TRUE(isUtf8(t.name)) << t.name;
}

TEST_F(ImportTest, FilesThatChangeWhileTheyAreRead) {
    const std::string path = (dir / "f.csv").string();
    std::string text = "time,K 1/a\n";
    while (text.size() < (20u << 20)) text += "2026-03-01 00:00:00,1\n";
    const auto write = [&] { std::ofstream(path) << text; };
    const auto importWhile = [&](const std::function<void()>& disturb) {
        write();
        const auto source = *TextSource::at(path);
        bool done = false;
        return importSamples(*study, source, {}, [&](double) {
            if (!done) disturb();
            return done = true;
        });
    };
    const auto cut = importWhile([&] { fs::resize_file(path, 9 << 20); });
    ASSERT_FALSE(cut);
    EXPECT_NE(cut.error().message.find("while it was read"), std::string::npos) << cut.error().message;
    const auto grown = importWhile([&] { std::ofstream(path, std::ios::app) << "2026-03-02 00:00:00,2\n"; });
    ASSERT_TRUE(grown) << grown.error().message;
    ASSERT_FALSE(grown->notes.empty());
    EXPECT_NE(grown->notes[0].find("grew while it was read"), std::string::npos);
    EXPECT_TRUE(study->check().empty());
}

TEST_F(ImportTest, WhatIsNotAFileIsRefusedAtOnce) {
    const std::string pipe = (dir / "pipe").string();
    ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
    EXPECT_NE(TextSource::at(pipe).error().message.find("is a pipe"), std::string::npos);
    EXPECT_NE(TextSource::at(dir.string()).error().message.find("is a folder"), std::string::npos);
    EXPECT_NE(TextSource::at("/dev/null").error().message.find("device"), std::string::npos);
    EXPECT_NE(Study::open(pipe).error().message.find("is a pipe"), std::string::npos);
    for (const char* path : {"", ":memory:", "file:x.jacinth?mode=memory"}) {
        EXPECT_FALSE(Study::create(path)) << path;
        EXPECT_FALSE(Study::open(path)) << path;
    }
}

TEST_F(ImportTest, LinksInAFolderAreFollowedOnlyWithinIt) {
    fs::create_directories(dir / "in");
    std::ofstream(dir / "outside.csv") << "time,K 1/a\n2026-01-01,1\n";
    std::ofstream(dir / "in" / "a.csv") << "time,K 1/a\n2026-01-01,1\n";
    fs::create_symlink(dir / "outside.csv", dir / "in" / "out.csv");
    fs::create_symlink(dir / "in" / "a.csv", dir / "in" / "b.csv");
    const auto files = filesAt((dir / "in").string());
    ASSERT_TRUE(files);
    EXPECT_EQ(files->size(), 2u);
}

TEST_F(ImportTest, TwoProgramsThatMeetTheSameNewTagBothSucceed) {
    auto other = std::move(*Study::open((dir / "s.jacinth").string()));
    import("time,K 1/a\n2026-01-01,1\n");
    const auto r = importSamples(*other, {"g.csv", "time,K 1/a\n2026-01-02,2\n"}, {});
    ASSERT_TRUE(r) << r.error().message;
    study->refresh();
    EXPECT_EQ(read("K 1/a").values, (std::vector<double>{1, 2}));
}

TEST_F(ImportTest, BadRowsAreKeptUpToANumberAndAllCounted) {
    std::string text = "time,K 1/a\n2026-01-01,1\n";
    for (int i = 0; i < 30000; ++i) text += "never,1\n";
    const auto r = import(text);
    EXPECT_EQ(r.badRowCount, 30000);
    EXPECT_EQ(r.rows, 30001);
    EXPECT_LE(study->imports().badRows(r.import).size(), kMostBadRows);
    EXPECT_EQ(study->imports().all().back().badRows, 30000);
}

}  // namespace
}  // namespace jacinth
