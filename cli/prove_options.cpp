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
    const std::string near = nearestName(name, known);
    throw Refusal{fmt::format("there is no rule `{}`{}", name,
                              near.empty() ? "" : fmt::format("; nearest is `{}`", near))};
}

}  // namespace

std::pair<std::string, double> namedNumber(const std::string& text, const char* option) {
    const std::size_t at = text.find('=');
    const auto number = at == std::string::npos ? std::nullopt : finiteNumber(text.substr(at + 1));
    if (!number || at == 0)
        throw CLI::ValidationError(option, fmt::format("takes name=number, not `{}`", text));
    return {std::string(trimmed(std::string_view(text).substr(0, at))), *number};
}

ProveRequest ProveOptions::request(const Study& study, const Common& common) const {
    ProveRequest out;
    out.rule = rule;
    out.spec = spec;
    if (!name.empty()) {
        const Rule kept = ruleOrRefuse(study, name);
        out.rule = kept.text;
        if (!saysWhen()) out.spec = kept.spec;
    }
    out.failuresTrack = failures;
    out.masks = masks;
    out.asset = common.asset;
    out.which = common.which();
    for (const std::string& one : set) out.settings.insert(namedNumber(one, "--set"));
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

std::shared_ptr<ProveOptions> addProveOptions(CLI::App& command) {
    auto o = std::make_shared<ProveOptions>();
    auto* which = command.add_option_group("the rule")->require_option(1);
    which->add_option("--rule", o->rule,
                      "A condition in the expression language, with {settings} or without");
    which->add_option("--name", o->name, "A rule of the study");
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
