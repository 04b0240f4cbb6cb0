// Title lines above the header, and dates in one column, two, or in parts.
#include "source/import_events.h"
#include "source/import_fixture.h"
#include "source/recipe.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

using TitleLines = ImportTest;

const char* const kTitled =
    "Corvane Maltings, kiln house\nExport of 2026-03-02 06:00\n\ntime,K/a,K/b\n2026-03-01 00:00,1,2\n"
    "2026-03-01 00:01,x,3\n2026-03-01 00:02,2,4\n2026-03-01 00:03,3,5\n";

TEST_F(TitleLines, AreFoundAndLinesKeepTheirNumbers) {
    const ImportResult r = import(kTitled);
    EXPECT_EQ(r.rows, 4);
    EXPECT_EQ(r.samples, 7);
    ASSERT_EQ(r.badRows.size(), 1u);
    EXPECT_EQ(r.badRows[0].line, 6);
    const auto preview = previewImport(nullptr, {"f.csv", kTitled}, {});
    ASSERT_TRUE(preview);
    EXPECT_EQ(preview->layout.titleLines, 3);
    EXPECT_EQ(preview->header, (std::vector<std::string>{"time", "K/a", "K/b"}));
    EXPECT_EQ(preview->rows, 4);
    EXPECT_EQ(preview->badRows.at(0).line, 6);
}

TEST_F(TitleLines, AreOnlyWhatCannotBeTheTable) {
    const auto lines = [](const std::string& text) { return titleLinesIn(text); };
    const std::string rows = "2026-03-01,1,2\n2026-03-02,1,2\n2026-03-03,1,2\n";
    EXPECT_EQ(lines("time,K/a,K/b\n" + rows), 0);
    EXPECT_EQ(lines("\n\ntime,K/a,K/b\n" + rows), 0);  // blank lines are passed over anyway
    EXPECT_EQ(lines("time,K/a\n" + rows), 0);          // a header that lacks a column is a fault to say
    EXPECT_EQ(lines("# made up\n#\ntime,K/a,K/b\n" + rows), 2);
    EXPECT_EQ(lines("a title\n" + rows), 0);                         // numbers are no header
    EXPECT_EQ(lines("a title\ntime,K/a,K/b\n2026-03-01,1,2\n"), 0);  // too little to tell by
    EXPECT_EQ(
        lines("Kiln 1, air\ttitle\ntime\tK/a\tK/b\n2026-03-01\t1\t2\n2026-03-02\t1\t2\n2026-03-03\t1\t2\n"),
        1);
    EXPECT_EQ(lines(""), 0);
    EXPECT_EQ(lines("\n\n\n"), 0);
}

TEST_F(TitleLines, CanBeSaid) {
    const std::string text = "a,b,c\ntime,K/a,K/b\n2026-03-01,1,2\n";
    LayoutHints hints;
    hints.titleLines = "1";
    EXPECT_EQ(import(text, hints).samples, 2);
    EXPECT_EQ(recipeFromJson(recipeToJson(hints)).titleLines, "1");
    for (const char* wrong : {"x", "-1", "1.5", "1e9"}) {
        hints.titleLines = wrong;
        const auto tried = previewImport(nullptr, {"f.csv", text}, hints);
        ASSERT_FALSE(tried) << wrong;
        EXPECT_NE(tried.error().message.find("is not a number of title lines"), std::string::npos);
    }
    hints.titleLines = "30";
    EXPECT_NE(previewImport(nullptr, {"f.csv", text}, hints).error().message.find("none is left"),
              std::string::npos);
}

TEST_F(TitleLines, OfPackedAndLargeFilesAreSkippedOnce) {
    std::string text = "Title of a long file\nand a second line\ntime,K/a,K/b\n";
    for (int i = 0; i < 400'000; ++i)
        text += fmt::format("{},{},{}\n", toIso(at(i * kSecond)), i % 97, i % 89);
    ASSERT_GT(text.size(), ChunkReader::kChunkBytes);
    EXPECT_EQ(import(text).samples, 800'000);
    EXPECT_EQ(read("K/b").values[88], 88);
}

TEST_F(TitleLines, OfTablesOfEvents) {
    import("time,K/a\n2026-03-01,1\n2026-03-02,1\n");
    const std::string text =
        "Failures of the kiln "
        "house\n\nasset,time,kind\nK,2026-03-01T10:00Z,bearing\nnobody,2026-03-01T11:00Z,x\n"
        "K,2026-03-01T12:00Z,belt\n";
    const auto r = importEvents(*study, {"failures.csv", text}, "failures", {});
    ASSERT_TRUE(r) << r.error().message;
    EXPECT_EQ(r->samples, 2);
    ASSERT_EQ(r->badRows.size(), 1u);
    EXPECT_EQ(r->badRows[0].line, 5);
}

struct DateCase {
    const char *header, *row, *time, *said = "";
};
class Dates : public ImportTest, public testing::WithParamInterface<DateCase> {};

TEST_P(Dates, AreReadFromTheirColumns) {
    const DateCase& c = GetParam();
    LayoutHints hints;
    hints.timeColumn = c.said;
    import(std::string(c.header) + ",K/a\n" + c.row + ",7\n", hints);
    const Series s = read("K/a");
    ASSERT_EQ(s.size(), 1u);
    EXPECT_EQ(toIso(s.times[0]), c.time);
    EXPECT_EQ(study->catalog().tags().size(), 1u) << "the parts of the date are no tags";
}

INSTANTIATE_TEST_SUITE_P(
    Forms, Dates,
    testing::Values(DateCase{"Year,Month,Day", "2026,3,9", "2026-03-09T00:00:00Z"},
                    DateCase{"year,month,day,hour", "2026,12,31,7", "2026-12-31T07:00:00Z"},
                    DateCase{"YEAR,MONTH,DAY,HOUR,MINUTE,SECOND", "2026,1,2,3,4,5", "2026-01-02T03:04:05Z"},
                    DateCase{"year,month", "2026,4", "2026-04-01T00:00:00Z"},
                    DateCase{"Yr,Mon,Dy,Hr,Min", "2026,3,9,14,5", "2026-03-09T14:05:00Z"},
                    DateCase{"YYYY,MM,DD,HH,MI,SS", "2026,3,9,14,5,7", "2026-03-09T14:05:07Z"},
                    DateCase{"day,month,year", "9,3,2026", "2026-03-09T00:00:00Z"},
                    DateCase{"year,month,day,clock", "2026,3,9,14:05", "2026-03-09T14:05:00Z"},
                    DateCase{"Year", "2024", "2024-01-01T00:00:00Z"},
                    DateCase{"Jahr,Monat,Tag", "2026,3,9", "2026-03-09T00:00:00Z", "Jahr+Monat+Tag"},
                    DateCase{"y,m,d,at", "2026,3,9,06:30:10", "2026-03-09T06:30:10Z", "y+m+d+at"},
                    DateCase{"date,clock", "2026-03-09,06:30", "2026-03-09T06:30:00Z"}));

TEST_F(TitleLines, ADayThatThereIsNotIsKeptAside) {
    const ImportResult r = import("year,month,day,K/a\n2026,2,30,1\n2026,2,28,2\n,2,28,3\n");
    EXPECT_EQ(r.samples, 1);
    EXPECT_EQ(r.badRowCount, 2);
}

TEST_F(TitleLines, HintsNameTheFieldToSet) {
    EXPECT_NE(refusal("a,b\nx,y\n").find("(Columns: time, or --time)"), std::string::npos);
    EXPECT_NE(refusal("time,K/a\nsoon,1\n").find("(Times, or --time-format)"), std::string::npos);
    EXPECT_NE(refusal("time,a\n2026-03-01,1\n").find("(Asset, or --asset)"), std::string::npos);
    EXPECT_NE(refusal("time,K/a\n01/02/2026,1\n").find("(Times, or --time-format"), std::string::npos);
    EXPECT_NE(refusal("time;K/a\n2026-01-01;1,234\n").find("(Decimals, or --decimal"), std::string::npos);
}

}  // namespace
}  // namespace jacinth
