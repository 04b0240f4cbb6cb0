#include "core/model/parts.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/missing.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr double kNone = kMissing;

std::vector<double> centredAverage(std::span<const double> y, std::size_t period) {
    const std::size_t half = period / 2;
    const bool even = period % 2 == 0;
    std::vector<double> out(y.size(), kNone);
    for (std::size_t i = half; i + half < y.size(); ++i) {
        double sum = 0;
        for (std::size_t k = i - half; k <= i + half; ++k) {
            const bool edge = even && (k == i - half || k == i + half);
            sum += edge ? y[k] / 2 : y[k];
        }
        out[i] = sum / static_cast<double>(period);
    }
    return out;
}

/// Mean of what is there at each place in the period, centred.
std::vector<double> cycleOf(const std::vector<double>& detrended, std::size_t period, bool multiplied) {
    std::vector<double> places(period, kNone);
    for (std::size_t place = 0; place < period; ++place) {
        std::vector<double> there;
        for (std::size_t i = place; i < detrended.size(); i += period)
            if (std::isfinite(detrended[i])) there.push_back(detrended[i]);
        places[place] = mean(there);
    }
    const double centre = mean(places);
    for (double& v : places) v = multiplied ? v / centre : v - centre;
    return places;
}

double correlation(const std::vector<double>& a, const std::vector<double>& b) {
    const double ma = mean(a), mb = mean(b);
    double aa = 0, bb = 0, ab = 0;
    for (std::size_t i = 0; i < a.size(); ++i) {
        aa += (a[i] - ma) * (a[i] - ma);
        bb += (b[i] - mb) * (b[i] - mb);
        ab += (a[i] - ma) * (b[i] - mb);
    }
    return aa > 0 && bb > 0 ? ab / std::sqrt(aa * bb) : 0;
}

/// What a remainder still holds: repetition at the period, and growth of its size with the level.
std::pair<double, double> leftIn(const Parts& parts, int period) {
    std::vector<double> rest = parts.remainder, size;
    const double neutral = parts.multiplied ? 1 : 0;
    for (double& v : rest) {
        v -= neutral;
        size.push_back(std::abs(v));
    }
    return {autocorrelation(rest, static_cast<std::size_t>(period)).back(), correlation(size, parts.trend)};
}

}  // namespace

Result<Parts> classicalParts(std::span<const double> y, int period, bool multiplied) {
    if (period < 2) return Error{"a period needs two samples at least"};
    const auto m = static_cast<std::size_t>(period);
    if (y.size() < 2 * m) return Error{"the stretch is shorter than two periods"};
    if (multiplied && std::any_of(y.begin(), y.end(), [](double v) { return !(v > 0); }))
        return Error{"parts can be multiplied only where every value is above 0"};
    Parts out;
    out.multiplied = multiplied;
    out.trend = centredAverage(y, m);
    std::vector<double> detrended(y.size());
    for (std::size_t i = 0; i < y.size(); ++i)
        detrended[i] = multiplied ? y[i] / out.trend[i] : y[i] - out.trend[i];
    const std::vector<double> places = cycleOf(detrended, m, multiplied);
    for (std::size_t i = 0; i < y.size(); ++i) {
        out.cycle.push_back(places[i % m]);
        out.remainder.push_back(multiplied ? y[i] / out.cycle[i] / out.trend[i]
                                           : detrended[i] - out.cycle[i]);
    }
    return out;
}

std::vector<double> autocorrelation(std::span<const double> y, std::size_t most) {
    const double centre = mean(y);
    std::vector<double> x(y.begin(), y.end());
    for (double& v : x) v -= centre;
    std::vector<double> out;
    for (std::size_t lag = 0; lag <= std::min(most, x.size() - 1); ++lag) {
        double sum = 0;
        for (std::size_t i = lag; i < x.size(); ++i) sum += x[i] * x[i - lag];
        out.push_back(sum);
    }
    const double whole = out.empty() ? 0 : out[0];
    for (double& v : out) v = whole > 0 ? v / whole : kNone;
    return out;
}

PeriodGuess proposePeriod(std::span<const double> y) {
    if (y.size() < 12) return {};
    std::vector<double> x, level(y.begin(), y.end());
    for (std::size_t i = 0; i < y.size(); ++i) x.push_back(static_cast<double>(i));
    const Line line = fitLine(x, level);
    for (std::size_t i = 0; i < level.size(); ++i) level[i] -= line.intercept + line.slope * x[i];
    const auto r = autocorrelation(level, y.size() / 3);
    const auto fell = std::find_if(r.begin(), r.end(), [](double v) { return v < 0; });
    // A long lag has fewer products to sum: per product, the peak stands where the period is.
    const auto n = static_cast<double>(y.size());
    const auto each = [&](std::size_t i) { return r[i] * n / (n - static_cast<double>(i)); };
    std::vector<std::size_t> peaks;
    double best = 0;
    for (auto i = static_cast<std::size_t>(fell - r.begin()) + 1; i + 1 < r.size(); ++i)
        if (each(i) >= each(i - 1) && each(i) > each(i + 1)) {
            peaks.push_back(i);
            best = std::max(best, each(i));
        }
    // Whole multiples of a period stand as high as the period itself: the first that is near the highest.
    PeriodGuess out;
    for (const std::size_t i : peaks)
        if (each(i) >= 0.85 * best) {
            out = {static_cast<int>(i), r[i]};
            break;
        }
    if (out.strength < 0.1 || out.strength < 2 / std::sqrt(static_cast<double>(y.size()))) return {};
    return out;
}

Result<KindProposal> proposeKind(std::span<const double> y, int period) {
    // One cycle for all of the stretch: one that follows every change would hide what is to be seen.
    LoessSpans steady;
    steady.cycle = 20 * static_cast<int>(y.size() / static_cast<std::size_t>(period)) + 1;
    const auto added = loessParts(y, period, false, steady);
    if (!added) return added.error();
    KindProposal out;
    std::tie(out.repeatsAdded, out.growsAdded) = leftIn(*added, period);
    const auto multiplied = loessParts(y, period, true, steady);
    if (!multiplied) {
        out.reason = "Added: not every value is above 0, as multiplying needs.";
        return out;
    }
    std::tie(out.repeatsMultiplied, out.growsMultiplied) = leftIn(*multiplied, period);
    const double left = std::abs(out.repeatsAdded) + std::abs(out.growsAdded),
                 leftMultiplied = std::abs(out.repeatsMultiplied) + std::abs(out.growsMultiplied);
    // What is left, in the tag's own unit: near 0 a product fits nothing well, whatever the correlations say.
    std::vector<double> added_, multiplied_;
    for (std::size_t i = 0; i < y.size(); ++i) {
        added_.push_back(added->remainder[i]);
        multiplied_.push_back(y[i] - multiplied->trend[i] * multiplied->cycle[i]);
    }
    const double rest = standardDeviation(added_), restMultiplied = standardDeviation(multiplied_);
    out.multiplied = leftMultiplied < left && restMultiplied <= rest * 1.02;
    if (leftMultiplied < left && !out.multiplied) {
        out.reason = fmt::format(
            "Added: multiplied leaves more of the tag unexplained (s of the remainder {:.3g} against "
            "{:.3g}).",
            restMultiplied, rest);
        return out;
    }
    out.reason = fmt::format(
        "{}: the remainder repeats with the period by {:.2f} added, {:.2f} multiplied, and its size goes "
        "with the "
        "level by {:.2f} added, {:.2f} multiplied; nearer to 0 is better.",
        out.multiplied ? "Multiplied" : "Added", out.repeatsAdded, out.repeatsMultiplied, out.growsAdded,
        out.growsMultiplied);
    return out;
}

}  // namespace jacinth
