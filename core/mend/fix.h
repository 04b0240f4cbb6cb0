// Fixes: recorded steps over untouched samples. The mended tag is the logged one with the fixes that are on.
#pragma once

#include <optional>
#include <span>
#include <string>

#include "core/base/id.h"
#include "core/series/series.h"
#include "core/series/value_at.h"

namespace jacinth {

enum class FixKind { Shift, Ramp };
const char* fixKindName(FixKind kind);  ///< shift, ramp
Result<FixKind> fixKindNamed(const std::string& name);

/// Acts on samples with from <= time <= to, both included.
/// Shift: v + startBy. Ramp: v + startBy + (endBy − startBy)·(t − from)/(to − from).
struct Fix {
    FixId id;
    TagId tag;
    FixKind kind = FixKind::Shift;
    Instant from{}, to{};
    double startBy = 0, endBy = 0;  ///< in the tag's unit; equal for a shift
    bool on = true;
    std::string why, who;
    Instant entered{};

    bool touches(TimeRange range) const { return on && from < range.to && to >= range.from; }
    double changeAt(Instant t) const;
};

/// Refuses a fix that ends before it starts, or a ramp without length, or an amount that is not a number.
Status validateFix(const Fix& fix);

/// Applies the fixes that are on, in the order given (the ledger's), to the samples in place.
void applyFixes(std::span<const Fix> fixes, Series& series);

/// The sum of all changes at one time.
double changeAt(std::span<const Fix> fixes, Instant t);

/// A check reading by hand: the true value as well as a person could read it.
struct CheckReading {
    Instant time{};
    double value = 0;
    std::string by;
};

/// The ramp that brings a stretch closest to its check readings, by least squares.
struct RampFit {
    double startBy = 0, endBy = 0;
    double misfitBefore = 0, misfitAfter = 0;  ///< RMS of reading − value, in the tag's unit
    int readings = 0;                          ///< how many stood behind it
};

/// Fits both ends, or only the end (`fixedStart` then holds the start's change). Readings outside [from, to]
/// and readings where the tag has no value are left out. Fails with fewer readings than ends to find.
Result<RampFit> fitRamp(const SeriesView& series, const Bridging& bridging, TimeRange stretch,
                        std::span<const CheckReading> readings, std::optional<double> fixedStart);

}  // namespace jacinth
