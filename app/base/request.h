// What one bench asks of another. Benches do not know each other: they say what is wanted, and the window
// brings it to the bench that does it.
#pragma once

#include <QString>
#include <variant>

#include "core/base/id.h"
#include "core/time/instant.h"

namespace jacinth::app {

/// Traces around a moment, with this tag among them (none: those that are shown).
struct ShowMoment {
    TimeRange range;
    TagId tag;
};
/// A new mark over a stretch of the current asset, to be named.
struct LabelStretch {
    TimeRange range;
};
struct LabelExcursion {
    SpanId excursion;
};
/// A fix over a stretch of the current tag, as the current one.
struct MendStretch {
    TimeRange range;
};
/// A rule to start from.
struct ProveRule {
    QString text;
};
using Request = std::variant<ShowMoment, LabelStretch, LabelExcursion, MendStretch, ProveRule>;

}  // namespace jacinth::app
