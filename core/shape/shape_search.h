// Stretches of a record that look like an example, over one tag or several.
#pragma once

#include <vector>

#include "core/base/progress.h"
#include "core/base/result.h"

namespace jacinth {

/// One tag on a regular step; NaN where it has no value. `noise`: a stretch whose standard deviation is below
/// it is flat.
struct ShapeTag {
    std::vector<double> values;
    double noise = 0;
};

struct ShapeSpec {
    bool level =
        false;  ///< levels matter: distances are not taken after bringing both to mean 0 and spread 1
    double stretch =
        0;  ///< stretches are looked at that are longer and shorter by up to this share (0 to 0.5)
    std::size_t most = 100;  ///< hits
};

struct ShapeHit {
    std::size_t start = 0, length = 0;  ///< in steps of the record
    double distance = 0;
};

/// The stretches of a record nearest to an example, nearest first. Both have the same tags in the same order;
/// all tags of one are equally long.
///
/// The distance of a stretch in one tag is the Euclidean distance of both after each is brought to mean 0 and
/// standard deviation 1 (population), over √n (Mueen's algorithm: by sliding products); with `level` without
/// that, over the example's standard deviation. Of several tags: the root of the mean of the squares. A flat
/// stretch stands for a zero line: its distance is 1. Missing values are bridged by lines; a stretch with
/// more than a tenth of them missing is left out. With `stretch` the example is resampled to lengths in steps
/// of 2 %. Of hits whose middles are closer than half the example's length the nearest stays.
///
/// Time grows with the record's length · log of the example's, memory with the record's length. Fails where
/// the example is shorter than 4 values, has more than a tenth missing, is flat in every tag, or tags differ
/// in number or length; where it is stopped.
Result<std::vector<ShapeHit>> findShape(const std::vector<ShapeTag>& record,
                                        const std::vector<ShapeTag>& example, const ShapeSpec& spec,
                                        const Progress& progress = {});

/// 1.4826 · the median of |differences of neighbours| / √2: what a tag's neighbouring values differ by
/// without any process. NaN of fewer than two.
double noiseOf(const std::vector<double>& values);

}  // namespace jacinth
