#include "work/facts.h"

#include <fmt/format.h>

#include <charconv>
#include <cmath>
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

Status setFact(Facts& facts, const std::string& text) {
    const std::size_t equals = text.find('=');
    if (equals == std::string::npos) return Error{fmt::format("`{}` is not a fact; NAME=VALUE is", text)};
    const std::string name(trimmed(std::string_view(text).substr(0, equals)));
    const std::string value(trimmed(std::string_view(text).substr(equals + 1)));
    if (const Status good = checkName(name, "a fact"); !good) return good;
    if (value.empty()) {
        facts.erase(name);
        return Done{};
    }
    double number = 0;
    const auto [end, error] = std::from_chars(value.data(), value.data() + value.size(), number);
    if (error == std::errc() && end == value.data() + value.size() && std::isfinite(number))
        facts[name] = number;
    else
        facts[name] = value;
    return Done{};
}

Status changeFacts(Study& study, const FactOwner& owner, const Facts& facts) {
    if (const auto known = factsOf(study, owner); !known) return known.error();
    const auto detail = nlohmann::json::parse(factsToJson(facts));
    if (owner.kind == FactOwner::Kind::Asset) {
        const std::string name = study.catalog().asset(owner.id)->name;
        study.change("facts of " + name, "", detail, [&] { study.setAssetFacts(owner.id, facts); });
    } else if (owner.kind == FactOwner::Kind::Tag) {
        Tag tag = *study.catalog().tag(owner.id);
        tag.facts = facts;
        study.change("facts of " + tag.path(), "", detail, [&] { study.catalog().updateTag(tag); });
    } else {
        Span span = *study.span(owner.id);
        span.facts = facts;
        study.change("facts of a span", "", {{"span", span.id}, {"facts", detail}}, [&] { study.updateSpan(span); });
    }
    return Done{};
}

}  // namespace jacinth
