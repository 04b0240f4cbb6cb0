// Rules to begin with, for a plant whose tags have the roles they name.
#pragma once

#include "work/prove/rules.h"

namespace jacinth {

/// Those of the ready examples that fit the tags of the study: a level held, a slope, a level against the
/// tag's own week, two signs together. Their numbers are a start, not an answer.
std::vector<Rule> exampleRules(const Study& study);

}  // namespace jacinth
