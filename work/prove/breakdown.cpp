#include "work/prove/breakdown.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "store/tracks.h"
#include "work/base/asset_groups.h"

namespace jacinth {
namespace {

void add(AlarmShare& share, Verdict verdict) {
    switch (verdict) {
        case Verdict::True:
            ++share.cameTrue;
            break;
        case Verdict::False:
            ++share.falseAlarms;
            break;
        case Verdict::NearMiss:
            ++share.nearMisses;
            break;
        default:
            ++share.others;
    }
}

std::vector<AlarmShare> byAsset(const Study& study, const Proof& proof) {
    std::vector<AlarmShare> out;
    for (const auto& [id, counting] : proof.counting) {
        const Asset* asset = study.catalog().asset(id);
        AlarmShare& share = out.emplace_back();
        share.name = asset ? asset->name : "no asset";
        share.counting = totalLength(counting);
        for (const AlarmVerdict& a : proof.alarms)
            if (a.asset == id) add(share, a.verdict);
    }
    return out;
}

/// Years and months of the plant's wall clock, as one number that goes up by one.
int monthOf(const Zone& zone, Instant t) {
    const WallTime wall = zone.wall(t);
    return wall.year * 12 + wall.month - 1;
}

Instant startOfMonth(const Zone& zone, int month) {
    return zone.instant({month / 12, month % 12 + 1}).instant;
}

std::vector<AlarmShare> byMonth(const Study& study, const Proof& proof) {
    const Zone zone = study.zone();
    std::optional<int> first, last;
    const auto reach = [&](Instant t) {
        const int month = monthOf(zone, t);
        first = std::min(first.value_or(month), month);
        last = std::max(last.value_or(month), month);
    };
    for (const auto& [asset, counting] : proof.counting)
        if (!counting.empty()) reach(counting.front().from), reach(counting.back().to - kNanosecond);
    for (const AlarmVerdict& a : proof.alarms) reach(a.range.from);
    std::vector<AlarmShare> out;
    if (!first) return out;
    for (int month = *first; month <= *last; ++month) {
        const TimeRange range{startOfMonth(zone, month), startOfMonth(zone, month + 1)};
        AlarmShare& share = out.emplace_back();
        share.name = fmt::format("{}-{:02}", month / 12, month % 12 + 1);
        for (const auto& [asset, counting] : proof.counting)
            share.counting += totalLength(intersect(counting, {range}));
        for (const AlarmVerdict& a : proof.alarms)
            if (range.contains(a.range.from)) add(share, a.verdict);
    }
    return out;
}

std::vector<AlarmShare> byPhase(const Study& study, const Proof& proof) {
    std::vector<std::string> order;
    std::map<std::string, AlarmShare> shares;
    const std::vector<Span> phases = study.tracks().spansOf(track_kind::kPhases);
    for (const Span& phase : phases) {
        const std::string name = factText(phase.facts, "phase");
        if (shares.try_emplace(name, AlarmShare{name}).second) order.push_back(name);
    }
    AlarmShare outside{"outside of runs"};
    for (const AlarmVerdict& a : proof.alarms) {
        const auto in = std::find_if(phases.begin(), phases.end(), [&](const Span& phase) {
            return phase.asset == a.asset && phase.range().contains(a.range.from);
        });
        add(in == phases.end() ? outside : shares[factText(in->facts, "phase")], a.verdict);
    }
    std::vector<AlarmShare> out;
    for (const std::string& name : order) out.push_back(shares[name]);
    out.push_back(outside);
    return out;
}

std::vector<AlarmShare> byGroup(const Study& study, const Proof& proof, const std::string& fact) {
    const AssetGroups groups(study, fact);
    std::vector<AlarmShare> out;
    for (const AssetGroups::Group& g : groups.all()) out.push_back({groups.nameOf(g)});
    std::vector<bool> counts(out.size());
    for (const auto& [asset, counting] : proof.counting) {
        const std::size_t place = groups.placeOf(asset);
        if (place >= out.size()) continue;
        counts[place] = true;
        out[place].counting += totalLength(counting);
    }
    for (const AlarmVerdict& a : proof.alarms)
        if (const std::size_t place = groups.placeOf(a.asset); place < out.size()) add(out[place], a.verdict);
    for (std::size_t i = out.size(); i-- > 0;)
        if (!counts[i]) out.erase(out.begin() + static_cast<std::ptrdiff_t>(i));
    return out;
}

}  // namespace

std::vector<AlarmShare> breakDown(const Study& study, const Proof& proof, BreakdownBy by,
                                  const std::string& groupedBy) {
    switch (by) {
        case BreakdownBy::Asset:
            return byAsset(study, proof);
        case BreakdownBy::Month:
            return byMonth(study, proof);
        case BreakdownBy::Group:
            return byGroup(study, proof, groupedBy);
        case BreakdownBy::Phase:
            break;
    }
    return byPhase(study, proof);
}

}  // namespace jacinth
