// Kinds of fact that a site has defined: what may be said of assets, tags and spans, and in which form.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/span/span.h"
#include "core/time/zone.h"

namespace jacinth {

/// In the file a number is a number and everything else a text: a time in ISO 8601 with Z, yes/no as `yes` or
/// `no`.
enum class FactType { Number, Choice, Text, Time, YesNo };
inline constexpr int kFactTypes = 5;
const char* factTypeName(FactType type);  ///< number, choice, text, time, yes/no
std::optional<FactType> factTypeNamed(std::string_view name);

struct FactKind {
    std::string name;
    FactType type = FactType::Text;
    std::string unit;                  ///< of a number
    std::vector<std::string> choices;  ///< of a choice
    std::string meaning;
    bool operator==(const FactKind&) const = default;
};
using FactKinds = std::vector<FactKind>;

const FactKind* findFactKind(const FactKinds& kinds, const std::string& name);

/// Why these cannot be the kinds of a study: two of one name, a choice without choices, a unit on what has
/// none.
Status checkFactKinds(const FactKinds& kinds);

/// What a text says as this kind: a number with decimal point or comma, with its unit after it or not; one of
/// the choices; a time as the plant's wall clock or in ISO 8601; yes or no, also 1 or 0. Without a kind
/// (null) a text that reads as a number is one. An empty text is none. Fails on what cannot be of the kind,
/// and says what can.
Result<std::optional<Fact>> readFact(const FactKind* kind, std::string_view text, const Zone& zone);

/// As it is shown: with its unit, a time as the plant's wall clock.
std::string sayFact(const FactKind* kind, const Fact& fact, const Zone& zone);

}  // namespace jacinth
