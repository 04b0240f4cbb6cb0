#include "core/steps/joint_steps.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

#include "core/steps/estimate.h"
#include "core/steps/process_jumps.h"
#include "core/steps/step_evidence.h"
#include "core/steps/step_explanation.h"

namespace jacinth {
namespace {

constexpr double kLeastSize = 4.5;        // of its error
constexpr std::size_t kMostTogether = 3;  // tags that step at one moment are the process
constexpr std::size_t kNearBlocks = 6;    // blocks
constexpr std::size_t kMostMoments = 400;
constexpr double kVeryClear = 1.5;
constexpr Duration kUnsettled = 70 * kMinute;
constexpr double kSizedScore = 8;  // score

std::size_t apart(std::size_t a, std::size_t b) {
    return a > b ? a - b : b - a;
}

/// A step before its return is known.
struct FoundStep {
    SuspectedStep step;
    std::size_t tag = 0, block = 0;
    std::optional<Jump> jump;
    double clear = 0;  // how far its remainder stands above what chance makes
    bool used = false;

    bool isFalse() const { return step.kind != StepKind::Process; }
};

class JointFinder {
  public:
    JointFinder(const std::vector<TagScan>& asset, const BlockGrid& grid, Remainders remainders)
        : asset_(asset),
          grid_(grid),
          remainders_(std::move(remainders)),
          explainer_(asset, grid, remainders_),
          closed_(asset.size(), std::vector<bool>(grid.count(), false)) {}

    std::vector<SuspectedStep> found() {
        for (std::size_t i = 0; i < kMostMoments; ++i) {
            const auto moment = clearest();
            if (!moment) break;
            take(moment->first, moment->second);
        }
        addProcess();
        for (FoundStep& f : found_)
            if (f.isFalse()) sharpen(f);
        std::sort(found_.begin(), found_.end(),
                  [](const auto& a, const auto& b) { return a.step.time < b.step.time; });
        dropUnsettled();
        pair();
        std::erase_if(found_, [&](const FoundStep& f) { return !f.used && !isSettled(f); });
        findDriftEnds();
        std::vector<SuspectedStep> out;
        for (const FoundStep& f : found_)
            if (!f.used) out.push_back(f.step);
        return out;
    }

  private:
    /// The tag and block whose remainder stands out most, of those not looked at yet.
    std::optional<std::pair<std::size_t, std::size_t>> clearest() const {
        std::optional<std::pair<std::size_t, std::size_t>> out;
        double best = 1;
        for (std::size_t tag = 0; tag < asset_.size(); ++tag)
            for (std::size_t b = 0; b < grid_.count(); ++b)
                if (!closed_[tag][b])
                    if (const double s = remainders_.score(tag, b) / remainders_.threshold(tag); s > best)
                        best = s, out = {tag, b};
        return out;
    }

    void close(std::size_t tag, std::size_t block) {
        for (std::size_t b = block > kNearBlocks ? block - kNearBlocks : 0;
             b < std::min(grid_.count(), block + kNearBlocks + 1); ++b)
            closed_[tag][b] = true;
    }

    /// An hour where it says more, or where four hours hold the return as well.
    std::size_t reachAt(std::size_t tag, std::size_t block) const {
        const double hour = remainders_.left(tag, block, 0), four = remainders_.left(tag, block, 1);
        if (std::isnan(hour)) return 1;
        if (std::isnan(four)) return 0;
        const auto score = [&](std::size_t r) {
            return std::abs(remainders_.left(tag, block, r)) / remainders_.error(tag, block, r);
        };
        const bool apartFar = std::abs(hour - four) > 0.3 * std::abs(hour) &&
                              std::abs(hour - four) > 3 * remainders_.usual(tag, 0);
        return score(0) > 1.25 * score(1) || (apartFar && score(0) > remainders_.threshold(tag)) ? 0 : 1;
    }

    /// Four hours on either side are flat at their greatest: an hour tells better where it is.
    std::size_t edgeNear(std::size_t tag, std::size_t block) const {
        constexpr std::size_t kFar = 18;
        const double sign = remainders_.left(tag, block, 1) < 0 ? -1 : 1;
        std::size_t best = block;
        double most = kLeastSize;
        for (std::size_t b = block > kFar ? block - kFar : 0; b < std::min(grid_.count(), block + kFar + 1);
             ++b)
            if (const double s = sign * remainders_.left(tag, b, 0) / remainders_.error(tag, b, 0); s > most)
                most = s, best = b;
        return best;
    }

    void take(std::size_t tag, std::size_t block) {
        close(tag, block);
        if (reachAt(tag, block) == 1) block = edgeNear(tag, block);
        std::size_t reach = reachAt(tag, block);
        Explanation best = explainer_.explain(block, reach);
        if (best.tags.empty()) return;
        const std::size_t main = explainer_.mainOf(best, block, reach),
                          at = explainer_.locate(main, block, best.sizeOf(main));
        for (const std::size_t r : {reach, 1 - reach}) {
            if (at == block) break;
            if (Explanation again = explainer_.explain(at, r); !again.tags.empty())
                best = std::move(again), block = at, reach = r;
        }
        if (explainer_.leavesOver(best, block, reach)) {  // not steps of sensors
            for (std::size_t i = 0; i < asset_.size(); ++i) close(i, block);
            return;
        }
        bool any = false;
        const bool process = best.tags.size() >= kMostTogether || explainer_.processMoved(best, block, reach);
        for (const std::size_t t : best.tags) {
            close(t, block);
            any |= add(best, t, block, reach, process);
        }
        for (std::size_t k = 0; any && k < best.tags.size(); ++k)
            remainders_.takeOut(best.tags[k], block, best.sizes[k]);
    }

    bool add(const Explanation& e, std::size_t tag, std::size_t block, std::size_t reach, bool process) {
        const double size = e.sizeOf(tag);
        if (!(std::abs(size) >= kLeastSize * remainders_.error(tag, block, reach))) return false;
        if (!process && !staysChanged(tag, block, size)) return false;
        FoundStep f;
        f.tag = tag;
        f.block = block;
        f.step.tag = asset_[tag].tag;
        f.step.kind = process ? StepKind::Process : StepKind::Lonely;
        f.step.size = size;
        f.clear = remainders_.score(tag, block) / remainders_.threshold(tag);
        f.step.error = remainders_.usual(tag, reach);
        for (const std::size_t other : e.tags)
            if (other != tag) (process ? f.step.moved : f.step.sharedWith).push_back(asset_[other].tag);
        placeInTime(f);
        if (!process) nameCompanions(f);
        found_.push_back(std::move(f));
        return true;
    }

    /// An hour agrees about the size; four may hold the return as well.
    bool staysChanged(std::size_t tag, std::size_t block, double size) const {
        const double d = remainders_.left(tag, block, 0);
        return std::isnan(d) ||
               std::abs(d - size) <= std::max(0.5 * std::abs(size), 2 * remainders_.usual(tag, 0));
    }

    void placeInTime(FoundStep& f) const {
        f.jump = explainer_.jumpNear(f.tag, f.block, f.step.size);
        f.step.seen = f.jump.has_value();
        f.step.time = f.jump ? f.jump->after : grid_.start(f.block);
        f.step.between =
            f.jump ? TimeRange{f.jump->before, f.jump->after}
                   : TimeRange{grid_.start(f.block > 2 ? f.block - 2 : 0), grid_.start(f.block + 3)};
    }

    /// Combines the differences of every reach, without the other steps, and the jump.
    void sharpen(FoundStep& f) const {
        const LevelDifference left(remainders_.levels(f.tag), grid_);
        std::vector<Estimate> all;
        for (std::size_t r = 0; r < LevelDifference::kReaches.size(); ++r)
            if (const double d = left.at(f.block, r) + f.step.size;
                std::abs(d - f.step.size) < 0.3 * std::abs(f.step.size))
                all.push_back({d, std::max(left.usual(r), asset_[f.tag].resolution / 20)});
        if (f.jump && f.jump->score >= kSizedScore && f.jump->sharp && !f.jump->unknown &&
            std::abs(f.jump->size - f.step.size) < 0.3 * std::abs(f.step.size))
            all.push_back({f.jump->size, f.jump->error});
        if (all.empty()) return;
        const Estimate e = together(all);
        f.step.size = e.size;
        f.step.error = e.error;
    }

    /// Steps of one tag an hour apart or less: its level does not last as long as levels are compared.
    void dropUnsettled() {
        std::vector<bool> drop(found_.size(), false);
        for (std::size_t i = 0; i < found_.size(); ++i)
            for (std::size_t k = i + 1; k < found_.size(); ++k)
                if (found_[k].tag == found_[i].tag && found_[i].isFalse() && found_[k].isFalse() &&
                    found_[k].step.time - found_[i].step.time < kUnsettled)
                    drop[i] = drop[k] = true;
        std::size_t i = 0;
        std::erase_if(found_, [&](const FoundStep&) { return drop[i++]; });
    }

    /// Of those that did not step with it, the three that say most of how the tag goes.
    void nameCompanions(FoundStep& f) const {
        std::vector<std::pair<double, std::size_t>> all;
        for (std::size_t i = 0; i < asset_.size(); ++i)
            if (const double e = remainders_.companions(f.tag).effectOf(i);
                e != 0 && std::find(f.step.sharedWith.begin(), f.step.sharedWith.end(), asset_[i].tag) ==
                              f.step.sharedWith.end())
                all.emplace_back(std::abs(e) * remainders_.usualOwn(i, 1), i);
        std::sort(all.rbegin(), all.rend());
        for (std::size_t k = 0; k < std::min<std::size_t>(3, all.size()); ++k)
            f.step.companions.push_back(asset_[all[k].second].tag);
    }

    void addProcess() {
        for (const ProcessJump& p : unusualProcessJumps(asset_)) {
            const std::size_t block = grid_.at(p.time);
            if (std::none_of(found_.begin(), found_.end(),
                             [&](const FoundStep& f) { return apart(f.block, block) <= kNearBlocks; }))
                addProcessAt(block, p);
        }
    }

    /// Where two tags or more stay about where they jumped to.
    void addProcessAt(std::size_t block, const ProcessJump& p) {
        std::vector<std::size_t> moved;
        for (std::size_t i = 0; i < asset_.size(); ++i) {
            if (!p.jumps[i]) continue;
            const double share = remainders_.own(i, block, 0) / p.jumps[i]->size;
            if (share > 0.4 && share < 2.5) moved.push_back(i);
        }
        for (const std::size_t i : moved) {
            if (moved.size() < 2) return;
            FoundStep f;
            f.tag = i;
            f.block = block;
            f.step.tag = asset_[i].tag;
            f.step.kind = StepKind::Process;
            f.step.size = remainders_.own(i, block, 0);
            f.step.error = std::max(remainders_.usualOwn(i, 0), p.jumps[i]->error);
            f.step.time = p.jumps[i]->after;
            f.step.between = {p.jumps[i]->before, p.jumps[i]->after};
            for (const std::size_t o : moved)
                if (o != i) f.step.moved.push_back(asset_[o].tag);
            found_.push_back(std::move(f));
        }
    }

    /// Joins a step and its return, the shortest pair first.
    void pair() {
        for (;;) {
            std::optional<std::pair<std::size_t, std::size_t>> best;
            Duration least = Duration::max();
            for (std::size_t i = 0; i < found_.size(); ++i) {
                const auto k = nextOfTag(i);
                if (!k || !isReturn(found_[i].step, found_[*k].step)) continue;
                if (const Duration lasts = found_[*k].step.time - found_[i].step.time; lasts < least)
                    least = lasts, best = {i, *k};
            }
            if (!best) break;
            SuspectedStep& there = found_[best->first].step;
            const SuspectedStep& back = found_[best->second].step;
            const Estimate e = together({{there.size, there.error}, {-back.size, back.error}});
            there.returns = back.time;
            there.size = e.size;
            there.error = e.error;
            found_[best->second].used = true;
        }
    }

    /// The next false step of the same tag, where neither has its return yet.
    std::optional<std::size_t> nextOfTag(std::size_t i) const {
        const auto open = [](const FoundStep& f) { return !f.used && !f.step.returns && f.isFalse(); };
        if (!open(found_[i])) return {};
        for (std::size_t k = i + 1; k < found_.size(); ++k)
            if (found_[k].tag == found_[i].tag && !found_[k].used && found_[k].isFalse())
                return open(found_[k]) ? std::optional(k) : std::nullopt;
        return {};
    }

    static bool isReturn(const SuspectedStep& there, const SuspectedStep& back) {
        return back.size * there.size < 0 &&
               std::abs(back.size + there.size) <=
                   std::max(2.5 * std::hypot(there.error, back.error), 0.05 * std::abs(there.size));
    }

    /// A step that shows at no single moment and is not very clear has to last: differences over a day,
    /// without the other steps, agree.
    bool isSettled(const FoundStep& f) const {
        if (!f.isFalse() || f.step.seen || f.clear > kVeryClear) return true;
        if (f.step.returns) return *f.step.returns - f.step.time >= kDay;
        const LevelDifference left(remainders_.levels(f.tag), grid_);
        const double more = left.at(f.block, 2);
        return std::isnan(more) || std::abs(more) <= 0.5 * std::abs(f.step.size);
    }

    void findDriftEnds() {
        std::map<std::size_t, Instant> since;
        for (FoundStep& f : found_) {
            if (f.used || !f.isFalse()) continue;
            const auto last = since.try_emplace(f.tag, grid_.range.from).first;
            if (!f.step.returns &&
                runsAwayBefore(remainders_.levels(f.tag), grid_, last->second, f.step.time, f.step.size))
                f.step.kind = StepKind::DriftEnd;
            last->second = f.step.returns.value_or(f.step.time);
        }
    }

    const std::vector<TagScan>& asset_;
    const BlockGrid& grid_;
    Remainders remainders_;
    StepExplainer explainer_;
    std::vector<std::vector<bool>> closed_;  // blocks of a tag that were looked at
    std::vector<FoundStep> found_;
};

}  // namespace

std::vector<SuspectedStep> jointSteps(const std::vector<TagScan>& asset, const BlockGrid& grid,
                                      Remainders remainders) {
    return JointFinder(asset, grid, std::move(remainders)).found();
}

}  // namespace jacinth
