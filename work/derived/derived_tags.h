// Series that were calculated from tags once and kept in the study as tags of their own.
#pragma once

#include <nlohmann/json.hpp>

#include "store/study.h"

namespace jacinth {

struct DerivedSeries {
    std::string name;  ///< of the tag
    std::string unit;
    Series series;  ///< NaN samples are left out
    TagKind kind = TagKind::Continuous;
    Duration longestGap{};  ///< to draw a line over
};

/// What kept series were calculated from, as it was when it was read.
struct KeptOrigin {
    TagId tag;
    TimeRange over;
    Which which = Which::Mended;
    bool toTheEnd = false;  ///< `over` reached to the end of the record
    std::string mark;  ///< of the samples (StudyMarks::ofSamples): another mark says that they changed since
};
/// Ask for it before the samples are read: what changes meanwhile is then noticed.
KeptOrigin originOf(const Study& study, const Tag& tag, TimeRange over, Which which);

/// Series to be kept together.
struct SamplesToKeep {
    AssetId asset;
    std::vector<DerivedSeries> series;
    std::string stepName;
    KeptOrigin origin;
    nlohmann::json how;  ///< they were calculated; see kept_tags.h, which reads it again
};
/// Keeps them on their asset as one undoable step. A kept tag of the same name gets the new samples; a tag
/// that was logged, or is given by an expression, never does. Returns the tags' ids.
Result<std::vector<TagId>> keepDerived(Study& study, const SamplesToKeep& samples);

}  // namespace jacinth
