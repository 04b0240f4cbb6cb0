#include "work/facts.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/base/text.h"

namespace jacinth {

Result<Facts> factsOf(const Study& study, const FactOwner& owner) {
    if (owner.kind == FactOwner::Kind::Asset) {
        if (const Asset* a = study.catalog().asset(owner.id)) return a->facts;
    } else if (owner.kind == FactOwner::Kind::Tag) {
        if (const Tag* t = study.catalog().tag(owner.id)) return t->facts;
    } else if (const auto span = study.span(owner.id)) {
        return span->facts;
    }
    return Error{"what these facts belong to is not there any more"};
}

Result<FactChange> factChange(std::string_view name, std::string_view value) {
    FactChange out{std::string(trimmed(name)), {}};
    if (const Status good = checkName(out.name, "a fact"); !good) return good.error();
    value = trimmed(value);
    std::string point(value);
    std::replace(point.begin(), point.end(), ',', '.');
    if (const auto number = finiteNumber(point))
        out.value = *number;
    else if (!value.empty())
        out.value = std::string(value);
    return out;
}

Result<FactChange> factChangeFrom(const std::string& text) {
    const std::size_t equals = text.find('=');
    if (equals == std::string::npos) return Error{fmt::format("`{}` is not a fact; NAME=VALUE is", text)};
    return factChange(std::string_view(text).substr(0, equals), std::string_view(text).substr(equals + 1));
}

namespace {

std::string nameOf(const Study& study, const FactOwner& owner) {
    switch (owner.kind) {
        case FactOwner::Kind::Asset:
            return study.catalog().asset(owner.id)->name;
        case FactOwner::Kind::Tag:
            return study.catalog().tag(owner.id)->path();
        default:
            return fmt::format("span {}", owner.id);
    }
}

void putFacts(Study& study, const FactOwner& owner, const Facts& facts) {
    if (owner.kind == FactOwner::Kind::Asset) {
        study.setAssetFacts(owner.id, facts);
    } else if (owner.kind == FactOwner::Kind::Tag) {
        Tag tag = *study.catalog().tag(owner.id);
        tag.facts = facts;
        study.catalog().updateTag(tag);
    } else {
        Span span = *study.span(owner.id);
        span.facts = facts;
        study.updateSpan(span);
    }
}

}  // namespace

Status changeFacts(Study& study, const std::vector<FactOwner>& owners,
                   const std::vector<FactChange>& changes) {
    std::vector<std::string> names;
    for (const FactOwner& owner : owners) {
        if (const auto known = factsOf(study, owner); !known) return known.error();
        names.push_back(nameOf(study, owner));
    }
    if (owners.empty() || changes.empty()) return Done{};
    Facts said;
    std::vector<std::string> removed;
    for (const FactChange& c : changes) {
        if (c.value)
            said[c.name] = *c.value;
        else
            removed.push_back(c.name);
    }
    const nlohmann::json detail{
        {"of", names}, {"facts", nlohmann::json::parse(factsToJson(said))}, {"removed", removed}};
    study.change(
        names.size() == 1 ? "facts of " + names.front() : fmt::format("facts of {} things", names.size()), "",
        detail, [&] {
            for (const FactOwner& owner : owners) {
                Facts facts = *factsOf(study, owner);
                for (const FactChange& c : changes) {
                    facts.erase(c.name);
                    if (c.value) facts[c.name] = *c.value;
                }
                putFacts(study, owner, facts);
            }
        });
    return Done{};
}

}  // namespace jacinth
