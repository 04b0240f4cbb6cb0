// Spans: stretches of time with facts, the one shape that runs, excursions, labels, failures and alarms
// share.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "core/base/id.h"
#include "core/time/instant.h"

namespace jacinth {

/// A fact is a number or a text.
using Fact = std::variant<double, std::string>;
using Facts = std::map<std::string, Fact>;

/// The text of a fact, for tables: numbers in their shortest exact form.
std::string factText(const Fact& fact);
/// The named fact as a number; `otherwise` where it is absent or a text.
double factNumber(const Facts& facts, const std::string& name, double otherwise = 0);
std::string factText(const Facts& facts, const std::string& name);

/// A stretch of time on an asset, and on one of its tags where `tag` is not 0, or on several of them. A
/// moment has start = end.
struct Span {
    SpanId id;
    AssetId asset;
    TagId tag;
    Instant start{};
    Instant end{};
    Facts facts;
    std::vector<TagId> furtherTags = {};  ///< besides `tag`; of labels alone
    TimeRange range() const { return {start, end}; }
};

/// Sorts by start and joins ranges that touch or are apart by at most `gap`.
std::vector<TimeRange> joined(std::vector<TimeRange> ranges, Duration gap = {});
/// Those at least `least` long.
std::vector<TimeRange> noShorterThan(std::vector<TimeRange> ranges, Duration least);
/// The parts of `whole` that no range in `holes` covers. Both sorted and without overlap.
std::vector<TimeRange> subtract(const std::vector<TimeRange>& whole, const std::vector<TimeRange>& holes);
/// The parts common to both. Both sorted and without overlap.
std::vector<TimeRange> intersect(const std::vector<TimeRange>& a, const std::vector<TimeRange>& b);
Duration totalLength(const std::vector<TimeRange>& ranges);
/// The moment that lies so far into the ranges, one after the other; none at or beyond their total length.
std::optional<Instant> momentIn(const std::vector<TimeRange>& ranges, Duration place);

}  // namespace jacinth
