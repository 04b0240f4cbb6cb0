#include "work/mend/step_search.h"

#include <algorithm>
#include <atomic>
#include <mutex>
#include <nlohmann/json.hpp>

#include "store/derived_catalog.h"
#include "store/tracks.h"
#include "work/base/side_by_side.h"

namespace jacinth {
namespace {

/// How one asset's record recurs, and when a state changes.
struct AssetScales {
    std::vector<std::vector<RecurringStretch>> scales;
    std::vector<Instant> changes;
};

void addStates(const Study& study, const Tag& tag, TimeRange range, AssetScales& out) {
    const Series states = study.readForFigures(tag, range, Which::Mended);
    std::vector<RecurringStretch> scale;
    for (std::size_t i = 0; i < states.size(); ++i) {
        if (!states.view().usable(i)) continue;
        const Instant to = i + 1 < states.size() ? states.times[i + 1] : range.to;
        const int code = static_cast<int>(states.values[i]);
        if (!scale.empty() && scale.back().kind == code && scale.back().range.to == states.times[i])
            scale.back().range.to = to;
        else
            scale.push_back({code, {states.times[i], to}}), out.changes.push_back(states.times[i]);
    }
    out.scales.push_back(std::move(scale));
}

AssetScales scalesOf(const Study& study, const Asset& asset, TimeRange range) {
    AssetScales out;
    for (const Tag& tag : study.catalog().tags())
        if (tag.asset == asset.id && tag.kind == TagKind::State) addStates(study, tag, range, out);
    for (const Track& track : study.tracks().all()) {
        if (track.kind != track_kind::kRuns) continue;
        std::vector<RecurringStretch> scale;
        for (const Span& run : study.tracks().spans(track.id))
            if (run.asset == asset.id && run.start < range.to && run.end > range.from &&
                (scale.empty() || scale.back().range.to <= run.start))
                scale.push_back({0, {run.start, run.end}});
        out.scales.push_back(std::move(scale));
    }
    std::sort(out.changes.begin(), out.changes.end());
    return out;
}

/// Logged ones: what is calculated steps where what it is made of does.
std::vector<Tag> tagsToScan(const Study& study, AssetId asset) {
    std::vector<Tag> out;
    for (const Tag& tag : study.catalog().tags())
        if (tag.asset == asset && tag.kind == TagKind::Continuous &&
            study.derived().definition(tag.id).is_null())
            out.push_back(tag);
    return out;
}

/// The first sample of the new level, where it was known to a block of time only.
void toSamples(const Study& study, SuspectedStep& step) {
    if (step.seen) return;
    const Tag& tag = *study.catalog().tag(step.tag);
    const TimeRange soon{step.time, step.time + std::max<Duration>(kDay, 4 * tag.spacing)};
    const Series read = study.readForFigures(tag, soon, Which::Mended);
    const SeriesView after = read.view().within(soon);
    if (after.empty()) return;
    step.time = after.times.front();
    step.between.to = std::max(step.between.to, step.time);
}

std::vector<SuspectedStep> stepsOfAsset(Study& study, const Asset& asset, TimeRange range,
                                        const Progress& progress, std::atomic<std::int64_t>& samples) {
    const BlockGrid grid = gridFor(range);
    const AssetScales scales = scalesOf(study, asset, range);
    std::vector<TagScan> scans;
    const std::vector<Tag> tags = tagsToScan(study, asset.id);
    for (const Tag& tag : tags) {
        const double done = static_cast<double>(scans.size()) / static_cast<double>(tags.size());
        if (progress.stopped(done)) return {};
        const Series series = study.readForFigures(tag, range, Which::Mended);
        samples += static_cast<std::int64_t>(series.size());
        scans.push_back(scanTag(tag.id, tag.unit, series, grid, scales.scales));
    }
    std::vector<SuspectedStep> out = suspectedSteps(scans, grid, scales.changes);
    for (SuspectedStep& step : out) toSamples(study, step);
    return out;
}

}  // namespace

Result<FoundSteps> findSteps(Study& study, const StepSearch& search, const Progress& progress) {
    const TimeRange range = search.range.length() > Duration::zero() ? search.range : study.record();
    std::vector<Asset> assets;
    for (const Asset& asset : study.catalog().assets())
        if (search.assets.empty() ||
            std::find(search.assets.begin(), search.assets.end(), asset.id) != search.assets.end())
            assets.push_back(asset);
    std::vector<std::vector<SuspectedStep>> found(assets.size());
    std::vector<double> done(assets.size(), 0);
    std::mutex mutex;
    std::atomic<bool> stopped = false;
    std::atomic<std::int64_t> samples = 0;
    forEachSideBySide(study, assets.size(), [&](Study& with, std::size_t i) {
        const auto listen = [&](double share) {
            const std::lock_guard lock(mutex);
            done[i] = share;
            double sum = 0;
            for (const double d : done) sum += d;
            if (progress.stopped(sum / static_cast<double>(done.size()))) stopped = true;
            return !stopped;
        };
        if (!stopped) found[i] = stepsOfAsset(with, assets[i], range, Progress(listen), samples);
    });
    if (stopped) return Error::cancelled();
    FoundSteps out;
    out.samples = samples;
    for (auto& of : found)
        out.steps.insert(out.steps.end(), std::make_move_iterator(of.begin()),
                         std::make_move_iterator(of.end()));
    return out;
}

}  // namespace jacinth
