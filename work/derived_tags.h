// Series that were worked out from tags and kept in the study as tags of their own.
#pragma once

#include <nlohmann/json_fwd.hpp>

#include "store/study.h"

namespace jacinth {

struct DerivedSeries {
    std::string name;  ///< of the tag
    std::string unit;
    Series series;  ///< NaN samples are left out
    TagKind kind = TagKind::Continuous;
    Duration longestGap = 0;  ///< to draw a line over
};

/// Keeps them on an asset as one undoable step. A derived tag of the same name gets the new samples; a tag
/// that was logged never does. `definition` says from what they were made and how. Returns the tags' ids.
Result<std::vector<std::int64_t>> keepDerived(Study& study, std::int64_t asset,
                                              const std::vector<DerivedSeries>& series,
                                              const std::string& stepName, const nlohmann::json& definition);

}  // namespace jacinth
