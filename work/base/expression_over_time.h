// Expressions about assets over a long stretch of the record: in pieces, on all processors.
#pragma once

#include "core/base/progress.h"
#include "work/base/study_inputs.h"
#include "work/base/study_pool.h"

namespace jacinth {

/// What the expression gives over the stretch, and where all the tags that it reads have a value.
struct ValueOverTime {
    Value value;
    std::vector<TimeRange> covered;  ///< by time, without overlap
};

/// The same of several expressions.
struct ValuesOverTime {
    std::vector<Value> values;
    std::vector<TimeRange> covered;
};

/// Expressions about one asset.
struct OnAsset {
    AssetId asset;
    std::span<const Expression> expressions;
};

/// Keeps connections to the study open from one evaluation to the next. Memory stays that of a few pieces,
/// besides the value itself, however long the record is; only what depends on all that came before
/// (`elapsed`, `since`) is evaluated as a whole. Sees what is committed.
class ExpressionOverTime {
  public:
    ExpressionOverTime(Study& study, Which which) : study_(study), which_(which), pool_(study.path()) {}

    /// Fails where the expression cannot be evaluated, or when it is stopped.
    Result<ValueOverTime> evaluate(AssetId asset, const Expression& expression, TimeRange range,
                                   const Progress& progress = {});
    /// On one asset after the other; `take` gets each asset's place and values on the calling thread as soon
    /// as they are there. What the expressions of an asset share is read and computed once. Their conditions
    /// are kept as a whole, so take a few hundred at most.
    Status evaluateEach(std::span<const OnAsset> assets, TimeRange range,
                        const std::function<void(std::size_t, ValuesOverTime)>& take,
                        const Progress& progress = {});

  private:
    Study& study_;
    Which which_;
    StudyPool pool_;
};

}  // namespace jacinth
