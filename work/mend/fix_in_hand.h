// The fix that is being worked on, before it is entered or while an entered one is edited: what its handles
// do, and what it makes of the tag.
#pragma once

#include "store/study.h"

namespace jacinth {

/// A fix of that kind over a stretch that changes nothing yet. A bend has a knot at both ends and one in the
/// middle, a curve one calibration at the start.
Fix newFix(FixKind kind, TagId tag, TimeRange stretch);

/// Would entering it change nothing: amounts of 0, a clock that stands, no twin chosen?
bool changesNothing(const Fix& fix);

/// Where a fix is taken hold of: 0 its start, 1 its end, from 2 on the inner knots of a bend.
struct Grip {
    int id = 0;
    Instant time{};
    std::optional<double> by;  ///< the change there; none for kinds without an amount at a moment
};
std::vector<Grip> gripsOf(const Fix& fix);
/// Moves a grip in time, not beyond its neighbours. Knots at the edges go with them, inner knots stay.
void moveGrip(Fix& fix, int id, Instant to);
/// Sets the change at a grip; nothing for kinds without one. Of a shift both grips hold the one amount.
void setGripAmount(Fix& fix, int id, double by);

/// By how much these fixes change the logged value at a moment; NaN where either value is missing.
double mendedBy(Study& study, const Tag& tag, std::span<const Fix> fixes, Instant t);

/// What fixes change of the logged values, as columns of a picture: exact where they depend on the time
/// alone, else the difference of each pixel's means. Where either has no samples the picture has a gap.
std::vector<Summary> mendingChange(Study& study, TagId tag, std::span<const Fix> fixes, TimeRange range,
                                   int pixels);

/// As many tags are offered to stand in for one.
inline constexpr std::size_t kMostTwins = 500;
/// Tags that could stand in for one, likeliest first: twins by name and unit on its asset, then tags of its
/// unit there, then the same role elsewhere, then others of its unit.
std::vector<Tag> possibleTwins(const Study& study, const Tag& tag);

}  // namespace jacinth
