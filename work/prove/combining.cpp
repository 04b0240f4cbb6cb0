#include "work/prove/combining.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include "core/expr/ast.h"

namespace jacinth {
namespace {

/// Every choice of `many` out of these, as conditions that all hold.
void addChoices(const std::vector<std::string>& of, std::size_t many, std::size_t from,
                std::vector<std::string>& chosen, std::vector<std::string>& out) {
    if (chosen.size() == many) {
        out.push_back(many == 1 ? chosen.front() : fmt::format("({})", fmt::join(chosen, " and ")));
        return;
    }
    for (std::size_t i = from; i < of.size(); ++i) {
        chosen.push_back(of[i]);
        addChoices(of, many, i + 1, chosen, out);
        chosen.pop_back();
    }
}

}  // namespace

Result<std::string> limitsAsRule(const Study& study, const std::string& limits, Duration ignore) {
    const auto set = study.judgement().limitSetNamed(limits);
    if (!set) {
        std::vector<std::string> known;
        for (const auto& [name, roles] : study.judgement().limitNames()) known.push_back(name);
        return Error{fmt::format("`{}` is not a set of golden limits{}", limits, sayNearest(limits, known))};
    }
    std::vector<std::string> outside;
    for (const auto& [role, of] : set->byRole)
        outside.push_back(fmt::format("outside(\"{}\", @{})", limits, role));
    if (outside.empty()) return Error{fmt::format("the limits `{}` are of no tag", limits)};
    const std::string any = fmt::format("{}", fmt::join(outside, " or "));
    return ignore > Duration::zero() ? fmt::format("({}) for {}", any, formatDuration(ignore)) : any;
}

Result<std::string> atLeastOf(const std::vector<Rule>& rules, std::size_t least) {
    if (rules.size() < 2) return Error{"say two rules or more to combine"};
    if (least < 1 || least > rules.size())
        return Error{fmt::format("at least 1 and at most {} of them can be asked for", rules.size())};
    std::vector<std::string> texts, chosen, choices;
    for (const Rule& r : rules) {
        const auto text = withSettings(r.text, r.settings);
        if (!text) return Error{fmt::format("{}: {}", r.name, text.error().message)};
        texts.push_back("(" + *text + ")");
    }
    constexpr std::size_t kMostChoices = 500;
    addChoices(texts, least, 0, chosen, choices);
    if (choices.size() > kMostChoices) return Error{"these are too many combinations for one rule"};
    return fmt::format("{}", fmt::join(choices, " or "));
}

}  // namespace jacinth
