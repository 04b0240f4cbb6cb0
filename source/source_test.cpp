#include <gtest/gtest.h>

#include <filesystem>
#include <random>

#include "source/import_events.h"

namespace jacinth {
namespace {

namespace fs = std::filesystem;

class ImportTest : public ::testing::Test {
  protected:
    void SetUp() override {
        dir = fs::temp_directory_path() / ("jacinth-source-" + std::to_string(::getpid()) + "-" +
                                           ::testing::UnitTest::GetInstance()->current_test_info()->name());
        fs::remove_all(dir);
        fs::create_directories(dir);
        study = std::move(*Study::create((dir / "s.jacinth").string()));
    }
    void TearDown() override {
        study.reset();
        fs::remove_all(dir);
    }
    ImportResult import(const std::string& text, LayoutHints hints = {}) {
        const auto result = importSamples(*study, {"f.csv", text}, hints);
        EXPECT_TRUE(result) << (result ? "" : result.error().message);
        return result ? *result : ImportResult{};
    }
    std::string refusal(const std::string& text, LayoutHints hints = {}) {
        const auto result = importSamples(*study, {"f.csv", text}, hints);
        EXPECT_TRUE(study->catalog().tags().empty());
        EXPECT_TRUE(study->imports().empty());
        return result ? "" : result.error().message;
    }
    Series read(const std::string& path) {
        const auto tag = study->catalog().tagAt(path);
        EXPECT_TRUE(tag) << path;
        return study->read(*tag, {0, 4'000'000'000LL * kSecond}, Which::AsLogged);
    }
    fs::path dir;
    std::unique_ptr<Study> study;
};

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
    ASSERT_EQ(r.badRowCount, 4);
    EXPECT_EQ(r.badRows[0].line, 3);
    EXPECT_EQ(r.badRows[0].reason, "time 2026-03-29 02:30 does not exist in Europe/Oslo");
    EXPECT_EQ(r.badRows[1].line, 4);
    EXPECT_EQ(r.badRows[2].reason, "`oops` for `K 1/a` is no number");
    EXPECT_EQ(r.badRows[3].reason, "2 fields where the header has 3");
    EXPECT_EQ(study->badRows(r.import).size(), 4u);
    EXPECT_EQ(study->badRows(r.import)[3].text, "2026-03-29 03:01,1");
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
    EXPECT_EQ(refusal(std::string("PK\3\4\0\0\0", 7)), "f.csv is no text: it holds binary data");
    EXPECT_EQ(refusal("time,K 1/a\n"), "f.csv has a header and no rows");
    EXPECT_NE(refusal("K 1/a,K 1/b\n1,2\n3,4\n").find("has no time column"), std::string::npos);
    EXPECT_NE(refusal("time,K 1/a,K 1/b\n2026-03-01,1,2\n2026-03-01 00:0").find("stops in the middle"),
              std::string::npos);
    EXPECT_NE(refusal("time,K 1/a\n2026-03-01,\"12").find("stops in the middle"), std::string::npos);
    EXPECT_NE(refusal("time,temp\n2026-03-01,1\n").find("names no asset"), std::string::npos);
    EXPECT_NE(refusal("time,K 1/a\n2026-03-01,1\n", {.zone = "Nowhere"}).find("no time zone"),
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
    EXPECT_EQ(p->layout.dateOrder, DateOrder::DayFirst);
    EXPECT_EQ(p->layout.columns[1].unit, "bar");
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
        const Instant t = *fromIso("2026-03-01") + static_cast<Instant>(random() % 40000) * kSecond;
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
    EXPECT_EQ(events("alarms", "asset,start,end,text\nKiln 1,2026-03-02,2026-03-01,x\nKlin 1,2026-03-01,,y\n")
                  .badRowCount,
              2);
    EXPECT_EQ(events("stops", "asset,start,end,reason\nKiln 1,2026-03-01,2026-03-02,belt\n").unchanged, 1);
    const Span failure = study->spansOf(track_kind::kFailures).at(0);
    EXPECT_EQ(study->catalog().asset(failure.asset)->name, "Kiln 3");
    EXPECT_EQ(factText(failure.facts, "note"), "worn, noisy");
    EXPECT_EQ(factNumber(study->spansOf(track_kind::kWorkOrders).at(0).facts, "cost"), 120.5);
    EXPECT_EQ(factText(study->spansOf(track_kind::kLog).at(1).facts, "text"), "7");
    const auto readings = study->checkReadings(study->catalog().tagAt("Kiln 3/RH")->id);
    ASSERT_EQ(readings.size(), 1u);
    EXPECT_EQ(readings[0].value, 41.9);
    EXPECT_EQ(study->badRows(7).at(1).reason.substr(0, 40), "`Klin 1` is no asset; nearest is `Kiln 1");
    EXPECT_FALSE(importEvents(*study, {"x.csv", "asset,when\nKiln 1,2026-03-01\n"}, "failures", {}));
    EXPECT_FALSE(importEvents(*study, {"x.csv", "asset,time\nKiln 1,2026-03-01\n"}, "gossip", {}));
}

}  // namespace
}  // namespace jacinth
