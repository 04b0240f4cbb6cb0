// sensorDoubts of sensor_causes.h.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/missing.h"
#include "core/causes/straight_pieces.h"
#include "core/stats/rank_tests.h"
#include "core/stats/stats.h"
#include "store/judgement.h"
#include "work/causes/sensor_causes.h"
#include "work/mend/fix_in_hand.h"

namespace jacinth {
namespace {

constexpr double kClearSlope = 2.576;  // both tails of the normal distribution: 1 %
constexpr double kTwinShare = 0.2;
constexpr Duration kGrid = 10 * kMinute, kLeastParting = 30 * kMinute;

/// What is between two moments at which a drift was taken back.
std::vector<TimeRange> stretchesOf(const Study& study, TagId tag, const std::vector<SuspectedStep>& steps) {
    std::vector<TimeRange> out;
    Instant from = study.record().from;
    for (const SuspectedStep& s : steps) {
        if (s.tag != tag || s.kind != StepKind::DriftEnd) continue;
        out.push_back({from, s.time});
        from = s.time;
    }
    out.push_back({from, study.record().to});
    std::erase_if(out, [](TimeRange r) { return r.length() <= Duration::zero(); });
    return out;
}

double daysOf(Instant t) {
    return toHours(t.time_since_epoch()) / 24;
}

/// A line through the readings of one stretch: value − reading.
struct ReadingLine {
    TimeRange stretch;
    double middle = 0, level = 0, slope = 0, squaresX = 0, squaresLeft = 0;
    std::size_t n = 0;
    double at(Instant t) const { return level + slope * (daysOf(t) - middle); }
};

std::vector<ReadingLine> readingLines(Study& study, const Tag& tag, const std::vector<TimeRange>& stretches,
                                      const std::vector<CauseEffect>& without, Which which) {
    std::vector<ReadingLine> out;
    const std::vector<CheckReading> readings = study.judgement().checkReadings(tag.id);
    if (readings.size() < 3) return out;  // no scatter to judge by
    for (const TimeRange& stretch : stretches) {
        Series series = study.readForFigures(tag, stretch, which);
        takeAway(series, without, {});
        std::vector<double> x, y;
        for (const ReadingOff& r : readingsAgainst(series, tag.bridging(), stretch, readings)) {
            x.push_back(daysOf(r.reading.time));
            y.push_back(-r.off);
        }
        if (x.size() < 2) continue;
        const Line line = fitLine(x, y);
        ReadingLine made{stretch, mean(x), 0, line.slope};
        made.level = mean(y);
        made.n = x.size();
        for (std::size_t i = 0; i < x.size(); ++i) {
            const double dx = x[i] - made.middle, left = y[i] - made.level - made.slope * dx;
            made.squaresX += dx * dx;
            made.squaresLeft += left * left;
        }
        out.push_back(made);
    }
    return out;
}

/// Those whose slope is clear, from the scatter of all.
std::vector<ReadingLine> clearLines(std::vector<ReadingLine> lines) {
    double squares = 0, degrees = 0;
    for (const ReadingLine& l : lines) squares += l.squaresLeft, degrees += static_cast<double>(l.n) - 2;
    const double variance = degrees > 0 ? squares / degrees : 0;
    std::erase_if(lines, [&](const ReadingLine& l) {
        return !(l.squaresX > 0) || std::abs(l.slope) <= kClearSlope * std::sqrt(variance / l.squaresX);
    });
    return lines;
}

Cause causeFrom(const Tag& tag, std::vector<CauseEffect> effects, std::string why) {
    Cause out;
    out.kind = CauseKind::Drift;
    out.asset = tag.asset;
    out.tags = {tag.id};
    out.range = {effects.front().range.from, effects.back().range.to};
    for (CauseEffect& e : effects) e.tag = tag.id, e.shape.values = {1};
    out.effects = std::move(effects);
    out.why = std::move(why);
    return out;
}

std::optional<Cause> byReadings(const Tag& tag, const std::vector<ReadingLine>& lines) {
    if (lines.empty()) return {};
    std::vector<CauseEffect> effects;
    double most = 0;
    std::size_t readings = 0;
    for (const ReadingLine& l : lines) {
        CauseEffect e;
        e.range = l.stretch;
        e.weights = {{l.stretch.from, l.at(l.stretch.from)}, {l.stretch.to, l.at(l.stretch.to)}};
        for (const TimeWeight& w : e.weights)
            if (std::abs(w.weight) > std::abs(most)) most = w.weight;
        readings += l.n;
        effects.push_back(std::move(e));
    }
    return causeFrom(tag, std::move(effects),
                     fmt::format("{} drifts up to {:+.2g} {} from its check readings ({} of them).",
                                 tag.path(), most, tag.unit, readings));
}

/// One run beside the twin: own − twin on a grid, NaN where either has no value.
struct RunBesideTwin {
    TimeRange run;
    std::vector<double> apart;
    double middle = 0, scatter = 0, varies = 0;  ///< median and MAD of `apart`; MAD of the tag
};

std::vector<RunBesideTwin> besideTwin(Study& study, const Tag& tag, const Tag& twin,
                                      const std::vector<Span>& runs, const std::vector<Cause>& stepCauses,
                                      Which which) {
    const auto without = effectsOn(tag.id, stepCauses), twinWithout = effectsOn(twin.id, stepCauses);
    std::vector<RunBesideTwin> out;
    for (const Span& run : runs) {
        if (run.asset != tag.asset) continue;
        Series own = study.readForFigures(tag, run.range(), which);
        Series other = study.readForFigures(twin, run.range(), which);
        takeAway(own, without, {});
        takeAway(other, twinWithout, {});
        RunBesideTwin made{run.range(), {}};
        std::vector<double> known, values;
        for (Instant t = run.start; t < run.end; t += kGrid) {
            const double a = valueAt(own, tag.bridging(), t), b = valueAt(other, twin.bridging(), t);
            made.apart.push_back(a - b);
            if (!std::isnan(a - b)) known.push_back(a - b), values.push_back(a);
        }
        if (known.size() < 6) continue;
        made.scatter = medianAbsoluteDeviation(known);
        made.varies = medianAbsoluteDeviation(values);
        made.middle = median(std::move(known));
        out.push_back(std::move(made));
    }
    return out;
}

template <typename Member>
double medianOf(const std::vector<RunBesideTwin>& runs, Member member) {
    std::vector<double> x;
    for (const RunBesideTwin& run : runs) x.push_back(run.*member);
    return x.empty() ? kMissing : median(std::move(x));
}

std::optional<Cause> slowly(const Study& study, const Tag& tag, const Tag& twin,
                            const std::vector<RunBesideTwin>& runs) {
    std::vector<double> day, off;
    for (const RunBesideTwin& run : runs) day.push_back(daysOf(run.run.from)), off.push_back(run.middle);
    std::vector<std::vector<double>> stretches;
    for (const StraightPiece& p : straightPieces(day, off))
        stretches.emplace_back(off.begin() + static_cast<std::ptrdiff_t>(p.first),
                               off.begin() + static_cast<std::ptrdiff_t>(p.last));
    if (rankTrendOf(stretches).probability() >= 0.01) return {};
    // What they differ by where they differ least is taken for how they are mounted.
    const double usual = *std::min_element(off.begin(), off.end(),
                                           [](double a, double b) { return std::abs(a) < std::abs(b); });
    CauseEffect e;
    e.range = study.record();
    double most = 0;
    for (std::size_t i = 0; i < runs.size(); ++i) {
        const TimeRange run = runs[i].run;
        e.weights.push_back({run.from + run.length() / 2, off[i] - usual});
        if (std::abs(off[i] - usual) > std::abs(most)) most = off[i] - usual;
    }
    return causeFrom(tag, {e},
                     fmt::format("{} drifts up to {:+.2g} {} from {}, which reads the same.", tag.path(),
                                 most, tag.unit, twin.name));
}

/// The stretches of a run in which own − twin is further than `far` from what it is in the runs around it.
std::vector<CauseEffect> partings(const RunBesideTwin& run, double usual, double far) {
    std::vector<CauseEffect> out;
    CauseEffect open;
    const auto close = [&] {
        if (!open.weights.empty()) {
            open.range = {open.weights.front().time - kGrid, open.weights.back().time + kGrid};
            if (open.range.length() - 2 * kGrid >= kLeastParting) out.push_back(open);
        }
        open = {};
    };
    for (std::size_t i = 0; i < run.apart.size(); ++i) {
        const double off = run.apart[i] - usual;
        if (std::isnan(off)) continue;
        if (std::abs(off) <= far)
            close();
        else
            open.weights.push_back({run.run.from + kGrid * static_cast<Duration::rep>(i), off});
    }
    close();
    return out;
}

std::vector<Cause> atOnce(const Tag& tag, const Tag& twin, const std::vector<RunBesideTwin>& runs) {
    const double far = std::max(8 * 1.4826 * medianOf(runs, &RunBesideTwin::scatter),
                                0.1 * 1.4826 * medianOf(runs, &RunBesideTwin::varies));
    std::vector<Cause> out;
    for (std::size_t i = 0; i < runs.size(); ++i) {
        std::vector<double> around;
        for (std::size_t k = i < 2 ? 0 : i - 2; k < std::min(runs.size(), i + 3); ++k)
            around.push_back(runs[k].middle);
        std::vector<CauseEffect> found = partings(runs[i], median(around), far);
        if (found.empty()) continue;
        double most = 0;
        for (const CauseEffect& e : found)
            for (const TimeWeight& w : e.weights)
                if (std::abs(w.weight) > std::abs(most)) most = w.weight;
        Cause made = causeFrom(tag, std::move(found), "");
        made.why = fmt::format(
            "{} and {}, which read the same, part by up to {:.2g} {}: one of them is stuck, "
            "or wrong in time.",
            tag.path(), twin.name, std::abs(most), tag.unit);
        if (!out.empty() && made.range.from - out.back().range.to < kDay) {
            out.back().range.to = made.range.to;
            out.back().effects.insert(out.back().effects.end(), made.effects.begin(), made.effects.end());
        } else {
            out.push_back(std::move(made));
        }
    }
    return out;
}

bool hasDriftEnd(TagId tag, const std::vector<SuspectedStep>& steps) {
    return std::any_of(steps.begin(), steps.end(),
                       [&](const SuspectedStep& s) { return s.tag == tag && s.kind == StepKind::DriftEnd; });
}

}  // namespace

std::vector<Cause> sensorDoubts(Study& study, const Tag& tag, const std::vector<SuspectedStep>& steps,
                                const std::vector<Cause>& stepCauses, const std::vector<Span>& runs,
                                Which which) {
    const auto linesOf = [&](const Tag& of) {
        return clearLines(
            readingLines(study, of, stretchesOf(study, of.id, steps), effectsOn(of.id, stepCauses), which));
    };
    std::vector<Cause> out;
    const bool read = !study.judgement().checkReadings(tag.id).empty();
    if (read)
        if (auto drift = byReadings(tag, linesOf(tag))) out.push_back(std::move(*drift));
    for (const Tag& twin : possibleTwins(study, tag)) {
        if (twin.asset != tag.asset) break;  // the likeliest come first, and those of the asset are likelier
        const std::vector<RunBesideTwin> beside = besideTwin(study, tag, twin, runs, stepCauses, which);
        if (beside.size() < 8 || !(medianOf(beside, &RunBesideTwin::scatter) <
                                   kTwinShare * medianOf(beside, &RunBesideTwin::varies)))
            continue;
        if (!read && !hasDriftEnd(twin.id, steps) && linesOf(twin).empty())
            if (auto drift = slowly(study, tag, twin, beside)) out.push_back(std::move(*drift));
        for (Cause& parting : atOnce(tag, twin, beside)) out.push_back(std::move(parting));
        break;
    }
    return out;
}

}  // namespace jacinth
