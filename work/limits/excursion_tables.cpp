#include "work/limits/excursion_tables.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/series/resample.h"
#include "store/tracks.h"
#include "work/base/asset_groups.h"

namespace jacinth {
namespace {

/// Groups by name in the order they come.
class Groups {
  public:
    ExcursionCount& of(const std::string& name) {
        const auto [place, fresh] = places_.try_emplace(name, groups_.size());
        if (fresh) groups_.push_back({name});
        return groups_[place->second];
    }
    void touch(const std::string& name, SpanId run) {
        if (runs_[name].insert(run).second) ++of(name).runs;
    }
    std::vector<ExcursionCount> take() { return std::move(groups_); }

  private:
    std::vector<ExcursionCount> groups_;
    std::map<std::string, std::size_t> places_;
    std::map<std::string, std::set<SpanId>> runs_;
};

/// The share of its time outside that goes to a part of its stretch; 0 for a part without length.
double hoursOutside(const KeptExcursion& e, Duration part) {
    const double whole = toHours(e.span.end - e.span.start);
    return part <= Duration::zero() || whole <= 0 ? 0 : toHours(e.outside) * toHours(part) / whole;
}

std::vector<ExcursionCount> byWeek(const Study& study, const std::vector<Span>& runs,
                                   const std::vector<KeptExcursion>& excursions) {
    if (runs.empty()) return {};
    const Zone zone = study.zone();
    Instant first = runs.front().start, last = first;
    for (const Span& r : runs) first = std::min(first, r.start), last = std::max(last, r.end);
    std::vector<ExcursionCount> out;
    for (Instant t = startOfWeek(zone, first); t < last; t = zone.addDays(t, 7)) {
        const TimeRange week{t, zone.addDays(t, 7)};
        ExcursionCount c{zone.shortDate(t)};
        c.from = t;
        std::set<SpanId> touched;
        for (const KeptExcursion& e : excursions) {
            const Duration inside = std::min(e.span.end, week.to) - std::max(e.span.start, week.from);
            c.hours += hoursOutside(e, inside);
            if (!week.contains(e.span.start)) continue;
            ++c.count;
            touched.insert(e.run);
        }
        c.runs = touched.size();
        for (const Span& r : runs) c.allRuns += week.contains(r.start);
        out.push_back(std::move(c));
    }
    return out;
}

void addPhases(const std::vector<RunPhase>& phases, const KeptExcursion& e, Groups& groups) {
    bool begun = false;
    for (const RunPhase& p : phases) {
        const Duration inside = std::min(e.span.end, p.range.to) - std::max(e.span.start, p.range.from);
        if (inside <= Duration::zero()) continue;
        groups.of(p.name).hours += hoursOutside(e, inside);
        groups.touch(p.name, e.run);
        if (!begun) ++groups.of(p.name).count;
        begun = true;
    }
}

}  // namespace

std::vector<ExcursionCount> countExcursions(const Study& study, const std::vector<Span>& runs,
                                            const std::vector<KeptExcursion>& excursions, CountBy by,
                                            const std::string& fact) {
    if (by == CountBy::Week) return byWeek(study, runs, excursions);
    std::map<SpanId, const Span*> runOf;
    for (const Span& r : runs) runOf[r.id] = &r;
    const AssetGroups assets(study, by == CountBy::AssetGroup ? fact : "");
    const auto nameOf = [&](const Span& run, TagId tag) -> std::string {
        if (by == CountBy::ByTag) {
            const Tag* t = study.catalog().tag(tag);
            return t ? t->name : "";
        }
        if (by == CountBy::RunFact) {
            const std::string value = factText(run.facts, fact);
            return value.empty() ? "not said" : value;
        }
        if (by == CountBy::AssetGroup) return assets.nameOf(run.asset);
        const Asset* asset = study.catalog().asset(run.asset);
        return asset ? asset->name : "";
    };
    Groups groups;
    PhasesOfRuns phases;
    if (by == CountBy::Phase)
        for (const Track& t : study.tracks().all())
            if (t.kind == track_kind::kRuns) phases.merge(phasesOf(study, t.id));
    if (by == CountBy::ByAsset || by == CountBy::RunFact || by == CountBy::AssetGroup)
        for (const Span& r : runs) ++groups.of(nameOf(r, {})).allRuns;
    for (const KeptExcursion& e : excursions) {
        const auto run = runOf.find(e.run);
        if (run == runOf.end()) continue;
        if (by == CountBy::Phase) {
            addPhases(phases[e.run], e, groups);
            continue;
        }
        const std::string name = nameOf(*run->second, e.span.tag);
        ++groups.of(name).count;
        groups.of(name).hours += toHours(e.outside);
        groups.touch(name, e.run);
    }
    auto out = groups.take();
    if (by == CountBy::Phase || by == CountBy::ByTag)
        for (ExcursionCount& c : out) c.allRuns = runs.size();
    std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.hours > b.hours; });
    return out;
}

std::vector<std::string> countableFacts(const std::vector<Span>& runs) {
    std::map<std::string, std::set<std::string>> values;
    for (const Span& r : runs)
        for (const auto& [name, fact] : r.facts)
            if (const auto* text = std::get_if<std::string>(&fact)) values[name].insert(*text);
    std::vector<std::string> out;
    for (const auto& [name, texts] : values)
        if (texts.size() >= 2 && texts.size() <= 30) out.push_back(name);
    return out;
}

std::optional<ExcursionChange> changeOverTime(const std::vector<Span>& runs,
                                              const std::vector<KeptExcursion>& excursions) {
    std::vector<const Span*> order;
    for (const Span& r : runs) order.push_back(&r);
    std::sort(order.begin(), order.end(), [](const Span* a, const Span* b) { return a->start < b->start; });
    std::map<SpanId, double> times;
    for (const KeptExcursion& e : excursions) ++times[e.run];
    std::vector<double> counts;
    for (const Span* r : order) counts.push_back(times.contains(r->id) ? times.at(r->id) : 0);
    const auto change = changeInCounts(counts);
    if (!change) return {};
    return ExcursionChange{*change, order[change->at]->start, order[change->from]->start,
                           order[change->to]->start};
}

std::string areaText(double area, const std::string& unit) {
    const std::string of = unit.empty() ? "h" : unit + "·h";
    const double size = std::abs(area);
    if (!std::isfinite(size)) return {};
    if (size < 1000 || size >= 1e15) return fmt::format("{:.3g} {}", area, of);
    // Three digits and separators, not a power of ten: 12 300.
    const double step = std::pow(10, std::floor(std::log10(size)) - 2);
    std::string digits = fmt::format("{:.0f}", std::round(size / step) * step);
    for (auto at = static_cast<std::ptrdiff_t>(digits.size()) - 3; at > 0; at -= 3)
        digits.insert(static_cast<std::size_t>(at), " ");
    return (area < 0 ? "−" : "") + digits + " " + of;
}

}  // namespace jacinth
