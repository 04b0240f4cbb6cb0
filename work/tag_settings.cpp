#include "work/tag_settings.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "store/tag_kind.h"

namespace jacinth {
namespace {

Status checkSettings(const Study& study, const Tag& tag, const TagSettings& s) {
    if (s.role) {
        if (const Status good = checkRole(*s.role); !good) return good;
        const Tag* other = study.catalog().tagInRole(tag.asset, *s.role);
        if (other && other->id != tag.id)
            return Error{fmt::format("{} has the role `{}` already", other->path(), *s.role)};
    }
    if (s.longestGap && *s.longestGap && **s.longestGap <= 0)
        return Error{"the longest gap has to be a length of time above 0"};
    const TagKind kind = s.kind.value_or(tag.kind);
    const bool turns = (kind == TagKind::State) != (tag.kind == TagKind::State);
    if (turns && study.derivedDefinition(tag.id).is_object())
        return Error{fmt::format("{} is a derived tag: its kind comes from its expression", tag.path())};
    if (!s.states.empty() && kind != TagKind::State)
        return Error{fmt::format("{} is a tag of numbers and has no states", tag.path())};
    for (const std::string& state : s.states)
        if (const Status good = checkName(state, "a state"); !good) return good;
    return Done{};
}

}  // namespace

Status checkRole(const std::string& role) {
    const auto letter = [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_' || static_cast<unsigned char>(c) >= 0x80;
    };
    const bool good = !role.empty() && letter(role.front()) &&
                      std::all_of(role.begin(), role.end(),
                                  [&](char c) { return letter(c) || (c >= '0' && c <= '9'); });
    if (!good)
        return Error{fmt::format("`{}` cannot be a role: letters, digits and `_` make one, and no digit stands first; "
                                 "`{}` would do",
                                 role, roleFromName(role).empty() ? "role" : roleFromName(role))};
    return checkName(role, "a role");
}

Status changeTag(Study& study, std::int64_t id, const TagSettings& s) {
    const Tag* known = study.catalog().tag(id);
    if (!known) return Error{"there is no such tag"};
    const Tag before = *known;
    if (const Status good = checkSettings(study, before, s); !good) return good;
    const TagKind kind = s.kind.value_or(before.kind);
    const bool turns = (kind == TagKind::State) != (before.kind == TagKind::State);
    const auto work = [&] {
        if (turns) changeTagKind(study, id, kind);
        for (const std::string& state : s.states) study.catalog().addState(id, state);
        Tag tag = *study.catalog().tag(id);
        tag.kind = kind;
        if (s.role) tag.role = *s.role;
        if (s.unit) tag.unit = *s.unit;
        if (s.longestGap) tag.longestGap = *s.longestGap;
        study.catalog().updateTag(tag);
    };
    const nlohmann::json detail{{"role", s.role.value_or(before.role)},
                                {"unit", s.unit.value_or(before.unit)},
                                {"kind", tagKindName(kind)},
                                {"states", s.states}};
    try {
        if (turns || !s.states.empty())
            study.changeWithSamples("settings of " + before.path(), "", detail, work);
        else
            study.change("settings of " + before.path(), "", detail, work);
    } catch (const StoreError& e) {
        return Error{e.what()};
    }
    return Done{};
}

}  // namespace jacinth
