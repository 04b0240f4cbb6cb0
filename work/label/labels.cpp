#include "work/label/labels.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>
#include <tuple>

#include "store/judgement.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

constexpr const char* kLabels = "Labels";  // the track

Status inBook(const Study& study, const std::string& kind) {
    const LabelBook book = study.judgement().labelBook();
    if (findKind(book, kind)) return Done{};
    std::vector<std::string> known;
    for (const LabelKind& k : book) known.push_back(k.name);
    return Error{fmt::format("`{}` is not in the label book; it has {}", kind, fmt::join(known, ", "))};
}

}  // namespace

Status addLabelKind(Study& study, const LabelKind& kind) {
    if (const Status good = checkName(kind.name, "a kind of label"); !good) return good;
    LabelBook book = study.judgement().labelBook();
    if (findKind(book, kind.name)) return Error{fmt::format("there is a kind `{}` already", kind.name)};
    for (const LabelKind& k : book)
        if (kind.key && k.key == kind.key)
            return Error{fmt::format("`{}` has the key {} already", k.name, kind.key)};
    if (kind.colour.size() != 7 || kind.colour[0] != '#' ||
        kind.colour.find_first_not_of("0123456789abcdefABCDEF", 1) != std::string::npos)
        return Error{"a colour is like #8A4FA3"};
    book.push_back(kind);
    study.change("kind of label " + kind.name, "",
                 {{"meaning", kind.meaning},
                  {"colour", kind.colour},
                  {"key", kind.key ? std::string(1, kind.key) : std::string()},
                  {"normal", kind.normal}},
                 [&] { study.judgement().setLabelBook(book); });
    return Done{};
}

Result<SpanId> addLabelled(Study& study, const Span& given, const std::string& kind,
                           const std::string& note) {
    if (given.end <= given.start) return Error{"a label needs a start and a later end"};
    if (const Status known = inBook(study, kind); !kind.empty() && !known) return known.error();
    Span span = given;
    if (!kind.empty()) span.facts["kind"] = kind;
    if (!note.empty()) span.facts["note"] = note;
    span.facts["by"] = study.who();
    SpanId id;
    const Asset* asset = study.catalog().asset(span.asset);
    study.change(fmt::format("label on {}", asset ? asset->name : "the plant"), "",
                 {{"kind", kind}, {"start", toIso(span.start)}, {"end", toIso(span.end)}}, [&] {
                     id = study.tracks().addSpan(study.tracks().put(kLabels, track_kind::kLabels), span);
                 });
    return id;
}

Status changeLabel(Study& study, const Span& span, const std::string& name) {
    if (span.end <= span.start) return Error{"a label needs a start and a later end"};
    study.change(name, "",
                 {{"id", span.id},
                  {"start", toIso(span.start)},
                  {"end", toIso(span.end)},
                  {"kind", factText(span.facts, "kind")}},
                 [&] { study.tracks().updateSpan(span); });
    return Done{};
}

Status removeLabel(Study& study, SpanId id) {
    const std::vector<Span> labels = study.tracks().spansOf(track_kind::kLabels);
    if (std::none_of(labels.begin(), labels.end(), [&](const Span& s) { return s.id == id; }))
        return Error{fmt::format("{} is not a label", id)};
    study.change("remove label", "", {{"id", id}}, [&] { study.tracks().removeSpan(id); });
    return Done{};
}

Result<LabelledSpans> labelSpans(Study& study, const std::vector<Span>& spans, const std::string& kind,
                                 const std::string& from) {
    if (const Status known = inBook(study, kind); !known) return known.error();
    using Where = std::tuple<AssetId, TagId, Instant, Instant>;
    const auto placeOf = [](const Span& s) { return Where(s.asset, s.tag, s.start, s.end); };
    std::set<Where> taken;
    for (const Span& s : study.tracks().spansOf(track_kind::kLabels))
        if (factText(s.facts, "kind") == kind) taken.insert(placeOf(s));
    LabelledSpans out;
    std::vector<Span> fresh;
    for (Span s : spans) {
        if (s.end <= s.start) continue;
        if (!taken.insert(placeOf(s)).second) {
            ++out.known;
            continue;
        }
        s.facts["kind"] = kind;
        s.facts["note"] = "from " + from;
        s.facts["by"] = study.who();
        fresh.push_back(std::move(s));
    }
    out.added = fresh.size();
    if (fresh.empty()) return out;
    study.change(fmt::format("{} labels {}", fresh.size(), kind), "", {{"kind", kind}, {"from", from}}, [&] {
        const TrackId track = study.tracks().put(kLabels, track_kind::kLabels);
        for (const Span& s : fresh) study.tracks().addSpan(track, s);
    });
    return out;
}

}  // namespace jacinth
