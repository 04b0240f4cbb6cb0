// Bad text files by the hundred, made together with the truth about them: every row of every file is
// accounted for.
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <unistd.h>

#include <array>
#include <filesystem>
#include <random>

#include "source/import_samples.h"
#include "store/imports.h"
#include "store/sample_store.h"

namespace jacinth {
namespace {

/// One file, and what has to come of it.
struct Made {
    std::string text;
    std::int64_t rows = 0;      ///< below the header
    std::int64_t badRows = 0;   ///< that cannot be read
    std::int64_t badCells = 0;  ///< of rows that can
    std::int64_t values = 0;    ///< cells that are samples
};

/// Makes wide files of two tags and puts slips into them.
class Maker {
  public:
    explicit Maker(unsigned seed) : random_(seed), separator_(std::array{',', ';', '\t'}[seed % 3]) {
        quotes_ = seed % 4 == 1;
        returns_ = seed % 5 == 2;
        blankLines_ = seed % 7 == 3;
    }

    Made make(int slip) {
        Made out;
        out.rows = 200 + static_cast<std::int64_t>(random_() % 800);
        out.text = line({"time", "K 1/a [bar]", "K 1/b"});
        for (std::int64_t i = 0; i < out.rows; ++i) {
            const bool wrong = random_() % 20 == 0;
            out.text += wrong ? row(i, slip, out) : goodRow(i, out);
            if (blankLines_ && random_() % 10 == 0) out.text += returns_ ? "\r\n" : "\n";
        }
        return out;
    }

  private:
    std::string line(std::vector<std::string> fields) {
        std::string out;
        for (std::size_t i = 0; i < fields.size(); ++i) {
            if (i > 0) out += separator_;
            const bool quoted = quotes_ && random_() % 3 == 0 && fields[i].find('"') == std::string::npos;
            out += quoted ? "\"" + fields[i] + "\"" : fields[i];
        }
        return out + (returns_ ? "\r\n" : "\n");
    }
    std::string time(std::int64_t i) { return toIso(*fromIso("2026-03-01") + i * kMinute); }
    std::string number() { return fmt::format("{}.{}", random_() % 1000, random_() % 10); }

    std::string goodRow(std::int64_t i, Made& out) {
        out.values += 2;
        return line({time(i), number(), number()});
    }

    std::string row(std::int64_t i, int slip, Made& out) {
        const std::string end = returns_ ? "\r\n" : "\n";
        const auto bad = [&](const std::string& text) {
            ++out.badRows;
            return text + end;
        };
        const auto badCell = [&](const std::string& cell) {
            ++out.badCells;
            ++out.values;
            return line({time(i), cell, number()});
        };
        const std::string s(1, separator_);
        switch (slip) {
            case 0:  // a quote that is never closed
                return bad(time(i) + s + "\"5" + s + "11");
            case 1:  // too few fields
                return bad(time(i) + s + number());
            case 2:  // too many
                return bad(time(i) + s + "1" + s + "2" + s + "3");
            case 3:  // no such time
                return bad("2026-02-30 10:00" + s + "1" + s + "2");
            case 4:  // no time at all
                return bad(s + "1" + s + "2");
            case 5:  // text behind a closing quote
                return bad(time(i) + s + "\"5\"11" + s + "2");
            case 6:  // a slip in a number
                return badCell("12..5");
            case 7:  // no number that a double holds
                return badCell(random_() % 2 ? "1e400" : "-inf");
            case 8:  // no value, said in words
                out.values += 2;
                return line({time(i), "No Data", number()});
            case 9:  // an empty cell
                ++out.values;
                return line({time(i), "", number()});
            case 10:  // bytes that are not text, in a cell
                return badCell("\xFF\xFE");
            case 11:  // only separators, as spreadsheets leave them behind
                return bad(s + s);
            default:  // quotes inside a field
                return badCell("5\"11");
        }
    }

    std::mt19937 random_;
    char separator_;
    bool quotes_, returns_, blankLines_;
};

class BadFiles : public ::testing::TestWithParam<int> {};

TEST_P(BadFiles, EveryRowIsAccountedFor) {
    const std::string folder = ::testing::TempDir() + "bad-files-" + std::to_string(::getpid());
    std::filesystem::create_directories(folder);
    for (unsigned seed = 0; seed < 16; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        const Made made = Maker(seed).make(GetParam());
        const std::string path = fmt::format("{}/{}.jacinth", folder, seed);
        auto study = std::move(*Study::create(path));
        const auto r = importSamples(*study, {"f.csv", made.text, {}}, {.encoding = "utf-8"});
        ASSERT_TRUE(r) << r.error().message;
        EXPECT_EQ(r->rows, made.rows);
        EXPECT_EQ(r->badRowCount, made.badRows);
        EXPECT_EQ(r->badCellCount, made.badCells);
        EXPECT_EQ(r->samples, made.values);
        std::int64_t stored = 0;
        for (const Tag& t : study->catalog().tags()) stored += study->samples().whole(t.id).count;
        EXPECT_EQ(stored, made.values);
        EXPECT_EQ(static_cast<std::int64_t>(study->imports().badRows(r->import).size()),
                  made.badRows + made.badCells);
    }
    std::filesystem::remove_all(folder);
}

INSTANTIATE_TEST_SUITE_P(Slips, BadFiles, ::testing::Range(0, 13));

}  // namespace
}  // namespace jacinth
