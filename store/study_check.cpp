// What is damaged in a study: quickly by the checksums of its rows, and by reading all of it.
#include <fmt/format.h>

#include <array>
#include <cmath>

#include <nlohmann/json.hpp>

#include "core/base/parse_json.h"
#include "core/series/text_value.h"
#include "store/judgement.h"
#include "store/ledger_chain.h"
#include "store/row_sums.h"
#include "store/sample_store.h"
#include "store/schema.h"
#include "store/study.h"

namespace jacinth {
namespace {

/// Columns that hold JSON.
constexpr std::array<std::pair<const char*, const char*>, 14> kJson{{{"asset", "facts"},
                                                                     {"tag", "facts"},
                                                                     {"track", "definition"},
                                                                     {"span", "facts"},
                                                                     {"fix", "body"},
                                                                     {"limit_set", "body"},
                                                                     {"rule", "body"},
                                                                     {"recipe", "body"},
                                                                     {"derived_tag", "definition"},
                                                                     {"ledger", "detail"},
                                                                     {"derived_state", "made_from"},
                                                                     {"fact_kind", "body"},
                                                                     {"evidence", "body"},
                                                                     {"proof", "body"}}};

/// Things that refer to others which must be there: a count and what is wrong where it is not zero.
constexpr std::array<std::pair<const char*, const char*>, 9> kReferences{{
    {"SELECT count(*) FROM span_tag WHERE span NOT IN (SELECT id FROM span) OR tag NOT IN (SELECT id FROM "
     "tag)",
     "further tags belong to a span or a tag that is not there"},
    {"SELECT count(*) FROM span WHERE (asset != 0 AND asset NOT IN (SELECT id FROM asset)) OR (tag != 0 AND "
     "tag "
     "NOT IN (SELECT id FROM tag))",
     "spans belong to no asset or tag of this study"},
    {"SELECT count(*) FROM proof WHERE rule NOT IN (SELECT id FROM rule)", "proofs are of no rule"},
    {"SELECT count(*) FROM span WHERE end < start", "spans end before they start"},
    {"SELECT count(*) FROM golden_run WHERE span NOT IN (SELECT id FROM span)", "golden marks are of no run"},
    {"SELECT count(*) FROM fix WHERE end < start", "fixes end before they start"},
    {"SELECT count(*) FROM block_samples WHERE block NOT IN (SELECT id FROM block)",
     "blobs of samples belong to no block"},
    {"SELECT count(*) FROM block_cells WHERE block NOT IN (SELECT id FROM block)",
     "blobs of summaries belong to no block"},
    {"SELECT count(*) FROM sqlite_sequence s WHERE (s.name = 'span' AND s.seq < (SELECT max(id) FROM span)) "
     "OR "
     "(s.name = 'tag' AND s.seq < (SELECT max(id) FROM tag)) OR (s.name = 'asset' AND s.seq < (SELECT "
     "max(id) FROM "
     "asset)) OR (s.name = 'fix' AND s.seq < (SELECT max(id) FROM fix)) OR (s.name = 'import' AND s.seq < "
     "(SELECT "
     "max(id) FROM import)) OR (s.name = 'limit_set' AND s.seq < (SELECT max(id) FROM limit_set))",
     "tables have lost count of their identifiers"},
}};

template <typename Work>
void guarded(std::vector<std::string>& faults, const char* what, Work work) {
    try {
        work();
    } catch (const std::exception& e) {
        faults.push_back(fmt::format("{}: {}", what, e.what()));
    }
}

void checkPages(Database& db, std::vector<std::string>& faults) {
    Statement pages(db, "PRAGMA integrity_check");
    while (pages.step())
        if (pages.text(0) != "ok") faults.push_back("file: " + pages.text(0));
    Statement foreign(db, "PRAGMA foreign_key_check");
    while (foreign.step())
        faults.push_back(fmt::format("table {}: row {} refers to a row of {} that is not there",
                                     foreign.text(0), foreign.integer(1), foreign.text(2)));
}

void checkJson(Database& db, std::vector<std::string>& faults) {
    for (const auto& [table, column] : kJson) {
        Statement s(db, fmt::format("SELECT {} FROM {}", column, table));
        std::int64_t bad = 0;
        while (s.step()) bad += !s.text(0).empty() && parseJson(s.text(0)).is_discarded();
        if (bad > 0)
            faults.push_back(fmt::format("table {}: {} texts in `{}` cannot be read", table, bad, column));
    }
}

/// The samples of a state tag are codes of its states, and so are texts among numbers: what is wrong where
/// one of them has no name.
std::string codeWithoutName(const Tag& tag, const Series& s) {
    for (const double v : s.values) {
        const auto text = textOfValue(v);
        if (!text && (tag.kind != TagKind::State || !std::isfinite(v))) continue;
        const double code = text ? static_cast<double>(*text) : v;
        if (code < 0 || code != std::floor(code) || code >= static_cast<double>(tag.states.size()))
            return fmt::format("the code {} has no name among the {} states of the tag", code,
                               tag.states.size());
    }
    return {};
}

}  // namespace

std::vector<std::string> Study::damage() {
    std::vector<std::string> out;
    guarded(out, "checksums", [&] { out = damagedRows(*db_, Tables::Small); });
    out.insert(out.end(), catalog_->faults().begin(), catalog_->faults().end());
    guarded(out, "fixes", [&] {
        for (std::string& fault : judgement_->faults()) out.push_back(std::move(fault));
    });
    return out;
}

std::vector<std::string> Study::check(const Progress& progress) {
    std::vector<std::string> faults;
    const Snapshot snapshot(*db_);
    guarded(faults, "file", [&] { checkPages(*db_, faults); });
    guarded(faults, "file", [&] {
        if (const Status schema = checkSchema(*db_); !schema)
            faults.push_back("file: " + schema.error().message);
    });
    guarded(faults, "checksums", [&] {
        for (std::string& fault : damagedRows(*db_, Tables::All)) faults.push_back(std::move(fault));
    });
    faults.insert(faults.end(), catalog_->faults().begin(), catalog_->faults().end());
    guarded(faults, "fixes", [&] {
        for (std::string& fault : judgement_->faults()) faults.push_back(std::move(fault));
    });
    guarded(faults, "ledger", [&] {
        for (std::string& fault : checkLedger(*db_)) faults.push_back(std::move(fault));
    });
    guarded(faults, "texts", [&] { checkJson(*db_, faults); });
    for (const auto& [sql, what] : kReferences)
        guarded(faults, what, [&, s = sql, w = what] {
            if (const std::int64_t n = db_->number(s); n > 0) faults.push_back(fmt::format("{} {}", n, w));
        });
    if (const std::string zone = setting("zone"); !zone.empty() && !Zone::named(zone))
        faults.push_back(fmt::format("setting zone: `{}` is not a time zone", zone));
    double done = 0;
    for (const Tag& tag : catalog_->tags()) {
        if (progress.stopped(++done / static_cast<double>(catalog_->tags().size() + 1))) break;
        guarded(faults, tag.path().c_str(), [&] {
            const auto named = [&](const Series& s) { return codeWithoutName(tag, s); };
            for (const std::string& fault : samples_->verify(tag.id, named))
                faults.push_back(tag.path() + ": " + fault);
        });
    }
    return faults;
}

}  // namespace jacinth
