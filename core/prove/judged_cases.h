// The alarms of many settings, cut and joined once, and judged again and again. Internal to core/prove.
#pragma once

#include <functional>

#include "core/prove/search.h"

namespace jacinth {

class JudgedCases {
  public:
    /// Of some of the search's assets, or of parts of them: each is found again by its asset.
    JudgedCases(const SearchCase& of, const std::vector<AssetCase>& cases);
    /// As prove() counts.
    Tally tally(std::size_t setting) const;
    Duration countingTime() const { return counting_; }
    /// Failures moved by one random share of the counting time for each asset, drawn again (a hundred times
    /// at most) while fewer of them can be tested than before: else the moved ones would be easier to catch
    /// all. `random` gives shares from 0 to 1.
    void moveFailures(const std::vector<AssetCase>& cases, const std::function<double()>& random);

  private:
    struct OnAsset {
        std::vector<TimeRange> covered, holes, counting;  ///< joined
        Instant recordEnd;
        std::vector<TimeRange> nearMisses, trueAfterAll;
        std::vector<Instant> failures, testable;
        int untestable = 0;
        std::vector<std::vector<TimeRange>> alarms;  ///< by setting; those that count
        std::vector<Duration> alarmed;               ///< by setting: how long they last together
    };
    void setFailures(OnAsset& on, std::vector<Instant> failures) const;
    ProveSpec spec_;
    int uncovered_;
    Duration counting_{};
    std::vector<OnAsset> assets_;
};

}  // namespace jacinth
