#include "work/settings/facts.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/base/overloaded.h"
#include "core/base/text.h"
#include "store/tracks.h"

namespace jacinth {

Result<Facts> factsOf(const Study& study, const FactOwner& owner) {
    const auto found = std::visit(Overloaded{[&](AssetId id) -> std::optional<Facts> {
                                                 const Asset* a = study.catalog().asset(id);
                                                 return a ? std::optional(a->facts) : std::nullopt;
                                             },
                                             [&](TagId id) -> std::optional<Facts> {
                                                 const Tag* t = study.catalog().tag(id);
                                                 return t ? std::optional(t->facts) : std::nullopt;
                                             },
                                             [&](SpanId id) -> std::optional<Facts> {
                                                 const auto span = study.tracks().span(id);
                                                 return span ? std::optional(span->facts) : std::nullopt;
                                             }},
                                  owner);
    if (!found) return Error{"what these facts belong to is not there any more"};
    return *found;
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
    return std::visit(Overloaded{[&](AssetId id) { return study.catalog().asset(id)->name; },
                                 [&](TagId id) { return study.catalog().tag(id)->path(); },
                                 [](SpanId id) { return fmt::format("span {}", id.number); }},
                      owner);
}

void putFacts(Study& study, const FactOwner& owner, const Facts& facts) {
    std::visit(Overloaded{[&](AssetId id) { study.catalog().setAssetFacts(id, facts); },
                          [&](TagId id) {
                              Tag tag = *study.catalog().tag(id);
                              tag.facts = facts;
                              study.catalog().updateTag(tag);
                          },
                          [&](SpanId id) {
                              Span span = *study.tracks().span(id);
                              span.facts = facts;
                              study.tracks().updateSpan(span);
                          }},
               owner);
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
