// Rows that another program wrote wrongly, with the checksum of what it wrote: any value in any column of any
// table, and texts in JSON changed anywhere. Nothing of it may end the program, make it hang or let an error
// out that is not one of the store. JACINTH_ROWS says how many, JACINTH_SEED where to begin.
#include <gtest/gtest.h>
#include <cmath>
#include <limits>
#include <nlohmann/json.hpp>
#include <random>

#include "store/history.h"
#include "store/imports.h"
#include "store/row_sums.h"
#include "store/study_database.h"
#include "store/tracks.h"
#include "test/cli_runner.h"
#include "test/torture/full_study.h"
#include "test/torture/seeds.h"
#include "work/derived/derived_expressions.h"
#include "work/runs/run_figures.h"
#include "work/survey/kept_tags.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

class Chance {
  public:
    explicit Chance(unsigned seed) : random_(seed * 2654435761u + 1) {}
    std::size_t below(std::size_t n) { return random_() % n; }
    std::int64_t oddInteger() {
        constexpr auto kMost = std::numeric_limits<std::int64_t>::max();
        const std::int64_t all[] = {0,
                                    1,
                                    -1,
                                    2,
                                    7,
                                    66,
                                    100,
                                    -1'000,
                                    1LL << 31,
                                    kMost,
                                    -kMost - 1,
                                    kMost / 1000,
                                    1 << 20,
                                    3'600'000'000'000,
                                    static_cast<std::int64_t>(random_())};
        return all[below(std::size(all))];
    }
    double oddNumber() {
        const double all[] = {0, -0.0, 1, -1, 0.5, 1e308, -1e308, 5e-324, INFINITY, -INFINITY, 1e18, 3.7};
        return all[below(std::size(all))];
    }
    std::string oddText() {
        const std::string all[] = {"",
                                   "x",
                                   "{}",
                                   "[]",
                                   "null",
                                   "nan",
                                   "1e400",
                                   "{\"a\":1",
                                   "\xff\xfe",
                                   "a\nb\r\n\t",
                                   "1h",
                                   "-1h",
                                   "0s",
                                   "@temp",
                                   "@",
                                   "mean(",
                                   "✓",
                                   std::string(20'000, 'x'),
                                   std::string(3'000, '['),
                                   std::string(3'000, '('),
                                   std::string("\0x", 2)};
        return all[below(std::size(all))];
    }
    json oddJson() {
        switch (below(8)) {
            case 0:
                return nullptr;
            case 1:
                return below(2) == 0;
            case 2:
                return oddInteger();
            case 3:
                return std::numeric_limits<std::uint64_t>::max();
            case 4:
                return std::isfinite(oddNumber()) ? json(oddNumber()) : json(1e308);
            case 5:
                return json::array({oddInteger(), "x", nullptr});
            case 6:
                return json::object({{"a", oddInteger()}});
            default:
                return below(2) == 0 ? json("") : json("0s");
        }
    }

  private:
    std::mt19937 random_;
};

/// One value somewhere inside becomes another one, or is gone.
void changeInside(json& j, Chance& chance) {
    if (j.is_structured() && !j.empty() && chance.below(5) != 0) {
        auto at = j.begin();
        std::advance(at, static_cast<std::ptrdiff_t>(chance.below(j.size())));
        if (j.is_object() && chance.below(6) == 0) {
            j.erase(at);
            return;
        }
        return changeInside(*at, chance);
    }
    j = chance.oddJson();
}

/// A text in JSON is changed inside, or a byte of it; any other value becomes an odd one of any type.
void bindOdd(Statement& s, Chance& chance, const std::string& before, std::string& what) {
    const json j = json::parse(before, nullptr, false);
    if (j.is_structured() && chance.below(5) != 0) {
        std::string text = before;
        if (chance.below(4) == 0 && !text.empty()) {
            text[chance.below(text.size())] = static_cast<char>(chance.below(256));
        } else {
            json changed = j;
            changeInside(changed, chance);
            text = changed.dump(-1, ' ', false, json::error_handler_t::replace);
        }
        what += " = " + text.substr(0, 300);
        s.bind(text);
        return;
    }
    switch (chance.below(4)) {
        case 0: {
            const std::string text = chance.oddText();
            what += " = '" + text.substr(0, 40) + "'";
            s.bind(text);
            break;
        }
        case 1: {
            const double v = chance.oddNumber();
            what += " = " + std::to_string(v);
            s.bind(v);
            break;
        }
        default: {
            const std::int64_t v = chance.oddInteger();
            what += " = " + std::to_string(v);
            s.bind(v);
        }
    }
}

std::vector<std::string> columnsOf(Database& db, const std::string& table) {
    std::vector<std::string> out;
    Statement s(db, "SELECT name FROM pragma_table_info(?) WHERE name <> 'row_sum'");
    s.bind(table);
    while (s.step()) out.push_back(s.text(0));
    return out;
}

/// Changes one cell of one row, as its seed says. Says what; empty where the table holds nothing.
std::string changeOne(Study& study, Chance& chance) {
    Database& db = databaseOf(study);
    const SummedTable& table = summedTables()[chance.below(summedTables().size())];
    const std::string name = table.name;
    Statement count(db, "SELECT count(*) FROM " + name);
    count.step();
    const auto rows = static_cast<std::size_t>(count.integer(0));
    if (rows == 0) return {};
    const std::vector<std::string> columns = columnsOf(db, name);
    const std::string& column = columns[chance.below(columns.size())];
    const auto row = static_cast<std::int64_t>(chance.below(rows));
    const std::string where = " WHERE (" + std::string(table.key) + ") = (SELECT " + table.key + " FROM " +
                              name + " ORDER BY " + table.key + " LIMIT 1 OFFSET " + std::to_string(row) +
                              ")";
    Statement old(db, "SELECT " + column + " FROM " + name + where);
    std::string before;
    if (old.step()) before = old.text(0);
    old.reset();
    std::string what = name + "." + column + ", row " + std::to_string(row);
    Statement change(db, "UPDATE " + name + " SET " + column + " = ?" + where);
    bindOdd(change, chance, before, what);
    change.run();
    return what;
}

void useEverything(Study& study) {
    study.reload();
    (void)study.check();
    (void)study.damage();
    (void)readAll(study);
    (void)keptTags(study);
    (void)derivedExpressions(study);
    (void)study.imports().all();
    (void)study.history().undoName();
    for (const ImportRecord& record : study.imports().all()) (void)study.imports().badRows(record.id);
    for (const Track& track : study.tracks().all()) {
        (void)searchOf(track);
        if (track.kind == track_kind::kRuns)
            (void)runFigures(study, study.tracks().spans(track.id), jacinth::columnsOf(study, track));
    }
    if (study.history().nextUndo()) (void)study.history().undo();
}

enum Outcome : char { kUsed = 'u', kRefused = 'r', kEscaped = 'e' };

Outcome tryOne(Study& study, unsigned seed, std::string& what) {
    Chance chance(seed);
    WriteBatch all(study);  // never committed
    try {
        what = changeOne(study, chance);
        useEverything(study);
        return kUsed;
    } catch (const StoreError&) {
        return kRefused;
    } catch (const std::exception& e) {
        what += std::string(": ") + e.what();
        return kEscaped;
    }
}

TEST(Rows, WrittenWronglyAreRefusedOrReadAsWhatTheyCanBe) {
    Folder folder("rows");
    const std::string path = folder / "whole.jacinth";
    {
        auto study = std::move(*Study::create(path));
        fillStudy(*study, 1);
    }
    Trials trials;
    trials.first = static_cast<unsigned>(fromEnvironment("JACINTH_SEED", 1));
    trials.count = static_cast<unsigned>(fromEnvironment("JACINTH_ROWS", 200));
    trials.batch = 100;
    const auto begin = [&]() -> std::function<char(unsigned)> {
        const auto study = std::shared_ptr<Study>(std::move(*Study::open(path)));
        databaseOf(*study).run("PRAGMA foreign_keys = OFF");
        return [study](unsigned seed) {
            std::string what;
            const Outcome outcome = tryOne(*study, seed, what);
            if (outcome == kEscaped) std::fprintf(stderr, "seed %u: %s\n", seed, what.c_str());
            return outcome;
        };
    };
    auto outcomes = outcomesOf(
        trials, begin, [](unsigned seed, char outcome) { EXPECT_NE(outcome, kEscaped) << "seed " << seed; });
    std::printf("%u rows written wrongly: %d used, %d refused\n", trials.count, outcomes[kUsed],
                outcomes[kRefused]);
    EXPECT_GT(outcomes[kUsed], 0);
}

}  // namespace
}  // namespace jacinth::test
