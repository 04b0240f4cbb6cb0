// The pieces of reading text: rows and fields, times, layouts.
#include <gtest/gtest.h>

#include "source/text_layout.h"

namespace jacinth {
namespace {

std::vector<std::vector<std::string>> rowsOf(std::string_view text, char separator = ',') {
    RowReader reader(text, separator);
    std::vector<std::vector<std::string>> out;
    while (reader.next()) out.emplace_back(reader.fields().begin(), reader.fields().end());
    return out;
}

using Rows = std::vector<std::vector<std::string>>;

TEST(RowReader, FieldsAndLineEnds) {
    EXPECT_EQ(rowsOf("a,b\nc,d"), (Rows{{"a", "b"}, {"c", "d"}}));
    EXPECT_EQ(rowsOf("a,b\r\n\r\nc,\r\n"), (Rows{{"a", "b"}, {"c", ""}}));
    EXPECT_EQ(rowsOf("a;b,c\n", ';'), (Rows{{"a", "b,c"}}));
    EXPECT_EQ(rowsOf("\n\n"), Rows{});
    EXPECT_EQ(rowsOf(",\n"), (Rows{{"", ""}}));
}

TEST(RowReader, Quotes) {
    EXPECT_EQ(rowsOf("\"a,b\",c\n"), (Rows{{"a,b", "c"}}));
    EXPECT_EQ(rowsOf("\"say \"\"so\"\"\",x\n"), (Rows{{"say \"so\"", "x"}}));
    EXPECT_EQ(rowsOf("\"two\nlines\",x\ny,z\n"), (Rows{{"two\nlines", "x"}, {"y", "z"}}));
    EXPECT_EQ(rowsOf("a,\"\"\n"), (Rows{{"a", ""}}));
}

TEST(RowReader, LinesCountWhatIsInTheFile) {
    RowReader reader("h\n\n\"x\ny\"\nlast", ',');
    ASSERT_TRUE(reader.next());
    EXPECT_EQ(reader.line(), 1);
    ASSERT_TRUE(reader.next());
    EXPECT_EQ(reader.line(), 3);
    ASSERT_TRUE(reader.next());
    EXPECT_EQ(reader.line(), 5);
    EXPECT_FALSE(reader.next());
}

TEST(RowReader, AQuoteThatNeverClosesIsTold) {
    RowReader reader("a,\"open", ',');
    ASSERT_TRUE(reader.next());
    EXPECT_TRUE(reader.openQuote());
}

TEST(Numbers, PointCommaAndWhatIsNone) {
    EXPECT_EQ(readNumber("1.5", false), 1.5);
    EXPECT_EQ(readNumber("1,5", true), 1.5);
    EXPECT_EQ(readNumber("-2e3", false), -2000);
    EXPECT_EQ(readNumber("+7", false), 7);
    EXPECT_EQ(readNumber("+7,25", true), 7.25);
    for (const char* text : {"", "x", "1.5x", "1,5", "nan", "inf", "-", "1 000", "0x10"})
        EXPECT_FALSE(readNumber(text, false)) << text;
    EXPECT_FALSE(readNumber(std::string(100, '1'), false));
}

struct TimeCase {
    const char* text;
    DateOrder order;
    const char* iso;
};

class Times : public ::testing::TestWithParam<TimeCase> {};

TEST_P(Times, AreReadInTheirOrder) {
    TimeReader reader(GetParam().order, *Zone::named("Europe/Oslo"));
    const auto t = reader.read(GetParam().text);
    ASSERT_TRUE(t) << t.error().message;
    EXPECT_EQ(toIso(*t), GetParam().iso);
}

INSTANTIATE_TEST_SUITE_P(
    Common, Times,
    ::testing::Values(TimeCase{"2026-01-05 10:00", DateOrder::YearFirst, "2026-01-05T09:00:00Z"},
                      TimeCase{"2026-07-05T10:00:00.25", DateOrder::YearFirst, "2026-07-05T08:00:00.250Z"},
                      TimeCase{"2026-07-05T10:00:00Z", DateOrder::YearFirst, "2026-07-05T10:00:00Z"},
                      TimeCase{"2026-07-05T10:00:00-0330", DateOrder::YearFirst, "2026-07-05T13:30:00Z"},
                      TimeCase{"2026/7/5 9:05", DateOrder::YearFirst, "2026-07-05T07:05:00Z"},
                      TimeCase{"05.01.2026 10:00:30", DateOrder::DayFirst, "2026-01-05T09:00:30Z"},
                      TimeCase{"5/1/2026 10:00", DateOrder::DayFirst, "2026-01-05T09:00:00Z"},
                      TimeCase{"01/05/2026 10:00", DateOrder::MonthFirst, "2026-01-05T09:00:00Z"},
                      TimeCase{" 2026-01-05 ", DateOrder::YearFirst, "2026-01-04T23:00:00Z"},
                      TimeCase{"05-01-2026 10:00:00,125", DateOrder::DayFirst, "2026-01-05T09:00:00.125Z"}));

TEST(TimesWrong, AreSaidSo) {
    TimeReader reader(DateOrder::DayFirst, Zone());
    for (const char* text : {"", "31.02.2026", "2026-01-05", "05.01.26", "05.01.2026 24:00", "05.01-2026",
                             "05.01.2026 10:00 maybe", "05.01.2026T"})
        EXPECT_FALSE(reader.read(text)) << text;
}

TEST(DateOrders, AreGuessedFromAllRows) {
    EXPECT_EQ(guessDateOrder({"05/01/2026", "13/01/2026"}), DateOrder::DayFirst);
    EXPECT_EQ(guessDateOrder({"05/01/2026", "01/13/2026"}), DateOrder::MonthFirst);
    EXPECT_EQ(guessDateOrder({"2026-01-05"}), DateOrder::YearFirst);
    EXPECT_EQ(guessDateOrder({"soon"}), std::nullopt);
    EXPECT_EQ(guessDateOrder({}), std::nullopt);
}

TEST(Headers, AssetTagAndUnit) {
    const auto c = columnFromHeader("Kiln 3/Air-off temp [°C]", "");
    EXPECT_EQ(c.asset, "Kiln 3");
    EXPECT_EQ(c.tag, "Air-off temp");
    EXPECT_EQ(c.unit, "°C");
    EXPECT_EQ(columnFromHeader("Fan", "Kiln 2").asset, "Kiln 2");
    EXPECT_EQ(columnFromHeader("Kiln 2 / Fan [ A ]", "").tag, "Fan");
    EXPECT_EQ(columnFromHeader("K/odd]", "").tag, "odd]");
    EXPECT_EQ(columnFromHeader("Fan", "").asset, "");
}

TEST(Layouts, AreGuessed) {
    const auto layout = [](const std::string& text, LayoutHints hints = {}) {
        const auto l = guessLayout({"f.csv", text}, hints);
        EXPECT_TRUE(l) << (l ? "" : l.error().message);
        return l ? *l : TextLayout{};
    };
    EXPECT_EQ(layout("time\tK/a\n2026-01-01\t1\n").separator, '\t');
    EXPECT_TRUE(layout("time;K/a\n2026-01-01;1,5\n").decimalComma);
    EXPECT_FALSE(layout("time;K/a\n2026-01-01;1.5\n").decimalComma);
    EXPECT_TRUE(layout("time,tag,value\n2026-01-01,K/a,1\n").longForm);
    EXPECT_EQ(layout("K/a,stamp\n1,2026-01-01 10:00\n2,2026-01-01 11:00\n").timeColumn,
              1);  // by what it holds
    LayoutHints hints;
    hints.timeColumn = "when";
    EXPECT_EQ(layout("K/a,when\n1,2026-01-01\n", hints).timeColumn, 1);
    hints = {};
    hints.tagColumn = "point";
    hints.valueColumn = "x";
    EXPECT_EQ(layout("time,point,x\n2026-01-01,K/a,1\n", hints).tagColumn, 1);
    EXPECT_TRUE(layout("time,K/mode\n2026-01-01,Auto\n2026-01-02,Off\n2026-01-03,\n").columns[1].states);
    EXPECT_FALSE(guessLayout({"f.csv", "time,point\n2026-01-01,K/a\n"}, {true}));
}

TEST(Layouts, QuotedHeadersWithSeparatorsInside) {
    const auto l = guessLayout({"f.csv", "time,\"K/a, upper [bar]\",K/b\n2026-01-01,1,2\n"}, {});
    ASSERT_TRUE(l);
    EXPECT_EQ(l->columns.size(), 3u);
    EXPECT_EQ(l->columns[1].tag, "a, upper");
    EXPECT_EQ(l->columns[1].unit, "bar");
}

}  // namespace
}  // namespace jacinth
