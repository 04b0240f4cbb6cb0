// Golden limits laid over time: what an expression and a trace show of them.
#pragma once

#include "core/expr/evaluate.h"
#include "store/study.h"

namespace jacinth {

/// The limits of a role over the runs of one asset that touch the range: each run has those it is judged by
/// (a golden run: without itself), and there are none between runs.
LimitLines limitLines(Study& study, const LimitSet& set, const std::string& role, std::int64_t asset,
                      TimeRange range, Which which);

}  // namespace jacinth
