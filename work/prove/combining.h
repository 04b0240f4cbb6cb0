// Rules made of others: golden limits as a rule, and several rules as one.
#pragma once

#include "work/prove/rules.h"

namespace jacinth {

/// True while any tag with limits of that name is outside them, for `ignore` or longer. Fails on limits that
/// are not there.
Result<std::string> limitsAsRule(const Study& study, const std::string& limits, Duration ignore = {});
/// True while at least `least` of them are: 1 for any, as many as there are for all. Settings are put in.
/// Fails where a setting has no number, and on fewer than two rules or a number that is none of 1 to all.
Result<std::string> atLeastOf(const std::vector<Rule>& rules, std::size_t least);

}  // namespace jacinth
