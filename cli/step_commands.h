// Suspected steps by their numbers, for the commands that take one out.
#pragma once

#include "cli/command.h"
#include "core/mend/fix.h"

namespace jacinth::cli {

/// The shifts that take out step `number` of the list of `steps`, with those of the tags that share its mount
/// unless it is to be taken out `alone`. Refuses a number that is not in the list.
std::vector<Fix> fixesOfStep(Study& study, std::size_t number, bool alone);

}  // namespace jacinth::cli
