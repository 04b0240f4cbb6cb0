#include "work/label/more_like.h"

#include <fmt/format.h>

#include <algorithm>
#include <mutex>

#include "core/series/step_count.h"
#include "work/base/on_step.h"
#include "work/base/side_by_side.h"

namespace jacinth {
namespace {

/// The tags of an asset in the roles; empty where it lacks one.
std::vector<Tag> tagsOf(const Study& study, AssetId asset, const std::vector<std::string>& roles) {
    std::vector<Tag> out;
    for (const std::string& role : roles)
        if (const Tag* tag = study.catalog().tagInRole(asset, role); tag && tag->kind != TagKind::State)
            out.push_back(*tag);
    if (out.size() != roles.size()) out.clear();
    return out;
}

Status check(const Study& study, const MoreLike& question, const std::vector<Tag>& tags) {
    if (question.roles.empty()) return Error{"say which tags the example is about"};
    const Asset* asset = study.catalog().asset(question.asset);
    if (!asset) return Error{"the asset of the example is not in this study"};
    if (tags.empty())
        return Error{fmt::format("{} has no tags of numbers in all of these roles", asset->name)};
    if (question.example.length() <= Duration::zero()) return Error{"the example has no length"};
    const TimeRange record = study.record();
    if (question.example.from < record.from || question.example.to > record.to)
        return Error{"the example lies outside the record"};
    return Done{};
}

Duration stepFor(const MoreLike& question, const std::vector<Tag>& tags) {
    if (question.every > Duration::zero()) return question.every;
    std::vector<Duration> spacings;
    for (const Tag& tag : tags) spacings.push_back(std::max<Duration>(tag.spacing, kSecond));
    std::nth_element(spacings.begin(), spacings.begin() + static_cast<std::ptrdiff_t>(spacings.size() / 2),
                     spacings.end());
    return spacings[spacings.size() / 2];
}

bool isTheExample(const MoreLike& question, const AlikeStretch& hit) {
    const TimeRange common{std::max(hit.range.from, question.example.from),
                           std::min(hit.range.to, question.example.to)};
    return hit.asset == question.asset && 2 * common.length() >= question.example.length();
}

}  // namespace

Result<std::vector<AlikeStretch>> moreLike(Study& study, const MoreLike& question, const Progress& progress) {
    const std::vector<Tag> own = tagsOf(study, question.asset, question.roles);
    if (const Status good = check(study, question, own); !good) return good.error();
    const Duration step = stepFor(question, own);
    const TimeRange range = question.range.length() > Duration::zero() ? question.range : study.record();
    if (const Status fits = checkStepCount(range.length() * static_cast<std::int64_t>(own.size()), step);
        !fits)
        return fits.error();
    std::vector<AssetId> assets;
    for (const Asset& a : study.catalog().assets()) {
        const bool wanted = question.assets.empty() || std::ranges::count(question.assets, a.id) > 0;
        if (wanted && !tagsOf(study, a.id, question.roles).empty()) assets.push_back(a.id);
    }
    std::vector<ShapeTag> example;
    for (const Tag& tag : own) {
        const double noise = noiseOf(valuesOnStep(study, tag, range, step, question.which));
        example.push_back({valuesOnStep(study, tag, question.example, step, question.which),
                           std::isfinite(noise) ? noise : 0});
    }
    std::vector<AlikeStretch> out;
    std::optional<Error> trouble;
    std::mutex telling;
    std::size_t done = 0;
    forEachSideBySide(study, assets.size(), [&](Study& mine, std::size_t i) {
        std::vector<ShapeTag> record;
        for (const Tag& tag : tagsOf(mine, assets[i], question.roles)) {
            std::vector<double> values = valuesOnStep(mine, tag, range, step, question.which);
            const double noise = noiseOf(values);
            record.push_back({std::move(values), std::isfinite(noise) ? noise : 0});
        }
        ShapeSpec spec = question.search;
        spec.most += 3;  // the example itself may be among them, and one half over it on either side
        const auto hits = findShape(record, example, spec, [&](double share) {
            const std::lock_guard lock(telling);
            return !trouble && !progress.stopped((static_cast<double>(done) + share) /
                                                 static_cast<double>(assets.size()));
        });
        const std::lock_guard lock(telling);
        ++done;
        if (!hits) {
            if (!trouble) trouble = hits.error();
            return;
        }
        for (const ShapeHit& hit : *hits) {
            const Instant from = range.from + static_cast<std::int64_t>(hit.start) * step;
            const AlikeStretch stretch{
                assets[i], {from, from + static_cast<std::int64_t>(hit.length) * step}, hit.distance};
            if (!isTheExample(question, stretch)) out.push_back(stretch);
        }
    });
    if (trouble) return *trouble;
    std::stable_sort(out.begin(), out.end(),
                     [](const AlikeStretch& a, const AlikeStretch& b) { return a.distance < b.distance; });
    if (out.size() > question.search.most) out.resize(question.search.most);
    return out;
}

std::vector<std::vector<double>> valuesOf(const Study& study, const MoreLike& question, AssetId asset,
                                          TimeRange range, int points) {
    std::vector<std::vector<double>> out;
    const Duration step = std::max<Duration>(range.length() / std::max(1, points), kNanosecond);
    for (const std::string& role : question.roles) {
        const Tag* tag = study.catalog().tagInRole(asset, role);
        out.push_back(tag ? valuesOnStep(study, *tag, range, step, question.which) : std::vector<double>());
    }
    return out;
}

}  // namespace jacinth
