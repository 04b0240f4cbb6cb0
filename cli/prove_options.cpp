#include "cli/prove_options.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/base/text.h"
#include "work/prove/combining.h"

namespace jacinth::cli {
namespace {

constexpr std::array<std::pair<const char*, Duration ProveSpec::*>, 4> kSpecOptions{
    {{"--most", &ProveSpec::most},
     {"--least", &ProveSpec::least},
     {"--join", &ProveSpec::join},
     {"--off-delay", &ProveSpec::offDelay}}};

/// What was given in place of what the rule is kept with.
void override(const ProveOptions& o, ProveRequest& request) {
    for (const auto& [name, time] : kSpecOptions)
        if (o.given(name)) request.spec.*time = o.spec.*time;
    if (o.given("--failures")) request.failures = o.failures;
    if (o.given("--mask")) request.masks = o.masks;
}

/// A number goes to the rules that have that setting; one that none has is left to be refused.
void setNumbers(const std::vector<std::string>& set, std::vector<NamedRule>& rules) {
    for (const std::string& one : set) {
        const auto setting = namedNumber(one, "--set");
        const auto has = [&](const NamedRule& r) {
            const auto known = settingsIn(r.request.rule);
            return std::find(known.begin(), known.end(), setting.first) != known.end();
        };
        const bool any = std::any_of(rules.begin(), rules.end(), has);
        for (NamedRule& r : rules)
            if (!any || has(r)) r.request.settings[setting.first] = setting.second;
    }
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
    std::vector<NamedRule> out;
    for (const std::string& text : rules) {
        out.push_back({text, {}});
        out.back().request.rule = text;
    }
    for (const std::string& name : names) {
        const Rule kept = orRefuse(ruleNamed(study, name, version));
        out.push_back({version > 0 ? titleOf(kept) : name, requestOf(kept)});
    }
    for (const std::string& name : limits) {
        out.push_back({name, {}});
        out.back().request.rule = orRefuse(limitsAsRule(study, name, ignore));
    }
    for (NamedRule& r : out) {
        override(*this, r.request);
        r.request.asset = common.asset;
        r.request.which = common.which();
    }
    setNumbers(set, out);
    return out;
}

std::optional<Rule> ProveOptions::namedRule(const Study& study) const {
    if (names.empty() || !rules.empty()) return {};
    return orRefuse(ruleNamed(study, names.front(), version));
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

void addSpecOptions(CLI::App& command, ProveSpec& spec) {
    addDuration(command, "--most", spec.most, "Longest useful warning (48h)");
    addDuration(command, "--least", spec.least, "Shortest useful warning (12h)");
    addDuration(command, "--join", spec.join, "Alarms closer than this are one (6h)");
    addDuration(command, "--off-delay", spec.offDelay,
                "An alarm stays on for this long after the rule has become false (0h)");
}

std::shared_ptr<ProveOptions> addProveOptions(CLI::App& command, HowManyRules rules) {
    auto o = std::make_shared<ProveOptions>();
    const bool one = rules == HowManyRules::One;
    auto* which = command.add_option_group("rules");
    which->require_option(1, one ? 1 : 3);
    auto* texts = which->add_option("--rule", o->rules,
                                    "A condition in the expression language, with {settings} or without");
    auto* names = which->add_option("--name", o->names, "A rule of the study");
    for (CLI::Option* option : {texts, names}) option->expected(1, one ? 1 : 1000)->allow_extra_args(false);
    if (one)
        command.add_option("--version", o->version, "Of that rule; the newest where not given")
            ->check(CLI::PositiveNumber)
            ->needs(names);
    else {
        which->add_option("--limits", o->limits, "Golden limits: an alarm while a tag is outside of them")
            ->allow_extra_args(false);
        addDuration(command, "--ignore", o->ignore, "Excursions from limits shorter than this do not count");
    }
    command.add_option("--set", o->set, "The number of a setting, like limit=3.2");
    command.add_option("--failures", o->failures,
                       "A kind of failure, or a track of them; all where not given");
    addSpecOptions(command, o->spec);
    o->given = [&command](const char* name) { return command.count(name) > 0; };
    command.add_option(
        "--mask", o->masks,
        "Tracks whose time does not count, or conditions that are true where it does not; stops "
        "where not given");
    command.add_option("--cost", o->cost, "What each costs: missed=…,false=…,caught=…")->delimiter(',');
    return o;
}

}  // namespace jacinth::cli
