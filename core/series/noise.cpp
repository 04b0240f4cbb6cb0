#include "core/series/noise.h"

#include <algorithm>
#include <cmath>

#include "core/base/missing.h"
#include "core/stats/stats.h"

namespace jacinth {

NearbyNoise::NearbyNoise(const std::vector<double>& figure) {
    std::vector<double> own;
    for (std::size_t from = 0; from < figure.size(); from += kStretch) {
        const std::size_t to = std::min(figure.size(), from + kStretch);
        std::vector<double> part(figure.begin() + static_cast<std::ptrdiff_t>(from),
                                 figure.begin() + static_cast<std::ptrdiff_t>(to));
        for (double& v : part) v = std::abs(v);
        own.push_back(1.4826 * median(std::move(part)));
    }
    greatest_ = own;
    for (std::size_t b = 0; b < own.size(); ++b) {
        if (b > 0) greatest_[b] = std::max(greatest_[b], own[b - 1]);
        if (b + 1 < own.size()) greatest_[b] = std::max(greatest_[b], own[b + 1]);
    }
}

double resolutionOf(const SeriesView& series) {
    double least = 0, last = kMissing;
    for (std::size_t i = 0; i < series.size(); ++i) {
        if (!series.usable(i)) continue;
        const double d = std::abs(series.values[i] - last);
        if (d > 0 && (least == 0 || d < least)) least = d;
        last = series.values[i];
    }
    return least;
}

}  // namespace jacinth
