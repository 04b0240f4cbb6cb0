#include "store/judgement.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/expr/ast.h"
#include "store/database.h"
#include "store/fix_body.h"
#include "store/json_body.h"
#include "store/limit_body.h"
#include "store/row_sums.h"
#include "store/tracks.h"
#include "store/trust_marks.h"
#include "store/wall_time.h"

namespace jacinth {
namespace {

using nlohmann::json;

constexpr const char* kFixColumns =
    "SELECT id, tag, kind, start, end, start_by, end_by, is_on, why, who, entered, body FROM fix ";
/// The ledger's order; a fix that was moved up or down has a place of its own in it.
constexpr const char* kFixOrder = " ORDER BY coalesce(place, id), id";

/// None where it cannot be read: check() and damage() name it.
std::optional<Fix> fixFrom(const Statement& s) {
    const auto kind = fixKindNamed(s.text(2));
    if (!kind) return {};
    Fix out{s.id<FixId>(0),    s.id<TagId>(1), {},        s.instant(3), s.instant(4),
            s.integer(7) != 0, s.text(8),      s.text(9), s.instant(10)};
    const std::string text = s.text(11);
    if (text.empty()) {  // up to format 7
        if (*kind == FixKind::Shift) out.body = ShiftFix{s.real(5)};
        if (*kind == FixKind::Ramp) out.body = RampFix{s.real(5), s.real(6)};
        return out.kind() == *kind ? std::optional(out) : std::nullopt;
    }
    auto body = readFixBody(*kind, text);
    if (!body) return {};
    out.body = std::move(*body);
    return validateFix(out) ? std::optional(std::move(out)) : std::nullopt;
}

constexpr const char* kLimitColumns = "SELECT id, name, track, body, version FROM limit_set ";

/// None where the body cannot be read: check() and damage() name it.
std::optional<LimitSet> limitSetFrom(const Statement& s) {
    LimitSet set{s.id<LimitSetId>(0), s.text(1), s.id<TrackId>(2), {}, {}, static_cast<int>(s.integer(4))};
    if (!readLimitBody(s.text(3), set)) return {};
    return set;
}

}  // namespace

const std::vector<Fix>& Judgement::fixes(TagId tag) const {
    const auto known = fixes_.find(tag);
    if (known != fixes_.end()) return known->second;
    std::vector<Fix> out;
    Statement s(db_, kFixColumns + fmt::format("WHERE tag = ? AND {}{}", isWhole("fix"), kFixOrder));
    s.bind(tag);
    while (s.more())
        if (auto fix = fixFrom(s)) out.push_back(std::move(*fix));
    return fixes_.emplace(tag, std::move(out)).first->second;
}

std::vector<Fix> Judgement::allFixes() const {
    std::vector<Fix> out;
    Statement s(db_, kFixColumns + fmt::format("WHERE {}{}", isWhole("fix"), kFixOrder));
    while (s.more())
        if (auto fix = fixFrom(s)) out.push_back(std::move(*fix));
    return out;
}

std::vector<std::string> Judgement::faults() const {
    std::vector<std::string> out;
    Statement s(db_, kFixColumns + fmt::format("WHERE {}{}", isWhole("fix"), kFixOrder));
    while (s.more())
        if (!fixFrom(s)) out.push_back(fmt::format("fix {}: what it does cannot be read", s.integer(0)));
    return out;
}

FixId Judgement::addFix(const Fix& f) {
    Statement(db_,
              "INSERT INTO fix(tag, kind, start, end, start_by, end_by, is_on, why, who, entered, body) "
              "VALUES(?, ?, ?, ?, 0, 0, ?, ?, ?, ?, ?)")
        .bind(f.tag, fixKindName(f.kind()), f.from, f.to, f.on, f.why, who_, timeNow(), fixBodyText(f.body))
        .run();
    fixes_.clear();
    return FixId(db_.lastId());
}

void Judgement::updateFix(const Fix& f) {
    Statement(db_,
              "UPDATE fix SET tag = ?, kind = ?, start = ?, end = ?, why = ?, who = ?, entered = ?, body = ? "
              "WHERE id = ?")
        .bind(f.tag, fixKindName(f.kind()), f.from, f.to, f.why, who_, timeNow(), fixBodyText(f.body), f.id)
        .run();
    fixes_.clear();
}

void Judgement::exchangeFixes(FixId one, FixId other) {
    const auto placeOf = [&](FixId id) {
        Statement s(db_, "SELECT coalesce(place, id) FROM fix WHERE id = ?");
        return s.bind(id).step() ? s.integer(0) : 0;
    };
    const std::int64_t mine = placeOf(one), its = placeOf(other);
    for (const auto& [id, place] : {std::pair{one, its}, std::pair{other, mine}})
        Statement(db_, "UPDATE fix SET place = ? WHERE id = ?").bind(place, id).run();
    fixes_.clear();
}

void Judgement::setFixOn(FixId id, bool on) {
    Statement(db_, "UPDATE fix SET is_on = ? WHERE id = ?").bind(on, id).run();
    fixes_.clear();
}

void Judgement::removeFix(FixId id) {
    Statement(db_, "DELETE FROM fix WHERE id = ?").bind(id).run();
    fixes_.clear();
}

std::vector<CheckReading> Judgement::checkReadings(TagId tag) const {
    std::vector<CheckReading> out;
    for (const Span& s : tracks_.spansOf(track_kind::kReadings))
        if (s.tag == tag) out.push_back({s.start, factNumber(s.facts, "value"), factText(s.facts, "by")});
    return out;
}

const std::vector<TrustMark>& Judgement::trustMarks(TagId tag) const {
    if (!trust_) {
        trust_.emplace();
        std::vector<Span> spans = tracks_.spansOf(track_kind::kTrust);
        std::stable_sort(spans.begin(), spans.end(),
                         [](const Span& a, const Span& b) { return a.id < b.id; });
        for (const Span& s : spans) (*trust_)[s.tag].push_back(markOfSpan(s));
    }
    static const std::vector<TrustMark> none;
    const auto known = trust_->find(tag);
    return known == trust_->end() ? none : known->second;
}

std::vector<SpanId> Judgement::goldenRuns(TrackId track) const {
    std::vector<SpanId> out;
    Statement s(db_,
                fmt::format("SELECT span FROM golden_run WHERE track = ? AND {} AND span IN (SELECT id FROM "
                            "span WHERE track = golden_run.track) ORDER BY span",
                            isWhole("golden_run")));
    s.bind(track);
    while (s.more()) out.push_back(s.id<SpanId>(0));
    return out;
}

std::string Judgement::goldenWhy(TrackId track, SpanId span) const {
    Statement s(db_, "SELECT why FROM golden_run WHERE track = ? AND span = ?");
    return s.bind(track, span).more() ? s.text(0) : "";
}

void Judgement::setGoldenRuns(TrackId track, const std::vector<SpanId>& runs, const std::string& why) {
    std::vector<SpanId> before;
    {
        Statement s(db_, "SELECT span FROM golden_run WHERE track = ?");
        s.bind(track);
        while (s.more()) before.push_back(s.id<SpanId>(0));
    }
    for (const SpanId run : before)
        if (std::find(runs.begin(), runs.end(), run) == runs.end())
            Statement(db_, "DELETE FROM golden_run WHERE track = ? AND span = ?").bind(track, run).run();
    // A run that was golden already keeps its reason.
    for (const SpanId run : runs)
        Statement(db_, "INSERT OR IGNORE INTO golden_run(track, span, why) VALUES(?, ?, ?)")
            .bind(track, run, why)
            .run();
}

std::vector<LimitSet> Judgement::limitSets() const {
    std::vector<LimitSet> out;
    Statement s(db_, kLimitColumns + fmt::format("WHERE {} ORDER BY id", isWhole("limit_set")));
    while (s.more())
        if (auto set = limitSetFrom(s)) out.push_back(std::move(*set));
    return out;
}

std::vector<std::pair<std::string, std::set<std::string>>> Judgement::limitNames() const {
    std::map<std::string, LimitSet> newest;
    for (LimitSet& set : limitSets()) newest[set.name] = std::move(set);
    std::vector<std::pair<std::string, std::set<std::string>>> out;
    for (const auto& [name, set] : newest) {
        out.push_back({name, {}});
        for (const auto& [role, limits] : set.byRole) out.back().second.insert(role);
    }
    return out;
}

std::optional<LimitSet> Judgement::limitSetNamed(const std::string& name, int version) const {
    Statement s(
        db_, kLimitColumns + fmt::format("WHERE name = ? AND (version = ? OR ? = 0) AND {} ORDER BY version "
                                         "DESC LIMIT 1",
                                         isWhole("limit_set")));
    if (!s.bind(name, version, version).more()) return {};
    return limitSetFrom(s);
}

Result<LimitSet> Judgement::limitSetCalled(const std::string& name, int version) const {
    if (auto set = limitSetNamed(name, version)) return *set;
    std::vector<std::string> known;
    for (const auto& [other, roles] : limitNames()) known.push_back(other);
    if (std::find(known.begin(), known.end(), name) != known.end())
        return Error{fmt::format("the limits `{}` have no version {}", name, version)};
    return Error{fmt::format("`{}` is not a set of golden limits{}", name, sayNearest(name, known))};
}

void Judgement::removeLimitSet(const std::string& name, int version) {
    Statement(db_, "DELETE FROM limit_set WHERE name = ? AND (version = ? OR ? = 0)")
        .bind(name, version, version)
        .run();
}

void Judgement::renameLimitSet(const std::string& name, const std::string& newName) {
    Statement(db_, "UPDATE limit_set SET name = ? WHERE name = ?").bind(newName, name).run();
}

LimitSetId Judgement::putLimitSet(const LimitSet& set) {
    const std::int64_t before = [&] {
        Statement s(db_, "SELECT max(version) FROM limit_set WHERE name = ?");
        return s.bind(set.name).more() ? s.integer(0) : 0;
    }();
    Statement(db_, "INSERT INTO limit_set(name, track, body, version) VALUES(?, ?, ?, ?)")
        .bind(set.name, set.track, limitBodyOf(set), before + 1)
        .run();
    return LimitSetId(db_.lastId());
}

LabelBook Judgement::labelBook() const {
    LabelBook out;
    Statement s(
        db_, fmt::format(
                 "SELECT name, meaning, colour, key, normal, parent FROM label_kind WHERE {} ORDER BY place",
                 isWhole("label_kind")));
    while (s.more()) {
        const std::string key = s.text(3);
        out.push_back(
            {s.text(0), s.text(1), s.text(2), key.empty() ? '\0' : key[0], s.integer(4) != 0, s.text(5)});
    }
    return out;
}

void Judgement::setLabelBook(const LabelBook& book) {
    db_.run("DELETE FROM label_kind");
    Statement s(db_,
                "INSERT INTO label_kind(name, place, meaning, colour, key, normal, parent) VALUES(?, ?, ?, "
                "?, ?, ?, ?)");
    int place = 0;
    for (const LabelKind& k : book)
        s.bind(k.name, ++place, k.meaning, k.colour, k.key ? std::string(1, k.key) : std::string(), k.normal,
               k.parent)
            .run();
}

}  // namespace jacinth
