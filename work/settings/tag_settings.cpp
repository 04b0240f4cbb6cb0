#include "work/settings/tag_settings.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/mend/fix.h"
#include "store/derived_catalog.h"
#include "store/judgement.h"
#include "store/tag_kind.h"

namespace jacinth {
namespace {

/// No fix, on or off, adds to the numbers of this tag or borrows them.
Status checkNoFixNeedsNumbers(const Study& study, const Tag& tag) {
    for (const Fix& fix : study.judgement().allFixes()) {
        const auto* borrow = std::get_if<BorrowFix>(&fix.body);
        const Tag* on = study.catalog().tag(fix.tag);
        if (!on) continue;
        if (fix.tag == tag.id && !fix.worksOnStates())
            return Error{
                fmt::format("a {} lies on {}, which changes numbers; undo or remove it before the tag "
                            "becomes one of states",
                            fixKindName(fix.kind()), tag.path())};
        if (borrow && borrow->twin == tag.id)
            return Error{
                fmt::format("a fix on {} borrows the numbers of {}; undo or remove it before the tag "
                            "becomes one of states",
                            on->path(), tag.path())};
    }
    return Done{};
}

Status checkSettings(const Study& study, const Tag& tag, const TagSettings& s) {
    if (s.role) {
        if (const Status good = checkRole(*s.role); !good) return good;
        const Tag* other = study.catalog().tagInRole(tag.asset, *s.role);
        if (other && other->id != tag.id)
            return Error{fmt::format("{} has the role `{}` already", other->path(), *s.role)};
    }
    if (s.longestGap && *s.longestGap && **s.longestGap <= Duration::zero())
        return Error{"the longest gap has to be a length of time above 0"};
    const TagKind kind = s.kind.value_or(tag.kind);
    const bool turns = (kind == TagKind::State) != (tag.kind == TagKind::State);
    if (turns && study.derived().definition(tag.id).is_object())
        return Error{fmt::format("{} is a derived tag: its kind comes from its expression", tag.path())};
    if (turns && kind == TagKind::State)
        if (const Status free = checkNoFixNeedsNumbers(study, tag); !free) return free;
    if (!s.states.empty() && kind != TagKind::State)
        return Error{fmt::format("{} is a tag of numbers and has no states", tag.path())};
    for (const std::string& state : s.states)
        if (const Status good = checkName(state, "a state"); !good) return good;
    return Done{};
}

}  // namespace

Status checkRole(const std::string& role) {
    const auto letter = [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_' ||
               static_cast<unsigned char>(c) >= 0x80;
    };
    const bool good =
        !role.empty() && letter(role.front()) &&
        std::all_of(role.begin(), role.end(), [&](char c) { return letter(c) || (c >= '0' && c <= '9'); });
    if (!good)
        return Error{
            fmt::format("`{}` cannot be a role: letters, digits and `_` make one, and no digit stands first; "
                        "`{}` would do",
                        role, roleFromName(role).empty() ? "role" : roleFromName(role))};
    return checkName(role, "a role");
}

namespace {

bool turns(const Tag& tag, const TagSettings& s) {
    return s.kind && (*s.kind == TagKind::State) != (tag.kind == TagKind::State);
}

void putSettings(Study& study, TagId id, const TagSettings& s) {
    if (turns(*study.catalog().tag(id), s)) changeTagKind(study, id, *s.kind);
    for (const std::string& state : s.states) study.catalog().addState(id, state);
    Tag tag = *study.catalog().tag(id);
    if (s.kind) tag.kind = *s.kind;
    if (s.role) tag.role = *s.role;
    if (s.unit) tag.unit = *s.unit;
    if (s.longestGap) tag.longestGap = *s.longestGap;
    study.catalog().updateTag(tag);
}

nlohmann::json detailOf(const std::vector<Tag>& tags, const TagSettings& s) {
    nlohmann::json out = nlohmann::json::array();
    for (const Tag& t : tags) {
        out.push_back({{"tag", t.path()},
                       {"role", s.role.value_or(t.role)},
                       {"unit", s.unit.value_or(t.unit)},
                       {"kind", tagKindName(s.kind.value_or(t.kind))}});
        if (!s.states.empty()) out.back()["states"] = s.states;
        if (const auto gap = s.longestGap.value_or(t.longestGap))
            out.back()["longestGap"] = formatDuration(*gap);
    }
    return out;
}

}  // namespace

Status changeTags(Study& study, const std::vector<TagId>& ids, const TagSettings& s) {
    std::vector<Tag> tags;
    std::map<AssetId, std::string> firstOf;  // by asset
    for (const TagId id : ids) {
        const Tag* tag = study.catalog().tag(id);
        if (!tag) return Error{"one of the tags was removed meanwhile"};
        if (const Status good = checkSettings(study, *tag, s); !good) return good;
        const auto [first, only] = firstOf.emplace(tag->asset, tag->path());
        if (s.role && !only)
            return Error{fmt::format("one asset has a role once: {} and {} would both be `{}`", first->second,
                                     tag->path(), *s.role)};
        tags.push_back(*tag);
    }
    if (tags.empty()) return Done{};
    const std::string name = tags.size() == 1 ? "settings of " + tags.front().path()
                                              : fmt::format("settings of {} tags", tags.size());
    const auto work = [&] {
        for (const TagId id : ids) putSettings(study, id, s);
    };
    const bool samples =
        !s.states.empty() || std::any_of(tags.begin(), tags.end(), [&](const Tag& t) { return turns(t, s); });
    try {
        if (samples)
            study.changeWithSamples(name, "", detailOf(tags, s), work);
        else
            study.change(name, "", detailOf(tags, s), work);
    } catch (const StoreError& e) {
        return Error{e.what()};
    }
    return Done{};
}

}  // namespace jacinth
