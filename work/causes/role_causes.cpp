#include "work/causes/role_causes.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace jacinth {
namespace {

constexpr std::size_t kBins = 110;
constexpr double kClearShift = 0.01;
constexpr Duration kSameDays = 3 * kDay;

RunLevels levelsOf(Study& study, const JudgedRuns& judged, const std::string& role,
                   const LimitsOfRuns& limits, const std::vector<Cause>& known, Which which) {
    const GoldenLimits& whole = judged.set.byRole.at(role);
    RunLevels out;
    out.bins = ScaleBins::over(whole, kBins);
    out.halfWidth = halfWidthByBin(whole, out.bins);
    for (const Span& run : judged.runs) {
        const Tag* tag = study.catalog().tagInRole(run.asset, role);
        if (!tag) continue;
        Series series = study.readForFigures(*tag, {run.start, run.end + kNanosecond}, which);
        const RunScale scale = limits.scaleOf(run);
        takeAway(series, effectsOn(tag->id, known), scale);
        const AlignedRun aligned = alignRun(series, tag->bridging(), run.id, scale, whole.spec.every);
        out.runs.push_back(
            {run.id, run.asset, run.start, run.end + kNanosecond, levelByBin(aligned, whole, out.bins)});
    }
    std::sort(out.runs.begin(), out.runs.end(),
              [](const RunLevel& a, const RunLevel& b) { return a.start < b.start; });
    return out;
}

std::vector<AssetId> assetsIn(const RunLevels& levels) {
    std::vector<AssetId> out;
    for (const RunLevel& run : levels.runs)
        if (std::find(out.begin(), out.end(), run.asset) == out.end()) out.push_back(run.asset);
    return out;
}

/// From the change before to the change after it on the same asset.
TimeRange around(const std::vector<ProcessChange>& changes, std::size_t i, TimeRange record) {
    TimeRange out = record;
    for (const ProcessChange& other : changes) {
        if (other.asset != changes[i].asset) continue;
        if (other.time < changes[i].time) out.from = std::max(out.from, other.time);
        if (other.time > changes[i].time) out.to = std::min(out.to, other.time);
    }
    if (changes[i].returns) out.to = std::min(out.to, *changes[i].returns);
    return out;
}

void addChanges(const Study& study, RunLevels& levels, const std::string& role,
                const std::vector<ProcessChange>& changes, RoleCauses& out) {
    for (std::size_t i = 0; i < changes.size(); ++i) {
        const Tag* tag = study.catalog().tagInRole(changes[i].asset, role);
        if (!tag) continue;
        const auto shift =
            shiftAt(levels, changes[i].asset, changes[i].time, around(changes, i, study.record()));
        const bool moved =
            std::find(changes[i].tags.begin(), changes[i].tags.end(), tag->id) != changes[i].tags.end();
        if (!shift || (!moved && shift->probability >= kClearShift)) continue;
        const TimeRange range{changes[i].time, changes[i].returns.value_or(study.record().to)};
        out.changes.push_back({i, {tag->id, range, shift->shape, {}, {}, {}}});
        takeAway(levels, changes[i].asset, out.changes.back().effect);
    }
}

/// One cause for all assets: what each shares with the others at the time.
void addCommon(const Study& study, RoleRuns& of) {
    RunLevels& levels = of.levels;
    Cause cause;
    cause.kind = CauseKind::Gradual;
    cause.range = study.record();
    std::string unit;
    double most = 0;
    for (const AssetId asset : assetsIn(levels)) {
        const Tag* tag = study.catalog().tagInRole(asset, of.role);
        if (!tag) continue;
        for (CauseEffect& effect : commonToOthers(levels, asset, kSameDays)) {
            effect.tag = tag->id;
            if (cause.tags.empty() || cause.tags.back() != tag->id) cause.tags.push_back(tag->id);
            for (const double v : effect.shape.values)
                if (std::abs(v) > std::abs(most)) most = v;
            cause.effects.push_back(std::move(effect));
        }
        unit = tag->unit;
    }
    if (cause.effects.empty()) return;
    cause.why = fmt::format(
        "{} of all assets lies off together, by up to {:+.3g} {}: what changes for all, like "
        "the weather.",
        study.catalog().tag(cause.tags.front())->name, most, unit);
    for (const CauseEffect& effect : cause.effects)
        takeAway(levels, study.catalog().tag(effect.tag)->asset, effect);
    of.gradual.push_back(std::move(cause));
}

void addGradual(const Study& study, RoleRuns& of) {
    RunLevels& levels = of.levels;
    for (const AssetId asset : assetsIn(levels)) {
        const Tag* tag = study.catalog().tagInRole(asset, of.role);
        auto found = tag ? gradualChange(levels, asset) : std::nullopt;
        if (!found) continue;
        Cause cause;
        cause.kind = CauseKind::Gradual;
        cause.asset = asset;
        cause.tags = {tag->id};
        cause.range = study.record();
        for (CauseEffect& piece : found->pieces) {
            piece.tag = tag->id;
            piece.range = {std::max(piece.range.from, cause.range.from),
                           std::min(piece.range.to, cause.range.to)};
            takeAway(levels, asset, piece);
        }
        cause.effects = std::move(found->pieces);
        cause.why =
            fmt::format("{} {} from run to run, by up to {:.2g} half-widths of the limits a week.",
                        tag->path(), found->perDay > 0 ? "rises" : "falls", std::abs(found->perDay) * 7);
        of.gradual.push_back(std::move(cause));
    }
}

void addAssets(const Study& study, const RunLevels& levels, const std::string& role, RoleCauses& out) {
    for (const AssetId asset : assetsIn(levels)) {
        const Tag* tag = study.catalog().tagInRole(asset, role);
        const auto shape = tag ? assetShape(levels, asset) : std::nullopt;
        if (!shape) continue;
        Cause cause;
        cause.kind = CauseKind::Asset;
        cause.asset = asset;
        cause.tags = {tag->id};
        cause.range = study.record();
        cause.effects = {{tag->id, cause.range, *shape, {}, {}, {}}};
        const auto most = *std::max_element(shape->values.begin(), shape->values.end(),
                                            [](double a, double b) { return std::abs(a) < std::abs(b); });
        cause.why =
            fmt::format("{} lies up to {:+.3g} {} from where it lies on the other assets, in all runs.",
                        tag->path(), most, tag->unit);
        out.assets.push_back(std::move(cause));
    }
}

}  // namespace

RoleRuns roleRuns(Study& study, const JudgedRuns& judged, const std::string& role,
                  const std::vector<Cause>& known, Which which) {
    RoleRuns out{role, {}, {}, {}};
    if (slicesWithLimits(judged.set.byRole.at(role)) == 0) return out;
    const LimitsOfRuns limits(study, judged.set, role, which);
    out.levels = levelsOf(study, judged, role, limits, known, which);
    addCommon(study, out);
    for (const AssetId asset : assetsIn(out.levels)) out.jumps[asset] = levelJumps(out.levels, asset);
    addGradual(study, out);
    return out;
}

RoleCauses causesInRole(const Study& study, RoleRuns& role, const std::vector<ProcessChange>& changes) {
    RoleCauses out;
    addChanges(study, role.levels, role.role, changes, out);
    addAssets(study, role.levels, role.role, out);
    return out;
}

}  // namespace jacinth
