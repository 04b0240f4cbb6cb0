// What a rule would catch, and how often it would be wrong, if the number it compares with were another.
#pragma once

#include <optional>

#include "core/prove/search.h"
#include "work/prove/proving.h"

namespace jacinth {

struct TradePoint {
    double limit = 0;
    Tally tally;
};

/// Each point catches more than the one before it, for more false alarms; the first catches one at least.
struct TradeCurve {
    std::string rule;   ///< its text, with the number that changes as a setting
    std::string limit;  ///< the name of that setting
    Settings settings;  ///< the others, and that one as it stands
    std::vector<TradePoint> points;
};

/// The first number that the rule compares with, from where it is never true to where it is true for a
/// quarter of the time that counts, in some sixty steps. None where it compares with no number. Fails as a
/// search does.
Result<std::optional<TradeCurve>> tradeCurveOf(Study& study, const ProveRequest& request,
                                               const Progress& progress = {});

}  // namespace jacinth
