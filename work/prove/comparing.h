// Rules side by side on the same failures.
#pragma once

#include "work/prove/proving.h"

namespace jacinth {

struct NamedRule {
    std::string name;
    ProveRequest request;
};

/// A failure, and which of the rules caught it or could be tested on it, by their places.
struct ComparedFailure {
    AssetId asset;
    Instant time{};
    std::vector<std::size_t> caughtBy, testableBy;
};

struct ComparedRules {
    std::vector<Proof> proofs;              ///< as the rules
    std::vector<ComparedFailure> failures;  ///< all on record, by time
    /// How many failures this rule alone caught, and how many both of two did.
    std::vector<int> alone;
    std::vector<std::vector<int>> both;
    int caughtByAny = 0;
};

/// Proves each. Fails as proveRule does, with the rule's name before it, and for fewer than two rules.
Result<ComparedRules> compareRules(Study& study, const std::vector<NamedRule>& rules,
                                   const Progress& progress = {});

}  // namespace jacinth
