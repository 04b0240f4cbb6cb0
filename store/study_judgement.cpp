// Fixes, golden runs, limits, labels and rules of a study: what the engineer decided.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <nlohmann/json.hpp>

#include "store/study.h"

namespace jacinth {
namespace {

using nlohmann::json;

constexpr const char* kFixColumns =
    "SELECT id, tag, kind, start, end, start_by, end_by, is_on, why, who, entered FROM fix ";

Fix fixFrom(const Statement& s) {
    const auto kind = fixKindNamed(s.text(2));
    return {s.integer(0), s.integer(1),      kind ? *kind : FixKind::Shift,
            s.integer(3), s.integer(4),      s.real(5),
            s.real(6),    s.integer(7) != 0, s.text(8),
            s.text(9),    s.integer(10)};
}

// NaN has no place in JSON: null stands for it.
double numberOr(const json& v) {
    return v.is_number() ? v.get<double>() : std::nan("");
}

json limitsToJson(const GoldenLimits& g) {
    json slices = json::array(), phases = json::array();
    for (const LimitSlice& s : g.slices) slices.push_back({s.offset, s.n, s.low, s.centre, s.high});
    for (const PhaseSlot& p : g.phases) phases.push_back({{"name", p.name}, {"length", p.length}});
    return {{"every", g.spec.every},
            {"method", limitMethodName(g.spec.method)},
            {"lineUp", lineUpName(g.spec.lineUp)},
            {"k", g.spec.k},
            {"q", g.spec.q},
            {"coverage", g.spec.coverage},
            {"confidence", g.spec.confidence},
            {"leastRuns", g.spec.leastRuns},
            {"smooth", g.spec.smooth},
            {"slack", g.spec.slack},
            {"indicator", g.spec.indicator},
            {"phases", phases},
            {"slices", slices}};
}

GoldenLimits limitsFromJson(const json& j) {
    GoldenLimits g;
    const LimitSpec usual;
    g.spec.every = j.at("every").get<Duration>();
    if (const auto method = limitMethodNamed(j.at("method").get<std::string>())) g.spec.method = *method;
    if (const auto lineUp = lineUpNamed(j.at("lineUp").get<std::string>())) g.spec.lineUp = *lineUp;
    g.spec.k = j.at("k").get<double>();
    g.spec.q = j.at("q").get<double>();
    g.spec.coverage = j.value("coverage", usual.coverage);
    g.spec.confidence = j.value("confidence", usual.confidence);
    g.spec.leastRuns = j.at("leastRuns").get<int>();
    g.spec.smooth = j.value("smooth", usual.smooth);
    g.spec.slack = j.value("slack", usual.slack);
    g.spec.indicator = j.value("indicator", usual.indicator);
    for (const json& p : j.value("phases", json::array()))
        g.phases.push_back({p.at("name").get<std::string>(), p.at("length").get<Duration>()});
    for (const json& s : j.at("slices"))
        g.slices.push_back(
            {s[0].get<Duration>(), s[1].get<int>(), numberOr(s[2]), numberOr(s[3]), numberOr(s[4])});
    // Up to format 3 places before the end were kept without their sign.
    if (g.spec.lineUp == LineUp::End && !g.slices.empty() && g.slices.back().offset > 0) {
        for (LimitSlice& s : g.slices) s.offset = -s.offset;
        std::reverse(g.slices.begin(), g.slices.end());
    }
    return g;
}

std::string bodyOf(const LimitSet& set) {
    json roles = json::object();
    for (const auto& [role, limits] : set.byRole) roles[role] = limitsToJson(limits);
    return json{{"golden", set.goldenRuns}, {"roles", roles},   {"validFrom", set.validFrom},
                {"forRuns", set.forRuns},   {"made", set.made}, {"who", set.who}}
        .dump();
}

constexpr const char* kLimitColumns = "SELECT id, name, track, body, version FROM limit_set ";

LimitSet limitSetFrom(const Statement& s) {
    LimitSet set{s.integer(0), s.text(1), s.integer(2), {}, {}, static_cast<int>(s.integer(4))};
    try {
        const json body = json::parse(s.text(3));
        set.goldenRuns = body.at("golden").get<std::vector<std::int64_t>>();
        set.validFrom = body.value("validFrom", kNoInstant);
        set.forRuns = body.value("forRuns", "");
        set.made = body.value("made", Instant{0});
        set.who = body.value("who", "");
        for (const auto& [role, limits] : body.at("roles").items()) set.byRole[role] = limitsFromJson(limits);
    } catch (const json::exception& e) {
        throw StoreError(fmt::format("the limits `{}` cannot be read: {}", set.name, e.what()));
    }
    return set;
}

}  // namespace

const std::vector<Fix>& Study::fixes(std::int64_t tag) const {
    const auto known = fixes_.find(tag);
    if (known != fixes_.end()) return known->second;
    std::vector<Fix> out;
    Statement s(*db_, std::string(kFixColumns) + "WHERE tag = ? ORDER BY id");
    s.bind(tag);
    while (s.step()) out.push_back(fixFrom(s));
    return fixes_.emplace(tag, std::move(out)).first->second;
}

std::vector<Fix> Study::allFixes() const {
    std::vector<Fix> out;
    Statement s(*db_, std::string(kFixColumns) + "ORDER BY id");
    while (s.step()) out.push_back(fixFrom(s));
    return out;
}

std::int64_t Study::addFix(const Fix& f) {
    const Instant entered = std::chrono::duration_cast<std::chrono::nanoseconds>(
                                std::chrono::system_clock::now().time_since_epoch())
                                .count();
    Statement(*db_,
              "INSERT INTO fix(tag, kind, start, end, start_by, end_by, is_on, why, who, entered) "
              "VALUES(?, ?, ?, ?, ?, ?, ?, ?, ?, ?)")
        .bind(f.tag, fixKindName(f.kind), f.from, f.to, f.startBy, f.endBy, f.on, f.why, who_, entered)
        .run();
    fixes_.clear();
    return db_->lastId();
}

void Study::setFixOn(std::int64_t id, bool on) {
    Statement(*db_, "UPDATE fix SET is_on = ? WHERE id = ?").bind(on, id).run();
    fixes_.clear();
}

void Study::removeFix(std::int64_t id) {
    Statement(*db_, "DELETE FROM fix WHERE id = ?").bind(id).run();
    fixes_.clear();
}

std::vector<CheckReading> Study::checkReadings(std::int64_t tag) const {
    std::vector<CheckReading> out;
    for (const Span& s : spansOf(track_kind::kReadings))
        if (s.tag == tag) out.push_back({s.start, factNumber(s.facts, "value"), factText(s.facts, "by")});
    return out;
}

std::vector<std::int64_t> Study::goldenRuns(std::int64_t track) const {
    std::vector<std::int64_t> out;
    Statement s(
        *db_, "SELECT span FROM golden_run WHERE track = ? AND span IN (SELECT id FROM span) ORDER BY span");
    s.bind(track);
    while (s.step()) out.push_back(s.integer(0));
    return out;
}

std::string Study::goldenWhy(std::int64_t track, std::int64_t span) const {
    Statement s(*db_, "SELECT why FROM golden_run WHERE track = ? AND span = ?");
    return s.bind(track, span).step() ? s.text(0) : "";
}

void Study::setGoldenRuns(std::int64_t track, const std::vector<std::int64_t>& runs, const std::string& why) {
    const std::vector<std::int64_t> before = goldenRuns(track);
    for (const std::int64_t run : before)
        if (std::find(runs.begin(), runs.end(), run) == runs.end())
            Statement(*db_, "DELETE FROM golden_run WHERE track = ? AND span = ?").bind(track, run).run();
    // A run that was golden already keeps its reason.
    for (const std::int64_t run : runs)
        Statement(*db_, "INSERT OR IGNORE INTO golden_run(track, span, why) VALUES(?, ?, ?)")
            .bind(track, run, why)
            .run();
}

std::vector<LimitSet> Study::limitSets() const {
    std::vector<LimitSet> out;
    Statement s(*db_, std::string(kLimitColumns) + "ORDER BY id");
    while (s.step()) out.push_back(limitSetFrom(s));
    return out;
}

std::vector<std::pair<std::string, std::set<std::string>>> Study::limitNames() const {
    std::vector<std::pair<std::string, std::set<std::string>>> out;
    Statement s(*db_,
                "SELECT name, key FROM limit_set l, json_each(l.body, '$.roles') WHERE version = (SELECT "
                "max(version) FROM limit_set WHERE name = l.name) ORDER BY l.name");
    while (s.step()) {
        if (out.empty() || out.back().first != s.text(0)) out.push_back({s.text(0), {}});
        out.back().second.insert(s.text(1));
    }
    return out;
}

std::optional<LimitSet> Study::limitSetNamed(const std::string& name, int version) const {
    Statement s(*db_, std::string(kLimitColumns) +
                          "WHERE name = ? AND (version = ? OR ? = 0) ORDER BY version DESC LIMIT 1");
    if (!s.bind(name, version, version).step()) return {};
    return limitSetFrom(s);
}

std::int64_t Study::putLimitSet(const LimitSet& set) {
    const auto before = limitSetNamed(set.name);
    Statement(*db_, "INSERT INTO limit_set(name, track, body, version) VALUES(?, ?, ?, ?)")
        .bind(set.name, set.track, bodyOf(set), before ? before->version + 1 : 1)
        .run();
    return limitSetNamed(set.name)->id;
}

LabelBook Study::labelBook() const {
    LabelBook out;
    Statement s(*db_, "SELECT name, meaning, colour, key, normal FROM label_kind ORDER BY place");
    while (s.step()) {
        const std::string key = s.text(3);
        out.push_back({s.text(0), s.text(1), s.text(2), key.empty() ? '\0' : key[0], s.integer(4) != 0});
    }
    return out;
}

void Study::setLabelBook(const LabelBook& book) {
    db_->run("DELETE FROM label_kind");
    Statement s(*db_,
                "INSERT INTO label_kind(name, place, meaning, colour, key, normal) VALUES(?, ?, ?, ?, ?, ?)");
    int place = 0;
    for (const LabelKind& k : book)
        s.bind(k.name, ++place, k.meaning, k.colour, k.key ? std::string(1, k.key) : std::string(), k.normal)
            .run();
}

void Study::setAssetFacts(std::int64_t asset, const Facts& facts) {
    Statement(*db_, "UPDATE asset SET facts = ? WHERE id = ?").bind(factsToJson(facts), asset).run();
    catalog_.reload();
}

std::vector<Rule> Study::rules() const {
    std::vector<Rule> out;
    Statement s(*db_, "SELECT name, text, body FROM rule ORDER BY name");
    while (s.step()) {
        const json body = json::parse(s.text(2), nullptr, false);
        Rule rule{s.text(0), s.text(1), {}};
        if (body.is_object()) {
            rule.spec.most = body.value("most", rule.spec.most);
            rule.spec.least = body.value("least", rule.spec.least);
            rule.spec.join = body.value("join", rule.spec.join);
        }
        out.push_back(std::move(rule));
    }
    return out;
}

void Study::putRule(const Rule& rule) {
    const json body{{"most", rule.spec.most}, {"least", rule.spec.least}, {"join", rule.spec.join}};
    Statement(*db_,
              "INSERT INTO rule(name, text, body) VALUES(?, ?, ?) ON CONFLICT(name) DO UPDATE SET text = "
              "excluded.text, "
              "body = excluded.body")
        .bind(rule.name, rule.text, body.dump())
        .run();
}

}  // namespace jacinth
