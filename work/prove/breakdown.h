// The alarms of a proof, counted by asset, by month, by phase of the run they began in, and by group of
// assets.
#pragma once

#include "core/prove/prove.h"
#include "store/study.h"

namespace jacinth {

enum class BreakdownBy { Asset, Month, Phase, Group };

struct AlarmShare {
    std::string name;
    int cameTrue = 0, falseAlarms = 0, nearMisses = 0;
    int others = 0;       ///< late, open, masked
    Duration counting{};  ///< of this asset, in this month, of this group; 0 by phase, where it is not known
    double falsePerAssetMonth() const { return perMonth(falseAlarms, counting); }
};

/// Months are those of the plant's zone, without gaps from the first to the last that counts. By phase, the
/// last line is of alarms outside of every phase. By group: of the fact `groupedBy`, groups on which the rule
/// counts nowhere left out.
std::vector<AlarmShare> breakDown(const Study& study, const Proof& proof, BreakdownBy by,
                                  const std::string& groupedBy = {});

}  // namespace jacinth
