#include "core/prove/prove.h"

#include <algorithm>

namespace jacinth {
namespace {

constexpr double kMonthHours = 365.25 / 12 * 24;

FailureVerdict judgeFailure(Instant failure, const AssetCase& a, const std::vector<TimeRange>& alarms,
                            const std::vector<TimeRange>& holes, const ProveSpec& spec) {
    FailureVerdict out{a.asset, failure, true, false, {}, untestableReason(failure, a.covered, holes, spec)};
    out.testable = out.reason.empty();
    if (!out.testable) return out;
    for (const TimeRange& alarm : alarms)
        if (warnsOf(alarm, failure, spec)) {
            out.caught = true;
            out.warning = failure - std::max(alarm.from, failure - spec.most);
            break;
        }
    return out;
}

void addAsset(Proof& out, const AssetCase& a, const ProveSpec& spec) {
    const std::vector<TimeRange> holes = joined(a.notCounted);
    const std::vector<TimeRange> alarms = alarmsThatCount(a.alarms, holes, spec);
    for (const Instant failure : a.failures)
        out.failures.push_back(judgeFailure(failure, a, alarms, holes, spec));
    for (const TimeRange& alarm : alarms)
        out.alarms.push_back({a.asset, alarm, judgeAlarm(alarm, a.failures, a.recordEnd, spec)});
    for (const TimeRange& alarm : joined(a.alarms, spec.join))
        if (subtract({alarm}, holes).empty()) out.alarms.push_back({a.asset, alarm, Verdict::Masked});
    out.countingTime += totalLength(subtract(a.covered, holes));
}

void count(Proof& out) {
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
        }
    out.catchRate = wilson(out.caught, out.caught + out.missed);
    out.cameTrueShare = wilson(out.cameTrue, out.cameTrue + out.falseAlarms);
    out.falsePerAssetMonth = perMonth(out.falseAlarms, out.countingTime);
    out.medianWarningHours = median(std::move(warnings));
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
    }
    return "";
}

bool warnsOf(const TimeRange& alarm, Instant failure, const ProveSpec& spec) {
    return alarm.from <= failure - spec.least && alarm.to > failure - spec.most;
}

Verdict judgeAlarm(const TimeRange& alarm, const std::vector<Instant>& failures, Instant recordEnd,
                   const ProveSpec& spec) {
    for (const Instant t : failures)
        if (warnsOf(alarm, t, spec)) return Verdict::True;
    for (const Instant t : failures)
        if (alarm.from > t - spec.least && alarm.from <= t) return Verdict::Late;
    return alarm.from > recordEnd - spec.most ? Verdict::Open : Verdict::False;
}

std::vector<TimeRange> alarmsThatCount(std::vector<TimeRange> alarms, const std::vector<TimeRange>& holes,
                                       const ProveSpec& spec) {
    return joined(subtract(joined(std::move(alarms)), holes), spec.join);
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

Proof prove(const std::vector<AssetCase>& assets, const ProveSpec& spec,
            const std::vector<UncoveredFailure>& uncovered) {
    Proof out;
    for (const UncoveredFailure& f : uncovered)
        out.failures.push_back({f.asset, f.time, false, false, {}, f.reason});
    for (const AssetCase& a : assets) addAsset(out, a, spec);
    std::sort(out.failures.begin(), out.failures.end(),
              [](const FailureVerdict& a, const FailureVerdict& b) { return a.time < b.time; });
    std::sort(out.alarms.begin(), out.alarms.end(),
              [](const AlarmVerdict& a, const AlarmVerdict& b) { return a.range.from < b.range.from; });
    count(out);
    return out;
}

}  // namespace jacinth
