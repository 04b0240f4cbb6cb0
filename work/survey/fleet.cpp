#include "work/survey/fleet.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>

#include "core/base/missing.h"
#include "core/base/text.h"
#include "core/series/resample.h"
#include "core/stats/stats.h"
#include "store/sample_store.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

constexpr double kNone = kMissing;
constexpr std::size_t kMostPicked = 200'000;
constexpr int kDaySlices = 48;
constexpr Duration kRunSlice = kHour / 2;

/// Sums by slice of a profile.
struct ProfileSums {
    std::vector<double> sum, count;
    void add(std::size_t slice, double v) {
        if (slice >= sum.size()) return;
        sum[slice] += v;
        count[slice] += 1;
    }
    std::vector<double> means(double least) const {
        std::vector<double> out;
        for (std::size_t i = 0; i < sum.size(); ++i)
            out.push_back(count[i] >= least ? sum[i] / count[i] : kNone);
        return out;
    }
};

/// Where the samples of one asset belong in its profile.
class Slicer {
  public:
    Slicer(const FleetPicture& picture, const Zone& zone, std::vector<Span> runs)
        : by_(picture.spec.profile), zone_(zone), runs_(std::move(runs)) {}

    std::optional<std::size_t> slice(Instant t) {
        if (by_ == ProfileBy::Day) {
            if (t < dayFrom_ || t >= dayTo_)
                dayFrom_ = zone_.startOfDay(t), dayTo_ = zone_.addDays(dayFrom_, 1);
            const WallTime w = zone_.wall(t);
            return static_cast<std::size_t>((w.hour * 60 + w.minute) * kDaySlices / (24 * 60));
        }
        while (run_ < runs_.size() && runs_[run_].end <= t) ++run_;
        if (run_ == runs_.size() || t < runs_[run_].start) return {};
        return static_cast<std::size_t>((t - runs_[run_].start) / kRunSlice);
    }

  private:
    ProfileBy by_;
    const Zone& zone_;
    std::vector<Span> runs_;
    std::size_t run_ = 0;
    Instant dayFrom_{}, dayTo_{};
};

void fillQuantiles(FleetRow& row, std::vector<double>& picked) {
    std::sort(picked.begin(), picked.end());
    row.quantilesOf = static_cast<std::int64_t>(picked.size());
    row.low = quantileOfSorted(picked, 0.05);
    row.lowerQuartile = quantileOfSorted(picked, 0.25);
    row.middle = quantileOfSorted(picked, 0.5);
    row.upperQuartile = quantileOfSorted(picked, 0.75);
    row.high = quantileOfSorted(picked, 0.95);
}

/// Reads one asset's tag cell by cell: memory stays that of a cell however long the record is.
bool readRow(Study& study, const Tag& tag, const FleetPicture& picture, Slicer slicer, std::size_t slices,
             FleetRow& row, const Progress& progress) {
    row.asset = tag.asset;
    row.tag = tag.id;
    row.least = row.greatest = kNone;
    ProfileSums sums{std::vector<double>(slices), std::vector<double>(slices)};
    std::vector<double> picked;
    const Summary whole = study.reader(tag.id).whole(tag.id);
    const std::size_t step = std::max<std::size_t>(1, whole.count / kMostPicked);
    std::size_t seen = 0;
    for (std::size_t c = 0; c + 1 < picture.edges.size(); ++c) {
        const TimeRange cell{picture.edges[c], picture.edges[c + 1]};
        const Series s = study.readForFigures(tag, cell, picture.spec.which);
        row.cells.push_back(resample(s, tag.bridging(), {cell.from, cell.to}, Take::Mean)[0]);
        for (std::size_t i = 0; i < s.size(); ++i) {
            if (s.times[i] < cell.from || s.times[i] >= cell.to || !s.view().usable(i)) continue;
            const double v = s.values[i];
            row.least = std::fmin(row.least, v);
            row.greatest = std::fmax(row.greatest, v);
            ++row.samples;
            if (seen++ % step == 0) picked.push_back(v);
            if (slices > 0)
                if (const auto at = slicer.slice(s.times[i])) sums.add(*at, v);
        }
        if (progress.stopped(static_cast<double>(c) / static_cast<double>(picture.edges.size())))
            return false;
    }
    fillQuantiles(row, picked);
    row.profile = slices > 0 ? sums.means(1) : row.cells;
    return true;
}

std::map<AssetId, std::vector<Span>> runsByAsset(const Study& study, TimeRange range) {
    std::map<AssetId, std::vector<Span>> out;
    const auto track = study.tracks().firstOf(track_kind::kRuns);
    if (!track) return out;
    for (const Span& s : study.tracks().spans(track->id))
        if (s.end > range.from && s.start < range.to) out[s.asset].push_back(s);
    return out;
}

std::size_t runSlices(const std::map<AssetId, std::vector<Span>>& runs) {
    std::vector<double> lengths;
    for (const auto& [asset, all] : runs)
        for (const Span& s : all) lengths.push_back(toNanoseconds(s.end - s.start));
    return static_cast<std::size_t>(median(lengths) / toNanoseconds(kRunSlice));
}

void fillHours(FleetPicture& p, std::size_t slices) {
    if (p.spec.profile == ProfileBy::Time) {
        for (std::size_t c = 0; c + 1 < p.edges.size(); ++c)
            p.hours.push_back(toHours(p.edges[c] + (p.edges[c + 1] - p.edges[c]) / 2 - p.edges.front()));
        return;
    }
    const double width = p.spec.profile == ProfileBy::Day ? 24.0 / kDaySlices : toHours(kRunSlice);
    for (std::size_t i = 0; i < slices; ++i) p.hours.push_back((static_cast<double>(i) + 0.5) * width);
}

std::vector<std::array<double, 4>> spreadOf(const FleetPicture& p) {
    std::vector<std::array<double, 4>> out;
    std::vector<double> there;
    for (std::size_t i = 0; i < p.hours.size(); ++i) {
        there.clear();
        for (const FleetRow& r : p.rows)
            if (i < r.profile.size() && std::isfinite(r.profile[i])) there.push_back(r.profile[i]);
        std::sort(there.begin(), there.end());
        const auto at = [&](double q) { return there.empty() ? kNone : quantileOfSorted(there, q); };
        out.push_back({at(0.05), at(0.25), at(0.75), at(0.95)});
    }
    return out;
}

}  // namespace

std::vector<std::pair<int, int>> oddByGroup(const FleetPicture& picture, const AssetGroups& groups,
                                            double beyond) {
    std::vector<std::pair<int, int>> out(groups.all().size());
    for (const FleetRow& r : picture.rows) {
        const std::size_t place = groups.placeOf(r.asset);
        if (place >= out.size()) continue;
        out[place].first += r.odd.score > beyond;
        ++out[place].second;
    }
    return out;
}

Result<FleetPicture> fleetOf(Study& study, FleetSpec spec, const Progress& progress) {
    std::vector<Tag> tags;
    std::set<std::string> roles;
    for (const Tag& t : study.catalog().tags()) {
        if (t.kind == TagKind::State) continue;
        roles.insert(t.role);
        if (t.role == spec.role && (spec.assets.empty() || std::find(spec.assets.begin(), spec.assets.end(),
                                                                     t.asset) != spec.assets.end()))
            tags.push_back(t);
    }
    if (tags.empty())
        return Error{fmt::format(
            "{} has a number tag in the role `{}`{}",
            spec.assets.empty() ? "no asset" : "no asset of this group", spec.role,
            roles.contains(spec.role) ? "" : sayNearest(spec.role, {roles.begin(), roles.end()}))};
    if (spec.range.length() <= Duration::zero()) return Error{"there is no time in view"};
    const auto runs = runsByAsset(study, spec.range);
    if (spec.profile == ProfileBy::Run && runs.empty()) spec.profile = ProfileBy::Day;
    FleetPicture out;
    out.spec = spec;
    out.unit = tags[0].unit;
    for (int c = 0; c <= spec.cells; ++c)
        out.edges.push_back(spec.range.from + spec.range.length() / spec.cells * c);
    const std::size_t slices = spec.profile == ProfileBy::Time  ? 0
                               : spec.profile == ProfileBy::Day ? kDaySlices
                                                                : runSlices(runs);
    const Zone zone = study.zone();
    std::vector<FleetRow> rows(tags.size());
    for (std::size_t i = 0; i < tags.size(); ++i) {
        const auto mine = runs.find(tags[i].asset);
        Slicer slicer(out, zone, mine == runs.end() ? std::vector<Span>() : mine->second);
        rows[i].runs = mine == runs.end() ? 0 : static_cast<int>(mine->second.size());
        const bool done =
            readRow(study, tags[i], out, std::move(slicer), slices, rows[i],
                    progress.part(static_cast<double>(i) / static_cast<double>(tags.size()),
                                  static_cast<double>(i + 1) / static_cast<double>(tags.size())));
        if (!done) return Error::cancelled();
    }
    fillHours(out, slices);
    std::vector<std::vector<double>> profiles;
    for (const FleetRow& r : rows) profiles.push_back(r.profile);
    for (Oddness& o : oddness(profiles)) {
        FleetRow& row = rows[o.asset];
        row.odd = std::move(o);
        out.rows.push_back(std::move(row));
    }
    out.spread = spreadOf(out);
    return out;
}

}  // namespace jacinth
