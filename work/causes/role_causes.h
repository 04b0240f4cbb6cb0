// Causes that show when the runs of a track are held beside each other in one role.
#pragma once

#include <map>

#include "core/causes/run_levels.h"
#include "work/causes/sensor_causes.h"
#include "work/limits/screening.h"

namespace jacinth {

/// One role of one set of limits.
struct RoleRuns {
    std::string role;
    RunLevels levels;            ///< without what is known already: steps, drifts, and the causes below
    std::vector<Cause> gradual;  ///< what grows from run to run, and what all assets share
    std::map<AssetId, std::vector<LevelJump>> jumps;
};

/// Reads the runs. `known` are causes whose effects are taken away first.
RoleRuns roleRuns(Study& study, const JudgedRuns& judged, const std::string& role,
                  const std::vector<Cause>& known, Which which);

/// Changes that show in the levels of the runs, added to what the search for steps found. A jump in one role
/// that stays, where another role of the asset jumps too (or has a suspected step without twin or mount,
/// which is then none), is a change of the process; a jump in one role alone is a step of its sensor. `steps`
/// are the suspected steps, `sensors` the causes made of them.
void addRunChanges(const Study& study, std::vector<RoleRuns>& roles, const std::vector<SuspectedStep>& steps,
                   std::vector<Cause>& sensors, std::vector<ProcessChange>& changes);

/// What one role says of the changes, and the assets that differ in it.
struct RoleCauses {
    struct OfChange {
        std::size_t change = 0;  ///< place in the list of changes
        CauseEffect effect;
    };
    std::vector<OfChange> changes;
    std::vector<Cause> assets;
};

/// A change of the process counts in a role whose tag moved with it, and in every other role whose runs
/// differ after it with p < 0.01; runs are compared from the change before it to the one after.
RoleCauses causesInRole(const Study& study, RoleRuns& role, const std::vector<ProcessChange>& changes);

}  // namespace jacinth
