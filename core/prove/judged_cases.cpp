#include "core/prove/judged_cases.h"

#include <algorithm>

namespace jacinth {

JudgedCases::JudgedCases(const SearchCase& of, const std::vector<AssetCase>& cases)
    : spec_(of.spec), uncovered_(of.uncovered) {
    for (const AssetCase& a : cases) {
        const auto whole = std::find_if(of.assets.begin(), of.assets.end(),
                                        [&](const AssetCase& other) { return other.asset == a.asset; });
        if (whole == of.assets.end()) continue;
        const auto place = static_cast<std::size_t>(whole - of.assets.begin());
        OnAsset& on = assets_.emplace_back();
        on.covered = a.covered;
        on.holes = joined(a.notCounted);
        on.counting = subtract(a.covered, on.holes);
        on.recordEnd = a.recordEnd;
        on.nearMisses = a.nearMisses;
        on.trueAfterAll = a.trueAfterAll;
        counting_ += totalLength(on.counting);
        for (const auto& setting : of.alarms) {
            on.alarms.push_back(alarmsThatCount(setting[place], on.holes, spec_, on.recordEnd));
            on.alarmed.push_back(totalLength(intersect(on.alarms.back(), on.counting)));
        }
        setFailures(on, a.failures);
    }
}

void JudgedCases::setFailures(OnAsset& on, std::vector<Instant> failures) const {
    on.failures = std::move(failures);
    on.testable.clear();
    on.untestable = 0;
    for (const Instant t : on.failures)
        if (untestableReason(t, on.covered, on.holes, spec_).empty())
            on.testable.push_back(t);
        else
            ++on.untestable;
}

void JudgedCases::moveFailures(const std::vector<AssetCase>& cases, const std::function<double()>& random) {
    constexpr int kMostDraws = 100;
    for (std::size_t i = 0; i < assets_.size(); ++i) {
        OnAsset& on = assets_[i];
        setFailures(on, cases[i].failures);
        const std::size_t tested = on.testable.size();
        if (on.failures.empty()) continue;
        std::vector<Instant> most;
        std::size_t mostTested = 0;
        for (int draw = 0; draw < kMostDraws; ++draw) {
            setFailures(on, movedBy(random(), cases[i].failures, on.counting));
            if (draw == 0 || on.testable.size() > mostTested) {
                most = on.failures;
                mostTested = on.testable.size();
            }
            if (mostTested >= tested) break;
        }
        setFailures(on, std::move(most));
    }
}

Tally JudgedCases::tally(std::size_t setting) const {
    Tally out;
    out.untestable = uncovered_;
    Duration alarmed{};
    for (const OnAsset& on : assets_) {
        alarmed += on.alarmed[setting];
        const std::vector<TimeRange>& alarms = on.alarms[setting];
        out.untestable += on.untestable;
        for (const Instant t : on.testable) {
            const bool caught = std::any_of(alarms.begin(), alarms.end(),
                                            [&](const TimeRange& a) { return warnsOf(a, t, spec_); });
            ++(caught ? out.caught : out.missed);
        }
        const AlarmJudge by{on.failures, on.recordEnd, on.nearMisses, on.trueAfterAll};
        for (const TimeRange& alarm : alarms) {
            const Verdict verdict = judgeAlarm(alarm, by, spec_);
            out.cameTrue += verdict == Verdict::True;
            out.falseAlarms += verdict == Verdict::False;
        }
    }
    out.falsePerAssetMonth = perMonth(out.falseAlarms, counting_);
    if (counting_ > Duration::zero()) out.alarmedShare = toNanoseconds(alarmed) / toNanoseconds(counting_);
    return out;
}

}  // namespace jacinth
