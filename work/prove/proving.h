// A rule proved against the failures of a study.
#pragma once

#include "core/base/progress.h"
#include "core/prove/settings.h"
#include "store/judgement.h"
#include "work/base/study_inputs.h"

namespace jacinth {

struct ProveRequest {
    std::string rule;
    ProveSpec spec;
    std::string failuresTrack;  ///< all failures where empty
    /// Tracks whose time does not count, and conditions that are true where it does not; every track of stops
    /// where empty.
    std::vector<std::string> masks;
    std::string asset;  ///< only this one; empty for all
    Which which = Which::Mended;
    Settings settings = {};  ///< the numbers of its {settings}
};

/// Fails where the rule has an error, gives no condition, or a track is not there. After a failure, time does
/// not count until the end of a stop that begins within an hour of it. Can be stopped.
Result<Proof> proveRule(Study& study, const ProveRequest& request, const Progress& progress = {});

/// What proving needs of each asset but the alarms, and what it cannot test.
struct ProveCases {
    std::vector<AssetCase>
        assets;  ///< as `fleet.byAsset`; `covered` is of the rule's tags once it is evaluated
    std::vector<UncoveredFailure> uncovered;
};
/// For a rule that is compiled already.
Result<ProveCases> casesFor(Study& study, const ProveRequest& request, const FleetExpression& fleet,
                            const Progress& progress = {});

/// Keeps a rule under its name, in place of the one that has it, as one step.
void keepRule(Study& study, const Rule& rule);

/// Where the rule is true over the record, by asset, before alarms are joined or judged; and the share of the
/// record.
struct RuleReach {
    std::map<AssetId, std::vector<TimeRange>> trueStretches;
    double shareTrue = 0;  ///< of the time in which the rule's tags have values
};
Result<RuleReach> ruleReach(Study& study, const std::string& rule, Which which);

}  // namespace jacinth
