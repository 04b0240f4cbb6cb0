// Which asset of a fleet is unlike the others.
#pragma once

#include <cstddef>
#include <vector>

namespace jacinth {

/// How far an asset lies from the others' median profile, in their spread.
struct Oddness {
    std::size_t asset = 0;         ///< place in the profiles handed in
    double score = 0;              ///< mean over slices of |distance|; NaN where nothing can be compared
    std::vector<double> distance;  ///< per slice, with sign; NaN where the asset or its others have no value
    std::size_t slices = 0;        ///< that could be compared
};

/// `profiles`: one row an asset, all of one length; NaN where there is no value. Distance in a slice: the
/// asset's value less the median of the others, over 1.4826 · the median over slices of the others' MAD, so
/// that a slice in which the others happen to agree does not decide alone. A slice needs three others. From
/// most to least odd; those without a score last.
std::vector<Oddness> oddness(const std::vector<std::vector<double>>& profiles);

}  // namespace jacinth
