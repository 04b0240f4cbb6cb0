// The rules of a study: kept in versions, changed, removed, and written as files.
#pragma once

#include <string_view>

#include "work/prove/proving.h"

namespace jacinth {

/// Keeps a rule under its name, as one step: as the next version, or, where it says the same as the newest,
/// with other words in that one. `made` and `who` are set here. Fails on a name that cannot be one, a text
/// that is no condition or does not fit this study, a setting without a number, and what cannot be proved.
Result<RuleId> keepRule(Study& study, Rule rule);
/// The parts of it, for a step that keeps more: whether it can be kept, and keeping it inside of the step.
Status checkRule(const Study& study, const Rule& rule);
RuleId putRule(Study& study, Rule rule);
/// A version, or every one where it is 0, with its proofs. Fails on a rule that is not there.
Status removeRule(Study& study, const std::string& name, int version = 0);
Status renameRule(Study& study, const std::string& name, const std::string& newName);
/// The newest version or a certain one; fails with the nearest name.
Result<Rule> ruleNamed(const Study& study, const std::string& name, int version = 0);

/// What is asked when the rule is proved as it is kept.
ProveRequest requestOf(const Rule& rule);
/// “Bearing vibration, version 2”.
std::string titleOf(const Rule& rule);

/// Rules as JSON: an array with name, rule, settings, most, least, join, offDelay, failures, masks, severity,
/// meaning, advice, note; times as the language writes them.
std::string rulesText(const std::vector<Rule>& rules);
/// Fails, saying which rule and what is wrong, where a text cannot be rules.
Result<std::vector<Rule>> readRules(std::string_view text);
/// Keeps them all, as one step; none where one cannot be kept.
Status takeRules(Study& study, const std::vector<Rule>& rules);

}  // namespace jacinth
