#include "work/label/overview.h"

#include <algorithm>
#include <cmath>

#include "store/tracks.h"
#include "work/label/labels.h"

namespace jacinth {
namespace {

std::vector<AssetId> assetsWithTags(const Study& study) {
    std::set<AssetId> tagged;
    for (const Tag& t : study.catalog().tags()) tagged.insert(t.asset);
    std::vector<AssetId> out;
    for (const Asset& a : study.catalog().assets())
        if (tagged.contains(a.id)) out.push_back(a.id);
    return out;
}

std::vector<TimeRange> weeksOf(const Study& study) {
    const TimeRange record = study.record();
    const Zone zone = study.zone();
    std::vector<TimeRange> out;
    Instant from = zone.startOfDay(record.from);
    // 1970-01-01 was a Thursday.
    const auto weekday = [&](Instant midnight) {
        return (std::chrono::floor<std::chrono::days>(midnight + 12 * kHour).time_since_epoch().count() + 3) %
               7;
    };
    from = zone.addDays(from, -static_cast<int>(weekday(from)));
    while (from < record.to && out.size() < 10'000) {
        const Instant to = zone.addDays(from, 7);
        out.push_back({std::max(from, record.from), std::min(to, record.to)});
        from = to;
    }
    return out;
}

void countIn(LabelledStretch& stretch, const std::vector<Span>& labels) {
    std::vector<TimeRange> covered;
    for (const Span& s : labels) {
        if (s.start >= stretch.range.to || s.end <= stretch.range.from) continue;
        covered.push_back({std::max(s.start, stretch.range.from), std::min(s.end, stretch.range.to)});
        ++stretch.marks;
        const std::string kind = factText(s.facts, label_fact::kKind);
        stretch.unnamed += kind.empty();
        stretch.unsure += certaintyOf(s) == kCertainties[2];
        if (!kind.empty()) stretch.kinds.insert(kind);
        if (const std::string by = factText(s.facts, label_fact::kBy); !by.empty()) stretch.people.insert(by);
    }
    stretch.covered = totalLength(joined(std::move(covered)));
}

LabelOverview overviewOf(const Study& study, const Grouping& grouping,
                         const std::map<AssetId, std::vector<LabelledStretch>>& stretches) {
    LabelOverview out;
    const AssetGroups groups(study, grouping.fact);
    std::vector<MarkCount> byPlace(groups.all().size());
    std::map<AssetId, std::vector<Span>> labels;
    for (Span& s : labelsOf(study)) {
        if (!isIn(study, grouping, s.asset)) continue;
        if (const std::size_t place = groups.placeOf(s.asset); place < byPlace.size()) {
            ++byPlace[place].marks;
            byPlace[place].length += s.end - s.start;
        }
        const auto count = [&](MarkCounts& in, const std::string& value) {
            MarkCount& c = in[value];
            ++c.marks;
            c.length += s.end - s.start;
        };
        count(out.byKind, factText(s.facts, label_fact::kKind));
        count(out.byWho, factText(s.facts, label_fact::kBy));
        for (const auto& [name, value] : ownFacts(s)) count(out.byFact[name], factText(value));
        labels[s.asset].push_back(std::move(s));
    }
    for (std::size_t i = 0; i < byPlace.size(); ++i)
        if (const auto& g = groups.all()[i]; !grouping.only || *grouping.only == g.value)
            out.byGroup.emplace_back(groups.nameOf(g), byPlace[i]);
    std::vector<AssetId> assets = assetsWithTags(study);
    std::erase_if(assets, [&](AssetId id) { return !isIn(study, grouping, id); });
    std::stable_sort(assets.begin(), assets.end(),
                     [&](AssetId a, AssetId b) { return groups.isBefore(a, b); });
    for (const AssetId asset : assets) {
        const auto own = stretches.find(asset);
        LabelOverview::Row row{asset, own == stretches.end() ? std::vector<LabelledStretch>() : own->second};
        for (LabelledStretch& s : row.stretches) countIn(s, labels[asset]);
        out.rows.push_back(std::move(row));
    }
    return out;
}

/// One day of one asset.
struct AssetDay {
    AssetId asset;
    TimeRange day;
};

/// Mean, least and greatest of a tag by day.
void addFigures(const Study& study, const Tag& tag, const std::vector<TimeRange>& days, Which which,
                std::vector<StretchFigures>& out, std::size_t first, std::size_t place) {
    for (std::size_t d = 0; d < days.size(); ++d) {
        double sum = 0, count = 0, least = std::nan(""), greatest = std::nan("");
        for (const Summary& c : study.columns(tag, days[d], 8, which)) {
            if (c.usable <= 0) continue;
            sum += c.sum;
            count += static_cast<double>(c.usable);
            least = std::fmin(least, c.least);
            greatest = std::fmax(greatest, c.greatest);
        }
        std::vector<double>& figures = out[first + d].figures;
        figures[place] = count > 0 ? sum / count : std::nan("");
        figures[place + 1] = least;
        figures[place + 2] = greatest;
    }
}

}  // namespace

LabelOverview overviewByWeek(const Study& study, const Grouping& grouping) {
    std::map<AssetId, std::vector<LabelledStretch>> stretches;
    const std::vector<TimeRange> weeks = weeksOf(study);
    for (const AssetId asset : assetsWithTags(study))
        for (const TimeRange& week : weeks) stretches[asset].push_back({.range = week});
    return overviewOf(study, grouping, stretches);
}

Result<LabelOverview> overviewByRun(const Study& study, const Grouping& grouping) {
    const auto track = study.tracks().firstOf(track_kind::kRuns);
    if (!track) return Error{"there are no runs yet: find them on the bench Screen"};
    std::map<AssetId, std::vector<LabelledStretch>> stretches;
    for (const Span& run : study.tracks().spans(track->id))
        stretches[run.asset].push_back({.range = run.range(), .name = factText(run.facts, "number")});
    return overviewOf(study, grouping, stretches);
}

Result<std::vector<DayWorthLabelling>> daysWorthLabelling(Study& study, std::size_t most, Which which,
                                                          const Progress& progress) {
    const TimeRange record = study.record();
    std::vector<TimeRange> days;
    for (Instant from = study.zone().startOfDay(record.from); from < record.to;) {
        const Instant to = study.zone().addDays(from, 1);
        days.push_back({std::max(from, record.from), std::min(to, record.to)});
        from = to;
    }
    std::vector<std::string> roles;
    for (const Tag& t : study.catalog().tags())
        if (!t.role.empty() && t.kind != TagKind::State && std::ranges::count(roles, t.role) == 0)
            roles.push_back(t.role);
    const std::vector<AssetId> assets = assetsWithTags(study);
    std::vector<AssetDay> of;
    std::vector<StretchFigures> figures;
    const std::vector<Span> labels = labelsOf(study);
    for (std::size_t a = 0; a < assets.size(); ++a) {
        const std::size_t first = figures.size();
        for (const TimeRange& day : days) {
            of.push_back({assets[a], day});
            StretchFigures& f = figures.emplace_back();
            f.figures.assign(3 * roles.size(), std::nan(""));
            for (const Span& s : labels) {
                if (s.asset != assets[a] || s.start >= day.to || s.end <= day.from) continue;
                f.labelled = true;
                f.unsure = f.unsure || certaintyOf(s) == kCertainties[2];
            }
        }
        for (std::size_t r = 0; r < roles.size(); ++r) {
            if (progress.stopped(static_cast<double>(a * roles.size() + r) /
                                 static_cast<double>(assets.size() * roles.size())))
                return Error::cancelled();
            if (const Tag* tag = study.catalog().tagInRole(assets[a], roles[r]))
                addFigures(study, *tag, days, which, figures, first, 3 * r);
        }
    }
    const bool any = std::ranges::any_of(figures, [](const StretchFigures& f) { return f.labelled; });
    std::vector<DayWorthLabelling> out;
    for (const WorthLabelling& w : worthLabelling(figures, most))
        out.push_back({of[w.stretch].asset, of[w.stretch].day, w.distance, w.likeUnsure, of[w.nearest].asset,
                       of[w.nearest].day, any});
    return out;
}

}  // namespace jacinth
