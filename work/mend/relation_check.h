// A tag against companions on a regular step: the relation between them, and the moments at which it does not
// hold.
#pragma once

#include "core/relate/saturation.h"
#include "core/series/resample.h"
#include "store/study.h"

namespace jacinth {

struct RelationQuestion {
    TagId of;
    std::vector<TagId> on;     ///< may be empty: the level of the tag alone
    TimeRange range{};         ///< the record where empty
    Period every;              ///< each row is the mean of a period
    bool logarithms = false;   ///< of values above 0; others are missing
    bool differences = false;  ///< from one row to the next; after the logarithms
    SaturationSpec search;
    Which which = Which::Mended;
};

struct TagRelation {
    Relation relation;           ///< the first coefficient is the constant
    std::vector<Instant> times;  ///< of the rows: starts of their periods; those without a value are left out
    std::vector<double> values;  ///< of the tag, row by row, as they were explained
    std::size_t leftOut = 0;     ///< periods in which a tag has no value
};

/// Fails on tags of states, on a tag that is held against itself, and where saturate fails.
Result<TagRelation> checkRelation(Study& study, const RelationQuestion& question,
                                  const Progress& progress = {});

}  // namespace jacinth
