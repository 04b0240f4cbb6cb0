// Samples of one tag: times, values, quality. Calculations take a SeriesView and never own what they read.
#pragma once

#include <cmath>
#include <cstdint>
#include <span>
#include <vector>

#include "core/time/instant.h"

namespace jacinth {

/// Quality of a sample, in the words of OPC UA; Missing says that from here to the next sample nothing is
/// known: no line is drawn and no value held over it, however near the next sample is. It carries no number.
enum class Quality : std::uint8_t { Good = 0, Uncertain = 1, Bad = 2, Missing = 3 };

/// What lies between two samples: a straight line, or the earlier value held. A state tag's values are
/// the codes of its states and are held.
enum class TagKind : std::uint8_t { Continuous = 0, Stepped = 1, State = 2 };

/// How to read a tag between its samples. `longestGap` is the longest stretch to draw a line or hold a
/// value over, in ns; kWithoutEnd for none.
struct Bridging {
    TagKind kind = TagKind::Continuous;
    Duration longestGap{};
};
inline constexpr Duration kWithoutEnd = Duration::max();

/// Times strictly rising; `values` of the same length; `quality` empty where every sample is good.
struct SeriesView {
    std::span<const Instant> times;
    std::span<const double> values;
    std::span<const Quality> quality;

    std::size_t size() const { return times.size(); }
    bool empty() const { return times.empty(); }
    Quality qualityAt(std::size_t i) const { return quality.empty() ? Quality::Good : quality[i]; }
    /// Counts in calculations: a number, and not of bad quality.
    bool usable(std::size_t i) const { return qualityAt(i) < Quality::Bad && std::isfinite(values[i]); }
    /// Does what was known end here?
    bool ends(std::size_t i) const { return qualityAt(i) == Quality::Missing; }
    /// The samples with from <= time < to.
    SeriesView within(TimeRange range) const;
};

struct Series {
    std::vector<Instant> times;
    std::vector<double> values;
    std::vector<Quality> quality;  ///< empty where every sample is good

    std::size_t size() const { return times.size(); }
    bool empty() const { return times.empty(); }
    void reserve(std::size_t n);
    void clear();  ///< keeps its memory, for as many samples again
    void push(Instant t, double value, Quality q = Quality::Good) {
        if (q != Quality::Good && quality.empty()) quality.assign(times.size(), Quality::Good);
        times.push_back(t);
        values.push_back(value);
        if (!quality.empty() || q != Quality::Good) quality.push_back(q);
    }
    void append(const SeriesView& more);
    SeriesView view() const { return {times, values, quality}; }
    operator SeriesView() const { return view(); }
};

/// First index whose time is not before t.
std::size_t firstNotBefore(std::span<const Instant> times, Instant t);

/// Median of the differences of neighbouring times, in ns; 0 for fewer than two samples.
Duration medianSpacing(std::span<const Instant> times);

/// The longest gap a tag bridges where the engineer set none: ten median spacings for a continuous tag,
/// without end for a stepped one.
Duration defaultLongestGap(TagKind kind, Duration spacing);

/// Merges two series by time. At the same instant the sample of `newer` stands.
Series mergeSeries(const SeriesView& older, const SeriesView& newer);

}  // namespace jacinth
