// What prove and search are told alike: the rule, its settings, what counts as a catch, failures, masks,
// costs.
#pragma once

#include <functional>

#include "cli/command.h"
#include "work/prove/comparing.h"

namespace jacinth::cli {

struct ProveOptions {
    std::vector<std::string> rules, names, limits;
    int version = 0;    ///< of the one that is named; the newest where 0
    Duration ignore{};  ///< of excursions from limits
    std::string failures;
    std::vector<std::string> masks, set, cost;
    ProveSpec spec;
    std::function<bool(const char*)> given;  ///< was this option given?

    /// Every rule that was given, then every one that was named, then limits as rules. What a named rule is
    /// proved under is as it is kept, but for what is given here. Refuses names that are not there.
    std::vector<NamedRule> requests(const Study& study, const Common& common) const;
    ProveRequest request(const Study& study, const Common& common) const {
        return requests(study, common).front().request;
    }
    /// The kept rule that was asked for by name; none where a text was given.
    std::optional<Rule> namedRule(const Study& study) const;
    bool hasCosts() const { return !cost.empty(); }
    Costs costs() const;
};

/// One rule, or several.
enum class HowManyRules { One, Several };
std::shared_ptr<ProveOptions> addProveOptions(CLI::App& command, HowManyRules rules = HowManyRules::One);

/// --most, --least, --join, --off-delay.
void addSpecOptions(CLI::App& command, ProveSpec& spec);

/// `limit=3.2`.
std::pair<std::string, double> namedNumber(const std::string& text, const char* option);

}  // namespace jacinth::cli
