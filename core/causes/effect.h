// What a cause adds to the values of a tag: it is taken away to see what would be left without it.
#pragma once

#include <optional>
#include <vector>

#include "core/base/id.h"
#include "core/golden/golden_limits.h"

namespace jacinth {

inline constexpr TimeRange kAllTime{Instant::min(), Instant::max()};

/// The common scale of runs cut into bins of one width.
struct ScaleBins {
    Place first{};
    Duration width{};
    std::size_t count = 0;

    Place centre(std::size_t bin) const {
        return first + width * static_cast<Duration::rep>(bin) + width / 2;
    }
    /// About `wanted` bins, each of whole slices, over the slices of the limits. None without slices.
    static ScaleBins over(const GoldenLimits& limits, std::size_t wanted);
};

/// An amount that depends on the place in the run, in the tag's unit: one value per bin, straight between
/// their centres and held outside; NaN is taken as 0. One value alone is the same everywhere.
struct ScaleShape {
    ScaleBins bins;
    std::vector<double> values;
    double at(Place place) const;
};

/// How much of the shape acts at a moment.
struct TimeWeight {
    Instant time{};
    double weight = 0;
};

/// Adds shape(place) × weight(time) to the tag's values from range.from (included) to range.to (not).
struct CauseEffect {
    TagId tag;
    TimeRange range{};
    ScaleShape shape;
    std::vector<TimeWeight> weights;  ///< rising; straight between, held outside; empty for 1
    /// It acts in these stretches alone: where runs of an asset lie on several limits' scales, a shape is of
    /// one.
    std::vector<TimeRange> onlyIn;  ///< by time, without overlap; empty for everywhere in its range

    /// Samples at this value or beyond it, on the side to which the effect pushes, are left as they are: at
    /// the end of its scale a meter shows nothing of what is added to it. Only where the shape is one value.
    std::optional<double> endOfScale;
    bool isAtEnd(double value) const;

    double weightAt(Instant t) const;  ///< 0 outside its range
    /// 0 outside its range, and where a shape of several bins has no place.
    double at(Instant t, std::optional<Place> place) const;
    bool dependsOnPlace() const { return shape.values.size() > 1; }
};

/// Where the end of a meter's scale begins: a fiftieth of what it varies from its least value (with `high`,
/// its greatest), where at least a twentieth of the usable samples have that value. Nothing where they do
/// not, or where all samples are the same.
std::optional<double> endOfScale(const SeriesView& series, bool high);

/// The series without what the effects add. `scale` is that of the run it is read for.
void takeAway(Series& series, const std::vector<CauseEffect>& effects, const RunScale& scale);

}  // namespace jacinth
