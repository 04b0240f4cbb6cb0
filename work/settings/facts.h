// Facts on assets, tags and spans, changed as one undoable step.
#pragma once

#include "core/span/fact_kind.h"
#include "store/study.h"

namespace jacinth {

/// Whose facts. A span is a run, a label, a failure …
using FactOwner = std::variant<AssetId, TagId, SpanId>;

Result<Facts> factsOf(const Study& study, const FactOwner& owner);

struct FactChange {
    std::string name;
    std::optional<Fact> value;  ///< none: the fact is removed
};
/// As the study's kind of fact of that name reads the value (core/span/fact_kind.h); where it has none, a
/// value that reads as a number becomes one. An empty one removes the fact. Fails on what cannot be a name,
/// and on a value that is not of the kind.
Result<FactChange> factChange(const Study& study, std::string_view name, std::string_view value);
Result<FactChange> factChangeFrom(const Study& study, const std::string& text);  ///< `NAME=VALUE`

/// On all of them alike, as one step; the ledger says what was before. Fails, without effect, where one of
/// them is not there.
Status changeFacts(Study& study, const std::vector<FactOwner>& owners,
                   const std::vector<FactChange>& changes);

/// Adds a kind of fact, or with a name that is known changes it; what is on record stays as it is. Fails on
/// what checkFactKinds refuses, and on a choice or a unit that does not fit what is on record already: it
/// says how many.
Status keepFactKind(Study& study, const FactKind& kind);
/// Facts of it stay, without a kind.
Status removeFactKind(Study& study, const std::string& name);

}  // namespace jacinth
