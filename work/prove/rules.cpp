#include "work/prove/rules.h"

#include <fmt/format.h>

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/base/parse_json.h"
#include "core/expr/ast.h"
#include "store/rule_body.h"
#include "store/wall_time.h"
#include "work/base/study_inputs.h"

namespace jacinth {
namespace {

using nlohmann::json;

std::vector<std::string> namesOf(const Study& study) {
    std::vector<std::string> out;
    for (const Rule& r : study.judgement().rules()) out.push_back(r.name);
    return out;
}

bool sameWords(const Rule& a, const Rule& b) {
    return a.severity == b.severity && a.meaning == b.meaning && a.advice == b.advice && a.note == b.note;
}

json jsonOf(const Rule& r) {
    return {{"name", r.name},
            {"rule", r.text},
            {"settings", r.settings},
            {"most", formatDuration(r.spec.most)},
            {"least", formatDuration(r.spec.least)},
            {"join", formatDuration(r.spec.join)},
            {"offDelay", formatDuration(r.spec.offDelay)},
            {"failures", r.failures},
            {"masks", r.masks},
            {"severity", r.severity},
            {"meaning", r.meaning},
            {"advice", r.advice},
            {"note", r.note}};
}

/// A member that says how long; what it was where it is absent.
Status readTime(const json& object, const char* name, Duration& to) {
    if (!object.contains(name)) return Done{};
    const auto read =
        object[name].is_string() ? parseDuration(object[name].get<std::string>()) : Result<Duration>(Error{});
    if (!read) return Error{fmt::format("`{}` is not a time like 12h", name)};
    to = *read;
    return Done{};
}

Result<Rule> ruleFrom(const json& object) {
    if (!object.is_object()) return Error{"it is not an object"};
    const auto isText = [&](const char* name) { return object.contains(name) && object[name].is_string(); };
    if (!isText("name") || !isText("rule")) return Error{"it needs a name and a rule"};
    Rule out{object["name"].get<std::string>(), object["rule"].get<std::string>()};
    for (const auto& [name, to] :
         {std::pair{"most", &out.spec.most}, std::pair{"least", &out.spec.least},
          std::pair{"join", &out.spec.join}, std::pair{"offDelay", &out.spec.offDelay}})
        if (const Status good = readTime(object, name, *to); !good) return good.error();
    // The rest stands in the file as it does in the study.
    json rest = object;
    for (const char* read : {"most", "least", "join", "offDelay"}) rest.erase(read);
    const ProveSpec spec = out.spec;
    if (const Status good = readRuleBody(rest.dump(), out); !good) return good.error();
    out.spec = spec;
    return out;
}

}  // namespace

Status checkRule(const Study& study, const Rule& rule) {
    if (const Status good = checkName(rule.name, "a rule"); !good) return good;
    if (rule.spec.most <= Duration::zero()) return Error{"the longest useful warning is nothing"};
    if (rule.spec.least > rule.spec.most) return Error{"the least warning is longer than the most"};
    if (rule.severity < kLeastSeverity || rule.severity > kMostSeverity)
        return Error{fmt::format("a severity is {} to {}", kLeastSeverity, kMostSeverity)};
    const auto text = withSettings(rule.text, rule.settings);
    if (!text) return text.error();
    const auto fleet = compileRule(study, *text, rule.failures);
    if (!fleet) return fleet.error();
    if (const Status good = checkIsCondition(fleet->byAsset.front().second); !good) return good;
    if (!rule.failures.empty())
        if (const auto failures = failuresOf(study, rule.failures); !failures) return failures.error();
    return Done{};
}

RuleId putRule(Study& study, Rule rule) {
    rule.made = timeNow();
    rule.who = study.who();
    const auto newest = study.judgement().ruleNamed(rule.name);
    if (!newest || !saysTheSame(*newest, rule)) return study.judgement().putRule(rule);
    rule.id = newest->id;
    if (!sameWords(*newest, rule)) study.judgement().updateRule(rule);
    return newest->id;
}

Result<RuleId> keepRule(Study& study, Rule rule) {
    if (const Status good = checkRule(study, rule); !good) return good.error();
    RuleId id;
    study.change("keep the rule " + rule.name, rule.note, jsonOf(rule), [&] { id = putRule(study, rule); });
    return id;
}

Status removeRule(Study& study, const std::string& name, int version) {
    const auto rule = ruleNamed(study, name, version);
    if (!rule) return rule.error();
    const std::string what = version > 0 ? titleOf(*rule) : name;
    study.change("remove the rule " + what, "", jsonOf(*rule),
                 [&] { study.judgement().removeRule(name, version); });
    return Done{};
}

Status renameRule(Study& study, const std::string& name, const std::string& newName) {
    if (const auto rule = ruleNamed(study, name); !rule) return rule.error();
    if (const Status good = checkName(newName, "a rule"); !good) return good;
    if (name != newName && study.judgement().ruleNamed(newName))
        return Error{fmt::format("a rule `{}` is there already", newName)};
    study.change(fmt::format("call the rule {} {}", name, newName), "", {{"from", name}, {"to", newName}},
                 [&] { study.judgement().renameRule(name, newName); });
    return Done{};
}

Result<Rule> ruleNamed(const Study& study, const std::string& name, int version) {
    if (auto rule = study.judgement().ruleNamed(name, version)) return *rule;
    if (version > 0 && study.judgement().ruleNamed(name))
        return Error{fmt::format("the rule `{}` has no version {}", name, version)};
    return Error{fmt::format("`{}` is not a rule of this study{}", name, sayNearest(name, namesOf(study)))};
}

ProveRequest requestOf(const Rule& rule) {
    ProveRequest out;
    out.rule = rule.text;
    out.spec = rule.spec;
    out.failures = rule.failures;
    out.masks = rule.masks;
    out.settings = rule.settings;
    return out;
}

std::string titleOf(const Rule& rule) {
    return fmt::format("{}, version {}", rule.name, rule.version);
}

std::string rulesText(const std::vector<Rule>& rules) {
    json out = json::array();
    for (const Rule& r : rules) out.push_back(jsonOf(r));
    return out.dump(2) + "\n";
}

Result<std::vector<Rule>> readRules(std::string_view text) {
    const json all = parseJson(text);
    if (!all.is_array()) return Error{"these are not rules: an array in JSON"};
    std::vector<Rule> out;
    for (const json& object : all) {
        auto rule = ruleFrom(object);
        if (!rule) return Error{fmt::format("rule {}: {}", out.size() + 1, rule.error().message)};
        out.push_back(std::move(*rule));
    }
    return out;
}

Status takeRules(Study& study, const std::vector<Rule>& rules) {
    for (const Rule& r : rules)
        if (const Status good = checkRule(study, r); !good)
            return Error{fmt::format("{}: {}", r.name, good.error().message)};
    json names = json::array();
    for (const Rule& r : rules) names.push_back(r.name);
    study.change("take over rules", "", {{"rules", names}}, [&] {
        for (const Rule& r : rules) putRule(study, r);
    });
    return Done{};
}

}  // namespace jacinth
