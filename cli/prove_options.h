// What prove and search are told alike: the rule, its settings, what counts as a catch, failures, masks,
// costs.
#pragma once

#include <functional>

#include "cli/command.h"
#include "work/prove/proving.h"

namespace jacinth::cli {

struct ProveOptions {
    std::string rule, name, failures;
    std::vector<std::string> masks, set, cost;
    ProveSpec spec;
    std::function<bool()> saysWhen;  ///< was one of --most, --least, --join given?

    /// Refuses names that are not there and settings without a number.
    ProveRequest request(const Study& study, const Common& common) const;
    bool hasCosts() const { return !cost.empty(); }
    Costs costs() const;
};

std::shared_ptr<ProveOptions> addProveOptions(CLI::App& command);

/// `limit=3.2`.
std::pair<std::string, double> namedNumber(const std::string& text, const char* option);

}  // namespace jacinth::cli
