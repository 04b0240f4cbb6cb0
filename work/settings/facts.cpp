#include "work/settings/facts.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/base/overloaded.h"
#include "core/base/parse_json.h"
#include "core/base/text.h"
#include "store/judgement.h"
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

Result<FactChange> factChange(const Study& study, std::string_view name, std::string_view value) {
    FactChange out{std::string(trimmed(name)), {}};
    if (const Status good = checkName(out.name, "a fact"); !good) return good.error();
    const FactKinds kinds = study.judgement().factKinds();
    const auto read = readFact(findFactKind(kinds, out.name), value, study.zone());
    if (!read) return read.error();
    out.value = *read;
    return out;
}

Result<FactChange> factChangeFrom(const Study& study, const std::string& text) {
    const std::size_t equals = text.find('=');
    if (equals == std::string::npos) return Error{fmt::format("`{}` is not a fact; NAME=VALUE is", text)};
    return factChange(study, std::string_view(text).substr(0, equals),
                      std::string_view(text).substr(equals + 1));
}

namespace {

std::string nameOf(const Study& study, const FactOwner& owner) {
    return std::visit(Overloaded{[&](AssetId id) { return study.catalog().asset(id)->name; },
                                 [&](TagId id) { return study.catalog().tag(id)->path(); },
                                 [](SpanId id) { return fmt::format("span {}", id.number); }},
                      owner);
}

/// What of the facts is about to change, as it is now.
nlohmann::json partOf(const Facts& facts, const std::vector<FactChange>& changes) {
    Facts part;
    for (const FactChange& c : changes)
        if (const auto known = facts.find(c.name); known != facts.end()) part.insert(*known);
    return parseJson(factsToJson(part));
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
    std::vector<nlohmann::json> before;
    for (const FactOwner& owner : owners) {
        const auto known = factsOf(study, owner);
        if (!known) return known.error();
        names.push_back(nameOf(study, owner));
        before.push_back(partOf(*known, changes));
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
        {"of", names}, {"before", before}, {"facts", parseJson(factsToJson(said))}, {"removed", removed}};
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

namespace {

/// Of everything in the study that has such a fact, how many do not fit the kind.
std::size_t misfits(const Study& study, const FactKind& kind) {
    std::size_t count = 0;
    const auto look = [&](const Facts& facts) {
        const auto own = facts.find(kind.name);
        if (own != facts.end() && !readFact(&kind, factText(own->second), study.zone())) ++count;
    };
    for (const Asset& a : study.catalog().assets()) look(a.facts);
    for (const Tag& t : study.catalog().tags()) look(t.facts);
    for (const Track& track : study.tracks().all())
        for (const Span& s : study.tracks().spans(track.id)) look(s.facts);
    return count;
}

}  // namespace

Status keepFactKind(Study& study, const FactKind& kind) {
    if (const Status good = checkName(kind.name, "a kind of fact"); !good) return good;
    FactKinds kinds = study.judgement().factKinds();
    std::erase_if(kinds, [&](const FactKind& k) { return k.name == kind.name; });
    kinds.push_back(kind);
    if (const Status good = checkFactKinds(kinds); !good) return good;
    if (const std::size_t wrong = misfits(study, kind))
        return Error{fmt::format("{} facts {} on record do not fit the type {}: correct them first", wrong,
                                 kind.name, factTypeName(kind.type))};
    study.change("kind of fact " + kind.name, "",
                 {{"type", factTypeName(kind.type)},
                  {"unit", kind.unit},
                  {"choices", kind.choices},
                  {"meaning", kind.meaning}},
                 [&] { study.judgement().setFactKinds(kinds); });
    return Done{};
}

Status removeFactKind(Study& study, const std::string& name) {
    FactKinds kinds = study.judgement().factKinds();
    if (std::erase_if(kinds, [&](const FactKind& k) { return k.name == name; }) == 0)
        return Error{fmt::format("there is no kind of fact `{}`", name)};
    study.change("remove kind of fact " + name, "", {}, [&] { study.judgement().setFactKinds(kinds); });
    return Done{};
}

}  // namespace jacinth
