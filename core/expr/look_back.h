// How far back of a moment a call reads, by its own window alone.
#pragma once

#include "core/expr/ast.h"

namespace jacinth {

/// What a call adds to the look-back of its arguments: the length of its window or delay, what its fading
/// still weighs, or kAllBefore.
Duration ownLookBack(const Node& call);

}  // namespace jacinth
