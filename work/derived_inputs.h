// What an expression reads from a study: which tags and tracks, over which time, in which state.
#pragma once

#include "store/study.h"

namespace jacinth {

/// Ids of the tags it names on this asset, each once.
std::vector<std::int64_t> tagsOf(const Study& study, const Expression& expression, std::int64_t asset);
/// Names of the tracks it names.
std::vector<std::string> tracksOf(const Study& study, const Expression& expression);

/// Over what an expression has a value, and how finely.
struct DerivedReach {
    TimeRange range{0, 0};        ///< from the first sample of its tags to just after the last
    Duration spacing = kHour;     ///< the least of its tags' median spacings
    Duration longestGap = kHour;  ///< the least of its tags' longest gaps
    Duration margin = 0;          ///< the greatest: over which a line may reach
};
DerivedReach reachOf(Study& study, const Expression& expression, std::int64_t asset);

/// What the samples of a derived tag are made from, as JSON: the text, and of everything it reads a mark that
/// changes when that does. Of derived tags in `known` their own such texts are taken.
std::string madeFromOf(const Study& study, const Tag& tag, const std::string& text,
                       const std::map<std::int64_t, std::string>& known);

}  // namespace jacinth
