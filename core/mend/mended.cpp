#include "core/mend/mended.h"

#include <algorithm>
#include <unordered_map>

#include "core/base/missing.h"
#include "core/mend/fill.h"

namespace jacinth {
namespace {

/// Without the samples from range.from to range.to, both included.
void takeOut(Series& s, TimeRange range) {
    const auto a = static_cast<std::ptrdiff_t>(firstNotBefore(s.times, range.from)),
               b = static_cast<std::ptrdiff_t>(firstNotBefore(s.times, range.to + kNanosecond));
    s.times.erase(s.times.begin() + a, s.times.begin() + b);
    s.values.erase(s.values.begin() + a, s.values.begin() + b);
    if (!s.quality.empty()) s.quality.erase(s.quality.begin() + a, s.quality.begin() + b);
}

/// Works from the last fix back to the logged samples: each step asks the one before it for what it needs.
class Mender {
  public:
    Mender(std::span<const Fix> fixes, const MendSources& sources) : fixes_(fixes), sources_(sources) {}

    /// After the first `count` fixes.
    Series read(std::size_t count, TimeRange range) const {
        std::size_t plain = count;
        while (plain > 0 && (fixes_[plain - 1].isPlain() || !fixes_[plain - 1].touches(range))) --plain;
        Series out = plain == 0 ? sources_.logged(range) : known(plain, range);
        applyPlainFixes(fixes_.subspan(plain, count - plain), out);
        return out;
    }

  private:
    /// What was read after so many fixes. Each fix asks the one before it for several stretches: without this
    /// the work would grow threefold with every fix that lies over another.
    struct Known {
        TimeRange range{};
        Series series;
    };
    static constexpr std::size_t kMostKept = 20'000'000;  ///< samples, of all fixes together

    Series known(std::size_t count, TimeRange range) const {
        Known& k = known_[count];
        const bool apart = range.to < k.range.from || range.from > k.range.to;
        if (k.range.from == k.range.to || apart) {
            // The last of them is asked once, by whoever reads.
            const bool last = depth_++ == 0;
            Series out = structural(count, range);
            --depth_;
            if (!last) keep(count, range, out);
            return out;
        }
        // known_ may change meanwhile, but not its entry for this fix: those before it are asked.
        if (range.from < k.range.from) {
            const Series before = structural(count, {range.from, k.range.from});
            k.series = mergeSeries(before, k.series);
            kept_ += before.size();
            k.range.from = range.from;
        }
        if (range.to > k.range.to) {
            const Series after = structural(count, {k.range.to, range.to});
            k.series = mergeSeries(k.series, after);
            kept_ += after.size();
            k.range.to = range.to;
        }
        Series out;
        out.append(k.series.view().within(range));
        return out;
    }

    void keep(std::size_t count, TimeRange range, const Series& series) const {
        Known& k = known_[count];
        if (series.size() < k.series.size() || kept_ + series.size() > kMostKept) return;
        kept_ += series.size() - k.series.size();
        k = {range, series};
    }

    /// After the first `count`, the last of which makes samples come, go, move or turn bad.
    Series structural(std::size_t count, TimeRange range) const {
        const Fix& fix = fixes_[count - 1];
        if (const auto* clock = std::get_if<ClockFix>(&fix.body)) return moved(count - 1, fix, *clock, range);
        if (const auto* hide = std::get_if<HideFix>(&fix.body)) return hidden(count - 1, fix, *hide, range);
        if (std::holds_alternative<CutFix>(fix.body)) return cut(count - 1, fix, range);
        return filled(count - 1, fix, range);
    }

    Series moved(std::size_t count, const Fix& fix, const ClockFix& clock, TimeRange range) const {
        Series stay = read(count, range), come;
        takeOut(stay, {fix.from, fix.to});
        const TimeRange logged{std::max(fix.from, range.from - clock.by),
                               std::min(fix.to + kNanosecond, range.to - clock.by)};
        if (logged.from < logged.to) come = read(count, logged);
        for (Instant& t : come.times) t += clock.by;
        return allOf(stay, come);
    }

    /// Both, by time. Where two have one instant, the one that came is put as little later as it can be.
    static Series allOf(const Series& stay, const Series& come) {
        Series out;
        out.reserve(stay.size() + come.size());
        std::size_t i = 0, j = 0;
        while (i < stay.size() || j < come.size()) {
            const bool takeStay = j == come.size() || (i < stay.size() && stay.times[i] <= come.times[j]);
            const Series& from = takeStay ? stay : come;
            std::size_t& k = takeStay ? i : j;
            Instant t = from.times[k];
            if (!out.empty() && t <= out.times.back()) t = out.times.back() + kNanosecond;
            out.push(t, from.values[k], from.view().qualityAt(k));
            ++k;
        }
        return out;
    }

    Series hidden(std::size_t count, const Fix& fix, const HideFix& hide, TimeRange range) const {
        Series out = read(count, range);
        out.quality.resize(out.size(), Quality::Good);
        const auto turn = [&](TimeRange part) {
            for (std::size_t i = firstNotBefore(out.times, part.from);
                 i < out.size() && out.times[i] <= part.to; ++i)
                out.quality[i] = std::max(out.quality[i], Quality::Bad);
        };
        if (hide.parts.empty()) turn({fix.from, fix.to});
        for (const TimeRange& part : hide.parts)
            turn({std::max(part.from, fix.from), std::min(part.to, fix.to)});
        return out;
    }

    Series cut(std::size_t count, const Fix& fix, TimeRange range) const {
        Series out = read(count, range);
        takeOut(out, {fix.from, fix.to});
        if (fix.from < range.from || fix.from >= range.to) return out;
        // From here on nothing is known.
        Series mark;
        mark.push(fix.from, kMissing, Quality::Missing);
        return mergeSeries(out, mark);
    }

    Series filled(std::size_t count, const Fix& fix, TimeRange range) const {
        const Duration reach = fillReach(fix, sources_.spacing);
        const bool over = replacesAll(fix);
        // Whole gaps, and as far beyond them as fills look.
        TimeRange gaps = range;
        if (over) gaps = {std::min(gaps.from, fix.from), std::max(gaps.to, fix.to + kNanosecond)};
        const TimeRange wide{gaps.from - reach, gaps.to + reach};
        Series s = read(count, wide);
        if (over || !std::holds_alternative<BridgeFix>(fix.body))
            s = toBothSides(count, std::move(s), wide, gaps, reach);
        Series kept = s;
        for (Gap gap : gapsIn(s, fix, sources_.spacing, over)) {
            if (!keepNear(gap, fix, range)) continue;
            const Series fill = fillOf(s, gap, fix, sources_.spacing, [&](TimeRange r) {
                const auto& borrow = std::get<BorrowFix>(fix.body);
                return sources_.twin ? sources_.twin(borrow.twin, r) : Series();
            });
            if (fill.empty()) continue;
            takeOut(kept, gap.filled);
            kept = mergeSeries(kept, fill);
        }
        return within(kept, range);
    }

    /// Of a long gap only what is asked for and a little around it, so that it is known whether there is a
    /// fill; false where nothing is left. A borrow is fitted to the gap as a whole.
    bool keepNear(Gap& gap, const Fix& fix, TimeRange range) const {
        constexpr std::int64_t kLong = 100'000;
        if (std::holds_alternative<BorrowFix>(fix.body) ||
            samplesToFill(gap.filled, sources_.spacing) < kLong)
            return true;
        gap.filled.from = std::max(gap.filled.from, range.from - 2 * sources_.spacing);
        gap.filled.to = std::min(gap.filled.to, range.to + 2 * sources_.spacing);
        return gap.filled.from <= gap.filled.to;
    }

    static bool replacesAll(const Fix& fix) {
        const auto* bridge = std::get_if<BridgeFix>(&fix.body);
        const auto* borrow = std::get_if<BorrowFix>(&fix.body);
        const auto* decay = std::get_if<DecayFix>(&fix.body);
        return (bridge && bridge->over) || (borrow && borrow->over) || (decay && decay->over);
    }

    /// Reads further out: to a usable sample on either side of the range, and as far beyond it as fills look;
    /// or to the ends of the record.
    Series toBothSides(std::size_t count, Series s, TimeRange wide, TimeRange range, Duration reach) const {
        const auto before = [&]() -> std::optional<Instant> {
            for (std::size_t i = firstNotBefore(s.times, range.from); i-- > 0;)
                if (s.view().usable(i)) return s.times[i];
            return {};
        };
        const auto after = [&]() -> std::optional<Instant> {
            for (std::size_t i = firstNotBefore(s.times, range.to); i < s.size(); ++i)
                if (s.view().usable(i)) return s.times[i];
            return {};
        };
        const auto down = [&](Instant to) {
            s = mergeSeries(read(count, {to, wide.from}), s);
            wide.from = to;
        };
        const auto up = [&](Instant to) {
            s = mergeSeries(s, read(count, {wide.to, to}));
            wide.to = to;
        };
        for (Duration step = kHour; !before() && wide.from > sources_.extent.from; step *= 2)
            down(wide.from - step);
        for (Duration step = kHour; !after() && wide.to < sources_.extent.to; step *= 2) up(wide.to + step);
        if (const auto edge = before(); edge && *edge - reach < wide.from) down(*edge - reach);
        if (const auto edge = after(); edge && *edge + reach >= wide.to) up(*edge + reach + kNanosecond);
        return s;
    }

    static Series within(const Series& s, TimeRange range) {
        Series out;
        out.append(s.view().within(range));
        return out;
    }

    std::span<const Fix> fixes_;
    const MendSources& sources_;
    mutable std::unordered_map<std::size_t, Known> known_;
    mutable std::size_t kept_ = 0;
    mutable int depth_ = 0;  ///< of fixes that are being read for others
};

}  // namespace

Series mendedSamples(std::span<const Fix> fixes, TimeRange range, const MendSources& sources) {
    return Mender(fixes, sources).read(fixes.size(), range);
}

void applyPlainFixes(std::span<const Fix> fixes, Series& series) {
    for (const Fix& fix : fixes) {
        if (!fix.on || !fix.isPlain()) continue;
        for (std::size_t i = firstNotBefore(series.times, fix.from);
             i < series.size() && series.times[i] <= fix.to; ++i)
            series.values[i] += changeAt(fix, series.times[i], series.values[i]);
    }
}

}  // namespace jacinth
