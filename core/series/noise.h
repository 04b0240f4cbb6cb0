// What is usual of a figure nearby, and the finest difference that a logger writes.
#pragma once

#include <vector>

#include "core/series/series.h"

namespace jacinth {

/// The robust standard deviation of a figure about 0 (1.4826 · median of |figure|), stretch by stretch of 256
/// values: the greatest of a stretch and its two neighbours, so that the edge between a quiet stretch and a
/// noisy one does not stand out.
class NearbyNoise {
  public:
    explicit NearbyNoise(const std::vector<double>& figure);
    double at(std::size_t i) const { return greatest_[i / kStretch]; }  ///< i below the number of values
    static constexpr std::size_t kStretch = 256;

  private:
    std::vector<double> greatest_;
};

/// The least difference of two usable neighbours that differ; 0 where none do.
double resolutionOf(const SeriesView& series);

}  // namespace jacinth
