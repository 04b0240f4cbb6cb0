// Which stretches are the next worth labelling: unlike anything labelled so far, or like what was unsure.
#pragma once

#include <cstddef>
#include <vector>

namespace jacinth {

/// A stretch (a day of an asset, say) by its figures; NaN where one has no value. All are equally long.
struct StretchFigures {
    std::vector<double> figures;
    bool labelled = false;
    bool unsure = false;  ///< it holds a mark that was not sure
};

struct WorthLabelling {
    std::size_t stretch = 0;
    double distance = 0;      ///< to the nearest labelled one; to the middle of all where none is
    bool likeUnsure = false;  ///< chosen because it is near to an unsure one
    std::size_t nearest = 0;  ///< that stretch: the unsure one, or the nearest labelled one
};

/// Each figure is scaled by its median and 1.4826 · median absolute deviation over all stretches (a figure
/// without spread is left out); the distance of two is the root of the mean of the squared differences over
/// the figures that both have. First what lies nearest to an unsure stretch, nearer than half of the
/// unlabelled ones do; then, farthest first, what lies farthest from everything labelled (the next to be
/// asked for in active learning by uncertainty and by diversity: Settles, Active Learning Literature Survey,
/// 2009). At most half of `most` are of the first sort. Labelled ones are never in it.
std::vector<WorthLabelling> worthLabelling(const std::vector<StretchFigures>& stretches, std::size_t most);

}  // namespace jacinth
