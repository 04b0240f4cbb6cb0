#include "work/prove/combining.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include "core/expr/ast.h"

namespace jacinth {
namespace {

constexpr std::size_t kMostChoices = 500;

/// Every choice of `many` out of these, as conditions that all hold; ends just beyond kMostChoices.
void addChoices(const std::vector<std::string>& of, std::size_t many, std::size_t from,
                std::vector<std::string>& chosen, std::vector<std::string>& out) {
    if (chosen.size() == many) {
        out.push_back(many == 1 ? chosen.front() : fmt::format("({})", fmt::join(chosen, " and ")));
        return;
    }
    for (std::size_t i = from; i + many - chosen.size() <= of.size() && out.size() <= kMostChoices; ++i) {
        chosen.push_back(of[i]);
        addChoices(of, many, i + 1, chosen, out);
        chosen.pop_back();
    }
}

}  // namespace

Result<std::string> limitsAsRule(const Study& study, const std::string& limits, Duration ignore) {
    const auto set = study.judgement().limitSetCalled(limits);
    if (!set) return set.error();
    std::vector<std::string> outside;
    for (const auto& [role, of] : set->byRole)
        outside.push_back(fmt::format("outside(\"{}\", @{})", limits, role));
    if (outside.empty()) return Error{fmt::format("the limits `{}` are of no tag", limits)};
    const std::string any = fmt::format("{}", fmt::join(outside, " or "));
    return ignore > Duration::zero() ? fmt::format("({}) for {}", any, durationWord(ignore)) : any;
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
    addChoices(texts, least, 0, chosen, choices);
    if (choices.size() > kMostChoices)
        return Error{fmt::format("these are more than {} combinations: too many for one rule", kMostChoices)};
    return fmt::format("{}", fmt::join(choices, " or "));
}

}  // namespace jacinth
