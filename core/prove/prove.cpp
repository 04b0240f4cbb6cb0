#include "core/prove/prove.h"

#include <algorithm>

namespace jacinth {
namespace {

constexpr double kMonthHours = 365.25 / 12 * 24;

bool isLateFor(const TimeRange& alarm, Instant failure, const ProveSpec& spec) {
    return alarm.from > failure - spec.least && alarm.from <= failure;
}

bool touchesAny(const TimeRange& alarm, const std::vector<TimeRange>& ranges) {
    return std::any_of(ranges.begin(), ranges.end(),
                       [&](const TimeRange& r) { return alarm.from < r.to && r.from < alarm.to; });
}

/// Longer by the off-delay, as far as the record goes.
std::vector<TimeRange> withOffDelay(std::vector<TimeRange> alarms, const ProveSpec& spec, Instant recordEnd) {
    if (spec.offDelay > Duration::zero())
        for (TimeRange& a : alarms) a.to = std::max(a.to, std::min(a.to + spec.offDelay, recordEnd));
    return joined(std::move(alarms));
}

FailureVerdict judgeFailure(Instant failure, const AssetCase& a, const std::vector<TimeRange>& alarms,
                            const std::vector<TimeRange>& holes, const ProveSpec& spec) {
    FailureVerdict out;
    out.asset = a.asset;
    out.time = failure;
    out.reason = untestableReason(failure, a.covered, holes, spec);
    out.testable = out.reason.empty();
    if (!out.testable) return out;
    for (const TimeRange& alarm : alarms)
        if (warnsOf(alarm, failure, spec)) {
            out.caught = true;
            out.warning = failure - std::max(alarm.from, failure - spec.most);
            break;
        }
    out.late = !out.caught && std::any_of(alarms.begin(), alarms.end(), [&](const TimeRange& alarm) {
        return isLateFor(alarm, failure, spec);
    });
    return out;
}

void addAsset(Proof& out, const AssetCase& a, const ProveSpec& spec) {
    const std::vector<TimeRange> holes = joined(a.notCounted);
    const std::vector<TimeRange> alarms = alarmsThatCount(a.alarms, holes, spec, a.recordEnd);
    const AlarmJudge by{a.failures, a.recordEnd, a.nearMisses, a.trueAfterAll};
    for (const Instant failure : a.failures)
        out.failures.push_back(judgeFailure(failure, a, alarms, holes, spec));
    for (const TimeRange& alarm : alarms) out.alarms.push_back({a.asset, alarm, judgeAlarm(alarm, by, spec)});
    for (const TimeRange& alarm : joined(withOffDelay(a.alarms, spec, a.recordEnd), spec.join))
        if (subtract({alarm}, holes).empty()) out.alarms.push_back({a.asset, alarm, Verdict::Masked});
    out.counting.emplace_back(a.asset, subtract(a.covered, holes));
    out.countingTime += totalLength(out.counting.back().second);
}

}  // namespace

const char* verdictName(Verdict verdict) {
    switch (verdict) {
        case Verdict::True:
            return "true";
        case Verdict::Late:
            return "late";
        case Verdict::False:
            return "false";
        case Verdict::Open:
            return "open";
        case Verdict::Masked:
            return "masked";
        case Verdict::NearMiss:
            return "near miss";
    }
    return "";
}

bool warnsOf(const TimeRange& alarm, Instant failure, const ProveSpec& spec) {
    return alarm.from <= failure - spec.least && alarm.to > failure - spec.most;
}

Verdict judgeAlarm(const TimeRange& alarm, const AlarmJudge& by, const ProveSpec& spec) {
    for (const Instant t : by.failures)
        if (warnsOf(alarm, t, spec)) return Verdict::True;
    for (const Instant t : by.failures)
        if (isLateFor(alarm, t, spec)) return Verdict::Late;
    if (touchesAny(alarm, by.trueAfterAll)) return Verdict::True;
    if (alarm.from > by.recordEnd - spec.most) return Verdict::Open;
    return touchesAny(alarm, by.nearMisses) ? Verdict::NearMiss : Verdict::False;
}

std::vector<TimeRange> alarmsThatCount(std::vector<TimeRange> alarms, const std::vector<TimeRange>& holes,
                                       const ProveSpec& spec, Instant recordEnd) {
    return joined(subtract(withOffDelay(std::move(alarms), spec, recordEnd), holes), spec.join);
}

std::string untestableReason(Instant failure, const std::vector<TimeRange>& covered,
                             const std::vector<TimeRange>& holes, const ProveSpec& spec) {
    const TimeRange useful{failure - spec.most, failure - spec.least};
    const std::vector<TimeRange> withData = intersect(covered, {useful});
    if (totalLength(withData) * 2 < useful.length()) return "no data";
    const bool masked = useful.length() > Duration::zero() && subtract(withData, holes).empty();
    return masked ? "masked" : "";
}

double perMonth(int count, Duration time) {
    const double months = toHours(time) / kMonthHours;
    return months > 0 ? count / months : 0;
}

double costOf(int missed, int falseAlarms, int caught, const Costs& costs) {
    return missed * costs.missed + falseAlarms * costs.falseAlarm + caught * costs.caught;
}

double costOf(const Proof& proof, const Costs& costs) {
    return costOf(proof.missed, proof.falseAlarms, proof.caught, costs);
}

void countVerdicts(Proof& out) {
    out.caught = out.missed = out.untestable = 0;
    out.cameTrue = out.falseAlarms = out.late = out.open = out.masked = out.nearMisses = 0;
    std::vector<double> warnings;
    for (const FailureVerdict& f : out.failures) {
        if (!f.testable)
            ++out.untestable;
        else if (f.caught)
            ++out.caught;
        else
            ++out.missed;
        if (f.caught) warnings.push_back(toHours(f.warning));
    }
    for (const AlarmVerdict& a : out.alarms) switch (a.verdict) {
            case Verdict::True:
                ++out.cameTrue;
                break;
            case Verdict::Late:
                ++out.late;
                break;
            case Verdict::False:
                ++out.falseAlarms;
                break;
            case Verdict::Open:
                ++out.open;
                break;
            case Verdict::Masked:
                ++out.masked;
                break;
            case Verdict::NearMiss:
                ++out.nearMisses;
                break;
        }
    out.catchRate = wilson(out.caught, out.caught + out.missed);
    out.cameTrueShare = wilson(out.cameTrue, out.cameTrue + out.falseAlarms);
    out.falsePerAssetMonth = perMonth(out.falseAlarms, out.countingTime);
    out.medianWarningHours = median(std::move(warnings));
}

std::vector<std::pair<Duration, int>> caughtByLeast(const Proof& proof, const ProveSpec& spec, int steps) {
    std::vector<std::pair<Duration, int>> out;
    for (int i = 0; i < steps; ++i) {
        ProveSpec other = spec;
        other.least = steps < 2 ? Duration() : spec.most * i / (steps - 1);
        int caught = 0;
        for (const FailureVerdict& f : proof.failures)
            caught += f.testable &&
                      std::any_of(proof.alarms.begin(), proof.alarms.end(), [&](const AlarmVerdict& a) {
                          return a.asset == f.asset && a.verdict != Verdict::Masked &&
                                 warnsOf(a.range, f.time, other);
                      });
        out.emplace_back(other.least, caught);
    }
    return out;
}

Proof prove(const std::vector<AssetCase>& assets, const ProveSpec& spec,
            const std::vector<UncoveredFailure>& uncovered) {
    Proof out;
    for (const UncoveredFailure& f : uncovered)
        out.failures.push_back({f.asset, f.time, false, false, false, {}, f.reason});
    Duration whereTrue{}, covered{};
    for (const AssetCase& a : assets) {
        addAsset(out, a, spec);
        whereTrue += totalLength(joined(a.alarms));
        covered += totalLength(a.covered);
    }
    if (covered > Duration::zero()) out.trueShare = toNanoseconds(whereTrue) / toNanoseconds(covered);
    std::sort(out.failures.begin(), out.failures.end(),
              [](const FailureVerdict& a, const FailureVerdict& b) { return a.time < b.time; });
    std::sort(out.alarms.begin(), out.alarms.end(),
              [](const AlarmVerdict& a, const AlarmVerdict& b) { return a.range.from < b.range.from; });
    countVerdicts(out);
    return out;
}

}  // namespace jacinth
