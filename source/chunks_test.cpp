// Files in pieces: whatever the size of the pieces and however the file is packed, the rows are the same.
#include "source/chunks.h"

#include <gtest/gtest.h>
#include <unistd.h>
#include <zlib.h>

#include <filesystem>
#include <random>

#include "source/import_samples.h"
#include "source/parse_rows.h"
#include "store/imports.h"

namespace jacinth {
namespace {

std::string packed(const std::string& text) {
    z_stream z{};
    deflateInit2(&z, 6, Z_DEFLATED, 15 + 16, 8, Z_DEFAULT_STRATEGY);
    std::string out(deflateBound(&z, text.size()) + 64, '\0');
    z.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(text.data()));
    z.avail_in = static_cast<uInt>(text.size());
    z.next_out = reinterpret_cast<Bytef*>(out.data());
    z.avail_out = static_cast<uInt>(out.size());
    deflate(&z, Z_FINISH);
    out.resize(z.total_out);
    deflateEnd(&z);
    return out;
}

std::vector<std::string> chunksOf(const std::string& bytes, std::size_t size) {
    const TextSource source{"f", bytes, {}};
    ChunkReader reader(source, *codingOf(source), size);
    std::vector<std::string> out;
    double share = 0;
    while (true) {
        const auto chunk = reader.next();
        if (!chunk) return {"error: " + chunk.error().message};
        if (!*chunk) return out;
        EXPECT_GE((*chunk)->share, share);
        share = (*chunk)->share;
        out.emplace_back((*chunk)->text);
    }
}

TEST(Chunks, EndAtTheEndsOfRows) {
    const std::string text = "a,b\n1,2\n\"x y\",\"q\"\"\"\n3,4\n5,6";
    for (std::size_t size = 1; size < 40; ++size)
        for (const std::string& bytes : {text, packed(text)}) {
            std::string all;
            for (const std::string& c : chunksOf(bytes, size)) {
                // Each piece is made of whole rows: it gives the rows that the whole text has there.
                RowReader rows(c, ',');
                while (rows.next()) EXPECT_EQ(rows.fields().size(), 2u) << size << ": " << c;
                all += c;
            }
            EXPECT_EQ(all, text) << size;
        }
}

TEST(Chunks, AMarkAtTheStartIsNoText) {
    for (const std::string& bytes :
         {std::string("\xEF\xBB\xBFx,y\n1,2\n"), packed("\xEF\xBB\xBFx,y\n1,2\n")}) {
        const auto all = chunksOf(bytes, 1000);
        ASSERT_EQ(all.size(), 1u);
        EXPECT_EQ(all[0], "x,y\n1,2\n");
    }
}

TEST(Gzip, SeveralMembersAreOneText) {
    const std::string bytes = packed("a,b\n1,2\n") + packed("3,4\n");
    const auto all = chunksOf(bytes, 1000);
    ASSERT_EQ(all.size(), 1u);
    EXPECT_EQ(all[0], "a,b\n1,2\n3,4\n");
    EXPECT_EQ(checkGzip({"f", bytes, {}})->size, 12u);
}

TEST(Gzip, DamageIsSaid) {
    std::string text = "time,K 1/x\n";
    for (int i = 0; i < 5000; ++i) text += "2026-03-01 00:00:00," + std::to_string(i * 7919 % 1000) + "\n";
    const std::string whole = packed(text);
    EXPECT_EQ(checkGzip({"f", std::string_view(whole).substr(0, whole.size() - 20), {}}).error().message,
              "the packed file was cut off");
    std::string broken = whole;
    broken[broken.size() / 2] ^= 0x55;
    EXPECT_FALSE(checkGzip({"f", broken, {}}));
    std::string sum = whole;
    sum[sum.size() - 6] ^= 1;  // the checksum at the end
    EXPECT_EQ(checkGzip({"f", sum, {}}).error().message, "the packed file is damaged");
}

class ImportInPieces : public ::testing::Test {
  protected:
    void SetUp() override {
        folder = ::testing::TempDir() + "pieces-" + std::to_string(::getpid());
        std::filesystem::create_directories(folder);
    }
    void TearDown() override { std::filesystem::remove_all(folder); }

    std::unique_ptr<Study> study() {
        return std::move(*Study::create(folder + "/" + std::to_string(++made) + ".jacinth"));
    }
    std::string folder;
    int made = 0;
};

/// About 20 MB in long form: three pieces, with a state tag, a bad row and a night on which clocks go back.
std::string longFile() {
    std::string text = "time,tag,value,quality\n";
    const Zone oslo = *Zone::named("Europe/Oslo");
    Instant t = *fromIso("2025-10-24T22:00:00Z");
    std::mt19937 random(3);
    for (int i = 0; i < 260000; ++i) {
        const WallTime w = oslo.wall(t);
        char line[120];
        std::snprintf(line, sizeof line, "%04d-%02d-%02d %02d:%02d:%02d,Kiln %d/Air-off temp,%d.%d,%s\n",
                      w.year, w.month, w.day, w.hour, w.minute, w.second, i % 3 + 1, 40 + i % 20,
                      static_cast<int>(random() % 10), i % 1000 == 7 ? "bad" : "good");
        text += line;
        if (i % 500 == 0) {
            std::snprintf(line, sizeof line, "%04d-%02d-%02d %02d:%02d:%02d,Kiln 1/Step,%s,good\n", w.year,
                          w.month, w.day, w.hour, w.minute, w.second, i % 1000 ? "Load" : "Idle");
            text += line;
        }
        if (i == 200000) text += "never,Kiln 1/Air-off temp,1,good\n";
        t += kSecond / 2 * (1 + static_cast<std::int64_t>(random() % 3));
    }
    return text;
}

TEST_F(ImportInPieces, PackedAndPlainAreTheSameAndNightsKeepTheirOrder) {
    const std::string text = longFile(), zipped = packed(text);
    ASSERT_GT(text.size(), 8u << 20);
    LayoutHints hints;
    hints.zone = "Europe/Oslo";
    auto a = study(), b = study();
    const auto first = importSamples(*a, {"plain", text}, hints),
               second = importSamples(*b, {"packed", zipped}, hints);
    ASSERT_TRUE(first) << first.error().message;
    ASSERT_TRUE(second) << second.error().message;
    EXPECT_EQ(first->badRowCount, 1);
    const auto lineOf = [&] {
        const std::string before = text.substr(0, text.find("never"));
        return 1 + std::count(before.begin(), before.end(), '\n');
    }();
    EXPECT_EQ(first->badRows[0].line, lineOf);
    EXPECT_EQ(second->badRows[0].line, lineOf);
    EXPECT_EQ(first->notes.size(), 1u);
    for (const Tag& tag : a->catalog().tags()) {
        const auto twin = b->catalog().tagAt(tag.path());
        ASSERT_TRUE(twin);
        EXPECT_EQ(twin->kind, tag.kind);
        EXPECT_EQ(tag.kind, tag.name == "Step" ? TagKind::State : TagKind::Continuous);
        const TimeRange all = a->record();
        const Series x = a->read(tag, all, Which::AsLogged), y = b->read(*twin, all, Which::AsLogged);
        EXPECT_EQ(x.times, y.times);
        EXPECT_EQ(x.values, y.values);
    }
    // Every second of the night is there once: the two hours that read the same were distinguished.
    EXPECT_EQ(first->samples + first->unchanged + first->replaced + first->sameTime, first->rows - 1);
    EXPECT_GT(first->samples, first->rows * 6 / 10);
    EXPECT_EQ(importSamples(*a, {"packed", zipped}, hints)->samples, 0);
}

TEST_F(ImportInPieces, DamagedPackedFilesLeaveTheStudyAsItIs) {
    const std::string text = longFile(), zipped = packed(text);
    auto s = study();
    std::mt19937 random(5);
    for (int i = 0; i < 12; ++i) {
        std::string bad = zipped;
        if (i % 3 == 0)
            bad.resize(100 + random() % (bad.size() - 200));
        else
            bad[20 + random() % (bad.size() - 20)] ^= static_cast<char>(1 + random() % 255);
        const auto result = importSamples(*s, {"bad.gz", bad}, {});
        ASSERT_FALSE(result) << i;
        EXPECT_NE(result.error().message.find("bad.gz"), std::string::npos);
    }
    EXPECT_TRUE(s->catalog().tags().empty());
    EXPECT_TRUE(s->imports().all().empty());
}

TEST_F(ImportInPieces, AStrayQuoteIsOneBadRow) {
    std::string text = "time,K 1/a\n";
    for (int i = 0; i < 10000; ++i)
        text += toIso(*fromIso("2026-03-01") + i * kSecond) + (i == 100 ? ",\"5,11\n" : ",5.11\n");
    auto s = study();
    const auto result = importSamples(*s, {"f.csv", text, {}}, {});
    ASSERT_TRUE(result) << result.error().message;
    EXPECT_EQ(result->rows, 10000);
    EXPECT_EQ(result->samples, 9999);
    ASSERT_EQ(result->badRowCount, 1);
    EXPECT_EQ(result->badRows[0].line, 102);
}

TEST_F(ImportInPieces, ALineWithoutEndIsNoTable) {
    auto s = study();
    const auto result = importSamples(
        *s, {"f.csv", "time,K 1/a\n2026-03-01,1\n" + std::string(40u << 20, 'x') + "\n", {}}, {});
    ASSERT_FALSE(result);
    EXPECT_NE(result.error().message.find("is longer than 16 MB"), std::string::npos)
        << result.error().message;
    EXPECT_TRUE(s->catalog().tags().empty());
}

TEST_F(ImportInPieces, AFileCutOffInsideItsPackedTextIsSaid) {
    auto s = study();
    const auto result =
        importSamples(*s, {"cut.csv.gz", packed("time,K 1/x,K 1/y\n2026-03-01 00:00:00,1,2\n2026-03-0")}, {});
    ASSERT_FALSE(result);
    EXPECT_NE(result.error().message.find("cut off"), std::string::npos) << result.error().message;
}

TEST_F(ImportInPieces, ATagIsWhatMostOfItsValuesAreInThePieceItIsFirstSeenIn) {
    // A tag that is numbers in the first piece and has text in a later one keeps the text aside with its
    // line.
    std::string text = "time,tag,value\n2026-03-01 00:00:00,K 1/a,1\n";
    const std::string filler = "2026-03-01 00:00:01,K 1/filler,2.5\n";
    std::size_t lines = 2;
    while (text.size() < (9u << 20)) text += filler, ++lines;
    text += "2026-03-01 00:00:02,K 1/a,Off\n";
    auto s = study();
    const auto result = importSamples(*s, {"f", text}, {});
    ASSERT_TRUE(result);
    EXPECT_EQ(s->catalog().tagAt("K 1/a")->kind, TagKind::Continuous);
    ASSERT_EQ(result->badRowCount, 1);
    EXPECT_EQ(result->badRows[0].line, static_cast<std::int64_t>(lines + 1));
}

TEST(PlainRows, TheLastRowNeedsNoLineEnd) {
    const auto layout = *guessLayout({"f", "time,K 1/a\n2026-03-01,1\n"}, {});
    const TimeReader times(layout.timeFormat, Zone());
    for (const char* text : {"2026-03-01,1.5", "2026-03-01,1.5\n"}) {
        const ParsedRows rows = parseRows(text, layout, "", {}, times);
        ASSERT_EQ(rows.tags.size(), 1u) << text;
        EXPECT_EQ(rows.tags[0]->series.values, std::vector<double>{1.5});
    }
    EXPECT_TRUE(parseRows("", layout, "", {}, times).tags.empty());
}

TEST(PlainRows, GiveTheSameNumbersAsTheCarefulWay) {
    std::mt19937 random(11);
    std::string text = "time,K 1/a,K 1/b\n", careful = text;
    for (int i = 0; i < 4000; ++i) {
        char time[40], a[40], b[40] = "";
        std::snprintf(time, sizeof time, "2026-03-01T%02d:%02d:%02dZ", i / 3600, i / 60 % 60, i % 60);
        std::snprintf(a, sizeof a, "%.*f", static_cast<int>(random() % 9),
                      (static_cast<double>(random()) - 2e9) / static_cast<double>(1 + random() % 1000000));
        const bool empty = random() % 5 == 0;
        const int value = static_cast<int>(random() % 2000) - 1000;
        if (!empty) std::snprintf(b, sizeof b, "%d", value);
        text += std::string(time) + "," + a + "," + b + (i % 7 ? "\n" : "\r\n");
        careful += std::string(time) + ",\"" + a + "\"," + b + "\n";  // quotes: no plain row
    }
    const auto layout = *guessLayout({"f", text}, {});
    const auto body = [](const std::string& t) { return std::string_view(t).substr(t.find('\n') + 1); };
    const TimeReader times(layout.timeFormat, Zone());
    const ParsedRows x = parseRows(body(text), layout, "", {}, times),
                     y = parseRows(body(careful), layout, "", {}, times);
    ASSERT_EQ(x.tags.size(), 2u);
    EXPECT_EQ(x.rows, 4000);
    EXPECT_EQ(x.lines, 4000);
    for (int i = 0; i < 2; ++i) {
        EXPECT_EQ(x.tags[i]->series.times, y.tags[i]->series.times);
        EXPECT_EQ(x.tags[i]->series.values, y.tags[i]->series.values);
    }
    EXPECT_EQ(x.aside.rows + x.aside.cells, 0);
}

}  // namespace
}  // namespace jacinth
