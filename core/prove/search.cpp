#include "core/prove/search.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <random>
#include <set>

#include "core/base/random_share.h"
#include "core/prove/judged_cases.h"

namespace jacinth {
namespace {

constexpr double kWorst = -std::numeric_limits<double>::infinity();

/// Places of a grid: by which steps of each setting an index stands.
class Grid {
  public:
    explicit Grid(const std::vector<Vary>& vary) : vary_(vary) {}
    int stepOf(std::size_t index, std::size_t name) const {
        return static_cast<int>(index / strideOf(name) % static_cast<std::size_t>(vary_[name].steps));
    }
    std::size_t strideOf(std::size_t name) const {
        std::size_t out = 1;
        for (std::size_t i = name + 1; i < vary_.size(); ++i) out *= static_cast<std::size_t>(vary_[i].steps);
        return out;
    }
    /// The places beside this one; fewer at the edges of the grid.
    std::vector<std::size_t> beside(std::size_t index) const {
        std::vector<std::size_t> out;
        for (std::size_t i = 0; i < vary_.size(); ++i) {
            const int step = stepOf(index, i);
            if (step > 0) out.push_back(index - strideOf(i));
            if (step + 1 < vary_[i].steps) out.push_back(index + strideOf(i));
        }
        return out;
    }
    std::size_t names() const { return vary_.size(); }
    const Vary& name(std::size_t i) const { return vary_[i]; }

  private:
    const std::vector<Vary>& vary_;
};

/// For each setting how many steps it is from one that scores less than `score`, or from the edge; 0 for
/// those that do.
std::vector<int> depths(const Grid& grid, const std::vector<double>& scores, double score) {
    std::vector<int> out(scores.size(), -1);
    std::vector<std::size_t> now;
    for (std::size_t i = 0; i < scores.size(); ++i)
        if (scores[i] < score) {
            out[i] = 0;
            now.push_back(i);
        }
    for (int depth = 1; !now.empty() || depth == 1; ++depth) {
        std::vector<std::size_t> next;
        const auto reach = [&](std::size_t i) {
            if (out[i] >= 0) return;
            out[i] = depth;
            next.push_back(i);
        };
        for (const std::size_t i : now)
            for (const std::size_t j : grid.beside(i)) reach(j);
        if (depth == 1)
            for (std::size_t i = 0; i < scores.size(); ++i)
                if (grid.beside(i).size() < 2 * grid.names()) reach(i);
        now = std::move(next);
    }
    return out;
}

std::size_t bestOf(const SearchCase& of, const std::vector<Tally>& tallies, const std::vector<double>& scores,
                   int* depth = nullptr) {
    const double most = *std::max_element(scores.begin(), scores.end());
    const std::vector<int> deep = depths(Grid(of.vary), scores, most);
    std::size_t best = 0;
    bool any = false;
    for (std::size_t i = 0; i < scores.size(); ++i) {
        if (scores[i] < most) continue;
        const bool better = !any || deep[i] > deep[best] ||
                            (deep[i] == deep[best] && tallies[i].falseAlarms < tallies[best].falseAlarms);
        if (better) best = i;
        any = true;
    }
    if (depth) *depth = deep[best];
    return best;
}

std::map<std::string, std::pair<double, double>> flatAround(const Grid& grid,
                                                            const std::vector<double>& scores,
                                                            std::size_t best) {
    std::map<std::string, std::pair<double, double>> out;
    for (std::size_t i = 0; i < grid.names(); ++i) {
        const std::size_t stride = grid.strideOf(i);
        const int here = grid.stepOf(best, i);
        int low = here, high = here;
        const auto good = [&](int step) {
            const std::size_t first = best - static_cast<std::size_t>(here) * stride;
            return scores[first + static_cast<std::size_t>(step) * stride] >= scores[best];
        };
        while (low > 0 && good(low - 1)) --low;
        while (high + 1 < grid.name(i).steps && good(high + 1)) ++high;
        out[grid.name(i).name] = {grid.name(i).at(low), grid.name(i).at(high)};
    }
    return out;
}

/// Tallies and scores of all settings on these cases.
struct Scored {
    std::vector<Tally> tallies;
    std::vector<double> scores;
};

Result<Scored> scoredOn(const SearchCase& of, const JudgedCases& cases, const Progress& progress = {}) {
    Scored out;
    for (std::size_t s = 0; s < of.alarms.size(); ++s) {
        if (s % 64 == 0 && progress.stopped(double(s) / double(of.alarms.size()))) return Error::cancelled();
        out.tallies.push_back(cases.tally(s));
        out.scores.push_back(scoreOf(out.tallies.back(), of.aim));
    }
    if (out.scores.empty()) return Error{"a search needs settings to try"};
    return out;
}

/// What a search on some of the record learns, and how its best does on the rest.
struct Halves {
    std::vector<AssetCase> seen, unseen;
};

/// Adds how the best on what is seen does on the rest, and the time of that which counts.
Status judgeUnseen(const SearchCase& of, const Halves& halves, LeftOut& sum, Duration& counting) {
    const auto scored = scoredOn(of, JudgedCases(of, halves.seen));
    if (!scored) return scored.error();
    const std::size_t best = bestOf(of, scored->tallies, scored->scores);
    const JudgedCases unseen(of, halves.unseen);
    const Tally on = unseen.tally(best);
    sum.caught += on.caught;
    sum.of += on.caught + on.missed;
    sum.rounds.push_back({best, on.caught, on.caught + on.missed});
    if (sum.by == LeaveOut::Failure) return Done{};  // its asset's false alarms belong to every round
    sum.falseAlarms += on.falseAlarms;
    counting += unseen.countingTime();
    return Done{};
}

/// The time of an asset that counts, up to a moment or from it on.
AssetCase cutAt(const AssetCase& a, Instant t, bool before) {
    AssetCase out = a;
    const TimeRange kept = before ? TimeRange{Instant::min(), t} : TimeRange{t, Instant::max()};
    out.covered = intersect(a.covered, {kept});
    out.notCounted.push_back(before ? TimeRange{t, Instant::max()} : TimeRange{Instant::min(), t});
    std::erase_if(out.failures, [&](Instant f) { return before ? f > t : f <= t; });
    if (before) out.recordEnd = std::min(a.recordEnd, t);
    return out;
}

struct FailureAt {
    std::size_t asset;
    Instant time;
};

/// Those that can be tested, by time.
std::vector<FailureAt> testable(const SearchCase& of) {
    std::vector<FailureAt> out;
    for (std::size_t a = 0; a < of.assets.size(); ++a) {
        const std::vector<TimeRange> holes = joined(of.assets[a].notCounted);
        for (const Instant t : of.assets[a].failures)
            if (untestableReason(t, of.assets[a].covered, holes, of.spec).empty()) out.push_back({a, t});
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const FailureAt& a, const FailureAt& b) { return a.time < b.time; });
    return out;
}

Halves withoutFailure(const SearchCase& of, const FailureAt& left) {
    Halves out{of.assets, {of.assets[left.asset]}};
    AssetCase& seen = out.seen[left.asset];
    std::erase(seen.failures, left.time);
    seen.notCounted.push_back({left.time - of.spec.most, left.time + kNanosecond});
    out.unseen[0].failures = {left.time};
    return out;
}

Halves withoutAsset(const SearchCase& of, std::size_t asset) {
    Halves out{of.assets, {of.assets[asset]}};
    out.seen.erase(out.seen.begin() + static_cast<std::ptrdiff_t>(asset));
    return out;
}

Halves cutInTime(const SearchCase& of, Instant t) {
    Halves out;
    for (const AssetCase& a : of.assets) {
        out.seen.push_back(cutAt(a, t, true));
        out.unseen.push_back(cutAt(a, t, false));
    }
    return out;
}

std::vector<Halves> roundsOf(const SearchCase& of, LeaveOut by) {
    const std::vector<FailureAt> failures = testable(of);
    std::vector<Halves> out;
    if (failures.size() < 2) return out;  // nothing is left to learn from
    if (by == LeaveOut::Failure)
        for (const FailureAt& f : failures) out.push_back(withoutFailure(of, f));
    if (by == LeaveOut::Asset) {
        std::set<std::size_t> assets;
        for (const FailureAt& f : failures) assets.insert(f.asset);
        if (assets.size() > 1)
            for (const std::size_t a : assets) out.push_back(withoutAsset(of, a));
    }
    if (by == LeaveOut::Time) out.push_back(cutInTime(of, failures[(failures.size() - 1) / 2].time));
    return out;
}

}  // namespace

Result<std::vector<Settings>> gridOf(const std::vector<Vary>& vary) {
    std::size_t count = 1;
    std::set<std::string> names;
    for (const Vary& v : vary) {
        if (!names.insert(v.name).second) return Error{fmt::format("{{{}}} is varied twice", v.name)};
        if (v.steps < 2) return Error{fmt::format("{{{}}} needs two steps or more", v.name)};
        if (!(v.low < v.high) || !std::isfinite(v.low) || !std::isfinite(v.high))
            return Error{fmt::format("{{{}}} needs a range from a lower to a higher number", v.name)};
        count *= static_cast<std::size_t>(v.steps);
        if (count > kMostSettings)
            return Error{fmt::format("these are more than {} settings: take fewer steps", kMostSettings)};
    }
    std::vector<Settings> out(vary.empty() ? 0 : count);
    const Grid grid(vary);
    for (std::size_t i = 0; i < out.size(); ++i)
        for (std::size_t n = 0; n < vary.size(); ++n) out[i][vary[n].name] = vary[n].at(grid.stepOf(i, n));
    return out;
}

double scoreOf(const Tally& tally, const Aim& aim) {
    if (tally.alarmedShare > aim.alarmedAtMost) return kWorst;
    switch (aim.kind) {
        case AimKind::Catch:
            return tally.falsePerAssetMonth <= aim.falseAtMost ? tally.catchRate() : kWorst;
        case AimKind::F: {
            const double p = tally.cameTrueShare(), r = tally.catchRate();
            return p + r > 0 ? 2 * p * r / (p + r) : 0;
        }
        case AimKind::Cost:
            return -costOf(tally.missed, tally.falseAlarms, tally.caught, aim.costs);
    }
    return 0;
}

std::vector<std::size_t> frontOf(const std::vector<Tally>& tallies) {
    std::vector<std::size_t> order(tallies.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        const Tally &x = tallies[a], &y = tallies[b];
        return x.falseAlarms != y.falseAlarms ? x.falseAlarms < y.falseAlarms : x.caught > y.caught;
    });
    std::vector<std::size_t> out;
    int most = -1;
    for (const std::size_t i : order)
        if (tallies[i].caught > most) {
            most = tallies[i].caught;
            out.push_back(i);
        }
    return out;
}

Result<SearchResult> search(const SearchCase& of, const Progress& progress) {
    return searchOnFirst(of.assets.size(), of, progress);
}

Result<SearchResult> searchOnFirst(std::size_t assets, const SearchCase& of, const Progress& progress) {
    const std::vector<AssetCase> first(of.assets.begin(),
                                       of.assets.begin() + static_cast<std::ptrdiff_t>(assets));
    auto scored = scoredOn(of, JudgedCases(of, first), progress);
    if (!scored) return scored.error();
    SearchResult out;
    out.tallies = std::move(scored->tallies);
    out.scores = std::move(scored->scores);
    out.best = bestOf(of, out.tallies, out.scores, &out.depth);
    out.flat = flatAround(Grid(of.vary), out.scores, out.best);
    out.worstBeside = out.best;
    for (const std::size_t i : Grid(of.vary).beside(out.best))
        if (std::pair(out.tallies[i].caught, -out.tallies[i].falseAlarms) <
            std::pair(out.tallies[out.worstBeside].caught, -out.tallies[out.worstBeside].falseAlarms))
            out.worstBeside = i;
    out.front = frontOf(out.tallies);
    return out;
}

Result<LeftOut> leaveOut(const SearchCase& of, LeaveOut by, const Progress& progress) {
    LeftOut out;
    out.by = by;
    const std::vector<Halves> rounds = roundsOf(of, by);
    Duration counting{};
    for (std::size_t i = 0; i < rounds.size(); ++i) {
        if (progress.stopped(double(i) / double(rounds.size()))) return Error::cancelled();
        if (const Status good = judgeUnseen(of, rounds[i], out, counting); !good) return good.error();
    }
    out.falsePerAssetMonth = perMonth(out.falseAlarms, counting);
    return out;
}

std::vector<Instant> movedBy(double share, const std::vector<Instant>& moments,
                             const std::vector<TimeRange>& counting) {
    const Duration whole = totalLength(counting);
    if (whole <= Duration::zero()) return moments;
    const auto by =
        Duration(static_cast<std::int64_t>(std::floor(share * static_cast<double>(whole.count()))));
    std::vector<Instant> out;
    for (const Instant t : moments) {
        Duration before{};
        for (const TimeRange& r : counting)
            if (t > r.from) before += std::min(t, r.to) - r.from;
        if (const auto moved = momentIn(counting, (before + by) % whole)) out.push_back(*moved);
    }
    std::sort(out.begin(), out.end());
    return out;
}

Result<Shuffled> shuffled(const SearchCase& of, double bestScore, int tries, unsigned seed,
                          const Progress& progress) {
    JudgedCases cases(of, of.assets);
    Shuffled out;
    std::mt19937_64 random(seed);
    for (int i = 0; i < tries; ++i) {
        if (progress.stopped(double(i) / tries)) return Error::cancelled();
        cases.moveFailures(of.assets, [&] { return randomShare(random); });
        double most = kWorst;
        for (std::size_t s = 0; s < of.alarms.size(); ++s)
            most = std::max(most, scoreOf(cases.tally(s), of.aim));
        ++out.tries;
        out.asGood += most >= bestScore;
    }
    return out;
}

SearchVerdict verdictOf(const Shuffled& tries) {
    constexpr double kLuck = 0.01;
    if (tries.share() <= kLuck) return SearchVerdict::Holds;
    return 1.0 / (tries.tries + 1) > kLuck && tries.asGood == 0 ? SearchVerdict::TooFewTries
                                                                : SearchVerdict::Luck;
}

}  // namespace jacinth
