// Golden limits as they are kept: one version of a set in one text in JSON.
#pragma once

#include "store/judgement.h"

namespace jacinth {

std::string limitBodyOf(const LimitSet& set);

/// Takes up what a body says. Fails on a member that cannot be, without effect on `set`.
Status readLimitBody(const std::string& body, LimitSet& set);

}  // namespace jacinth
