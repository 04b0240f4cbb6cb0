#include "work/mend/fix_in_hand.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "core/base/text.h"

namespace jacinth {
namespace {

BendFix* bendOf(Fix& fix) {
    return std::get_if<BendFix>(&fix.body);
}

/// The place of a grip among the knots of a bend.
std::size_t knotOf(const BendFix& bend, int id) {
    if (id == 0) return 0;
    return id == 1 ? bend.knots.size() - 1 : static_cast<std::size_t>(id) - 1;
}

/// Does what the fixes add in the range depend on the time alone?
bool byTimeAlone(std::span<const Fix> fixes, TimeRange range) {
    return std::all_of(fixes.begin(), fixes.end(),
                       [&](const Fix& f) { return f.kind() <= FixKind::Bend || !f.touches(range); });
}

void changeByTime(std::span<const Fix> fixes, TimeRange range, int pixels, std::vector<Summary>& out) {
    std::vector<Instant> times;
    for (int i = 0; i <= pixels; ++i) times.push_back(range.from + range.length() / pixels * i);
    // Exact at every edge and knot.
    for (const Fix& f : fixes) {
        for (const Instant edge : {f.from - kNanosecond, f.from, f.to, f.to + kNanosecond})
            times.push_back(edge);
        if (const auto* bend = std::get_if<BendFix>(&f.body))
            for (const auto& k : bend->knots) times.push_back(k.time);
    }
    std::sort(times.begin(), times.end());
    for (const Instant at : times) {
        if (at < range.from || at > range.to) continue;
        Summary s;
        s.add(at, changeAt(fixes, at, 0), true);
        out.push_back(s);
    }
}

/// Means by pixel of a range; pixels without a usable sample have count 0.
struct PixelMeans {
    struct Pixel {
        Instant first{};
        double sum = 0, count = 0;
        double mean() const { return sum / count; }
    };
    std::map<std::int64_t, Pixel> pixels;
    PixelMeans(const std::vector<Summary>& columns, TimeRange range, int wide) {
        const Duration width = std::max(kNanosecond, range.length() / std::max(1, wide));
        for (const Summary& c : columns) {
            Pixel& p =
                pixels.try_emplace((c.firstTime - range.from) / width, Pixel{c.firstTime}).first->second;
            p.sum += c.usable > 0 ? c.sum : 0;
            p.count += c.usable;
        }
    }
};

/// The difference of the means of each pixel; an end of the line where one of them has none.
void changeByPixels(const PixelMeans& logged, const PixelMeans& mended, std::vector<Summary>& out) {
    for (const auto& [at, was] : logged.pixels) {
        const auto is = mended.pixels.find(at);
        Summary s;
        if (was.count > 0 && is != mended.pixels.end() && is->second.count > 0)
            s.add(was.first, is->second.mean() - was.mean(), true);
        else
            s.firstTime = s.lastTime = was.first;
        out.push_back(s);
    }
}

}  // namespace

Fix newFix(FixKind kind, TagId tag, TimeRange stretch) {
    static const std::array<FixBody, std::variant_size_v<FixBody>> kBodies{
        ShiftFix{},  RampFix{},  BendFix{}, CurveFix{}, BridgeFix{},
        BorrowFix{}, DecayFix{}, HideFix{}, CutFix{},   ClockFix{}};
    Fix out;
    out.tag = tag;
    out.body = kBodies[static_cast<std::size_t>(kind)];
    out.from = stretch.from;
    out.to = stretch.to;
    if (auto* bend = bendOf(out))
        for (const int part : {0, 1, 2})
            bend->knots.push_back({stretch.from + stretch.length() / 2 * part, 0});
    if (auto* bend = bendOf(out)) bend->knots.back().time = stretch.to;
    if (auto* curve = std::get_if<CurveFix>(&out.body)) curve->calibrations = {{stretch.from, {{0, 0}}}};
    return out;
}

bool changesNothing(const Fix& fix) {
    if (const auto* shift = std::get_if<ShiftFix>(&fix.body)) return shift->by == 0;
    if (const auto* ramp = std::get_if<RampFix>(&fix.body)) return ramp->startBy == 0 && ramp->endBy == 0;
    if (const auto* bend = std::get_if<BendFix>(&fix.body))
        return std::all_of(bend->knots.begin(), bend->knots.end(), [](const auto& k) { return k.by == 0; });
    if (const auto* curve = std::get_if<CurveFix>(&fix.body))
        return std::all_of(curve->calibrations.begin(), curve->calibrations.end(), [](const auto& c) {
            return std::all_of(c.points.begin(), c.points.end(), [](const auto& p) { return p.by == 0; });
        });
    if (const auto* borrow = std::get_if<BorrowFix>(&fix.body)) return !borrow->twin;
    if (const auto* clock = std::get_if<ClockFix>(&fix.body)) return clock->by == Duration::zero();
    return false;
}

std::vector<Grip> gripsOf(const Fix& fix) {
    std::vector<Grip> out{{0, fix.from, {}}, {1, fix.to, {}}};
    if (const auto* shift = std::get_if<ShiftFix>(&fix.body)) out[0].by = out[1].by = shift->by;
    if (const auto* ramp = std::get_if<RampFix>(&fix.body))
        out[0].by = ramp->startBy, out[1].by = ramp->endBy;
    if (const auto* bend = std::get_if<BendFix>(&fix.body); bend && bend->knots.size() >= 2) {
        out[0].by = bend->knots.front().by;
        out[1].by = bend->knots.back().by;
        for (std::size_t i = 1; i + 1 < bend->knots.size(); ++i)
            out.push_back({static_cast<int>(i) + 1, bend->knots[i].time, bend->knots[i].by});
    }
    return out;
}

void moveGrip(Fix& fix, int id, Instant to) {
    BendFix* bend = bendOf(fix);
    if (bend && bend->knots.size() >= 2) {
        const std::size_t k = knotOf(*bend, id);
        if (k > 0) to = std::max(to, bend->knots[k - 1].time + kNanosecond);
        if (k + 1 < bend->knots.size()) to = std::min(to, bend->knots[k + 1].time - kNanosecond);
        bend->knots[k].time = to;
    }
    if (id == 0) fix.from = std::min(to, fix.to - kNanosecond);
    if (id == 1) fix.to = std::max(to, fix.from + kNanosecond);
}

void setGripAmount(Fix& fix, int id, double by) {
    if (auto* shift = std::get_if<ShiftFix>(&fix.body)) shift->by = by;
    if (auto* ramp = std::get_if<RampFix>(&fix.body)) (id == 0 ? ramp->startBy : ramp->endBy) = by;
    if (BendFix* bend = bendOf(fix); bend && bend->knots.size() >= 2) bend->knots[knotOf(*bend, id)].by = by;
}

double mendedBy(Study& study, const Tag& tag, std::span<const Fix> fixes, Instant t) {
    const TimeRange moment{t, t + kNanosecond};
    if (byTimeAlone(fixes, moment)) return changeAt(fixes, t, 0);
    return study.valueAt(tag, t, fixes) - study.valueAt(tag, t, Which::AsLogged);
}

std::vector<Summary> mendingChange(Study& study, TagId tag, std::span<const Fix> fixes, TimeRange range,
                                   int pixels) {
    std::vector<Summary> out;
    if (byTimeAlone(fixes, range))
        changeByTime(fixes, range, pixels, out);
    else
        changeByPixels({study.reader(tag).columns(tag, range, pixels, {}), range, pixels},
                       {study.reader(tag).columns(tag, range, pixels, fixes), range, pixels}, out);
    return out;
}

std::vector<Tag> possibleTwins(const Study& study, const Tag& tag) {
    const auto rank = [&](const Tag& t) {
        const bool here = t.asset == tag.asset;
        if (here && t.unit == tag.unit && lowerCase(t.role).find("twin") != std::string::npos) return 0;
        if (here && t.unit == tag.unit) return 1;
        return t.role == tag.role ? 2 : 3;
    };
    std::array<std::vector<const Tag*>, 4> byRank;
    for (const Tag& t : study.catalog().tags())
        if (t.id != tag.id && t.kind != TagKind::State && t.unit == tag.unit)
            byRank[static_cast<std::size_t>(rank(t))].push_back(&t);
    std::vector<Tag> out;
    for (const auto& tags : byRank)
        for (const Tag* t : tags)
            if (out.size() < kMostTwins) out.push_back(*t);
    return out;
}

}  // namespace jacinth
