#include "cli/prove_options.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "core/base/text.h"
#include "core/expr/ast.h"

namespace jacinth::cli {
namespace {

/// The rule that is kept under this name.
Rule ruleOrRefuse(const Study& study, const std::string& name) {
    std::vector<std::string> known;
    for (Rule& r : study.judgement().rules()) {
        if (r.name == name) return std::move(r);
        known.push_back(r.name);
    }
    throw Refusal{fmt::format("`{}` is not a rule of this study{}", name, sayNearest(name, known))};
}

}  // namespace

std::pair<std::string, double> namedNumber(const std::string& text, const char* option) {
    const std::size_t at = text.find('=');
    const auto number = at == std::string::npos ? std::nullopt : finiteNumber(text.substr(at + 1));
    if (!number || at == 0)
        throw CLI::ValidationError(option, fmt::format("takes name=number, not `{}`", text));
    return {std::string(trimmed(std::string_view(text).substr(0, at))), *number};
}

std::vector<NamedRule> ProveOptions::requests(const Study& study, const Common& common) const {
    ProveRequest terms;
    terms.spec = spec;
    terms.failuresTrack = failures;
    terms.masks = masks;
    terms.asset = common.asset;
    terms.which = common.which();
    std::vector<NamedRule> out;
    for (const std::string& text : rules) {
        out.push_back({text, terms});
        out.back().request.rule = text;
    }
    for (const std::string& name : names) {
        const Rule kept = ruleOrRefuse(study, name);
        out.push_back({name, terms});
        out.back().request.rule = kept.text;
        if (!saysWhen()) out.back().request.spec = kept.spec;
    }
    // A number goes to the rules that have that setting; one that none has is left to be refused.
    for (const std::string& one : set) {
        const auto setting = namedNumber(one, "--set");
        const auto has = [&](const NamedRule& r) {
            const auto known = settingsIn(r.request.rule);
            return std::find(known.begin(), known.end(), setting.first) != known.end();
        };
        const bool any = std::any_of(out.begin(), out.end(), has);
        for (NamedRule& r : out)
            if (!any || has(r)) r.request.settings.insert(setting);
    }
    return out;
}

Costs ProveOptions::costs() const {
    Costs out{0, 0, 0};
    for (const std::string& one : cost) {
        const auto [what, number] = namedNumber(one, "--cost");
        if (what == "missed")
            out.missed = number;
        else if (what == "false")
            out.falseAlarm = number;
        else if (what == "caught")
            out.caught = number;
        else
            throw CLI::ValidationError("--cost", "takes missed=, false= or caught=");
    }
    return out;
}

std::shared_ptr<ProveOptions> addProveOptions(CLI::App& command, HowManyRules rules) {
    auto o = std::make_shared<ProveOptions>();
    const bool one = rules == HowManyRules::One;
    auto* which = command.add_option_group("rules");
    which->require_option(1, one ? 1 : 2);
    auto* texts = which->add_option("--rule", o->rules,
                                    "A condition in the expression language, with {settings} or without");
    auto* names = which->add_option("--name", o->names, "A rule of the study");
    for (CLI::Option* option : {texts, names}) option->expected(1, one ? 1 : 1000)->allow_extra_args(false);
    command.add_option("--set", o->set, "The number of a setting, like limit=3.2");
    command.add_option("--failures", o->failures, "Track of failures; all of them where not given");
    addDuration(command, "--most", o->spec.most, "Longest useful warning (48h)");
    addDuration(command, "--least", o->spec.least, "Shortest useful warning (12h)");
    addDuration(command, "--join", o->spec.join, "Alarms closer than this are one (6h)");
    o->saysWhen = [&command] {
        return command.count("--most") + command.count("--least") + command.count("--join") > 0;
    };
    command.add_option(
        "--mask", o->masks,
        "Tracks whose time does not count, or conditions that are true where it does not; stops "
        "where not given");
    command.add_option("--cost", o->cost, "What each costs: missed=…,false=…,caught=…")->delimiter(',');
    return o;
}

}  // namespace jacinth::cli
