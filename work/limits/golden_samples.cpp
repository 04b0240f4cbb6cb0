#include "work/limits/golden_samples.h"

#include <algorithm>

#include "core/base/missing.h"
#include "core/mend/trust.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "store/trust_marks.h"

namespace jacinth {

AbnormalTime::AbnormalTime(const Study& study) : study_(study) {
    const LabelBook book = study.judgement().labelBook();
    for (const Span& label : study.tracks().spansOf(track_kind::kLabels)) {
        const std::string kind = factText(label.facts, "kind");
        const LabelKind* known = findKind(book, kind);
        if (kind.empty() || (known && known->normal)) continue;
        Event event{label.range(), {label.furtherTags.begin(), label.furtherTags.end()}};
        if (label.tag) event.tags.insert(label.tag);
        events_[label.asset].push_back(std::move(event));
    }
    for (const Span& stop : study.tracks().spansOf(track_kind::kStops))
        events_[stop.asset].push_back({stop.range(), {}});
}

std::vector<TimeRange> AbnormalTime::of(const Tag& tag, TimeRange stretch, Which which) const {
    std::vector<TimeRange> out;
    const auto add = [&](TimeRange range) {
        range = {std::max(range.from, stretch.from), std::min(range.to, stretch.to)};
        if (range.from < range.to) out.push_back(range);
    };
    if (const auto events = events_.find(tag.asset); events != events_.end())
        for (const Event& event : events->second)
            if (event.tags.empty() || event.tags.contains(tag.id)) add(event.range);
    const TrustSettings settings = trustSettingsOf(study_);
    for (const GradedStretch& graded : trustOf(study_, tag.id, stretch, which))
        if (settings.isUnsound(graded.grade)) add(graded.range);
    return joined(std::move(out));
}

namespace {

/// Without the samples of these stretches, and with a mark at the start of each from which on nothing is
/// known.
Series without(const Series& series, const std::vector<TimeRange>& stretches) {
    Series out;
    auto next = stretches.begin();
    for (std::size_t i = 0; i < series.size(); ++i) {
        for (; next != stretches.end() && next->to < series.times[i]; ++next)
            if (out.empty() || out.times.back() < next->from)
                out.push(next->from, kMissing, Quality::Missing);
        if (next != stretches.end() && series.times[i] >= next->from) continue;
        out.push(series.times[i], series.values[i], series.view().qualityAt(i));
    }
    for (; next != stretches.end(); ++next)
        if (out.empty() || out.times.back() < next->from) out.push(next->from, kMissing, Quality::Missing);
    return out;
}

}  // namespace

Series goldenSamples(Study& study, const Tag& tag, TimeRange run, const LimitSpec& spec,
                     const AbnormalTime& abnormal, Which which) {
    Series series = study.readForFigures(tag, {run.from, run.to + kNanosecond}, which);
    if (!spec.leaveOutAbnormal) return series;
    const std::vector<TimeRange> stretches = abnormal.of(tag, run, which);
    return stretches.empty() ? series : without(series, stretches);
}

}  // namespace jacinth
