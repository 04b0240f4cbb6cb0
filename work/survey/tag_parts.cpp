#include "work/survey/tag_parts.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/base/missing.h"

namespace jacinth {
namespace {

constexpr std::size_t kMostSteps = 400'000;  // of a grid to take apart: what a minute's work allows
constexpr std::size_t kPiece = 2048;  // periods read at a time, so that memory does not grow with the range

/// Lines over missing values; held at the ends. How many were missing.
std::size_t bridge(std::vector<double>& y) {
    std::size_t missing = 0, before = y.size();
    for (std::size_t i = 0; i < y.size(); ++i) {
        if (!std::isfinite(y[i])) {
            ++missing;
            continue;
        }
        for (std::size_t k = before == y.size() ? 0 : before + 1; k < i; ++k)
            y[k] = before == y.size() ? y[i]
                                      : y[before] + (y[i] - y[before]) * static_cast<double>(k - before) /
                                                        static_cast<double>(i - before);
        before = i;
    }
    if (before != y.size())
        for (std::size_t k = before + 1; k < y.size(); ++k) y[k] = y[before];
    return missing;
}

Result<int> periodSteps(const std::vector<double>& y, const PartsSpec& spec, TagParts& out) {
    out.proposed = proposePeriod(y);
    if (spec.period > Duration::zero()) {
        const auto steps = static_cast<int>((spec.period + spec.every / 2) / spec.every);
        if (steps < 2)
            return Error{fmt::format("a period of {} is shorter than two steps of {}",
                                     formatDuration(spec.period), formatDuration(spec.every))};
        return steps;
    }
    if (out.proposed.period == 0) return Error{"no repeating period shows in this stretch; say one"};
    return out.proposed.period;
}

}  // namespace

Result<TagGrid> gridOf(Study& study, const Tag& tag, TimeRange range, const Period& period, Take take,
                       Which which, const Progress& progress) {
    auto edges = periodsIn(range, period, study.zone());
    if (!edges) return edges.error();
    TagGrid out;
    out.origin = originOf(study, tag, range, which);
    out.edges = std::move(*edges);
    const Bridging bridging = tag.bridging();
    for (std::size_t at = 0; at + 1 < out.edges.size(); at += kPiece) {
        const std::size_t end = std::min(out.edges.size() - 1, at + kPiece);
        const std::vector<Instant> piece(out.edges.begin() + static_cast<std::ptrdiff_t>(at),
                                         out.edges.begin() + static_cast<std::ptrdiff_t>(end) + 1);
        const Series s = study.readForFigures(tag, {piece.front(), piece.back()}, which);
        for (const double v : resample(s, bridging, piece, take)) out.values.push_back(v);
        if (progress.stopped(static_cast<double>(end) / static_cast<double>(out.edges.size())))
            return Error::cancelled();
    }
    return out;
}

Duration longestGapOf(const Period& period) {
    // An hour more than the period: days of the calendar are up to 25 hours long.
    return period.unit == Period::Unit::Month ? 32 * kDay : period.length + kHour;
}

Duration proposedStep(Duration length) {
    for (const Duration step : {kMinute, 5 * kMinute, 15 * kMinute, kHour, 6 * kHour, kDay})
        if (length / step <= 3000) return step;
    return 7 * kDay;
}

Result<TagParts> partsOf(Study& study, const Tag& tag, TimeRange range, const PartsSpec& spec, Which which,
                         const Progress& progress) {
    if (tag.kind == TagKind::State) return Error{tag.path() + " holds states; parts need numbers"};
    if (spec.every <= Duration::zero()) return Error{"the step is not a length of time"};
    if (static_cast<std::size_t>(range.length() / spec.every) > kMostSteps)
        return Error{fmt::format("{} at every {} would be more than {} steps; choose a longer step",
                                 sayDuration(range.length()), formatDuration(spec.every), kMostSteps)};
    TagParts out;
    auto grid = gridOf(study, tag, range, {Period::Unit::Length, spec.every}, spec.take, which,
                       progress.part(0, 0.3));
    if (!grid) return grid.error();
    out.grid = std::move(*grid);
    std::vector<double> y = out.grid.values;
    out.bridged = bridge(y);
    if (out.bridged * 2 > y.size()) return Error{"more than half of this stretch has no values"};
    const auto period = periodSteps(y, spec, out);
    if (!period) return period.error();
    out.period = *period;
    bool multiplied = spec.kind == PartsKind::Multiplied;
    if (spec.kind == PartsKind::Propose) {
        const auto proposal = proposeKind(y, out.period);
        if (!proposal) return proposal.error();
        multiplied = proposal->multiplied;
        out.kindReason = proposal->reason;
    }
    LoessSpans spans;
    spans.cycle = spec.cycleSpan;
    spans.robust = spec.robust;
    auto parts = spec.loess ? loessParts(y, out.period, multiplied, spans, progress.part(0.4, 1))
                            : classicalParts(y, out.period, multiplied);
    if (!parts) return parts.error();
    out.parts = std::move(*parts);
    for (std::size_t i = 0; i < y.size(); ++i)
        if (!std::isfinite(out.grid.values[i]))
            out.parts.trend[i] = out.parts.cycle[i] = out.parts.remainder[i] = kMissing;
    return out;
}

SamplesToKeep partsToKeep(const Tag& tag, const TagParts& p, const PartsSpec& spec) {
    const auto series = [&](const char* what, const std::vector<double>& values, const std::string& unit) {
        DerivedSeries d;
        d.name = tag.name + " " + what;
        d.unit = unit;
        d.longestGap = spec.every * 3 / 2;
        for (std::size_t i = 0; i < values.size(); ++i) d.series.push(p.grid.edges[i], values[i]);
        return d;
    };
    const std::string ratio = p.parts.multiplied ? "" : tag.unit;
    return {tag.asset,
            {series("trend", p.parts.trend, tag.unit), series("cycle", p.parts.cycle, ratio),
             series("remainder", p.parts.remainder, ratio)},
            "keep parts of " + tag.path(),
            p.grid.origin,
            {{"way", spec.loess ? "LOESS" : "classical"},
             {"every", formatDuration(spec.every)},
             {"take", takeName(spec.take)},
             {"period", formatDuration(spec.every * p.period)},
             {"robust", spec.robust},
             {"cycleSpan", spec.cycleSpan},
             {"put together", p.parts.multiplied ? "multiplied" : "added"}}};
}

SamplesToKeep gridToKeep(const Tag& tag, const TagGrid& grid, const Period& period, Take take,
                         const std::string& name) {
    DerivedSeries d;
    d.name = name;
    d.unit = take == Take::Count ? "" : tag.unit;
    d.kind = TagKind::Stepped;
    d.longestGap = longestGapOf(period);
    for (std::size_t i = 0; i < grid.values.size(); ++i) d.series.push(grid.edges[i], grid.values[i]);
    return {tag.asset,
            {d},
            "keep " + name,
            grid.origin,
            {{"period", periodName(period)}, {"figure", takeName(take)}}};
}

}  // namespace jacinth
