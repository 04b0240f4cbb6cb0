// What stands behind excursions, and which of several causes explains one.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/causes/effect.h"

namespace jacinth {

/// In the order in which they are believed where they explain an excursion equally well.
enum class CauseKind {
    Step,     ///< a false step of a sensor
    Drift,    ///< a sensor that drifts
    Process,  ///< the process changed: companions moved at the same time
    Event,    ///< something on record at the same time: a failure, a stop, an alarm, a label
    Asset,    ///< the asset differs from the others in all its runs
    Gradual,  ///< a change that grows from run to run
};
const char* causeKindName(CauseKind kind);  ///< step, drift, process, event, asset, gradual

/// One thing that can explain excursions: what it adds to tags, or for an event, when it was.
struct Cause {
    int id = 0;  ///< from 1, those with most hours of excursions first
    CauseKind kind = CauseKind::Step;
    AssetId asset;
    std::vector<TagId> tags;
    TimeRange range{};  ///< since when, until when
    std::vector<CauseEffect> effects;
    std::vector<TimeRange> windows;  ///< of an event: the time in which it explains what happens
    std::string why;
    /// Of what it explains, its share of the excursions' area: 0.5 to 1.
    double sure = 0;
};

/// What the causes add to a tag in a stretch, all together.
std::vector<CauseEffect> effectsOn(TagId tag, std::span<const Cause> causes, TimeRange in = kAllTime);

/// How much of an excursion's area is gone without a cause, from 0 to 1.
struct Explained {
    std::size_t cause = 0;  ///< place in a list of causes
    CauseKind kind = CauseKind::Step;
    double share = 0;
    double push = 0;  ///< how far the cause moves the value at the peak, in the tag's unit; of an event, NaN
};
/// The one that explains most, where that is at least half. An excursion that is barely outside is gone
/// without anything that pushes its way: of shares within a twentieth of each other those count that push at
/// least 0.6 times as far as the furthest (an event always), and of these the kind that is believed first.
/// Nothing where none explains half.
std::optional<Explained> bestExplained(std::span<const Explained> by);

}  // namespace jacinth
