#include "core/steps/suspected_steps.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/steps/joint_steps.h"
#include "core/steps/level_shifts.h"
#include "core/steps/step_evidence.h"

namespace jacinth {
namespace {

constexpr double kLeastScore = 8;
constexpr double kLeastCompanion = 4.5;
constexpr double kLeastSignificance = 5;
constexpr Duration kTogether = 90 * kSecond;
constexpr Duration kNearState = 2 * kMinute;
constexpr Duration kHidden = 4 * kHour;
constexpr int kHabit = 3;
constexpr double kAlike = 0.3;  // share by which a return may differ from the step

struct Candidate {
    std::size_t tag = 0;
    Jump jump;
    StaysChanged stays;
    bool twinSays = false;  // judged by a twin that did not move
    bool habitual = false;  // the tag makes such jumps often
};

struct Event {
    std::vector<Candidate> members;
    std::vector<std::size_t> companions;

    bool proved() const {
        return std::any_of(members.begin(), members.end(), [](const Candidate& c) { return c.twinSays; });
    }
    bool has(std::size_t tag) const {
        return std::any_of(members.begin(), members.end(), [&](const Candidate& c) { return c.tag == tag; });
    }
};

class StepFinder {
  public:
    StepFinder(const std::vector<TagScan>& asset, const BlockGrid& grid,
               const std::vector<Instant>& stateChanges)
        : asset_(asset), grid_(grid), stateChanges_(stateChanges), evidence_(asset, grid) {}

    std::vector<SuspectedStep> found() {
        for (const Event& event : events()) take(event);
        std::vector<SuspectedStep> out = paired();
        addShifts(out);
        std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.time < b.time; });
        findDriftEnds(out);
        return out;
    }

  private:
    /// A step before it is known whether it returns.
    struct Judged {
        SuspectedStep step;
        Candidate of;
        Moved moved;  // what the stretches before and after say
        bool used = false;
    };

    bool stateChangesNear(Instant t) const {
        const auto next = std::lower_bound(stateChanges_.begin(), stateChanges_.end(), t - kNearState);
        return next != stateChanges_.end() && *next <= t + kNearState;
    }

    std::optional<Candidate> candidate(std::size_t tag, const Jump& jump) const {
        if (jump.score < kLeastScore || !jump.sharp || jump.unknown || stateChangesNear(jump.after))
            return {};
        if (std::abs(jump.size) < kLeastSignificance * jump.error) return {};
        Candidate out{tag, jump, {}, false};
        if (evidence_.twinOf(tag)) {
            out.stays = evidence_.byTwin(tag, jump.after, jump.size);
            out.twinSays = true;
            if (out.stays.shortReaches == 0) return {};
        } else {
            out.stays = evidence_.byShape(tag, jump.after, jump.size);
            if (out.stays.reaches() == 0) return {};
            out.habitual = habitual(tag, jump);
        }
        return out;
    }

    /// A jump that the tag makes often is how it works.
    bool habitual(std::size_t tag, const Jump& jump) const {
        int alike = 0;
        for (const Jump& other : asset_[tag].jumps) {
            const double share = other.size / jump.size;
            alike += other.sharp && other.after != jump.after && share > 0.75 && share < 1.33;
        }
        return alike >= kHabit;
    }

    /// Another tag jumps clearly at the same moment, whether it stays there or not.
    bool othersJump(std::size_t tag, Instant at) const {
        for (std::size_t other = 0; other < asset_.size(); ++other)
            for (const Jump& jump : asset_[other].jumps)
                if (other != tag && jump.sharp && jump.score >= kLeastScore && jump.after > at - kTogether &&
                    jump.before < at + kTogether)
                    return true;
        return false;
    }

    /// Steps that hide in a change of the process and show in the difference from the twin alone: its
    /// greatest changes, where neither of the two has a candidate, given to the one whose own level says so
    /// longer.
    void addByTwin(std::size_t tag, std::vector<Candidate>& all) const {
        const auto twin = evidence_.twinOf(tag);
        if (!twin) return;
        for (const std::size_t block : evidence_.changesFromTwin(tag)) {
            const Instant about = grid_.start(block);
            const double size = evidence_.lessTwin(tag).at(block, 1);
            const bool known = std::any_of(all.begin(), all.end(), [&](const Candidate& c) {
                return (c.tag == tag ? c.jump.size * size > 0 : c.tag == *twin && c.jump.size * size < 0) &&
                       c.jump.after > about - kHidden && c.jump.after < about + kHidden;
            });
            if (known || stuckNear(tag, block) || stuckNear(*twin, block)) continue;
            if (evidence_.byShape(tag, about, size).reaches() <=
                evidence_.byShape(*twin, about, -size).reaches())
                continue;
            Candidate c;
            c.tag = tag;
            c.jump = jumpNear(tag, block, size);
            if (c.jump.score == 0) continue;
            c.stays = evidence_.byTwin(tag, about, size);
            c.twinSays = true;
            if (c.stays.shortReaches > 0) all.push_back(std::move(c));
        }
    }

    /// An hour of equal levels beside the block.
    bool stuckNear(std::size_t tag, std::size_t block) const {
        const auto& levels = asset_[tag].levels.levels();
        const auto equal = [&](std::size_t from, std::size_t to) {
            return to <= levels.size() && std::all_of(levels.begin() + static_cast<std::ptrdiff_t>(from),
                                                      levels.begin() + static_cast<std::ptrdiff_t>(to),
                                                      [&](double v) { return v == levels[from]; });
        };
        return (block >= 8 && equal(block - 7, block - 1)) || equal(block + 1, block + 7);
    }

    /// The greatest jump of that sign in the block and its neighbours, with the size that the twin says.
    Jump jumpNear(std::size_t tag, std::size_t block, double size) const {
        Jump out;
        for (const Jump& jump : asset_[tag].jumps)
            if (jump.after >= grid_.start(block) - grid_.width && jump.after < grid_.start(block + 2) &&
                jump.size * size > 0 && jump.score > out.score)
                out = jump;
        out.size = size;
        out.error = evidence_.lessTwin(tag).usual(1);
        return out;
    }

    /// Candidates of all tags, those within a moment of each other together.
    std::vector<Event> events() const {
        std::vector<Candidate> all;
        for (std::size_t tag = 0; tag < asset_.size(); ++tag)
            for (const Jump& jump : asset_[tag].jumps)
                if (auto c = candidate(tag, jump)) all.push_back(*c);
        for (std::size_t tag = 0; tag < asset_.size(); ++tag) addByTwin(tag, all);
        std::sort(all.begin(), all.end(),
                  [](const auto& a, const auto& b) { return a.jump.after < b.jump.after; });
        std::vector<Event> out;
        for (Candidate& c : all) {
            if (out.empty() || c.jump.after - out.back().members.front().jump.after > kTogether)
                out.emplace_back();
            out.back().members.push_back(std::move(c));
        }
        for (Event& event : out) {
            event.companions = companionsOf(event);
            if (event.proved()) addMountMates(event);
        }
        return out;
    }

    /// With a step that a twin proves, tags that jump at the same sample and stay there, however often they
    /// jump.
    void addMountMates(Event& event) const {
        const Instant at = event.members.front().jump.after;
        for (std::size_t tag = 0; tag < asset_.size(); ++tag) {
            if (event.has(tag) || evidence_.twinOf(tag)) continue;
            for (const Jump& jump : asset_[tag].jumps) {
                if (jump.score < kLeastScore || !jump.sharp || jump.unknown || jump.before > at ||
                    jump.after < at)
                    continue;
                Candidate mate{tag, jump, evidence_.byShape(tag, jump.after, jump.size), false};
                if (mate.stays.reaches() > 0) event.members.push_back(std::move(mate));
                break;
            }
        }
    }

    /// Other tags that moved at the same time, and whose level stays changed.
    std::vector<std::size_t> companionsOf(const Event& event) const {
        std::vector<std::size_t> out;
        const Instant at = event.members.front().jump.after;
        for (std::size_t tag = 0; tag < asset_.size(); ++tag) {
            if (event.has(tag)) continue;
            for (const Jump& jump : asset_[tag].jumps)
                if (jump.score >= kLeastCompanion && jump.after > at - kTogether &&
                    jump.before < at + kTogether &&
                    (evidence_.companion(tag, jump.after, jump.size).longReaches > 0 ||
                     (jump.sharp && shifted(tag, jump)))) {
                    out.push_back(tag);
                    break;
                }
        }
        return out;
    }

    /// The levels of the stretches before and after differ by about the size of the jump.
    bool shifted(std::size_t tag, const Jump& jump) const {
        const Moved moved = movedInAnyScale(asset_[tag], jump.after);
        const double share = moved.by.size / jump.size;
        return moved.kinds > 0 && share > 0.3 && share < 1.8;
    }

    SuspectedStep stepOf(const Candidate& c) const {
        SuspectedStep out;
        out.tag = asset_[c.tag].tag;
        out.time = c.jump.after;
        out.between = {c.jump.before, c.jump.after};
        out.size = c.jump.size;
        out.error = c.jump.error;
        if (c.twinSays) out.twin = asset_[*evidence_.twinOf(c.tag)].tag;
        return out;
    }

    void take(const Event& event) {
        const bool process = !event.proved() && event.members.size() + event.companions.size() > 1;
        for (const Candidate& c : event.members) {
            SuspectedStep step = stepOf(c);
            for (const Candidate& other : event.members)
                if (other.tag != c.tag)
                    (process ? step.moved : step.sharedWith).push_back(asset_[other.tag].tag);
            if (process) {
                step.kind = StepKind::Process;
                for (const std::size_t tag : event.companions) step.moved.push_back(asset_[tag].tag);
            }
            judged_.push_back({step, c, movedAt(asset_[c.tag], c.jump.after), false});
        }
    }

    static bool isReturn(const SuspectedStep& there, const SuspectedStep& back) {
        return there.tag == back.tag && there.size * back.size < 0 &&
               std::abs(there.size + back.size) <=
                   std::max(kAlike * std::abs(there.size), 3 * std::hypot(there.error, back.error));
    }

    /// Steps there and back that nothing but their likeness proves: the levels must have changed clearly, and
    /// more so where the tag jumps like this often.
    static bool clearEnough(const Candidate& there, const Candidate& back) {
        return there.stays.reaches() + back.stays.reaches() >= (there.habitual && back.habitual ? 5 : 3);
    }

    /// Enough on its own: the level stays changed for as long as one can see.
    bool standsAlone(const Judged& j) const {
        if (j.step.kind == StepKind::Process) {
            const double share = j.moved.by.size / j.step.size;
            return (j.of.stays.reaches() >= 2 && j.of.stays.longReaches > 0) ||
                   (j.moved.kinds > 0 && share > 0.3 && share < 1.8);
        }
        if (j.of.twinSays || !j.step.sharedWith.empty())
            return j.of.stays.longReaches > 0 || !j.of.stays.longKnown;
        return j.of.stays.reaches() >= (j.of.habitual ? 3 : 2) &&
               (j.of.stays.longReaches > 0 || !j.of.stays.longKnown);
    }

    std::vector<SuspectedStep> paired() {
        std::vector<SuspectedStep> out;
        for (std::size_t i = 0; i < judged_.size(); ++i) {
            Judged& there = judged_[i];
            if (there.used) continue;
            there.used = true;
            bool drop = false;  // the process went there and back: others jumped with it
            for (std::size_t k = i + 1; k < judged_.size(); ++k) {
                Judged& back = judged_[k];
                if (back.used || back.step.tag != there.step.tag) continue;
                if (!isReturn(there.step, back.step)) break;
                const bool alone = !there.of.twinSays && there.step.sharedWith.empty();
                if (alone && !clearEnough(there.of, back.of)) break;
                if (there.step.kind == StepKind::Process ||
                    (alone && othersJump(there.of.tag, there.step.time) &&
                     othersJump(back.of.tag, back.step.time))) {
                    back.used = drop = true;
                    break;
                }
                there.step.returns = back.step.time;
                sharpen(there, &back);
                back.used = true;
                break;
            }
            if (drop || (!there.step.returns && !standsAlone(there))) continue;
            if (!there.step.returns) sharpen(there, nullptr);
            out.push_back(there.step);
        }
        return out;
    }

    void findDriftEnds(std::vector<SuspectedStep>& steps) const {
        std::map<TagId, Instant> since;  // rising: `steps` are
        for (SuspectedStep& step : steps) {
            const auto [last, first] = since.try_emplace(step.tag, grid_.range.from);
            const std::size_t tag = static_cast<std::size_t>(
                std::find_if(asset_.begin(), asset_.end(), [&](const auto& s) { return s.tag == step.tag; }) -
                asset_.begin());
            if (!step.returns && step.kind == StepKind::Lonely &&
                evidence_.endsDrift(tag, last->second, step.time, step.size))
                step.kind = StepKind::DriftEnd;
            last->second = step.returns.value_or(step.time);
        }
    }

    /// The size from the jumps there and back, and from the levels on both sides of them, no further than the
    /// step lasts.
    static void sharpen(Judged& there, const Judged* back) {
        std::vector<Estimate> all{{there.step.size, there.step.error}};
        if (!back && there.moved.kinds > 0 && there.moved.by.size / there.step.size > 0.8 &&
            there.moved.by.size / there.step.size < 1.25)
            all.push_back(there.moved.by);
        const Duration lasts = back ? back->step.time - there.step.time : Duration::max();
        for (const auto& [reach, e] : there.of.stays.estimates)
            if (reach <= lasts) all.push_back(e);
        if (back) {
            all.push_back({-back->step.size, back->step.error});
            for (const auto& [reach, e] : back->of.stays.estimates)
                if (reach <= lasts) all.push_back({-e.size, e.error});
        }
        const Estimate size = together(all);
        there.step.size = size.size;
        there.step.error = size.error;
    }

    bool isKnown(const std::vector<SuspectedStep>& steps, TagId tag, TimeRange in) const {
        const auto inside = [&](Instant t) { return t >= in.from && t <= in.to; };
        return std::any_of(steps.begin(), steps.end(), [&](const SuspectedStep& s) {
            return s.tag == tag && (inside(s.time) || (s.returns && inside(*s.returns)));
        });
    }

    SuspectedStep stepOf(std::size_t tag, const LevelShift& shift) const {
        SuspectedStep out;
        out.tag = asset_[tag].tag;
        out.seen = false;
        out.time = shift.seen;
        out.between = shift.between;
        out.size = shift.size;
        out.error = shift.error;
        return out;
    }

    /// Shifts that no step found so far explains, the clearest first. One that companions share names them,
    /// and theirs of about the same time are not listed again.
    void addShifts(std::vector<SuspectedStep>& out) const {
        std::vector<std::pair<std::size_t, LevelShift>> shifts;
        for (std::size_t tag = 0; tag < asset_.size(); ++tag)
            for (const LevelShift& shift : levelShifts(asset_[tag], grid_))
                if (!isKnown(out, asset_[tag].tag, shift.reach)) shifts.emplace_back(tag, shift);
        std::sort(shifts.begin(), shifts.end(),
                  [](const auto& a, const auto& b) { return a.second.score > b.second.score; });
        for (const auto& [tag, shift] : shifts) {
            if (explained(out, tag, shift)) continue;
            SuspectedStep step = stepOf(tag, shift);
            if (const auto twin = evidence_.twinOf(tag)) {
                if (evidence_.byTwin(tag, shift.seen, shift.size).longReaches == 0) continue;
                step.twin = asset_[*twin].tag;
            }
            for (std::size_t other = 0; other < asset_.size() && !step.twin; ++other)
                if (other != tag && movedInAnyScale(asset_[other], shift.seen).kinds > 0)
                    step.moved.push_back(asset_[other].tag);
            if (!step.moved.empty()) step.kind = StepKind::Process;
            out.push_back(step);
        }
    }

    /// A shift that is listed already as the companion of another one's.
    bool explained(const std::vector<SuspectedStep>& steps, std::size_t tag, const LevelShift& shift) const {
        return std::any_of(steps.begin(), steps.end(), [&](const SuspectedStep& s) {
            return s.time >= shift.reach.from && s.time <= shift.reach.to &&
                   (s.time < shift.between.from || s.time > shift.between.to) &&
                   std::find(s.moved.begin(), s.moved.end(), asset_[tag].tag) != s.moved.end();
        });
    }

    const std::vector<TagScan>& asset_;
    const BlockGrid& grid_;
    const std::vector<Instant>& stateChanges_;
    StepEvidence evidence_;
    std::vector<Judged> judged_;
};

}  // namespace

double SuspectedStep::significance() const {
    return error > 0 ? std::abs(size) / error : 0;
}

std::vector<SuspectedStep> suspectedSteps(const std::vector<TagScan>& asset, const BlockGrid& grid,
                                          const std::vector<Instant>& stateChanges) {
    const auto recurring =
        std::count_if(asset.begin(), asset.end(), [](const TagScan& s) { return !s.byStretch.empty(); });
    if (2 * static_cast<std::size_t>(recurring) >= asset.size())
        return StepFinder(asset, grid, stateChanges).found();
    Remainders remainders(asset, grid);
    std::vector<TagScan> alone;
    for (std::size_t i = 0; i < asset.size(); ++i)
        if (!remainders.hasCompanions(i)) alone.push_back(asset[i]);
    std::vector<SuspectedStep> out = StepFinder(alone, grid, stateChanges).found();
    if (alone.size() == asset.size()) return out;
    for (SuspectedStep& s : jointSteps(asset, grid, std::move(remainders))) out.push_back(std::move(s));
    std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.time < b.time; });
    return out;
}

}  // namespace jacinth
