#include "core/series/resample.h"

#include <date/date.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/missing.h"
#include "core/series/value_at.h"

namespace jacinth {
namespace {

struct TakeWord {
    Take take;
    const char* word;
};
constexpr std::array<TakeWord, 8> kTakes{{{Take::Mean, "mean"},
                                          {Take::SampleMean, "sample-mean"},
                                          {Take::Least, "min"},
                                          {Take::Greatest, "max"},
                                          {Take::First, "first"},
                                          {Take::Last, "last"},
                                          {Take::Count, "count"},
                                          {Take::Sum, "sum"}}};

Instant startOfMonth(const Zone& zone, Instant t, int monthsOn) {
    WallTime w = zone.wall(t);
    const int months = w.year * 12 + w.month - 1 + monthsOn;
    w = {months / 12, months % 12 + 1, 1};
    return zone.instant(w).instant;
}

double figureOf(const SeriesView& part, Take take) {
    std::size_t count = 0;
    double sum = 0, least = kMissing, greatest = kMissing, first = kMissing, last = kMissing;
    for (std::size_t i = 0; i < part.size(); ++i) {
        if (!part.usable(i)) continue;
        const double v = part.values[i];
        if (count == 0) first = least = greatest = v;
        least = std::min(least, v);
        greatest = std::max(greatest, v);
        last = v;
        sum += v;
        ++count;
    }
    switch (take) {
        case Take::Count:
            return static_cast<double>(count);
        case Take::Least:
            return least;
        case Take::Greatest:
            return greatest;
        case Take::First:
            return first;
        case Take::Last:
            return last;
        case Take::Sum:
            return count ? sum : kMissing;
        default:
            return count ? sum / static_cast<double>(count) : kMissing;
    }
}

}  // namespace

Instant startOfWeek(const Zone& zone, Instant t) {
    const Instant day = zone.startOfDay(t);
    const WallTime w = zone.wall(day);
    const date::weekday weekday(date::sys_days(date::year(w.year) / w.month / w.day));
    return zone.addDays(day, -static_cast<int>(weekday.iso_encoding() - 1));
}

Result<Take> takeNamed(const std::string& name) {
    for (const TakeWord& t : kTakes)
        if (name == t.word) return t.take;
    return Error{
        fmt::format("`{}` is not a way to take a period's figure; there are mean, sample-mean, min, max, "
                    "first, last, count and sum",
                    name)};
}

const char* takeName(Take take) {
    for (const TakeWord& t : kTakes)
        if (t.take == take) return t.word;
    return "";
}

Result<Period> periodNamed(const std::string& text) {
    if (text == "day") return Period{Period::Unit::Day, kDay};
    if (text == "week") return Period{Period::Unit::Week, 7 * kDay};
    if (text == "month") return Period{Period::Unit::Month, 30 * kDay};
    const auto length = parseDuration(text);
    if (!length || *length <= Duration::zero())
        return Error{fmt::format("`{}` is not a period; write 15m, 6h, day, week or month", text)};
    return Period{Period::Unit::Length, *length};
}

std::string periodName(const Period& period) {
    switch (period.unit) {
        case Period::Unit::Day:
            return "day";
        case Period::Unit::Week:
            return "week";
        case Period::Unit::Month:
            return "month";
        default:
            return formatDuration(period.length);
    }
}

Result<std::vector<Instant>> periodsIn(TimeRange range, const Period& period, const Zone& zone,
                                       std::size_t most) {
    std::vector<Instant> edges;
    if (range.length() <= Duration::zero()) return edges;
    const Duration shortest = period.unit == Period::Unit::Length ? period.length : period.length * 9 / 10;
    if (static_cast<std::size_t>(range.length() / shortest) > most)
        return Error{fmt::format("{} over {} would be more than {} periods; choose a longer one",
                                 periodName(period), sayDuration(range.length()), most)};
    Instant at = zone.startOfDay(range.from);
    if (period.unit == Period::Unit::Week) at = startOfWeek(zone, range.from);
    if (period.unit == Period::Unit::Month) at = startOfMonth(zone, range.from, 0);
    if (period.unit == Period::Unit::Length) at += (range.from - at) / period.length * period.length;
    while (at < range.to) {
        edges.push_back(at);
        switch (period.unit) {
            case Period::Unit::Length:
                at += period.length;
                break;
            case Period::Unit::Day:
                at = zone.addDays(at, 1);
                break;
            case Period::Unit::Week:
                at = zone.addDays(at, 7);
                break;
            case Period::Unit::Month:
                at = startOfMonth(zone, at, 1);
                break;
        }
    }
    edges.push_back(at);
    return edges;
}

std::vector<double> resample(const SeriesView& series, const Bridging& bridging,
                             const std::vector<Instant>& edges, Take take) {
    std::vector<double> out;
    for (std::size_t i = 0; i + 1 < edges.size(); ++i) {
        const TimeRange period{edges[i], edges[i + 1]};
        if (take != Take::Mean) {
            out.push_back(figureOf(series.within(period), take));
            continue;
        }
        // Only the samples of the period and its neighbours, so that the cost is that of one walk.
        std::size_t a = firstNotBefore(series.times, period.from),
                    b = firstNotBefore(series.times, period.to);
        while (a > 0 && !series.usable(--a)) {
        }
        while (b < series.size() && !series.usable(b)) ++b;
        b = std::min(series.size(), b + 1);
        out.push_back(meanOver({series.times.subspan(a, b - a), series.values.subspan(a, b - a),
                                series.quality.empty() ? series.quality : series.quality.subspan(a, b - a)},
                               bridging, period));
    }
    return out;
}

}  // namespace jacinth
