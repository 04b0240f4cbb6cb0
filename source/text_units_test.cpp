// The pieces of reading text: rows and fields, times, layouts.
#include <gtest/gtest.h>

#include "core/base/utf8.h"
#include "source/number_signs.h"
#include "source/text_layout.h"

namespace jacinth {
namespace {

std::vector<std::vector<std::string>> rowsOf(std::string_view text, char separator = ',',
                                             Quotes quotes = Quotes::WithinLine) {
    RowReader reader(text, separator, quotes);
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
    EXPECT_EQ(rowsOf("\"two\nlines\",x\ny,z\n", ',', Quotes::OverLines),
              (Rows{{"two\nlines", "x"}, {"y", "z"}}));
    EXPECT_EQ(rowsOf("a,\"\"\n"), (Rows{{"a", ""}}));
}

TEST(RowReader, LinesCountWhatIsInTheFile) {
    RowReader reader("h\n\n\"x\ny\"\nlast", ',', Quotes::OverLines);
    ASSERT_TRUE(reader.next());
    EXPECT_EQ(reader.line(), 1);
    ASSERT_TRUE(reader.next());
    EXPECT_EQ(reader.line(), 3);
    ASSERT_TRUE(reader.next());
    EXPECT_EQ(reader.line(), 5);
    EXPECT_FALSE(reader.next());
}

TEST(RowReader, AQuoteThatDoesNotCloseIsABadRowByItself) {
    for (const Quotes quotes : {Quotes::WithinLine, Quotes::OverLines}) {
        RowReader reader("a,b\n1,2\n3,\"4\n5,6\n7,8\n", ',', quotes);
        std::size_t good = 0, bad = 0;
        while (reader.next()) ++(*reader.trouble() ? bad : good);
        EXPECT_EQ(good, 4u);
        EXPECT_EQ(bad, 1u);
        EXPECT_EQ(reader.linesRead(), 5);
    }
}

TEST(RowReader, TwoStrayQuotesDoNotSwallowTheRowsBetween) {
    // Closed by the second one the field would hold two rows, and the row would have too many fields.
    RowReader reader("a,b\n\"1,2\n3,4\n5,6\"\n", ',', Quotes::OverLines);
    std::vector<std::string> first;
    while (reader.next())
        if (!*reader.trouble()) first.emplace_back(reader.fields()[0]);
    EXPECT_EQ(first, (std::vector<std::string>{"a", "3", "5"}));
}

TEST(RowReader, TextBehindAClosingQuoteIsNotDropped) {
    RowReader reader("\"5\"11,2\n", ',');
    ASSERT_TRUE(reader.next());
    EXPECT_STRNE(reader.trouble(), "");
}

TEST(RowReader, AQuotedFieldIsNotLongerThanTextsOfPeople) {
    const std::string text = "a,b\n\"" + std::string(RowReader::kLongestQuoted, 'x') + "\nz\",2\n3,4\n";
    RowReader reader(text, ',', Quotes::OverLines);
    std::size_t good = 0;
    while (reader.next()) good += !*reader.trouble();
    EXPECT_EQ(good, 2u + 1u);  // the header, the last row, and the line `z",2`, which is a row of its own
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
    TimeForm order;
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
    ::testing::Values(TimeCase{"2026-01-05 10:00", TimeForm::YearFirst, "2026-01-05T09:00:00Z"},
                      TimeCase{"2026-07-05T10:00:00.25", TimeForm::YearFirst, "2026-07-05T08:00:00.250Z"},
                      TimeCase{"2026-07-05T10:00:00Z", TimeForm::YearFirst, "2026-07-05T10:00:00Z"},
                      TimeCase{"2026-07-05T10:00:00-0330", TimeForm::YearFirst, "2026-07-05T13:30:00Z"},
                      TimeCase{"2026/7/5 9:05", TimeForm::YearFirst, "2026-07-05T07:05:00Z"},
                      TimeCase{"05.01.2026 10:00:30", TimeForm::DayFirst, "2026-01-05T09:00:30Z"},
                      TimeCase{"5/1/2026 10:00", TimeForm::DayFirst, "2026-01-05T09:00:00Z"},
                      TimeCase{"01/05/2026 10:00", TimeForm::MonthFirst, "2026-01-05T09:00:00Z"},
                      TimeCase{"20260329T0330", TimeForm::YearFirst, "2026-03-29T01:30:00Z"},
                      TimeCase{"20260329T0230Z", TimeForm::YearFirst, "2026-03-29T02:30:00Z"},
                      TimeCase{"20260105T100030.5+0100", TimeForm::YearFirst, "2026-01-05T09:00:30.500Z"},
                      TimeCase{"20260105 10:00", TimeForm::YearFirst, "2026-01-05T09:00:00Z"},
                      TimeCase{"20260105100030", TimeForm::YearFirst, "2026-01-05T09:00:30Z"},
                      TimeCase{"20260105", TimeForm::YearFirst, "2026-01-04T23:00:00Z"},
                      TimeCase{" 2026-01-05 ", TimeForm::YearFirst, "2026-01-04T23:00:00Z"},
                      TimeCase{"05-01-2026 10:00:00,125", TimeForm::DayFirst, "2026-01-05T09:00:00.125Z"}));

TEST(TimesWrong, AreSaidSo) {
    TimeReader reader(TimeForm::DayFirst, Zone());
    for (const char* text : {"", "31.02.2026", "2026-01-05", "05.01.26", "05.01.2026 24:00", "05.01-2026",
                             "05.01.2026 10:00 maybe", "05.01.2026T"})
        EXPECT_FALSE(reader.read(text)) << text;
}

TEST(TimesWrong, CompactOnesToo) {
    TimeReader reader(TimeForm::YearFirst, Zone());
    for (const char* text : {"20260231", "20261301", "2026010", "202601050", "20260105T", "20260105T10",
                             "20260105T2460", "20260105T10003", "202601051000", "20260105T1000x", "19690105",
                             "21000105", "202601051000301", "20260105T1000.5"})
        EXPECT_FALSE(reader.read(text)) << text;
}

TimeFormEvidence evidence(std::initializer_list<const char*> texts) {
    TimeFormEvidence out;
    std::int64_t line = 1;
    for (const char* t : texts) out.add(t, ++line);
    return out;
}

TEST(TimeForms, AreDecidedByAllRows) {
    const auto form = [](std::initializer_list<const char*> texts) { return evidence(texts).form()->form; };
    EXPECT_EQ(form({"05/01/2026", "13/01/2026"}), TimeForm::DayFirst);
    EXPECT_EQ(form({"05/01/2026", "01/13/2026"}), TimeForm::MonthFirst);
    EXPECT_EQ(form({"2026-01-05"}), TimeForm::YearFirst);
    EXPECT_EQ(form({"20260105", "20260106"}), TimeForm::YearFirst);
    EXPECT_EQ(form({"20260105T1000Z"}), TimeForm::YearFirst);
    EXPECT_EQ(form({"202601051000"}), TimeForm::EpochMilliseconds);
    EXPECT_FALSE(evidence({"20260105", "20269999", "12345678"}).mostAreTimes());
    EXPECT_EQ(form({"05.01.2026"}), TimeForm::DayFirst);
    EXPECT_EQ(form({"05/05/2026"}), TimeForm::DayFirst);  // the same in either order
    EXPECT_EQ(form({"1772323200", "1772323230"}), TimeForm::EpochSeconds);
    EXPECT_EQ(form({"1772323200.5"}), TimeForm::EpochSeconds);
    EXPECT_EQ(form({"1772323200000"}), TimeForm::EpochMilliseconds);
    EXPECT_EQ(form({"1772323200000000000"}), TimeForm::EpochNanoseconds);
    EXPECT_FALSE(evidence({"soon"}).form());
    EXPECT_FALSE(evidence({}).form());
}

TEST(TimeForms, WhatNothingDecidesIsAskedAndWhatContradictsIsSaid) {
    EXPECT_TRUE(evidence({"05/01/2026", "06/01/2026"}).ambiguous());
    EXPECT_FALSE(evidence({"05/01/2026", "06/01/2026"}).form());
    EXPECT_FALSE(evidence({"05/01/2026", "31/01/2026"}).ambiguous());
    const auto contradiction = evidence({"31/01/2026", "05/01/2026", "01/31/2026"}).contradiction();
    ASSERT_TRUE(contradiction);
    EXPECT_NE(contradiction->find("line 2 (`31/01/2026`)"), std::string::npos) << *contradiction;
    EXPECT_NE(contradiction->find("line 4 (`01/31/2026`)"), std::string::npos) << *contradiction;
}

TEST(TimeForms, OtherWritings) {
    const auto read = [](const char* format, const char* text) {
        const auto f = timeFormatNamed(format);
        EXPECT_TRUE(f) << format;
        const auto t = TimeReader(*f, *Zone::named("Europe/Oslo")).read(text);
        return t ? toIso(*t) : t.error().message;
    };
    EXPECT_EQ(read("month-first", "1/5/2026 12:30 AM"), "2026-01-04T23:30:00Z");
    EXPECT_EQ(read("month-first", "1/5/2026 12:30:10 pm"), "2026-01-05T11:30:10Z");
    EXPECT_EQ(read("epoch-ms", "1772323200123"), "2026-03-01T00:00:00.123Z");
    EXPECT_EQ(read("epoch-s", "1772323200.25"), "2026-03-01T00:00:00.250Z");
    EXPECT_EQ(read("epoch-ns", "1772323200000000001"), "2026-03-01T00:00:00.000000001Z");
    EXPECT_EQ(read("%d-%b-%y %H:%M", "05-Jan-26 10:00"), "2026-01-05T09:00:00Z");
    EXPECT_EQ(read("%Y%m%d%H%M%S", "20260105100000"), "2026-01-05T09:00:00Z");
    EXPECT_EQ(read("%m/%d/%Y %I:%M %p", "01/05/2026 01:00 PM"), "2026-01-05T12:00:00Z");
    EXPECT_NE(read("%d-%b-%y %H:%M", "05-Foo-26 10:00").find("is not a time"), std::string::npos);
    for (const char* bad : {"", "dayfirst", "%q", "%"}) EXPECT_FALSE(timeFormatNamed(bad)) << bad;
}

TEST(NumberSigns, AreDecidedByAllCells) {
    const auto signs = [](std::initializer_list<const char*> cells) {
        NumberSigns out;
        for (const char* c : cells) out.add(c);
        return out;
    };
    EXPECT_TRUE(signs({"1,5", "1,234"}).decimalComma());
    EXPECT_EQ(signs({"1,5", "1.234,5"}).thousandsWhere(true), '.');
    EXPECT_FALSE(signs({"1.5", "1,234"}).decimalComma());
    EXPECT_EQ(signs({"1.5", "1,234"}).thousandsWhere(false), ',');
    EXPECT_EQ(signs({"1,234,567"}).thousandsWhere(false), ',');
    EXPECT_TRUE(signs({"1,234", "2,500"}).ambiguous());
    EXPECT_FALSE(signs({"0,234"}).ambiguous());
    EXPECT_FALSE(
        signs({"1.234"}).ambiguous());  // a point is a decimal point unless something speaks against it
    TextLayout layout;
    layout.thousands = ',';
    EXPECT_EQ(readNumber("1,234.5", layout), 1234.5);
    EXPECT_EQ(readNumber("-12,345,678", layout), -12345678);
    for (const char* text : {"1,23", "12,3456", ",123", "1234,567", "1,,234", "1.5,000"})
        EXPECT_FALSE(readNumber(text, layout)) << text;
}

TEST(Encodings, AreFoundAndDecoded) {
    const std::string text = "time,K/Temp [°C]\n2026-01-01,1\n";
    const auto utf16 = [&](bool little) {
        std::string out = little ? "\xFF\xFE" : "\xFE\xFF";
        for (std::size_t i = 0; i < text.size(); ++i) {
            // ° is two bytes in UTF-8 and one unit here.
            const bool degree = text[i] == '\xC2';
            const char c = degree ? '\xB0' : text[i];
            if (degree) ++i;
            out += little ? std::string{c, '\0'} : std::string{'\0', c};
        }
        return out;
    };
    std::string latin;
    for (const char c : text)
        if (c != '\xC2') latin += c;
    EXPECT_EQ(guessEncoding(text), Encoding::Utf8);
    EXPECT_EQ(guessEncoding(latin), Encoding::Latin1);
    for (const auto& [bytes, encoding] :
         {std::pair{text, Encoding::Utf8}, std::pair{latin, Encoding::Latin1},
          std::pair{utf16(true), Encoding::Utf16Little}, std::pair{utf16(false), Encoding::Utf16Big}}) {
        EXPECT_EQ(guessEncoding(bytes), encoding);
        // In pieces of any size.
        for (const std::size_t piece : {std::size_t{1}, std::size_t{3}, bytes.size()}) {
            Decoder decoder(encoding);
            std::string out;
            for (std::size_t i = 0; i < bytes.size(); i += piece)
                decoder.decode(std::string_view(bytes).substr(i, piece), out);
            decoder.finish(out);
            EXPECT_EQ(std::string(withoutMark(out)), text)
                << encodingName(encoding) << " in pieces of " << piece;
        }
    }
    EXPECT_TRUE(isUtf8("Δp °C 水"));
    for (const char* bad : {"\xC3", "\xC0\x80", "\xED\xA0\x80", "\xF4\x90\x80\x80", "a\xFF"})
        EXPECT_FALSE(isUtf8(bad));
    EXPECT_EQ(asUtf8("a\xFF"
                     "b",
                     100),
              "a\xEF\xBF\xBD"
              "b");
}

TEST(Headers, AssetTagAndUnit) {
    const auto c = columnFromHeader("Kiln 3/Air-off temp [°C]", "").name;
    EXPECT_EQ(c.asset, "Kiln 3");
    EXPECT_EQ(c.tag, "Air-off temp");
    EXPECT_EQ(c.unit, "°C");
    EXPECT_EQ(columnFromHeader("Fan", "Kiln 2").name.asset, "Kiln 2");
    EXPECT_EQ(columnFromHeader("Kiln 2 / Fan [ A ]", "").name.tag, "Fan");
    EXPECT_EQ(columnFromHeader("K/odd]", "").name.tag, "odd]");
    EXPECT_EQ(columnFromHeader("Fan", "").name.asset, "");
}

TEST(Layouts, AreGuessed) {
    const auto layout = [](const std::string& text, const LayoutHints& hints = {}) {
        const auto l = guessLayout(TextSource{"f.csv", text, {}}, hints);
        EXPECT_TRUE(l) << (l ? "" : l.error().message);
        return l ? *l : TextLayout{};
    };
    EXPECT_EQ(layout("Date,Time,K/a\n2026-01-01,10:00,1\n").clockColumn, 1);
    EXPECT_EQ(layout("date,K/a\n2026-01-01,1\n").clockColumn, -1);
    EXPECT_FALSE(layout("time,K/a\n01/02/2026,1\n").timeQuestion.empty());
    EXPECT_FALSE(layout("time;K/a\n2026-01-01;1,234\n").numberQuestion.empty());
    EXPECT_TRUE(layout("time;K/a\n2026-01-01;1,234\n2026-01-02;1,5\n").numberQuestion.empty());
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
    EXPECT_FALSE(guessLayout(TextSource{"f.csv", "time,point\n2026-01-01,K/a\n", {}}, {true}));
}

TEST(Layouts, QuotedHeadersWithSeparatorsInside) {
    const auto l =
        guessLayout(TextSource{"f.csv", "time,\"K/a, upper [bar]\",K/b\n2026-01-01,1,2\n", {}}, {});
    ASSERT_TRUE(l);
    EXPECT_EQ(l->columns.size(), 3u);
    EXPECT_EQ(l->columns[1].name.tag, "a, upper");
    EXPECT_EQ(l->columns[1].name.unit, "bar");
}

}  // namespace
}  // namespace jacinth
