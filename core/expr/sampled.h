// Samples that say the same as a value of the language: what a derived tag is kept as.
#pragma once

#include "core/expr/evaluate.h"

namespace jacinth {

/// Takes a value piece by piece and gives samples. Read as a tag of this longest gap they are that value:
/// - a sample at every knot; of a condition at every change, 0 for false and 1 for true;
/// - a sample of quality Missing where the value ends, so that nothing is drawn over what has no value;
/// - samples in between, on the line or of the value held, where a line or a held value is longer than the
///   longest gap.
class Sampler {
  public:
    explicit Sampler(Duration longestGap) : longestGap_(longestGap) {}
    /// The next piece in order of time; of it what lies in [part.from, part.to).
    void add(TimeRange part, const Value& value);
    /// What is held is held up to here.
    void finish(Instant end);
    /// Samples calculated and not taken yet.
    std::size_t size() const { return out_.size(); }
    Series take();

  private:
    void knot(Instant t, double v);
    void fill(Instant end);  ///< from the last knot up to just before `end`, where that is farther than a gap
    Duration longestGap_;
    Series out_;
    bool stepped_ = false;
    bool begun_ = false;
    bool open_ = false;  ///< the value goes on from the last knot
    Instant last_{};
    double lastValue_ = 0;
    double target_ = 0;  ///< where the line from the last knot heads for
};

}  // namespace jacinth
