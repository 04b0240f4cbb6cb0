// Facts on assets, tags and spans, changed as one undoable step.
#pragma once

#include "store/study.h"

namespace jacinth {

/// Whose facts. A span is a run, a label, a failure …
using FactOwner = std::variant<AssetId, TagId, SpanId>;

Result<Facts> factsOf(const Study& study, const FactOwner& owner);

struct FactChange {
    std::string name;
    std::optional<Fact> value;  ///< none: the fact is removed
};
/// A value that reads as a number, with decimal point or comma, becomes one; an empty one removes the fact.
/// Fails on what cannot be a name.
Result<FactChange> factChange(std::string_view name, std::string_view value);
Result<FactChange> factChangeFrom(const std::string& text);  ///< `NAME=VALUE`

/// On all of them alike, as one step. Fails, without effect, where one of them is not there.
Status changeFacts(Study& study, const std::vector<FactOwner>& owners,
                   const std::vector<FactChange>& changes);

}  // namespace jacinth
