// A detection rule as it is kept: its text, what it is proved under, and what the reader of its alarm is
// told.
#pragma once

#include <string>
#include <vector>

#include "core/base/id.h"
#include "core/prove/prove.h"
#include "core/prove/settings.h"

namespace jacinth {

inline constexpr int kLeastSeverity = 1, kMostSeverity = 4;  ///< facets of the gem

struct Rule {
    std::string name;
    std::string text;  ///< a condition on roles, with {settings} or without
    ProveSpec spec = {};
    Settings settings = {};               ///< a number for each {setting}
    std::string failures = {};            ///< a kind of failure or a track of them; all where empty
    std::vector<std::string> masks = {};  ///< tracks and conditions; the stops where empty
    int severity = 2;
    std::string meaning = {};  ///< what stands behind its alarm
    std::string advice = {};   ///< what to do about it
    std::string note = {};     ///< why this version
    /// What the search that found its settings said of them; empty where they were not searched for, or text,
    /// settings or terms were changed since.
    std::string searched = {};
    std::string who = {};
    Instant made = {};
    int version = 0;  ///< from 1; 0 where it is not kept yet
    RuleId id = {};
};

/// Would both speak at the same moments and be proved alike? Words do not count.
bool saysTheSame(const Rule& a, const Rule& b);

}  // namespace jacinth
