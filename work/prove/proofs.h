// Proofs that are kept with a rule: what they were made from, and whether that still stands.
#pragma once

#include "work/prove/rules.h"

namespace jacinth {

/// Marks of what a proof of this rule reads, by what it is: `failures`, `masks`, `labels of alarms`, and of
/// each asset its samples and fixes.
std::map<std::string, std::string> provedFrom(const Study& study, const ProveRequest& request);

/// Keeps a rule as keepRule does, with a proof of it that was asked for with `request`, as one step.
Result<RuleId> keepProved(Study& study, const Rule& rule, const ProveRequest& request, const Proof& proof);
/// Keeps a further proof of a version that is kept, as one step.
Status keepProofOf(Study& study, const Rule& rule, const ProveRequest& request, const Proof& proof);
/// The last one of a version; none where there is none.
std::optional<KeptProof> lastProof(const Study& study, RuleId rule);

/// What has changed since, one line each: “failures were added, changed or removed”, “Kiln 4/Bearing vib. has
/// other fixes”. Empty where proving again would read the same.
std::vector<std::string> outOfDate(const Study& study, const Rule& rule, const KeptProof& kept);

/// What a later proof says otherwise, one line each: “Kiln 3, 4 Apr 06:00 is missed now”, “2 more false
/// alarms”. Empty where they say the same.
std::vector<std::string> whatDiffers(const Study& study, const Proof& before, const Proof& after);

}  // namespace jacinth
