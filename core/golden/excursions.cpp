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

/// Sample times and knots of the run, together: between them value and limits are both straight lines.
std::vector<Moment> momentsOf(const SeriesView& series, const Bridging& bridging, const RunScale& scale,
                              const GoldenLimits& limits) {
    std::vector<Moment> out;
    if (scale.empty()) return out;
    const std::vector<LimitMoment> knots = limitsInTime(limits, scale);
    const TimeRange run{scale.pieces().front().time.from, scale.pieces().back().time.to};
    out.reserve(knots.size() + series.size());
    ValueWalk walk(series, bridging);
    std::size_t sample = firstNotBefore(series.times, run.from);
    const auto add = [&](Instant t) {
        const auto place = scale.placeOf(t);
        if (place) out.push_back({t, walk.at(t), limitsAt(limits, *place)});
    };
    for (const LimitMoment& knot : knots) {
        for (; sample < series.size() && series.times[sample] < knot.time; ++sample)
            if (series.usable(sample)) add(series.times[sample]);
        if (sample < series.size() && series.times[sample] == knot.time) ++sample;
        out.push_back({knot.time, walk.at(knot.time), knot.limits});
    }
    return out;
}

double halfWidth(const LimitsAt& l) {
    return (l.high - l.low) / 2;
}

/// Area beyond a limit where the distance goes straight from `a` to `b`, in unit × h.
double areaBetween(double a, double b, Duration step) {
    if (std::isnan(a) || std::isnan(b) || (a <= 0 && b <= 0)) return 0;
    const double outside = a < 0 ? b / (b - a) : b < 0 ? a / (a - b) : 1;
    return (std::max(a, 0.0) + std::max(b, 0.0)) / 2 * outside * toHours(step);
}

/// Collects what lies between neighbouring moments into the pieces outside of one side, and joins the pieces
/// to excursions.
class Collector {
  public:
    explicit Collector(Side side) : side_(side) {}

    void between(const Moment& a, const Moment& b) {
        const double da = a.beyond(side_), db = b.beyond(side_);
        if (std::isnan(da) || std::isnan(db) || (da <= 0 && db <= 0)) return;
        const double step = toNanoseconds(b.time - a.time);
        Instant from = a.time, to = b.time;
        if (da < 0) from = a.time + Duration(std::llround(step * (-da / (db - da))));
        if (db < 0) to = a.time + Duration(std::llround(step * (da / (da - db))));
        if (to <= from) return;
        Excursion& piece = pieceAt(from);
        piece.end = to;
        piece.outside += to - from;
        piece.area += (std::max(da, 0.0) + std::max(db, 0.0)) / 2 * toHours(to - from);
        for (const Moment* m : {&a, &b}) {
            const double d = m->beyond(side_);
            if (d <= std::abs(piece.peak)) continue;
            piece.peak = static_cast<int>(side_) * d;
            piece.peakTime = m->time;
            piece.halfWidths = halfWidth(m->limits) > 0 ? d / halfWidth(m->limits) : 0;
        }
    }

    std::vector<Excursion> excursions(const ScreenSpec& spec) const {
        std::vector<Excursion> out;
        for (const Excursion& piece : pieces_) {
            if (!out.empty() && belongsTo(out.back(), piece, spec.join))
                join(out.back(), piece);
            else
                out.push_back(piece);
        }
        std::erase_if(out, [&](const Excursion& e) { return e.outside < spec.ignore; });
        for (Excursion& e : out) e.severity = severityOf(e.halfWidths, e.outside);
        return out;
    }

  private:
    Excursion& pieceAt(Instant from) {
        if (pieces_.empty() || from > pieces_.back().end) {
            pieces_.emplace_back();
            pieces_.back().start = from;
            pieces_.back().side = side_;
        }
        return pieces_.back();
    }

    static bool belongsTo(const Excursion& e, const Excursion& piece, Duration join) {
        return piece.start - e.end < join && 2 * (e.outside + piece.outside) >= piece.end - e.start;
    }

    static void join(Excursion& e, const Excursion& piece) {
        e.end = piece.end;
        e.outside += piece.outside;
        e.area += piece.area;
        if (std::abs(piece.peak) <= std::abs(e.peak)) return;
        e.peak = piece.peak;
        e.peakTime = piece.peakTime;
        e.halfWidths = piece.halfWidths;
    }

    Side side_;
    std::vector<Excursion> pieces_;  ///< without a return inside
};

}  // namespace

std::vector<Excursion> findExcursions(const SeriesView& series, const Bridging& bridging,
                                      const RunScale& scale, const GoldenLimits& limits,
                                      const ScreenSpec& spec) {
    const std::vector<Moment> moments = momentsOf(series, bridging, scale, limits);
    std::vector<Excursion> out;
    for (const Side side : {Side::Low, Side::High}) {
        Collector collector(side);
        for (std::size_t i = 0; i + 1 < moments.size(); ++i) collector.between(moments[i], moments[i + 1]);
        for (const Excursion& e : collector.excursions(spec)) out.push_back(e);
    }
    std::sort(out.begin(), out.end(),
              [](const Excursion& a, const Excursion& b) { return a.start < b.start; });
    return out;
}

std::vector<double> areaOutside(const SeriesView& series, const Bridging& bridging, const RunScale& scale,
                                const GoldenLimits& limits, std::span<const TimeRange> stretches) {
    const std::vector<Moment> moments = momentsOf(series, bridging, scale, limits);
    std::vector<double> out(stretches.size(), 0);
    for (std::size_t i = 0; i + 1 < moments.size(); ++i) {
        const Moment &a = moments[i], &b = moments[i + 1];
        for (std::size_t s = 0; s < stretches.size(); ++s) {
            const Instant from = std::max(a.time, stretches[s].from), to = std::min(b.time, stretches[s].to);
            if (to <= from) continue;
            for (const Side side : {Side::Low, Side::High}) {
                const double da = a.beyond(side),
                             rise = (b.beyond(side) - da) / toNanoseconds(b.time - a.time);
                out[s] += areaBetween(da + rise * toNanoseconds(from - a.time),
                                      da + rise * toNanoseconds(to - a.time), to - from);
            }
        }
    }
    return out;
}

int severityOf(double halfWidths, Duration outside) {
    const double figure = halfWidths * std::sqrt(std::clamp(toHours(outside), 0.0, 4.0));
    if (figure < 0.5) return 1;
    if (figure < 1.5) return 2;
    return figure < 4 ? 3 : 4;
}

}  // namespace jacinth
