// Kept tags: derived tags whose samples were calculated once (the parts of a tag, a tag by periods). They
// stay as they are when what they were made from changes; they say so, and can be made again.
#pragma once

#include <functional>

#include "core/base/progress.h"
#include "work/derived/derived_tags.h"

namespace jacinth {

struct KeptTag {
    Tag tag;
    std::string from;          ///< path of the tag it was made from
    std::string how;           ///< in words: `trend by LOESS, mean of every 6h, cycle 1d, added`
    Instant at = kNoInstant;   ///< when; kNoInstant where the study does not say
    bool behind = false;       ///< what it was made from has changed since
    std::string cannotBeMade;  ///< why it cannot be made again; empty where it can
};
/// In order of creation.
std::vector<KeptTag> keptTags(const Study& study);

/// Calculates its samples, and those of the tags kept with it that are still there, as they were made, from
/// what is there now; over the whole of a record that has grown where they reached to its end. Reads only; to
/// be kept with keepDerived. Fails with words for the user.
Result<SamplesToKeep> makeAgain(Study& study, TagId tag, const Progress& progress = {});

}  // namespace jacinth
