// Numbers that name things of a study: one type for each kind of thing, so that a tag cannot be handed over
// where a run is meant.
#pragma once

#include <fmt/core.h>

#include <compare>
#include <concepts>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <istream>
#include <ostream>

namespace jacinth {

/// Names one thing of a kind, or none (0). Ids are given out by the study file, are never given out twice,
/// and are only compared, kept and handed on: they cannot be calculated with, and a number becomes an id only
/// by an explicit conversion. `number` is for the borders: the file, JSON, a table's keys, what the user
/// typed.
///
///     TagId tag = study.catalog().find("Kiln 3/Air-off temp")->id;
///     SpanId run = tag;  // does not compile
template <typename Kind>
struct Id {
    std::int64_t number = 0;

    constexpr Id() = default;
    template <std::integral Number>
    constexpr explicit Id(Number n) : number(static_cast<std::int64_t>(n)) {}
    constexpr explicit operator bool() const { return number != 0; }
    constexpr bool operator==(const Id&) const = default;
    constexpr auto operator<=>(const Id&) const = default;
};

using AssetId = Id<struct AssetIdKind>;
using TagId = Id<struct TagIdKind>;
using TrackId = Id<struct TrackIdKind>;
using SpanId = Id<struct SpanIdKind>;  ///< of runs, excursions, labels, failures: whatever lies on a track
using FixId = Id<struct FixIdKind>;
using LimitSetId = Id<struct LimitSetIdKind>;
using RuleId = Id<struct RuleIdKind>;  ///< of one version of a rule
using ProofId = Id<struct ProofIdKind>;
using EvidenceId = Id<struct EvidenceIdKind>;
using ImportId = Id<struct ImportIdKind>;
using StepId = Id<struct StepIdKind>;  ///< of steps that can be undone

template <typename Kind>
std::ostream& operator<<(std::ostream& out, Id<Kind> id) {
    return out << id.number;
}

/// For options of the command line.
template <typename Kind>
std::istream& operator>>(std::istream& in, Id<Kind>& id) {
    return in >> id.number;
}

/// For nlohmann::json, which finds these by their names.
template <typename Json, typename Kind>
void to_json(Json& json, Id<Kind> id) {
    json = id.number;
}
template <typename Json, typename Kind>
void from_json(const Json& json, Id<Kind>& id) {
    id.number = json.template get<std::int64_t>();
}

}  // namespace jacinth

template <typename Kind>
struct fmt::formatter<jacinth::Id<Kind>> : fmt::formatter<std::int64_t> {
    template <typename Context>
    auto format(jacinth::Id<Kind> id, Context& context) const {
        return fmt::formatter<std::int64_t>::format(id.number, context);
    }
};

template <typename Kind>
struct std::hash<jacinth::Id<Kind>> {
    std::size_t operator()(jacinth::Id<Kind> id) const noexcept {
        return std::hash<std::int64_t>{}(id.number);
    }
};
