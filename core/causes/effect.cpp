#include "core/causes/effect.h"

#include <algorithm>
#include <cmath>

namespace jacinth {
namespace {

double orNone(double v) {
    return std::isnan(v) ? 0 : v;
}

}  // namespace

ScaleBins ScaleBins::over(const GoldenLimits& limits, std::size_t wanted) {
    ScaleBins out;
    const std::size_t slices = limits.slices.size();
    if (slices == 0 || wanted == 0) return out;
    const std::size_t each = std::max<std::size_t>(1, slices / wanted);
    out.first = limits.slices.front().offset;
    out.width = limits.spec.every * static_cast<Duration::rep>(each);
    out.count = (slices + each - 1) / each;
    return out;
}

double ScaleShape::at(Place place) const {
    if (values.empty()) return 0;
    if (values.size() == 1) return orNone(values.front());
    const double along = toNanoseconds(place - bins.centre(0)) / toNanoseconds(bins.width);
    if (along <= 0) return orNone(values.front());
    const auto last = values.size() - 1;
    if (along >= static_cast<double>(last)) return orNone(values.back());
    const auto bin = static_cast<std::size_t>(along);
    const double part = along - static_cast<double>(bin);
    return orNone(values[bin]) * (1 - part) + orNone(values[bin + 1]) * part;
}

double CauseEffect::weightAt(Instant t) const {
    if (!range.contains(t)) return 0;
    if (!onlyIn.empty()) {
        const auto next = std::upper_bound(onlyIn.begin(), onlyIn.end(), t,
                                           [](Instant at, const TimeRange& in) { return at < in.from; });
        if (next == onlyIn.begin() || !std::prev(next)->contains(t)) return 0;
    }
    if (weights.empty()) return 1;
    const auto after = std::upper_bound(weights.begin(), weights.end(), t,
                                        [](Instant at, const TimeWeight& w) { return at < w.time; });
    if (after == weights.begin()) return weights.front().weight;
    if (after == weights.end()) return weights.back().weight;
    const TimeWeight &a = *(after - 1), &b = *after;
    const double part = toNanoseconds(t - a.time) / toNanoseconds(b.time - a.time);
    return a.weight * (1 - part) + b.weight * part;
}

double CauseEffect::at(Instant t, std::optional<Place> place) const {
    const double weight = weightAt(t);
    if (weight == 0) return 0;
    if (!dependsOnPlace()) return weight * shape.at({});
    return place ? weight * shape.at(*place) : 0;
}

bool CauseEffect::isAtEnd(double value) const {
    if (!endOfScale || shape.values.size() != 1) return false;
    return shape.values.front() > 0 ? value >= *endOfScale : value <= *endOfScale;
}

std::optional<double> endOfScale(const SeriesView& series, bool high) {
    std::vector<double> usable;
    for (std::size_t i = 0; i < series.size(); ++i)
        if (series.usable(i)) usable.push_back(series.values[i]);
    if (usable.empty()) return {};
    const auto [least, greatest] = std::minmax_element(usable.begin(), usable.end());
    const double end = high ? *greatest : *least, other = high ? *least : *greatest;
    const auto there = static_cast<std::size_t>(std::count(usable.begin(), usable.end(), end));
    if (end == other || there * 20 < usable.size()) return {};
    return end + 0.02 * (other - end);
}

void takeAway(Series& series, const std::vector<CauseEffect>& effects, const RunScale& scale) {
    const std::vector<double> logged = series.values;
    for (const CauseEffect& effect : effects) {
        const std::size_t from = firstNotBefore(series.times, effect.range.from);
        for (std::size_t i = from; i < series.size() && series.times[i] < effect.range.to; ++i) {
            const Instant t = series.times[i];
            if (effect.isAtEnd(logged[i])) continue;
            series.values[i] -=
                effect.at(t, effect.dependsOnPlace() ? scale.placeOf(t) : std::optional<Place>{});
        }
    }
}

}  // namespace jacinth
