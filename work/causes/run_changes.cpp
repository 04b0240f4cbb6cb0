// addRunChanges of role_causes.h.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "work/causes/role_causes.h"

namespace jacinth {
namespace {

/// One role of an asset whose runs jump.
struct TagJump {
    AssetId asset;
    TagId tag;
    std::size_t role = 0;
    LevelJump jump;
};

std::vector<TagJump> jumpsOf(const Study& study, const std::vector<RoleRuns>& roles) {
    std::vector<TagJump> out;
    for (std::size_t r = 0; r < roles.size(); ++r)
        for (const auto& [asset, jumps] : roles[r].jumps)
            for (const LevelJump& jump : jumps)
                out.push_back({asset, study.catalog().tagInRole(asset, roles[r].role)->id, r, jump});
    return out;
}

/// The jumps of an asset that may be one change: between the same runs, or a run apart.
TimeRange around(const TagJump& jump, const std::vector<RoleRuns>& roles) {
    TimeRange out = jump.jump.between;
    Instant before = Instant::min(), after = Instant::max();
    for (const RunLevel& run : roles[jump.role].levels.runs) {
        if (run.asset != jump.asset) continue;
        if (run.end <= out.from) before = std::max(before, run.start);
        if (run.start >= out.to) after = std::min(after, run.end);
    }
    return {before == Instant::min() ? out.from : before, after == Instant::max() ? out.to : after};
}

/// A step that is believed because no other tag was seen to move, and not for its twin or its mount.
bool isOnlyLonely(const SuspectedStep& step) {
    return step.kind == StepKind::Lonely && !step.twin && step.sharedWith.empty() && !step.returns;
}

constexpr Duration kSameChange = 3 * kDay;  // runs do not say when to the hour
constexpr double kStepSize = 0.3, kStepClear = 10;

bool isNear(Instant t, TimeRange when) {
    return t >= when.from - kSameChange && t <= when.to + kSameChange;
}

class RunChanges {
  public:
    RunChanges(const Study& study, std::vector<RoleRuns>& roles, const std::vector<SuspectedStep>& steps,
               std::vector<Cause>& sensors, std::vector<ProcessChange>& changes)
        : study_(study), roles_(roles), steps_(steps), sensors_(sensors), changes_(changes) {}

    void add() {
        std::vector<TagJump> jumps = jumpsOf(study_, roles_);
        std::sort(jumps.begin(), jumps.end(), [](const TagJump& a, const TagJump& b) {
            return a.jump.significance > b.jump.significance;
        });
        std::vector<bool> taken(jumps.size(), false);
        for (std::size_t i = 0; i < jumps.size(); ++i) {
            if (taken[i]) continue;
            const TimeRange when = around(jumps[i], roles_);
            std::vector<TagJump> same;
            for (std::size_t k = i; k < jumps.size(); ++k)
                if (!taken[k] && jumps[k].asset == jumps[i].asset && jumps[k].jump.between.from < when.to &&
                    jumps[k].jump.between.to > when.from)
                    same.push_back(jumps[k]), taken[k] = true;
            place(same, when);
        }
    }

  private:
    void place(const std::vector<TagJump>& jumps, TimeRange when) {
        const AssetId asset = jumps.front().asset;
        for (ProcessChange& known : changes_)
            if (known.asset == asset && isNear(known.time, when)) {
                for (const TagJump& jump : jumps) addTag(known, jump.tag);
                return;
            }
        ProcessChange change{asset, jumps.front().jump.between.to, {}, {}};
        for (const TagJump& jump : jumps) addTag(change, jump.tag);
        addMoved(change);
        for (const SuspectedStep& step : steps_) {
            if (study_.catalog().tag(step.tag)->asset != asset || !isNear(step.time, when)) continue;
            const bool alone = change.tags == std::vector{step.tag};
            if (alone && step.kind != StepKind::DriftEnd) return;  // what is left of a step that is known
            if (alone || !isOnlyLonely(step) || !dropStep(step)) continue;
            addTag(change, step.tag);
            change.time = std::min(change.time, step.time);
        }
        if (change.tags.size() >= 2)
            changes_.push_back(std::move(change));
        else if (std::abs(jumps.front().jump.size) >= kStepSize &&
                 jumps.front().jump.significance >= kStepClear)
            addStep(jumps.front());
    }

    /// Other roles of the asset that differ after the change in some part of the run, though not by a clear
    /// jump.
    void addMoved(ProcessChange& change) const {
        for (const RoleRuns& role : roles_) {
            const Tag* tag = study_.catalog().tagInRole(change.asset, role.role);
            if (tag && changesAt(role.levels, change.asset, change.time)) addTag(change, tag->id);
        }
    }

    static void addTag(ProcessChange& change, TagId tag) {
        if (std::find(change.tags.begin(), change.tags.end(), tag) == change.tags.end())
            change.tags.push_back(tag);
    }

    /// The cause made of a step goes, and the levels of its role get back what it took from them.
    bool dropStep(const SuspectedStep& step) {
        const auto cause = std::find_if(sensors_.begin(), sensors_.end(), [&](const Cause& c) {
            return c.kind == CauseKind::Step && c.tags == std::vector{step.tag} && c.range.from == step.time;
        });
        if (cause == sensors_.end()) return false;
        const Tag& tag = *study_.catalog().tag(step.tag);
        for (RoleRuns& role : roles_) {
            if (tag.role != role.role) continue;
            CauseEffect back = cause->effects.front();
            for (double& v : back.shape.values) v = -v;
            takeAway(role.levels, tag.asset, back);
        }
        sensors_.erase(cause);
        return true;
    }

    void addStep(const TagJump& jump) {
        RunLevels& levels = roles_[jump.role].levels;
        const Instant at = jump.jump.between.to;
        const auto shift = shiftAt(levels, jump.asset, at, study_.record());
        if (!shift) return;
        Cause cause;
        cause.kind = CauseKind::Step;
        cause.asset = jump.asset;
        cause.tags = {jump.tag};
        cause.range = {at, study_.record().to};
        cause.effects = {{jump.tag, cause.range, shift->shape, {}, {}, {}}};
        cause.why = fmt::format(
            "{} {} by {:.2g} half-widths of the limits between two runs and stays there; no "
            "other tag with limits changed with it.",
            study_.catalog().tag(jump.tag)->path(), jump.jump.size > 0 ? "rises" : "falls",
            std::abs(jump.jump.size));
        takeAway(levels, jump.asset, cause.effects.front());
        sensors_.push_back(std::move(cause));
    }

    const Study& study_;
    std::vector<RoleRuns>& roles_;
    const std::vector<SuspectedStep>& steps_;
    std::vector<Cause>& sensors_;
    std::vector<ProcessChange>& changes_;
};

}  // namespace

void addRunChanges(const Study& study, std::vector<RoleRuns>& roles, const std::vector<SuspectedStep>& steps,
                   std::vector<Cause>& sensors, std::vector<ProcessChange>& changes) {
    RunChanges(study, roles, steps, sensors, changes).add();
}

}  // namespace jacinth
