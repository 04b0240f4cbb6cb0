// What golden runs contribute to golden limits: their samples without the stretches in which something is
// known to have been wrong.
#pragma once

#include <map>
#include <set>

#include "core/golden/golden_limits.h"
#include "store/study.h"

namespace jacinth {

/// Labels of kinds that are not normal, recorded stops, and stretches of tags that are not sound, read once
/// for many runs. One flame loss of two minutes in one of forty golden runs would else make the corridor
/// three times as wide at that place.
class AbnormalTime {
  public:
    explicit AbnormalTime(const Study& study);
    /// Where a tag is not to be learned from within a stretch, both ends included; by time, without overlap.
    std::vector<TimeRange> of(const Tag& tag, TimeRange stretch, Which which) const;

  private:
    struct Event {
        TimeRange range;
        std::set<TagId> tags;  ///< none: all of the asset
    };
    const Study& study_;
    std::map<AssetId, std::vector<Event>> events_;
};

/// A golden run's samples of a tag, without what is abnormal in it where the limits are made so
/// (LimitSpec::leaveOutAbnormal). Nothing is drawn over what is left out.
Series goldenSamples(Study& study, const Tag& tag, TimeRange run, const LimitSpec& spec,
                     const AbnormalTime& abnormal, Which which);

}  // namespace jacinth
