#include "store/tracks.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <unordered_map>

#include "store/catalog.h"
#include "store/row_sums.h"

namespace jacinth {
namespace {

constexpr const char* kSpanColumns = "SELECT span.id, span.asset, span.tag, start, end, facts FROM span ";

Span spanFrom(const Statement& s) {
    return {s.id<SpanId>(0),
            s.id<AssetId>(1),
            s.id<TagId>(2),
            s.instant(3),
            s.instant(4),
            factsFromJson(s.text(5)),
            {}};
}

/// Few spans have any, so they are read by themselves.
template <typename... Keys>
void addFurtherTags(Database& db, const std::string& where, std::vector<Span>& spans, const Keys&... keys) {
    if (spans.empty() || db.number("SELECT EXISTS(SELECT 1 FROM span_tag)") == 0) return;
    std::unordered_map<SpanId, std::vector<TagId>> tags;
    Statement s(db, fmt::format("SELECT span_tag.span, span_tag.tag FROM span_tag JOIN span ON span.id = "
                                "span_tag.span {} AND {} ORDER BY span_tag.span, span_tag.tag",
                                where, isWhole("span_tag")));
    s.bind(keys...);
    while (s.more()) tags[s.id<SpanId>(0)].push_back(s.id<TagId>(1));
    for (Span& span : spans)
        if (const auto found = tags.find(span.id); found != tags.end())
            span.furtherTags = std::move(found->second);
}

void putFurtherTags(Database& db, SpanId span, const std::vector<TagId>& tags) {
    Statement s(db, "INSERT OR IGNORE INTO span_tag(span, tag) VALUES(?, ?)");
    for (const TagId tag : tags) s.bind(span, tag).run();
}

template <typename... Keys>
std::vector<Span> query(Database& db, const std::string& where, const Keys&... keys) {
    std::vector<Span> out;
    static const std::string whole = isWhole("span");
    Statement s(
        db, fmt::format("{}{} AND {} AND end >= start ORDER BY start, span.id", kSpanColumns, where, whole));
    s.bind(keys...);
    while (s.more()) out.push_back(spanFrom(s));
    addFurtherTags(db, where, out, keys...);
    return out;
}

std::optional<Track> oneTrack(Database& db, const std::string& where, const std::string& key) {
    Statement s(db, "SELECT id, name, kind, definition FROM track WHERE " + where + " ORDER BY id LIMIT 1");
    if (!s.bind(key).more()) return {};
    return Track{s.id<TrackId>(0), s.text(1), s.text(2), s.text(3)};
}

}  // namespace

std::vector<Track> Tracks::all() const {
    std::vector<Track> out;
    Statement s(db_, "SELECT id, name, kind, definition FROM track ORDER BY id");
    while (s.more()) out.push_back({s.id<TrackId>(0), s.text(1), s.text(2), s.text(3)});
    return out;
}

std::optional<Track> Tracks::named(const std::string& name) const {
    return oneTrack(db_, "name = ?", name);
}
std::optional<Track> Tracks::firstOf(const std::string& kind) const {
    return oneTrack(db_, "kind = ?", kind);
}

std::vector<Span> Tracks::spans(TrackId track) const {
    return query(db_, "WHERE track = ?", track);
}

std::vector<std::pair<AssetId, TimeRange>> Tracks::extents(TrackId track) const {
    std::vector<std::pair<AssetId, TimeRange>> out;
    static const std::string whole = isWhole("span");
    Statement s(db_, fmt::format("SELECT asset, start, end FROM span WHERE track = ? AND {} AND end >= start "
                                 "ORDER BY start, span.id",
                                 whole));
    s.bind(track);
    while (s.more()) out.emplace_back(s.id<AssetId>(0), TimeRange{s.instant(1), s.instant(2)});
    return out;
}

std::vector<Span> Tracks::spansOf(const std::string& kind) const {
    return query(db_, "JOIN track ON track.id = track WHERE track.kind = ?", kind);
}

std::vector<Span> Tracks::spansOf(const std::string& kind, const std::vector<SpanId>& ids) const {
    return query(db_,
                 "JOIN track ON track.id = track WHERE track.kind = ? AND span.id IN (SELECT value FROM "
                 "json_each(?))",
                 kind, fmt::format("[{}]", fmt::join(ids, ",")));
}

std::optional<Span> Tracks::span(SpanId id) const {
    const auto found = query(db_, "WHERE span.id = ?", id);
    return found.empty() ? std::nullopt : std::optional(found.front());
}

void Tracks::setDefinition(TrackId track, const std::string& definition) {
    Statement(db_, "UPDATE track SET definition = ? WHERE id = ?").bind(definition, track).run();
}

TrackId Tracks::put(const std::string& name, const std::string& kind, const std::string& definition) {
    if (const Status good = checkName(name, "a track"); !good) throw StoreError(good.error().message);
    if (const auto known = named(name)) {
        if (known->kind != kind)
            throw StoreError(
                fmt::format("`{}` is a track of {} already; choose another name", name, known->kind));
        setDefinition(known->id, definition);
        return known->id;
    }
    Statement(db_, "INSERT INTO track(name, kind, definition) VALUES(?, ?, ?)")
        .bind(name, kind, definition)
        .run();
    return TrackId(db_.lastId());
}

void Tracks::clear(TrackId track) {
    Statement(db_, "DELETE FROM golden_run WHERE track = ?").bind(track).run();
    Statement(db_, "DELETE FROM span_tag WHERE span IN (SELECT id FROM span WHERE track = ?)")
        .bind(track)
        .run();
    Statement(db_, "DELETE FROM span WHERE track = ?").bind(track).run();
}

void Tracks::remove(TrackId track) {
    clear(track);
    Statement(db_, "DELETE FROM track WHERE id = ?").bind(track).run();
}

SpanId Tracks::addSpan(TrackId track, const Span& s, ImportId import) {
    Statement(db_,
              "INSERT INTO span(track, asset, tag, start, end, facts, import) VALUES(?, ?, ?, ?, ?, ?, ?)")
        .bind(track, s.asset, s.tag, s.start, s.end, factsToJson(s.facts), import)
        .run();
    const SpanId id(db_.lastId());
    putFurtherTags(db_, id, s.furtherTags);
    return id;
}

void Tracks::updateSpan(const Span& s) {
    Statement(db_, "UPDATE span SET asset = ?, tag = ?, start = ?, end = ?, facts = ? WHERE id = ?")
        .bind(s.asset, s.tag, s.start, s.end, factsToJson(s.facts), s.id)
        .run();
    Statement(db_, "DELETE FROM span_tag WHERE span = ?").bind(s.id).run();
    putFurtherTags(db_, s.id, s.furtherTags);
}

void Tracks::removeSpan(SpanId id) {
    Statement(db_, "DELETE FROM golden_run WHERE span = ?").bind(id).run();
    Statement(db_, "DELETE FROM span_tag WHERE span = ?").bind(id).run();
    Statement(db_, "DELETE FROM span WHERE id = ?").bind(id).run();
}

std::optional<std::pair<std::string, std::int64_t>> Tracks::spansAbout(TagId tag) const {
    Statement s(
        db_,
        "SELECT track.name, count(*) FROM span JOIN track ON track.id = track WHERE tag = ? OR span.id "
        "IN (SELECT span FROM span_tag WHERE tag = ?) GROUP BY track.id LIMIT 1");
    if (!s.bind(tag, tag).more()) return {};
    return std::pair{s.text(0), s.integer(1)};
}

}  // namespace jacinth
