#include "core/series/stuck.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/series/noise.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr double kUsualShare = 0.8, kUsualShareNear = 0.95;
constexpr int kRestTimes = 3;
constexpr double kNearSteps = 3.5;        // of the finest difference that is logged
constexpr std::size_t kPieces = 1 << 16;  // samples between two looks at the progress

/// Where each row of equal samples begins and ends, by samples' places.
std::vector<StuckStretch> rowsOfEqual(const SeriesView& s, const Progress& progress) {
    std::vector<StuckStretch> out;
    bool open = false;
    for (std::size_t i = 0; i < s.size(); ++i) {
        if (i % kPieces == 0 && progress.stopped(static_cast<double>(i) / static_cast<double>(s.size())))
            return {};
        if (s.ends(i)) open = false;
        if (!s.usable(i)) continue;
        if (open && out.back().value == s.values[i]) {
            out.back().range.to = s.times[i];
            ++out.back().samples;
        } else {
            out.push_back({{s.times[i], s.times[i]}, s.values[i], 1, 0});
        }
        open = true;
    }
    return out;
}

/// The values at which it comes to rest again and again: rows much longer than the middle one.
std::vector<double> restValues(const std::vector<StuckStretch>& rows, const StuckSearch& search) {
    std::vector<double> lengths;
    for (const StuckStretch& row : rows) lengths.push_back(static_cast<double>(row.samples));
    const double least =
        std::max(static_cast<double>(search.leastSamples), search.timesUsual * median(std::move(lengths)));
    std::map<double, int> times;
    for (const StuckStretch& row : rows)
        if (static_cast<double>(row.samples) >= least && row.range.length() >= search.least)
            ++times[row.value];
    std::vector<double> out;
    for (const auto& [value, n] : times)
        if (n >= kRestTimes) out.push_back(value);
    return out;
}

/// The length, in samples, of the rows that hold a share of the samples; those that `counts` says.
template <typename Counts>
std::size_t usualLength(const std::vector<StuckStretch>& rows, double share, const Counts& counts) {
    std::map<std::size_t, std::size_t> samples;  // by length of the row
    std::size_t all = 0;
    for (const StuckStretch& row : rows) {
        if (!counts(row)) continue;
        samples[row.samples] += row.samples;
        all += row.samples;
    }
    std::size_t within = 0;
    for (const auto& [length, n] : samples) {
        within += n;
        if (static_cast<double>(within) >= share * static_cast<double>(all)) return length;
    }
    return 1;
}

}  // namespace

std::vector<StuckStretch> stuckStretches(const SeriesView& series, const StuckSearch& search,
                                         const Progress& progress) {
    std::vector<StuckStretch> rows = rowsOfEqual(series, progress);
    const std::vector<double> rest = restValues(rows, search);
    std::erase_if(rows, [&](const StuckStretch& row) {
        return std::binary_search(rest.begin(), rest.end(), row.value);
    });
    const std::size_t usual = usualLength(rows, kUsualShare, [](const StuckStretch&) { return true; });
    const double near = kNearSteps * resolutionOf(series);
    const auto isLong = [&](const StuckStretch& row, std::size_t length) {
        return row.range.length() >= search.least && row.samples >= search.leastSamples &&
               static_cast<double>(row.samples) >= search.timesUsual * static_cast<double>(length);
    };
    std::vector<StuckStretch> out;
    for (const StuckStretch& row : rows) {
        if (!isLong(row, usual)) continue;
        const std::size_t there = usualLength(rows, kUsualShareNear, [&](const StuckStretch& other) {
            return std::abs(other.value - row.value) <= near && !isLong(other, usual);
        });
        out.push_back(row);
        out.back().usual = std::max(usual, there);
        if (!isLong(row, out.back().usual)) out.pop_back();
    }
    return out;
}

}  // namespace jacinth
