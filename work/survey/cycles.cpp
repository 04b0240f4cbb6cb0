#include "work/survey/cycles.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/text.h"
#include "core/series/step_count.h"
#include "core/stats/stats.h"
#include "store/tracks.h"
#include "work/runs/find_runs.h"

namespace jacinth {
namespace {

bool says(const Span& span, const std::string& words) {
    if (words.empty()) return true;
    for (const auto& [name, value] : span.facts)
        if (const auto* text = std::get_if<std::string>(&value);
            text && lowerCase(*text).find(lowerCase(words)) != std::string::npos)
            return true;
    return false;
}

std::vector<Span> partingSpans(const Study& study, const CycleSpec& spec) {
    std::vector<Span> out;
    for (const Span& s : study.tracks().spansOf(spec.kind))
        if (s.asset == spec.asset && says(s, spec.words)) out.push_back(s);
    std::sort(out.begin(), out.end(), [](const Span& a, const Span& b) { return a.start < b.start; });
    return out;
}

std::vector<Cycle> between(const std::vector<Span>& parting, TimeRange record) {
    std::vector<Cycle> out;
    Instant from = record.from;
    bool open = true;
    for (const Span& s : parting) {
        if (s.start > from) out.push_back({{from, s.start}, open, {}, {}});
        from = std::max(from, s.end);
        open = false;
    }
    if (record.to > from) out.push_back({{from, record.to}, true, {}, {}});
    return out;
}

/// Means over the samples of each period that lie in the stretches; a period needs a twentieth of its length
/// in them.
void fill(Study& study, const Tag& tag, const CycleSpec& spec, const std::vector<TimeRange>* only,
          Cycle& cycle) {
    const Duration step = spec.every.length;
    std::size_t k = 0;
    for (Instant from = cycle.range.from; from < cycle.range.to; from += step) {
        const TimeRange period{from, std::min(from + step, cycle.range.to)};
        if (period.length() * 2 < step) break;
        const Series s = study.readForFigures(tag, period, spec.which);
        double sum = 0, count = 0, when = 0;
        Duration covered = only ? Duration{} : period.length();
        if (only) {
            while (k < only->size() && (*only)[k].to <= period.from) ++k;
            for (std::size_t j = k; j < only->size() && (*only)[j].from < period.to; ++j)
                covered += std::min(period.to, (*only)[j].to) - std::max(period.from, (*only)[j].from);
        }
        std::size_t j = k;
        for (std::size_t i = 0; i < s.size(); ++i) {
            const Instant t = s.times[i];
            if (t < period.from || t >= period.to || !s.view().usable(i)) continue;
            if (only) {
                while (j < only->size() && (*only)[j].to <= t) ++j;
                if (j == only->size() || t < (*only)[j].from) continue;
            }
            sum += s.values[i];
            when += toNanoseconds(t - cycle.range.from);
            ++count;
        }
        if (count == 0 || covered * 20 < step) continue;
        cycle.days.x.push_back(when / count / toNanoseconds(kDay));
        cycle.days.y.push_back(sum / count);
        cycle.at.push_back(cycle.range.from + fromNanoseconds(when / count));
    }
}

std::string sentenceFor(const CyclePicture& p) {
    if (!p.slopes) return "No cycle has two figures to draw a line through.";
    const auto lines = std::count_if(p.slopes->own.begin(), p.slopes->own.end(),
                                     [](const StretchLine& l) { return l.n > 0; });
    const std::string slope = fmt::format("{:+.3g} {} a day", p.slopes->slope, p.unit);
    if (lines < 2 || !std::isfinite(p.slopes->p))
        return fmt::format("One line only: {}. Two cycles are needed to say whether it repeats.", slope);
    if (p.slopes->pNone > 0.01)
        return fmt::format("No loss or gain that repeats: {} over all cycles (p = {:.2g} that it is none).",
                           slope, p.slopes->pNone);
    if (p.slopes->p < 0.01)
        return fmt::format("The cycles do not share a slope (p = {:.2g}): {} is their middle only.",
                           p.slopes->p, slope);
    return fmt::format(
        "The same after each: {} in {} cycles (p = {:.2g} that they differ no more than by chance).", slope,
        lines, p.slopes->p);
}

}  // namespace

Result<CyclePicture> cyclesOf(Study& study, const CycleSpec& spec, const Progress& progress) {
    const Tag* tag = study.catalog().tag(spec.tag);
    if (!tag || tag->kind == TagKind::State) return Error{"choose a tag with numbers"};
    // As many figures are drawn and fitted.
    constexpr std::int64_t kMostFigures = 1'000'000;
    if (const Status fits = checkStepCount(study.record().length(), spec.every.length, kMostFigures); !fits)
        return fits.error();
    CyclePicture out;
    out.unit = tag->unit;
    out.parting = partingSpans(study, spec);
    const Asset* asset = study.catalog().asset(spec.asset);
    if (out.parting.empty())
        return Error{fmt::format("{} has no {}{}", asset ? asset->name : "the asset", spec.kind,
                                 spec.words.empty() ? "" : fmt::format(" that say “{}”", spec.words))};
    std::vector<TimeRange> only;
    if (!spec.only.empty()) {
        RunSearch search;
        search.where = spec.only;
        if (asset) search.asset = asset->name;
        const auto found = findRuns(study, search, spec.which);
        if (!found) return found.error();
        for (const Span& s : found->runs)
            if (s.asset == spec.asset) only.push_back(s.range());
        if (only.empty())
            return Error{fmt::format("`{}` is never true on {}", spec.only, asset ? asset->name : "it")};
    }
    out.cycles = between(out.parting, study.record());
    std::vector<Stretch> stretches;
    for (std::size_t i = 0; i < out.cycles.size(); ++i) {
        fill(study, *tag, spec, spec.only.empty() ? nullptr : &only, out.cycles[i]);
        stretches.push_back(out.cycles[i].days);
        if (progress.stopped(static_cast<double>(i + 1) / static_cast<double>(out.cycles.size())))
            return Error::cancelled();
    }
    out.slopes = commonSlope(stretches);
    out.says = sentenceFor(out);
    return out;
}

}  // namespace jacinth
