// Would a rule have warned of the failures there were, how long before, and how often would it have cried
// wolf?
#pragma once

#include <array>

#include "core/base/missing.h"
#include "core/span/span.h"
#include "core/stats/stats.h"

namespace jacinth {

/// A failure at T is caught when an alarm is true at some moment in [T − most, T − least].
struct ProveSpec {
    Duration most = 48 * kHour;
    Duration least = 12 * kHour;
    Duration join = 6 * kHour;  ///< alarms of one asset closer than this are one
    Duration offDelay{};        ///< an alarm stays on for this long after the rule has become false
    bool operator==(const ProveSpec&) const = default;
};

/// What proving needs of one asset. Ranges sorted, without overlap.
struct AssetCase {
    AssetId asset;
    std::vector<TimeRange> alarms;  ///< where the rule is true
    std::vector<Instant> failures;  ///< rising
    std::vector<TimeRange>
        notCounted;                  ///< stops, maintenance, and after a failure until the asset runs again
    std::vector<TimeRange> covered;  ///< where the rule's tags have data
    Instant recordEnd{};
    std::vector<TimeRange> nearMisses;    ///< where an alarm that no failure followed was a near miss
    std::vector<TimeRange> trueAfterAll;  ///< and where it was of a failure that is not on record
};

struct FailureVerdict {
    AssetId asset;
    Instant time{};
    bool testable = true;  ///< at least half of [T − most, T − least] is covered by data and not all masked
    bool caught = false;
    bool late = false;   ///< missed, and an alarm began less than `least` before it
    Duration warning{};  ///< T − start of the first such alarm, at most `most`; 0 where not caught
    std::string
        reason;  ///< why it is not testable: `no data`, `masked`, that it is not counted, or not covered
};

/// True: a failure followed in useful time. Late: it began less than `least` before its failure. Open: the
/// record ends before `most` has passed. Masked: it lies in time that does not count. Near miss: none of
/// these, and somebody who looked at it called it one. False: none of these.
enum class Verdict { True, Late, False, Open, Masked, NearMiss };
const char* verdictName(Verdict verdict);
inline constexpr std::array<Verdict, 6> kVerdicts{Verdict::True, Verdict::Late,   Verdict::False,
                                                  Verdict::Open, Verdict::Masked, Verdict::NearMiss};

struct AlarmVerdict {
    AssetId asset;
    TimeRange range;
    Verdict verdict = Verdict::False;
};

struct Proof {
    std::vector<FailureVerdict> failures;                              ///< by time
    std::vector<AlarmVerdict> alarms;                                  ///< by time
    std::vector<std::pair<AssetId, std::vector<TimeRange>>> counting;  ///< covered time that counts
    int caught = 0, missed = 0, untestable = 0;
    int cameTrue = 0, falseAlarms = 0, late = 0, open = 0, masked = 0, nearMisses = 0;
    Proportion catchRate{};         ///< caught of testable, Wilson 95 %
    Proportion cameTrueShare{};     ///< true of true + false, Wilson 95 %
    double falsePerAssetMonth = 0;  ///< a month is 365.25/12 days
    Duration countingTime{};        ///< covered time that counts, summed over assets
    double medianWarningHours = 0;  ///< of the failures caught; NaN for none
    /// Of the time in which the rule's tags have values, how much it is true; NaN without such time, and for
    /// a proof that was kept.
    double trueShare = kMissing;
};

/// Every figure, from the verdicts and the counting time.
void countVerdicts(Proof& proof);

/// A failure that is on record and not tested: of an asset that the rule does not cover, or not counted.
struct UncoveredFailure {
    AssetId asset;
    Instant time{};
    std::string reason;
};

/// What each costs; a failure that was caught costs its repair.
struct Costs {
    double missed = 1, falseAlarm = 0, caught = 0;
};
/// missed · c1 + false alarms · c2 + caught · c3.
double costOf(int missed, int falseAlarms, int caught, const Costs& costs);
double costOf(const Proof& proof, const Costs& costs);

/// Parts of alarms in time that does not count are cut away first; what is left is joined, then judged.
/// Every failure of `assets` and every one of `uncovered` has its verdict.
Proof prove(const std::vector<AssetCase>& assets, const ProveSpec& spec,
            const std::vector<UncoveredFailure>& uncovered = {});

/// How many failures would be caught if the shortest useful warning were another, from 0 to the longest in
/// `steps` even steps, both included; of those that were testable.
std::vector<std::pair<Duration, int>> caughtByLeast(const Proof& proof, const ProveSpec& spec, int steps);

// The parts that prove() is made of, for who judges the same alarms many times.

/// Longer by the off-delay, less the time that does not count, then joined; by time.
std::vector<TimeRange> alarmsThatCount(std::vector<TimeRange> alarms, const std::vector<TimeRange>& holes,
                                       const ProveSpec& spec, Instant recordEnd);
/// Is an alarm true at some moment at which it warns of the failure?
bool warnsOf(const TimeRange& alarm, Instant failure, const ProveSpec& spec);
/// What an alarm is judged by.
struct AlarmJudge {
    const std::vector<Instant>& failures;
    Instant recordEnd;
    const std::vector<TimeRange>&nearMisses, &trueAfterAll;
};
/// Of an alarm that counts.
Verdict judgeAlarm(const TimeRange& alarm, const AlarmJudge& by, const ProveSpec& spec);
/// Why a failure cannot be tested; empty where it can. Both ranges joined.
std::string untestableReason(Instant failure, const std::vector<TimeRange>& covered,
                             const std::vector<TimeRange>& holes, const ProveSpec& spec);
/// A month is 365.25 / 12 days.
double perMonth(int count, Duration time);

}  // namespace jacinth
