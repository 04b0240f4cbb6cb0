#include "core/span/fact_kind.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cstdio>
#include <set>

#include "core/base/text.h"

namespace jacinth {
namespace {

constexpr std::array<const char*, kFactTypes> kTypeNames{"number", "choice", "text", "time", "yes/no"};

Result<std::optional<Fact>> readNumberFact(const FactKind* kind, std::string_view text) {
    std::string_view number = text;
    if (kind && !kind->unit.empty() && number.ends_with(kind->unit))
        number = trimmed(number.substr(0, number.size() - kind->unit.size()));
    std::string point(number);
    std::replace(point.begin(), point.end(), ',', '.');
    if (const auto value = finiteNumber(point)) return std::optional(Fact(*value));
    if (!kind) return std::optional(Fact(std::string(text)));
    return Error{fmt::format("`{}` is not a number; {} is one{}", text, kind->name,
                             kind->unit.empty() ? "" : " in " + kind->unit)};
}

Result<std::optional<Fact>> readChoice(const FactKind& kind, std::string_view text) {
    for (const std::string& choice : kind.choices)
        if (lowerCase(choice) == lowerCase(text)) return std::optional(Fact(choice));
    return Error{
        fmt::format("`{}` is not a {}; these are: {}", text, kind.name, fmt::join(kind.choices, ", "))};
}

/// `2026-04-05 14:12` or with seconds, by the plant's clock.
std::optional<Instant> wallInstant(std::string_view text, const Zone& zone) {
    WallTime wall;
    int used = 0;
    const std::string whole(text);
    const int read = std::sscanf(whole.c_str(), "%4d-%2d-%2d%*1[ T]%2d:%2d%n:%2d%n", &wall.year, &wall.month,
                                 &wall.day, &wall.hour, &wall.minute, &used, &wall.second, &used);
    if (read < 5 || used != static_cast<int>(whole.size()) || !wall.valid()) return {};
    const WallInstant at = zone.instant(wall);
    return at.kind == WallKind::Skipped ? std::nullopt : std::optional(at.instant);
}

Result<std::optional<Fact>> readTimeFact(const FactKind& kind, std::string_view text, const Zone& zone) {
    if (const auto iso = fromIso(text)) return std::optional(Fact(toIso(*iso)));
    if (const auto wall = wallInstant(text, zone)) return std::optional(Fact(toIso(*wall)));
    return Error{fmt::format("`{}` is not a time; {} is one, like 2026-04-05 14:12 in {}", text, kind.name,
                             zone.name())};
}

Result<std::optional<Fact>> readYesNo(const FactKind& kind, std::string_view text) {
    const std::string said = lowerCase(text);
    for (const char* yes : {"yes", "y", "true", "1"})
        if (said == yes) return std::optional(Fact(std::string("yes")));
    for (const char* no : {"no", "n", "false", "0"})
        if (said == no) return std::optional(Fact(std::string("no")));
    return Error{fmt::format("`{}` is neither yes nor no, and {} is one of them", text, kind.name)};
}

}  // namespace

const char* factTypeName(FactType type) {
    return kTypeNames[static_cast<std::size_t>(type)];
}

std::optional<FactType> factTypeNamed(std::string_view name) {
    for (std::size_t i = 0; i < kTypeNames.size(); ++i)
        if (name == kTypeNames[i]) return static_cast<FactType>(i);
    return {};
}

const FactKind* findFactKind(const FactKinds& kinds, const std::string& name) {
    for (const FactKind& kind : kinds)
        if (kind.name == name) return &kind;
    return nullptr;
}

Status checkFactKinds(const FactKinds& kinds) {
    std::set<std::string> names;
    for (const FactKind& kind : kinds) {
        if (!names.insert(kind.name).second)
            return Error{fmt::format("there is a kind of fact `{}` already", kind.name)};
        if (kind.type == FactType::Choice && kind.choices.empty())
            return Error{fmt::format("{} is a choice; say between what", kind.name)};
        if (kind.type != FactType::Choice && !kind.choices.empty())
            return Error{fmt::format("{} has choices, but it is a {}", kind.name, factTypeName(kind.type))};
        if (kind.type != FactType::Number && !kind.unit.empty())
            return Error{fmt::format("{} has a unit, but only a number has one", kind.name)};
    }
    return Done{};
}

Result<std::optional<Fact>> readFact(const FactKind* kind, std::string_view text, const Zone& zone) {
    text = trimmed(text);
    if (text.empty()) return std::optional<Fact>();
    if (!kind) return readNumberFact(nullptr, text);
    switch (kind->type) {
        case FactType::Number:
            return readNumberFact(kind, text);
        case FactType::Choice:
            return readChoice(*kind, text);
        case FactType::Time:
            return readTimeFact(*kind, text, zone);
        case FactType::YesNo:
            return readYesNo(*kind, text);
        case FactType::Text:
            break;
    }
    return std::optional(Fact(std::string(text)));
}

std::string sayFact(const FactKind* kind, const Fact& fact, const Zone& zone) {
    const std::string text = factText(fact);
    if (!kind) return text;
    if (kind->type == FactType::Number && std::holds_alternative<double>(fact) && !kind->unit.empty())
        return text + " " + kind->unit;
    if (kind->type == FactType::Time)
        if (const auto at = fromIso(text)) return zone.preciseText(*at);
    return text;
}

}  // namespace jacinth
