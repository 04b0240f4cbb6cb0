#include "core/golden/excursions.h"

#include <algorithm>
#include <cmath>

#include "core/series/value_at.h"

namespace jacinth {
namespace {

/// Value and limits at one moment of the run.
struct Moment {
    Instant time;
    double value;
    LimitsAt limits;
    /// Signed distance beyond the limit of `side`: positive outside.
    double beyond(Side side) const { return side == Side::High ? value - limits.high : limits.low - value; }
};

Duration offsetOf(const Span& run, const LimitSpec& spec, Instant t) {
    return spec.lineUp == LineUp::Start ? t - run.start : run.end - t;
}

/// Sample times and slice times of the run, together: between them value and limits are both straight lines.
std::vector<Moment> momentsOf(const SeriesView& series, const Bridging& bridging, const Span& run,
                              const GoldenLimits& limits) {
    std::vector<Instant> times;
    for (std::size_t i = 0; i < series.size(); ++i)
        if (series.usable(i) && series.times[i] >= run.start && series.times[i] <= run.end)
            times.push_back(series.times[i]);
    for (const LimitSlice& s : limits.slices) {
        const Instant t = limits.spec.lineUp == LineUp::Start ? run.start + s.offset : run.end - s.offset;
        if (t >= run.start && t <= run.end) times.push_back(t);
    }
    std::sort(times.begin(), times.end());
    times.erase(std::unique(times.begin(), times.end()), times.end());
    std::vector<Moment> out;
    out.reserve(times.size());
    for (const Instant t : times)
        out.push_back({t, valueAt(series, bridging, t), limitsAt(limits, offsetOf(run, limits.spec, t))});
    return out;
}

double halfWidth(const LimitsAt& l) {
    return (l.high - l.low) / 2;
}

/// Adds what lies between two neighbouring moments to the excursions of one side.
class Collector {
  public:
    Collector(Side side, Duration join) : side_(side), join_(join) {}

    void between(const Moment& a, const Moment& b) {
        const double da = a.beyond(side_), db = b.beyond(side_);
        if (std::isnan(da) || std::isnan(db) || (da <= 0 && db <= 0)) return;
        const double step = static_cast<double>(b.time - a.time);
        Instant from = a.time, to = b.time;
        if (da < 0) from = a.time + static_cast<Duration>(std::llround(step * (-da / (db - da))));
        if (db < 0) to = a.time + static_cast<Duration>(std::llround(step * (da / (da - db))));
        if (to <= from) return;
        Excursion& e = openAt(from);
        e.end = to;
        e.area += (std::max(da, 0.0) + std::max(db, 0.0)) / 2 * toHours(to - from);
        for (const Moment* m : {&a, &b}) {
            const double d = m->beyond(side_);
            if (d <= std::abs(e.peak)) continue;
            e.peak = static_cast<int>(side_) * d;
            e.peakTime = m->time;
            e.halfWidths = halfWidth(m->limits) > 0 ? d / halfWidth(m->limits) : 0;
        }
    }

    std::vector<Excursion> take(Duration ignore) {
        std::erase_if(found_, [&](const Excursion& e) { return e.end - e.start < ignore; });
        for (Excursion& e : found_) e.severity = severityOf(e.halfWidths, e.end - e.start);
        return std::move(found_);
    }

  private:
    Excursion& openAt(Instant from) {
        if (found_.empty() || (from > found_.back().end && from - found_.back().end >= join_)) {
            found_.emplace_back();
            found_.back().start = from;
            found_.back().side = side_;
        }
        return found_.back();
    }
    Side side_;
    Duration join_;
    std::vector<Excursion> found_;
};

}  // namespace

std::vector<Excursion> findExcursions(const SeriesView& series, const Bridging& bridging, const Span& run,
                                      const GoldenLimits& limits, const ScreenSpec& spec) {
    const std::vector<Moment> moments = momentsOf(series, bridging, run, limits);
    std::vector<Excursion> out;
    for (const Side side : {Side::Low, Side::High}) {
        Collector collector(side, spec.join);
        for (std::size_t i = 0; i + 1 < moments.size(); ++i) collector.between(moments[i], moments[i + 1]);
        for (const Excursion& e : collector.take(spec.ignore)) out.push_back(e);
    }
    std::sort(out.begin(), out.end(),
              [](const Excursion& a, const Excursion& b) { return a.start < b.start; });
    return out;
}

int severityOf(double halfWidths, Duration duration) {
    const double figure = halfWidths * std::sqrt(std::clamp(toHours(duration), 0.0, 4.0));
    if (figure < 0.5) return 1;
    if (figure < 1.5) return 2;
    return figure < 4 ? 3 : 4;
}

}  // namespace jacinth
