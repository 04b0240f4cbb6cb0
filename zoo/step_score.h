// Suspected steps against the truth of a plant of the zoo.
#pragma once

#include "core/steps/suspected_steps.h"
#include "zoo/plant.h"

namespace jacinth::zoo {

struct StepScore {
    struct Share {
        int of = 0, right = 0;
        double percent() const { return of ? 100.0 * right / of : 100; }
    };
    Share strong;   ///< steps of 8 standard deviations of noise or more
    Share middle;   ///< of 5 to 8
    Share weak;     ///< of 3 to 5
    Share sized;    ///< of those found: within 5 %
    Share inRange;  ///< of those found: inside the stated 95 % range
    Share returns;  ///< of those found that return: said so, at the right time
    Share changes;  ///< changes of the process, named as such
    int wrong = 0;  ///< false steps that are none
    double assetMonths = 0;

    double wrongPerAssetMonth() const { return wrong / assetMonths; }
    void add(const StepScore& other);
};

/// `found`: tags by their place in the plant + 1. A step is found where one of the same tag and sign, not
/// called a change of the process, has its time within half an hour of the truth, or the truth between what
/// it says.
StepScore scoreOf(const Plant& plant, const std::vector<SuspectedStep>& found);

/// The one that tells of a true step, or null.
const SuspectedStep* stepFor(const std::vector<SuspectedStep>& found, const TrueStep& truth);
/// A true step, its return or the end of a drift of that tag.
bool isTrue(const Plant& plant, const SuspectedStep& step);
/// Some step is called a change of the process, of about that time.
bool isNamed(const std::vector<SuspectedStep>& found, const TrueChange& change);

/// As the program searches them.
std::vector<SuspectedStep> stepsIn(const Plant& plant);

}  // namespace jacinth::zoo
