// Which settings of a rule do best on the failures there were, and whether that is more than luck.
#pragma once

#include "core/base/progress.h"
#include "core/prove/prove.h"
#include "core/prove/settings.h"

namespace jacinth {

/// A setting that is tried at `steps` values from low to high, evenly, both included.
struct Vary {
    std::string name;
    double low = 0, high = 0;
    int steps = 2;
    double at(int step) const { return steps < 2 ? low : low + (high - low) * step / (steps - 1); }
};
inline constexpr std::size_t kMostSettings = 20'000;
/// All combinations, the last name changing fastest. Fails on a name that comes twice, a range that is none,
/// and on more than kMostSettings.
Result<std::vector<Settings>> gridOf(const std::vector<Vary>& vary);

/// Catch: the catch rate, of settings with at most so many false alarms an asset-month. F: the harmonic mean
/// of catch rate and share of alarms that came true. Cost: the least of costOf().
enum class AimKind { Catch, F, Cost };
struct Aim {
    AimKind kind = AimKind::Catch;
    double falseAtMost = 0.3;
    /// Of the time that counts. A rule that is nearly always true is one long alarm: it would catch
    /// everything with hardly a false one, and warn of nothing.
    double alarmedAtMost = 0.25;
    Costs costs;
};

struct SearchCase {
    std::vector<Vary> vary;
    std::vector<AssetCase> assets;  ///< without alarms
    std::vector<std::vector<std::vector<TimeRange>>>
        alarms;  ///< by setting, then as `assets`: where it is true
    ProveSpec spec;
    Aim aim;
    int uncovered = 0;  ///< failures of assets that the rule does not cover: none of them can be tested
};

/// What proving counts, without its lists.
struct Tally {
    int caught = 0, missed = 0, untestable = 0;
    int cameTrue = 0, falseAlarms = 0;
    double falsePerAssetMonth = 0;
    double alarmedShare = 0;  ///< of the time that counts
    Proportion caughtShare() const { return wilson(caught, caught + missed); }
    Proportion cameTrueProportion() const { return wilson(cameTrue, cameTrue + falseAlarms); }
    double catchRate() const { return caught + missed > 0 ? double(caught) / (caught + missed) : 0; }
    double cameTrueShare() const {
        return cameTrue + falseAlarms > 0 ? double(cameTrue) / (cameTrue + falseAlarms) : 0;
    }
};
/// More is better; −∞ where the aim does not allow it.
double scoreOf(const Tally& tally, const Aim& aim);

/// The places of those of which none catches more with as few false alarms, by false alarms.
std::vector<std::size_t> frontOf(const std::vector<Tally>& tallies);

struct SearchResult {
    std::vector<Tally> tallies;  ///< by setting
    std::vector<double> scores;
    std::size_t best = 0;
    /// How many steps of the grid any setting is away that does worse, the edge of the grid among them.
    int depth = 0;
    /// The one a step beside the best that catches fewest, of those with the most false alarms.
    std::size_t worstBeside = 0;
    /// From where to where each setting can go, the others as in the best, without doing worse.
    std::map<std::string, std::pair<double, double>> flat;
    std::vector<std::size_t> front;  ///< see frontOf()
};
/// Of equally good settings the best is the one that lies deepest among them; of those the one with the
/// fewest false alarms, then the first. Fails without settings, and when stopped.
Result<SearchResult> search(const SearchCase& of, const Progress& progress = {});
/// On the first `assets` of the case alone.
Result<SearchResult> searchOnFirst(std::size_t assets, const SearchCase& of, const Progress& progress = {});

/// The score on what a search has not seen.
enum class LeaveOut { Failure, Asset, Time };
struct LeftOut {
    LeaveOut by = LeaveOut::Failure;
    int caught = 0, of = 0;
    int falseAlarms = 0;  ///< on what was left out; of single failures none are counted
    double falsePerAssetMonth = 0;
    struct Round {
        std::size_t best = 0;
        int caught = 0, of = 0;
    };
    std::vector<Round> rounds;
};
/// Failure: each testable one in turn; the search on the others does not see [T − most, T] of its asset.
/// Asset: each with testable failures in turn. Time: the search sees what lies before the middle failure, and
/// is judged on what comes after. Of = 0: nothing to leave out.
Result<LeftOut> leaveOut(const SearchCase& of, LeaveOut by, const Progress& progress = {});

/// The failures of each asset moved by one random share of the time that counts there, wrapped inside it, and
/// searched again.
struct Shuffled {
    int tries = 0, asGood = 0;  ///< tries whose best scores at least as much
    double share() const { return double(asGood + 1) / (tries + 1); }
};
Result<Shuffled> shuffled(const SearchCase& of, double bestScore, int tries, unsigned seed,
                          const Progress& progress = {});
/// Moments moved on by a share of the time in `counting`, wrapped; by time. One outside of it counts from the
/// next moment inside.
std::vector<Instant> movedBy(double share, const std::vector<Instant>& moments,
                             const std::vector<TimeRange>& counting);

/// Is what was found more than a search on random moments gives? At most one try in a hundred does as well.
enum class SearchVerdict { Holds, Luck, TooFewTries };
SearchVerdict verdictOf(const Shuffled& tries);

}  // namespace jacinth
