#include "core/golden/line_up.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr std::array<std::pair<LineUp, const char*>, 4> kLineUps{{{LineUp::Start, "start"},
                                                                  {LineUp::End, "end"},
                                                                  {LineUp::Phases, "phases"},
                                                                  {LineUp::Indicator, "indicator"}}};

/// The straight line through (x0, y0) and (x1, y1) at x, in whole nanoseconds; y0 where x0 = x1.
template <class X, class Y>
Y between(X x, X x0, X x1, Y y0, Y y1) {
    if (x1 == x0 || x <= x0) return y0;
    if (x >= x1) return y1;
    if (x1 - x0 == y1 - y0) return y0 + (x - x0);  // no stretch: exact
    const double share = toNanoseconds(x - x0) / toNanoseconds(x1 - x0);
    return y0 + Duration(std::llround(share * toNanoseconds(y1 - y0)));
}

std::size_t slotOf(const std::vector<PhaseSlot>& slots, const std::string& name) {
    const auto found =
        std::find_if(slots.begin(), slots.end(), [&](const PhaseSlot& s) { return s.name == name; });
    return static_cast<std::size_t>(found - slots.begin());
}

}  // namespace

Result<LineUp> lineUpNamed(const std::string& name) {
    for (const auto& [lineUp, known] : kLineUps)
        if (name == known) return lineUp;
    return Error{
        fmt::format("`{}` is not a way to line up runs; start, end, phases and indicator are", name)};
}

const char* lineUpName(LineUp lineUp) {
    for (const auto& [l, name] : kLineUps)
        if (l == lineUp) return name;
    return "";
}

std::vector<PhaseSlot> phaseSlots(const std::vector<std::vector<RunPhase>>& runs) {
    struct Seen {
        std::vector<double> begins, lengths;
    };
    std::map<std::string, Seen> byName;
    for (const auto& phases : runs) {
        if (phases.empty()) continue;
        const Instant start = phases.front().range.from;
        const double whole = std::max(1.0, toNanoseconds(phases.back().range.to - start));
        std::map<std::string, TimeRange> reach;  // a phase that appears again counts once
        std::map<std::string, bool> finished;
        for (const RunPhase& p : phases) {
            auto [it, fresh] = reach.try_emplace(p.name, p.range);
            if (!fresh) it->second.to = p.range.to;
            finished[p.name] = p.finished;
        }
        for (const auto& [name, range] : reach) {
            if (!finished[name]) continue;
            byName[name].begins.push_back(toNanoseconds(range.from - start) / whole);
            byName[name].lengths.push_back(toNanoseconds(range.length()));
        }
    }
    std::vector<std::pair<double, PhaseSlot>> found;
    for (const auto& [name, seen] : byName)
        // One that few runs have is a disturbance, not a phase of the common path.
        if (seen.lengths.size() * 2 > runs.size())
            found.emplace_back(median(seen.begins),
                               PhaseSlot{name, Duration(std::llround(median(seen.lengths)))});
    std::sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    std::vector<PhaseSlot> out;
    for (auto& [begin, slot] : found) out.push_back(std::move(slot));
    return out;
}

PhaseFaults phaseFaults(const std::vector<RunPhase>& phases, const std::vector<PhaseSlot>& slots) {
    PhaseFaults out;
    for (const PhaseSlot& slot : slots) {
        const auto times = std::count_if(phases.begin(), phases.end(),
                                         [&](const RunPhase& p) { return p.name == slot.name; });
        if (times == 0) out.missing.push_back(slot.name);
        if (times > 1) out.repeated.push_back(slot.name);
    }
    return out;
}

RunScale::RunScale(std::vector<Piece> pieces) : pieces_(std::move(pieces)) {}

std::optional<Place> RunScale::placeOf(Instant t) const {
    // The last piece that begins at or before t: where a slot stays empty the later side counts.
    const auto after = std::upper_bound(pieces_.begin(), pieces_.end(), t,
                                        [](Instant x, const Piece& p) { return x < p.time.from; });
    if (after == pieces_.begin()) return {};
    const Piece& p = *(after - 1);
    if (t > p.time.to) return {};
    return between(t, p.time.from, p.time.to, p.from, p.to);
}

std::optional<Instant> RunScale::timeOf(Place place) const {
    const auto p = std::lower_bound(pieces_.begin(), pieces_.end(), place,
                                    [](const Piece& piece, Place x) { return piece.to < x; });
    if (p == pieces_.end() || place < p->from) return {};
    return between(place, p->from, p->to, p->time.from, p->time.to);
}

RunScale scaleFromStart(const TimeRange& run) {
    return RunScale({{run, Place(), Place(run.length())}});
}

RunScale scaleFromEnd(const TimeRange& run) {
    return RunScale({{run, Place(-run.length()), Place()}});
}

RunScale scaleByPhases(const TimeRange& run, const std::vector<RunPhase>& phases,
                       const std::vector<PhaseSlot>& slots) {
    std::vector<Place> begins{Place()};
    for (const PhaseSlot& s : slots) begins.push_back(begins.back() + s.length);
    // The first appearance of each slot's phase that is later than those of the slots before it.
    struct Begin {
        std::size_t slot;
        Instant at;
        bool finished;
    };
    std::vector<Begin> order;
    for (const RunPhase& p : phases) {
        const std::size_t slot = slotOf(slots, p.name);
        if (slot == slots.size()) continue;
        if (!order.empty() && slot <= order.back().slot) {
            if (slot == order.back().slot) order.back().finished = p.finished;
            continue;
        }
        order.push_back({slot, order.empty() ? run.from : p.range.from, p.finished});
    }
    std::vector<RunScale::Piece> pieces;
    for (std::size_t i = 0; i < order.size(); ++i) {
        const TimeRange time{order[i].at, i + 1 < order.size() ? order[i + 1].at : run.to};
        const Place from = begins[order[i].slot], full = begins[order[i].slot + 1];
        const bool goesOn = i + 1 == order.size() && !order[i].finished;
        pieces.push_back({time, from, goesOn ? std::min(full, from + time.length()) : full});
        if (goesOn && from + time.length() > full) pieces.back().time.to = time.from + (full - from);
    }
    return RunScale(std::move(pieces));
}

RunScale scaleByIndicator(const SeriesView& indicator, const TimeRange& run) {
    std::vector<RunScale::Piece> pieces;
    Instant before{};
    double greatest = 0;
    bool any = false;
    for (std::size_t i = 0; i < indicator.size(); ++i) {
        if (!indicator.usable(i) || indicator.times[i] < run.from || indicator.times[i] > run.to) continue;
        const double now = any ? std::max(greatest, indicator.values[i]) : indicator.values[i];
        if (any)
            pieces.push_back(
                {{before, indicator.times[i]}, Place(indicatorStep(greatest)), Place(indicatorStep(now))});
        before = indicator.times[i];
        greatest = now;
        any = true;
    }
    if (pieces.empty() || pieces.front().from == pieces.back().to) return {};
    return RunScale(std::move(pieces));
}

}  // namespace jacinth
