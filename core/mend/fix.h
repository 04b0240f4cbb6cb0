// Fixes: recorded steps over untouched samples. The mended tag is the logged one with the fixes that are on,
// in the order of the ledger (core/mend/mended.h).
#pragma once

#include <optional>
#include <span>
#include <string>
#include <variant>
#include <vector>

#include "core/base/id.h"
#include "core/base/result.h"
#include "core/series/series.h"

namespace jacinth {

/// In the order of FixBody.
enum class FixKind { Shift, Ramp, Bend, Curve, Bridge, Borrow, Decay, Hide, Cut, Clock };
const char* fixKindName(FixKind kind);  ///< in small letters: shift, ramp, …
Result<FixKind> fixKindNamed(const std::string& name);

// What a fix does on its stretch [from, to], both ends included. Amounts are in the tag's unit.

/// v + by.
struct ShiftFix {
    double by = 0;
    bool operator==(const ShiftFix&) const = default;
};

/// v + startBy + (endBy − startBy)·(t − from)/(to − from).
struct RampFix {
    double startBy = 0, endBy = 0;
    bool operator==(const RampFix&) const = default;
};

/// v + the line between knots, held before the first and after the last of them.
struct BendFix {
    struct Knot {
        Instant time{};
        double by = 0;
        bool operator==(const Knot&) const = default;
    };
    std::vector<Knot> knots;  ///< by time, two at least
    bool operator==(const BendFix&) const = default;
};

/// v + the correction at v: linear between the points of a calibration, held outside; linear in time between
/// calibrations, held before the first and after the last.
struct CurveFix {
    struct Point {
        double at = 0, by = 0;
        bool operator==(const Point&) const = default;
    };
    struct Calibration {
        Instant time{};
        std::vector<Point> points;  ///< by value, one at least
        bool operator==(const Calibration&) const = default;
    };
    std::vector<Calibration> calibrations;  ///< by time, one at least
    bool operator==(const CurveFix&) const = default;
};

/// Gaps are filled with samples of uncertain quality, on the tag's usual spacing (core/mend/fill.h). `over`:
/// the whole stretch is one gap, whatever was logged there.
struct BridgeFix {
    enum class Way { Hold, Line, Cubic, Spline };
    Way way = Way::Line;
    Duration longest = 6 * kHour;  ///< a longer gap stays one
    bool over = false;
    bool operator==(const BridgeFix&) const = default;
};

/// The same with a twin's samples as logged, scaled by least squares over `margin` on both sides of the gap,
/// then moved to meet both ends.
struct BorrowFix {
    TagId twin;
    Duration margin = 2 * kHour;
    bool over = false;
    bool operator==(const BorrowFix&) const = default;
};

/// The same with v0·exp(−(t − t0)/τ) + floor through both ends of the gap; τ fitted to the samples in
/// `margin` before it where it is not said.
struct DecayFix {
    std::optional<Duration> tau;
    Duration margin = 2 * kHour;
    bool over = false;
    bool operator==(const DecayFix&) const = default;
};

/// Quality bad: of all samples of the stretch, or of those in these parts of it.
struct HideFix {
    std::vector<TimeRange> parts;  ///< by time, both ends included; empty for the whole stretch
    bool operator==(const HideFix&) const = default;
};

/// No samples, and nothing drawn over it.
struct CutFix {
    bool operator==(const CutFix&) const = default;
};

/// The samples logged in the stretch are moved in time. Where they come among others, all are kept.
struct ClockFix {
    Duration by{};
    bool operator==(const ClockFix&) const = default;
};

using FixBody = std::variant<ShiftFix, RampFix, BendFix, CurveFix, BridgeFix, BorrowFix, DecayFix, HideFix,
                             CutFix, ClockFix>;

struct Fix {
    FixId id;
    TagId tag;
    FixBody body;
    Instant from{}, to{};
    bool on = true;
    std::string why, who;
    Instant entered{};

    FixKind kind() const { return static_cast<FixKind>(body.index()); }
    /// Is a sample in the range changed by it, or could it be? For a clock: where samples come from, and
    /// where they go.
    bool touches(TimeRange range) const;
    /// Does it change values alone, each by itself: no sample comes, goes, moves or turns bad?
    bool isPlain() const { return kind() <= FixKind::Curve; }
    /// Can it lie on a tag of states, whose values are names? Only what neither adds to values nor fits them.
    bool worksOnStates() const;
};

/// What a plain fix adds to a value at a time; 0 outside its stretch, where it is off, and for other kinds.
double changeAt(const Fix& fix, Instant t, double value);
/// The same for all of them, one after the other.
double changeAt(std::span<const Fix> fixes, Instant t, double value);

/// The greatest amount of a fix. With more, sums and squares over a record no longer fit a double.
inline constexpr double kGreatestAmount = 1e100;

/// Refuses what makes no sense: an end before the start, a ramp without length, amounts that are not numbers
/// or above kGreatestAmount, knots or points out of order or twice at one place, a clock that moves by
/// nothing.
Status validateFix(const Fix& fix);

}  // namespace jacinth
