// Peaks of a series: by height, prominence, width and distance.
#pragma once

#include <limits>
#include <vector>

#include "core/series/series.h"

namespace jacinth {

/// A local maximum: higher than the samples on both sides; of a flat top the middle one.
struct Peak {
    std::size_t index = 0;  ///< of the usable samples handed in
    Instant time{};
    double height = 0;
    double prominence = 0;  ///< height above the higher of the lowest points between it and higher ground on
                            ///< either side (or the end of the series)
    Instant left{}, right{};  ///< where the flanks cross height − relativeHeight · prominence, on lines
                              ///< between samples
    Duration width() const { return right - left; }
};

/// Bounds include their ends. Textbook definitions, as common numeric libraries have them, in time instead of
/// samples: the same settings give the same peaks where samples are evenly spaced.
struct PeakSearch {
    double leastHeight = -std::numeric_limits<double>::infinity();
    double greatestHeight = std::numeric_limits<double>::infinity();
    double leastProminence = 0;
    double greatestProminence = std::numeric_limits<double>::infinity();
    Duration leastWidth{};
    Duration greatestWidth = Duration::max();
    Duration leastDistance{};     ///< of two peaks closer than this the lower goes
    double relativeHeight = 0.5;  ///< where the width is taken: 0 at the top, 1 at the base
    bool troughs = false;         ///< look for low points instead: heights are then negated values
};

/// In time order. Heights of troughs are given as they are in the series. Linear in samples up to the widths
/// of the peaks that remain after height, distance and prominence.
std::vector<Peak> findPeaks(const SeriesView& series, const PeakSearch& search);

/// How prominent a peak of the noise alone may well be: six times the noise level, which is estimated from
/// the median absolute difference of neighbouring samples (1.4826 · median / √2). 0 for fewer than three
/// usable samples.
double noiseProminence(const SeriesView& series);

/// Splits widths into narrow and broad where their logarithms part best (Otsu 1979): what is below is a spike
/// of the sensor more likely than the process. 0 where they do not part clearly: a group of fewer than three,
/// geometric means less than four times apart, less than 5 + 10/n of Ashman's D (Ashman, Bird & Zepf 1994:
/// distance of the means over the root of the mean variance; one even group gives 3.5), or more in the middle
/// third between the means than a tenth of the smaller group.
Duration narrowBelow(const std::vector<Peak>& peaks);

}  // namespace jacinth
