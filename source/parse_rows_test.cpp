// Rows that are read in one walk give what the careful way gives: a quote around a number asks for the
// latter.
#include "source/parse_rows.h"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <random>

#include "core/series/text_value.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

/// A wide table, twice: as it is, and with every cell in quotes.
struct Table {
    std::string plain, quoted;

    void row(const std::string& time, const std::vector<std::string>& cells) {
        plain += time;
        quoted += time;
        for (const std::string& c : cells) {
            plain += "," + c;
            quoted += c.empty() ? "," : ",\"" + c + "\"";
        }
        plain += "\n";
        quoted += "\n";
    }
};

TextLayout layoutOf(int columns) {
    std::string text = "time";
    for (int c = 0; c < columns; ++c) text += fmt::format(",Press 1/Tag {}", c);
    text += "\n2026-03-01 00:00:00";
    for (int c = 0; c < columns; ++c) text += ",1";
    return *guessLayout({"f.csv", text + "\n", {}}, {});
}

ParsedRows parsed(const std::string& text, const TextLayout& layout, const KnownKinds& known = {}) {
    return parseRows(text, layout, "", known, TimeReader(layout.timeFormat, Zone()));
}

void expectSame(const ParsedRows& a, const ParsedRows& b) {
    EXPECT_EQ(a.rows, b.rows);
    EXPECT_EQ(a.lines, b.lines);
    EXPECT_EQ(a.last, b.last);
    EXPECT_EQ(a.aside.rows, b.aside.rows);
    EXPECT_EQ(a.aside.cells, b.aside.cells);
    EXPECT_EQ(a.noValue, b.noValue);
    ASSERT_EQ(a.tags.size(), b.tags.size());
    for (std::size_t i = 0; i < a.tags.size(); ++i) {
        const TagBlock &x = *a.tags[i], &y = *b.tags[i];
        EXPECT_EQ(x.path, y.path);
        EXPECT_EQ(x.kind, y.kind) << x.path;
        EXPECT_EQ(x.texts, y.texts) << x.path;
        EXPECT_EQ(x.series.times, y.series.times) << x.path;
        ASSERT_EQ(x.series.size(), y.series.size());
        for (std::size_t k = 0; k < x.series.size(); ++k) {
            EXPECT_EQ(x.series.view().qualityAt(k), y.series.view().qualityAt(k));
            EXPECT_EQ(std::isnan(x.series.values[k]), std::isnan(y.series.values[k]));
            if (!std::isnan(x.series.values[k])) EXPECT_EQ(x.series.values[k], y.series.values[k]);
        }
    }
}

std::string randomCell(std::mt19937& random) {
    switch (random() % 24) {
        case 0:
            return "";
        case 1:
            return "No Data";
        case 2:
            return "1e3";
        case 3:
            return "+4";
        case 4:
            return "-0";
        case 5:
            return fmt::format("{}.{:09}", random() % 100'000'000, random() % 1'000'000'000);
        case 6:
            return "oops";
        default:
            return fmt::format("{}{}.{:02}", random() % 3 ? "" : "-", random() % 5000, random() % 100);
    }
}

class PlainRows : public ::testing::TestWithParam<unsigned> {};

TEST_P(PlainRows, GiveWhatTheCarefulWayGives) {
    std::mt19937 random(GetParam());
    const int columns = 1 + static_cast<int>(random() % 6);
    Table table;
    Instant t = *fromIso("2026-03-01T00:00:00Z");
    for (int row = 0; row < 200; ++row) {
        std::vector<std::string> cells;
        // Stretches of plain rows, broken by others: what was read must reach its tags in order.
        const bool odd = row / 20 % 3 == 1;
        for (int c = 0; c < columns; ++c)
            cells.push_back(odd ? randomCell(random) : fmt::format("{}.{}", random() % 90, random() % 10));
        t += (1 + static_cast<int>(random() % 50)) * kSecond;
        std::string time = toIso(t).substr(0, 19);
        time[10] = ' ';
        table.row(row == 77 ? "never" : time, cells);
    }
    const TextLayout layout = layoutOf(columns);
    expectSame(parsed(table.plain, layout), parsed(table.quoted, layout));
}

INSTANTIATE_TEST_SUITE_P(Seeds, PlainRows, ::testing::Range(1u, 31u));

TEST(PlainRowsByHand, EmptyCellsGiveNoSampleAndAnEmptyColumnNoTag) {
    const ParsedRows rows =
        parsed("2026-03-01 00:00:00,1,,\n2026-03-01 00:00:10,,2,\n2026-03-01 00:00:20,3,4,\n", layoutOf(3));
    ASSERT_EQ(rows.tags.size(), 2u);
    const Instant start = *fromIso("2026-03-01T00:00:00Z");
    EXPECT_EQ(rows.tags[0]->series.times, (std::vector<Instant>{start, start + 20 * kSecond}));
    EXPECT_EQ(rows.tags[0]->series.values, (std::vector<double>{1, 3}));
    EXPECT_EQ(rows.tags[1]->series.times, (std::vector<Instant>{start + 10 * kSecond, start + 20 * kSecond}));
    EXPECT_EQ(rows.tags[1]->series.values, (std::vector<double>{2, 4}));
    EXPECT_EQ(rows.rows, 3);
}

TEST(PlainRowsByHand, APlainRowAfterAStateOfBadQualityIsGood) {
    const ParsedRows rows =
        parsed("2026-03-01 00:00:00,1\n2026-03-01 00:00:10,No Data\n2026-03-01 00:00:20,3\n", layoutOf(1));
    ASSERT_EQ(rows.tags.size(), 1u);
    const SeriesView s = rows.tags[0]->series.view();
    ASSERT_EQ(s.size(), 3u);
    EXPECT_EQ(s.qualityAt(1), Quality::Bad);
    EXPECT_EQ(s.qualityAt(2), Quality::Good);
    EXPECT_EQ(s.values[2], 3);
}

TEST(PlainRowsByHand, AColumnKnownAsStatesTakesNumbersAsNames) {
    KnownKinds known;
    known["Press 1/Tag 0"] = TagKind::State;
    const ParsedRows rows = parsed("2026-03-01 00:00:00,1\n2026-03-01 00:00:10,2\n", layoutOf(1), known);
    ASSERT_EQ(rows.tags.size(), 1u);
    EXPECT_EQ(rows.tags[0]->kind, TagKind::State);
    EXPECT_EQ(rows.tags[0]->texts, (std::vector<std::string>{"1", "2"}));
}

}  // namespace
}  // namespace jacinth
