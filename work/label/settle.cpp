#include "work/label/settle.h"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "store/judgement.h"
#include "store/tracks.h"
#include "work/label/labels.h"

namespace jacinth {
namespace {

bool isOver(const Span& label, const Difference& d, const std::string& who) {
    return label.asset == d.asset && factText(label.facts, label_fact::kBy) == who &&
           label.start < d.range.to && label.end > d.range.from;
}

/// Takes the stretch out of a label: what is left of it before and after stays.
void cutOutOf(Study& study, TrackId track, const Span& label, TimeRange stretch) {
    Span before = label, after = label;
    before.end = stretch.from;
    after.start = stretch.to;
    const bool hasBefore = before.end > before.start, hasAfter = after.end > after.start;
    if (!hasBefore && !hasAfter) return study.tracks().removeSpan(label.id);
    study.tracks().updateSpan(hasBefore ? before : after);
    if (hasBefore && hasAfter) study.tracks().addSpan(track, after);
}

/// A label over the stretch; one of the same kind that touches it grows instead.
void putLabel(Study& study, TrackId track, const Difference& d, const std::string& who, const Settled& how) {
    Span fresh{{}, d.asset, {}, d.range.from, d.range.to, {}};
    fresh.facts[label_fact::kKind] = how.kind;
    fresh.facts[label_fact::kBy] = who;
    fresh.facts[label_fact::kNote] = how.reason;
    std::vector<Span> touching;
    for (const Span& s : study.tracks().spansOf(track_kind::kLabels))
        if (s.asset == d.asset && factText(s.facts, label_fact::kBy) == who && tagsOf(s).empty() &&
            factText(s.facts, label_fact::kKind) == how.kind && s.start <= d.range.to &&
            s.end >= d.range.from)
            touching.push_back(s);
    if (touching.empty()) {
        study.tracks().addSpan(track, fresh);
        return;
    }
    Span whole = touching.front();
    for (const Span& s : touching) {
        whole.start = std::min(whole.start, s.start);
        whole.end = std::max(whole.end, s.end);
        if (s.id != whole.id) study.tracks().removeSpan(s.id);
    }
    whole.start = std::min(whole.start, d.range.from);
    whole.end = std::max(whole.end, d.range.to);
    study.tracks().updateSpan(whole);
}

}  // namespace

Status settleDifference(Study& study, const Difference& d, const std::string& one, const std::string& two,
                        const Settled& how) {
    if (how.reason.empty()) return Error{"say why it is so"};
    if (!how.kind.empty() && !findKind(study.judgement().labelBook(), how.kind))
        return Error{fmt::format("`{}` is not in the label book", how.kind)};
    const std::vector<Span> labels = labelsOf(study);
    const auto saysAnything = [&](const std::string& who) {
        return std::any_of(labels.begin(), labels.end(), [&](const Span& s) { return isOver(s, d, who); });
    };
    if (!saysAnything(one) && !saysAnything(two)) return Error{"neither says anything there any more"};
    const Asset* asset = study.catalog().asset(d.asset);
    study.change(fmt::format("settle {} on {}", how.kind.empty() ? "nothing" : how.kind,
                             asset ? asset->name : "the plant"),
                 how.reason,
                 {{"start", toIso(d.range.from)},
                  {"end", toIso(d.range.to)},
                  {one, d.one},
                  {two, d.two},
                  {"settled as", how.kind}},
                 [&] {
                     const TrackId track = study.tracks().firstOf(track_kind::kLabels)->id;
                     for (const std::string& who : {one, two}) {
                         bool said = false;
                         for (const Span& s : labels) {
                             if (!isOver(s, d, who)) continue;
                             const bool same = factText(s.facts, label_fact::kKind) == how.kind;
                             said = said || (same && s.start <= d.range.from && s.end >= d.range.to);
                             if (!same) cutOutOf(study, track, s, d.range);
                         }
                         if (!said && !how.kind.empty()) putLabel(study, track, d, who, how);
                     }
                 });
    return Done{};
}

}  // namespace jacinth
