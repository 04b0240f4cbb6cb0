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

using nlohmann::json;

Status checkLabel(const LabelBook& book, const Span& label) {
    if (label.end <= label.start) return Error{"a label needs a start and a later end"};
    const std::string kind = factText(label.facts, label_fact::kKind);
    if (!kind.empty() && !findKind(book, kind)) {
        std::vector<std::string> known;
        for (const LabelKind& k : book) known.push_back(k.name);
        return Error{fmt::format("`{}` is not in the label book; it has {}", kind, fmt::join(known, ", "))};
    }
    const std::string certainty = certaintyOf(label);
    if (std::find(kCertainties.begin(), kCertainties.end(), certainty) == kCertainties.end())
        return Error{fmt::format("a label is sure, likely or unsure, not `{}`", certainty)};
    return Done{};
}

json said(const Study& study, const Span& s) {
    const Asset* asset = study.catalog().asset(s.asset);
    json out{{"id", s.id},
             {"asset", asset ? asset->name : ""},
             {"start", toIso(s.start)},
             {"end", toIso(s.end)},
             {"kind", factText(s.facts, label_fact::kKind)}};
    if (const std::string note = factText(s.facts, label_fact::kNote); !note.empty()) out["note"] = note;
    if (const std::string sure = certaintyOf(s); sure != kCertainties[0]) out["certainty"] = sure;
    return out;
}

std::string nameOfAsset(const Study& study, AssetId id) {
    const Asset* asset = study.catalog().asset(id);
    return asset ? asset->name : "the plant";
}

/// Those labels, in the order asked for. Fails where one is not there.
Result<std::vector<Span>> labelsNamed(const Study& study, const std::vector<SpanId>& ids) {
    std::map<SpanId, Span> known;
    for (Span& s : study.tracks().spansOf(track_kind::kLabels, ids)) known.emplace(s.id, std::move(s));
    std::vector<Span> out;
    for (const SpanId id : ids) {
        const auto found = known.find(id);
        if (found == known.end()) return Error{fmt::format("{} is not a label", id)};
        out.push_back(found->second);
    }
    return out;
}

Result<std::vector<SpanId>> put(Study& study, std::vector<Span> spans, const std::string& name,
                                const json& detail) {
    const LabelBook book = study.judgement().labelBook();
    const auto sampled = study.sampled();
    for (Span& s : spans) {
        if (factText(s.facts, label_fact::kBy).empty()) s.facts[label_fact::kBy] = study.who();
        if (const Status good = checkLabel(book, s); !good) return good.error();
        if (const Status inside = checkInRecord(study, sampled, s.range()); !inside) return inside.error();
    }
    std::vector<SpanId> ids;
    if (spans.empty()) return ids;
    study.change(name, "", detail, [&] {
        const TrackId to = labelTrack(study);
        for (const Span& s : spans) ids.push_back(study.tracks().addSpan(to, s));
    });
    return ids;
}

/// The labels as they are now, and the same as they are to be.
Status changeFrom(Study& study, const std::vector<Span>& before, const std::vector<Span>& labels,
                  const std::string& name) {
    const LabelBook book = study.judgement().labelBook();
    json changes = json::array();
    for (std::size_t i = 0; i < labels.size(); ++i) {
        if (const Status good = checkLabel(book, labels[i]); !good) return good;
        changes.push_back({{"before", said(study, before[i])}, {"after", said(study, labels[i])}});
    }
    if (labels.empty()) return Done{};
    study.change(name, "", {{"labels", changes}}, [&] {
        for (const Span& s : labels) study.tracks().updateSpan(s);
    });
    return Done{};
}

}  // namespace

Status checkInRecord(const Study& study, const std::optional<TimeRange>& sampled, TimeRange range) {
    if (!sampled || (range.to > sampled->from && range.from < sampled->to)) return Done{};
    return Error{fmt::format("it lies outside the record, which goes from {} to {}",
                             study.zone().text(sampled->from), study.zone().text(sampled->to))};
}

std::string certaintyOf(const Span& label) {
    const std::string said = factText(label.facts, label_fact::kCertainty);
    return said.empty() ? kCertainties[0] : said;
}

Facts ownFacts(const Span& label) {
    Facts out = label.facts;
    for (const char* name : {label_fact::kKind, label_fact::kCertainty, label_fact::kNote, label_fact::kBy,
                             label_fact::kFrom, label_fact::kFromSpan})
        out.erase(name);
    return out;
}

std::vector<TagId> tagsOf(const Span& label) {
    std::vector<TagId> out;
    if (label.tag) out.push_back(label.tag);
    out.insert(out.end(), label.furtherTags.begin(), label.furtherTags.end());
    return out;
}

void setTags(Span& label, const std::vector<TagId>& tags) {
    label.tag = tags.empty() ? TagId() : tags.front();
    label.furtherTags.clear();
    for (const TagId tag : tags)
        if (tag != label.tag && std::ranges::count(label.furtherTags, tag) == 0)
            label.furtherTags.push_back(tag);
}

std::vector<Span> labelsOf(const Study& study) {
    return study.tracks().spansOf(track_kind::kLabels);
}

TrackId labelTrack(Study& study) {
    const auto track = study.tracks().firstOf(track_kind::kLabels);
    return track ? track->id : study.tracks().put("Labels", track_kind::kLabels);
}

Result<SpanId> addLabelled(Study& study, const Span& given, const std::string& kind,
                           const std::string& note) {
    Span span = given;
    if (!note.empty()) span.facts[label_fact::kNote] = note;
    const auto ids = addLabels(study, {span}, kind);
    if (!ids) return ids.error();
    return ids->front();
}

Result<std::vector<SpanId>> addLabels(Study& study, const std::vector<Span>& given, const std::string& kind) {
    std::vector<Span> spans = given;
    json lines = json::array();
    std::set<AssetId> assets;
    for (Span& s : spans) {
        if (!kind.empty()) s.facts[label_fact::kKind] = kind;
        lines.push_back(said(study, s));
        assets.insert(s.asset);
    }
    const std::string where =
        assets.size() == 1 ? nameOfAsset(study, *assets.begin()) : fmt::format("{} assets", assets.size());
    return put(study, std::move(spans),
               lines.size() == 1 ? "label on " + where : fmt::format("{} labels on {}", lines.size(), where),
               {{"labels", lines}});
}

Status changeLabels(Study& study, const std::vector<Span>& labels, const std::string& name) {
    std::vector<SpanId> ids;
    for (const Span& s : labels) ids.push_back(s.id);
    const auto before = labelsNamed(study, ids);
    return before ? changeFrom(study, *before, labels, name) : Status(before.error());
}

Status nameLabels(Study& study, const std::vector<SpanId>& ids, const std::string& kind) {
    const auto before = labelsNamed(study, ids);
    if (!before) return before.error();
    std::vector<Span> named = *before;
    for (Span& s : named) s.facts[label_fact::kKind] = kind;
    return changeFrom(
        study, *before, named,
        named.size() == 1 ? "name label " + kind : fmt::format("name {} labels {}", named.size(), kind));
}

Status removeLabels(Study& study, const std::vector<SpanId>& ids) {
    const auto labels = labelsNamed(study, ids);
    if (!labels) return labels.error();
    if (labels->empty()) return Done{};
    json gone = json::array();
    for (const Span& s : *labels) gone.push_back(said(study, s));
    study.change(ids.size() == 1 ? "remove label" : fmt::format("remove {} labels", ids.size()), "",
                 {{"labels", gone}}, [&] {
                     for (const SpanId id : ids) study.tracks().removeSpan(id);
                 });
    return Done{};
}

Result<SpanId> splitLabel(Study& study, SpanId id, Instant at) {
    const auto labels = labelsNamed(study, {id});
    if (!labels) return labels.error();
    Span first = labels->front(), second = labels->front();
    if (at <= first.start || at >= first.end) return Error{"the cut has to lie within the mark"};
    first.end = second.start = at;
    SpanId made;
    study.change("split label", "", {{"label", said(study, labels->front())}, {"at", toIso(at)}}, [&] {
        study.tracks().updateSpan(first);
        made = study.tracks().addSpan(labelTrack(study), second);
    });
    return made;
}

Result<SpanId> mergeLabels(Study& study, const std::vector<SpanId>& ids) {
    auto labels = labelsNamed(study, ids);
    if (!labels) return labels.error();
    if (labels->size() < 2) return Error{"choose two marks or more to make one of"};
    std::sort(labels->begin(), labels->end(),
              [](const Span& a, const Span& b) { return std::tie(a.start, a.id) < std::tie(b.start, b.id); });
    Span whole = labels->front();
    std::vector<TagId> tags = tagsOf(whole);
    bool wholeAsset = tags.empty();
    json gone = json::array();
    for (const Span& s : *labels) {
        if (s.asset != whole.asset) return Error{"marks on several assets cannot be one"};
        const std::string kind = factText(s.facts, label_fact::kKind),
                          own = factText(whole.facts, label_fact::kKind);
        if (!kind.empty() && !own.empty() && kind != own)
            return Error{fmt::format("they are of two kinds, {} and {}: name them alike first", own, kind)};
        if (own.empty() && !kind.empty()) whole.facts[label_fact::kKind] = kind;
        whole.end = std::max(whole.end, s.end);
        const std::vector<TagId> more = tagsOf(s);
        wholeAsset = wholeAsset || more.empty();
        tags.insert(tags.end(), more.begin(), more.end());
        gone.push_back(said(study, s));
    }
    setTags(whole, wholeAsset ? std::vector<TagId>() : tags);
    study.change(fmt::format("merge {} labels", labels->size()), "", {{"labels", gone}}, [&] {
        study.tracks().updateSpan(whole);
        for (const Span& s : *labels)
            if (s.id != whole.id) study.tracks().removeSpan(s.id);
    });
    return whole.id;
}

Result<LabelledSpans> labelSpans(Study& study, const std::vector<Span>& spans, const std::string& kind,
                                 const std::string& from) {
    using Where = std::tuple<AssetId, TagId, Instant, Instant>;
    const auto placeOf = [](const Span& s) { return Where(s.asset, s.tag, s.start, s.end); };
    std::set<Where> taken;
    for (const Span& s : study.tracks().spansOf(track_kind::kLabels))
        if (kind.empty() || factText(s.facts, label_fact::kKind) == kind) taken.insert(placeOf(s));
    LabelledSpans out;
    const auto sampled = study.sampled();
    std::vector<Span> fresh;
    for (Span s : spans) {
        if (s.end <= s.start) {
            ++out.moments;
            continue;
        }
        if (!checkInRecord(study, sampled, s.range())) {
            ++out.outside;
            continue;
        }
        if (!taken.insert(placeOf(s)).second) {
            ++out.known;
            continue;
        }
        s.facts = ownFacts(s);
        if (!kind.empty()) s.facts[label_fact::kKind] = kind;
        s.facts[label_fact::kFrom] = from;
        if (s.id) s.facts[label_fact::kFromSpan] = static_cast<double>(s.id.number);
        fresh.push_back(std::move(s));
    }
    const auto ids = put(study, std::move(fresh),
                         fmt::format("labels {} from {}", kind.empty() ? "not named yet" : kind, from),
                         {{"kind", kind}, {"from", from}});
    if (!ids) return ids.error();
    out.added = *ids;
    return out;
}

}  // namespace jacinth
