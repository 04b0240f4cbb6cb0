// Facts on assets, tags and spans, changed as one undoable step.
#pragma once

#include "store/study.h"

namespace jacinth {

/// Whose facts. A span is a run, a label, a failure …
struct FactOwner {
    enum class Kind { Asset, Tag, Span };
    Kind kind = Kind::Asset;
    std::int64_t id = 0;
};

Result<Facts> factsOf(const Study& study, const FactOwner& owner);
/// `NAME=VALUE`; a value that reads as a number becomes one, an empty value removes the fact.
Status setFact(Facts& facts, const std::string& text);
Status changeFacts(Study& study, const FactOwner& owner, const Facts& facts);

}  // namespace jacinth
