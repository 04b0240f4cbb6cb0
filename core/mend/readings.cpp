#include "core/mend/readings.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/stats/distributions.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr std::size_t kLeastForOutlying = 5;
constexpr double kOutlyingBeyond = 3.5;
constexpr double kMeanToDeviation = 1.2533;  // √(π/2): mean absolute to standard deviation of a normal

/// Root of the mean of the squares of what `left` says of each.
template <typename Left>
double rootMeanSquare(std::span<const ReadingOff> readings, Left left) {
    double sum = 0;
    for (const ReadingOff& r : readings) sum += left(r) * left(r);
    return readings.empty() ? 0 : std::sqrt(sum / static_cast<double>(readings.size()));
}

/// What the line through most of the readings leaves of each: its slope is the median of the slopes between
/// all pairs.
std::vector<double> leftByMost(const std::vector<ReadingOff>& readings) {
    std::vector<double> slopes, levels, left;
    const auto hours = [&](const ReadingOff& r) {
        return toHours(r.reading.time - readings[0].reading.time);
    };
    for (std::size_t i = 0; i < readings.size(); ++i)
        for (std::size_t j = i + 1; j < readings.size(); ++j)
            if (const double dt = hours(readings[j]) - hours(readings[i]); dt > 0)
                slopes.push_back((readings[j].off - readings[i].off) / dt);
    const double slope = slopes.empty() ? 0 : median(std::move(slopes));
    for (const ReadingOff& r : readings) levels.push_back(r.off - slope * hours(r));
    const double level = median(levels);
    for (const double v : levels) left.push_back(v - level);
    return left;
}

/// Half-width of the 95 % interval of a figure whose variance is `unit` times that of a reading, which
/// `squares` left over at `degrees` estimate.
double sureWithin(double squares, int degrees, double unit) {
    if (degrees < 1) return std::nan("");
    return studentQuantile(0.975, degrees) * std::sqrt(squares / degrees * unit);
}

/// What the ramp leaves, and from where in the stretch (0 to 1) its ends are seen.
void takeSureness(RampFit& fit, const std::vector<double>& along, const std::vector<double>& off,
                  bool fixedStart) {
    double squares = 0, mean = 0, aroundMean = 0, fromStart = 0;
    const double n = static_cast<double>(along.size());
    for (const double a : along) mean += a / n;
    for (std::size_t i = 0; i < along.size(); ++i) {
        const double left = off[i] - (fit.startBy + (fit.endBy - fit.startBy) * along[i]);
        squares += left * left;
        aroundMean += (along[i] - mean) * (along[i] - mean);
        fromStart += along[i] * along[i];
    }
    if (fixedStart) {
        fit.endSure = sureWithin(squares, fit.readings - 1, 1 / fromStart);
        return;
    }
    fit.startSure = sureWithin(squares, fit.readings - 2, 1 / n + mean * mean / aroundMean);
    fit.endSure = sureWithin(squares, fit.readings - 2, 1 / n + (1 - mean) * (1 - mean) / aroundMean);
}

}  // namespace

std::vector<ReadingOff> readingsAgainst(const SeriesView& series, const Bridging& bridging, TimeRange stretch,
                                        std::span<const CheckReading> readings) {
    std::vector<ReadingOff> out;
    for (const CheckReading& r : readings) {
        if (r.time < stretch.from || r.time > stretch.to) continue;
        const double value = valueAt(series, bridging, r.time);
        if (std::isfinite(value)) out.push_back({r, r.value - value});
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const auto& a, const auto& b) { return a.reading.time < b.reading.time; });
    return out;
}

int markOutlying(std::vector<ReadingOff>& readings) {
    for (ReadingOff& r : readings) r.outlying = false;
    if (readings.size() < kLeastForOutlying) return 0;
    const std::vector<double> left = leftByMost(readings);
    double spread = 1.4826 * medianAbsoluteDeviation(left);
    if (spread == 0) {  // most of them agree exactly
        for (const double v : left) spread += std::abs(v);
        spread *= kMeanToDeviation / static_cast<double>(left.size());
    }
    int count = 0;
    for (std::size_t i = 0; i < left.size(); ++i)
        if (spread > 0 && std::abs(left[i]) > kOutlyingBeyond * spread) readings[i].outlying = true, ++count;
    return count;
}

Result<RampFit> fitRamp(std::span<const ReadingOff> readings, TimeRange stretch,
                        std::optional<double> fixedStart) {
    const std::size_t needed = fixedStart ? 1 : 2;
    if (stretch.length() <= Duration::zero() || readings.size() < needed)
        return Error{fmt::format("{} check reading{} in this stretch; a ramp needs {}", readings.size(),
                                 readings.size() == 1 ? "" : "s", needed)};
    std::vector<double> along, off;  // position in the stretch, 0 to 1; reading − value
    for (const ReadingOff& r : readings) {
        along.push_back(toNanoseconds(r.reading.time - stretch.from) / toNanoseconds(stretch.length()));
        off.push_back(r.off);
    }
    RampFit fit;
    fit.readings = static_cast<int>(along.size());
    if (fixedStart) {
        double sxx = 0, sxy = 0;
        for (std::size_t i = 0; i < along.size(); ++i) {
            sxx += along[i] * along[i];
            sxy += along[i] * (off[i] - *fixedStart);
        }
        if (sxx <= 0) return Error{"the only check reading lies at the fixed start"};
        fit.startBy = *fixedStart;
        fit.endBy = *fixedStart + sxy / sxx;
    } else {
        const Line line = fitLine(along, off);
        if (!std::isfinite(line.slope)) return Error{"the check readings all lie at one moment"};
        fit.startBy = line.intercept;
        fit.endBy = line.intercept + line.slope;
    }
    takeSureness(fit, along, off, fixedStart.has_value());
    fit.misfitBefore = rootMeanSquare(readings, [](const ReadingOff& r) { return r.off; });
    fit.misfitAfter = rootMeanSquare(readings, [&](const ReadingOff& r) {
        const double share = toNanoseconds(r.reading.time - stretch.from) / toNanoseconds(stretch.length());
        return r.off - (fit.startBy + (fit.endBy - fit.startBy) * share);
    });
    return fit;
}

double BendFit::knotSure(int of) const {
    return sureWithin(spread * spread * degrees, degrees, 1.0 / of);
}

Result<BendFit> fitBend(std::span<const ReadingOff> readings) {
    BendFit fit;
    fit.readings = static_cast<int>(readings.size());
    for (std::size_t i = 0; i < readings.size();) {
        std::size_t k = i;
        double sum = 0;
        while (k < readings.size() && readings[k].reading.time == readings[i].reading.time)
            sum += readings[k++].off;
        const double mean = sum / static_cast<double>(k - i);
        fit.bend.knots.push_back({readings[i].reading.time, mean});
        fit.readingsAt.push_back(static_cast<int>(k - i));
        fit.degrees += static_cast<int>(k - i) - 1;
        for (; i < k; ++i) fit.spread += (readings[i].off - mean) * (readings[i].off - mean);
    }
    fit.spread = fit.degrees > 0 ? std::sqrt(fit.spread / fit.degrees) : std::nan("");
    if (fit.bend.knots.size() < 2)
        return Error{fmt::format("check readings at {} moment{} in this stretch; a bend needs two",
                                 fit.bend.knots.size(), fit.bend.knots.size() == 1 ? "" : "s")};
    fit.misfitBefore = rootMeanSquare(readings, [](const ReadingOff& r) { return r.off; });
    fit.misfitAfter = rootMeanSquare(readings, [&](const ReadingOff& r) {
        const auto knot = std::find_if(fit.bend.knots.begin(), fit.bend.knots.end(),
                                       [&](const auto& k) { return k.time == r.reading.time; });
        return r.off - knot->by;
    });
    return fit;
}

}  // namespace jacinth
