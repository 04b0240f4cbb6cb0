#include "core/mend/fix.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace jacinth {
namespace {

constexpr std::array<const char*, std::variant_size_v<FixBody>> kNames{
    "shift", "ramp", "bend", "curve", "bridge", "borrow", "decay", "hide", "cut", "clock"};

double blend(double a, double b, double share) {
    return a + (b - a) * share;
}

/// The line through (x, y), held outside: `xs` rising.
template <typename Places, typename X, typename XOf, typename YOf>
double lineThrough(const Places& places, X x, XOf xOf, YOf yOf) {
    const auto after = std::upper_bound(places.begin(), places.end(), x,
                                        [&](X at, const auto& place) { return at < xOf(place); });
    if (after == places.begin()) return yOf(places.front());
    if (after == places.end()) return yOf(places.back());
    const auto& a = *(after - 1);
    if constexpr (std::is_same_v<X, Instant>)
        return blend(yOf(a), yOf(*after), toNanoseconds(x - xOf(a)) / toNanoseconds(xOf(*after) - xOf(a)));
    else
        return blend(yOf(a), yOf(*after), (x - xOf(a)) / (xOf(*after) - xOf(a)));
}

double correctionAt(const CurveFix::Calibration& calibration, double value) {
    return lineThrough(
        calibration.points, value, [](const auto& p) { return p.at; }, [](const auto& p) { return p.by; });
}

struct ChangeAt {
    const Fix& fix;
    Instant t;
    double value;
    double operator()(const ShiftFix& shift) const { return shift.by; }
    double operator()(const RampFix& ramp) const {
        if (fix.to == fix.from) return ramp.startBy;
        return blend(ramp.startBy, ramp.endBy,
                     toNanoseconds(t - fix.from) / toNanoseconds(fix.to - fix.from));
    }
    double operator()(const BendFix& bend) const {
        return lineThrough(
            bend.knots, t, [](const auto& k) { return k.time; }, [](const auto& k) { return k.by; });
    }
    double operator()(const CurveFix& curve) const {
        return lineThrough(
            curve.calibrations, t, [](const auto& c) { return c.time; },
            [&](const auto& c) { return correctionAt(c, value); });
    }
    double operator()(const auto&) const { return 0; }
};

/// Do places stand in order, each once, and are all amounts numbers?
template <typename Places, typename XOf, typename YOf>
bool inOrder(const Places& places, XOf xOf, YOf yOf) {
    for (std::size_t i = 0; i < places.size(); ++i) {
        if (!(std::abs(yOf(places[i])) <= kGreatestAmount)) return false;
        if (i > 0 && !(xOf(places[i - 1]) < xOf(places[i]))) return false;
    }
    return true;
}

struct Validate {
    const Fix& fix;
    Status operator()(const ShiftFix& shift) const { return number(shift.by); }
    Status operator()(const RampFix& ramp) const {
        if (fix.to == fix.from) return Error{"a ramp needs a start and a later end"};
        if (const Status start = number(ramp.startBy); !start) return start;
        return number(ramp.endBy);
    }
    Status operator()(const BendFix& bend) const {
        if (bend.knots.size() < 2) return Error{"a bend needs two knots at least"};
        if (!inOrder(
                bend.knots, [](const auto& k) { return k.time; }, [](const auto& k) { return k.by; }))
            return Error{"the knots of a bend stand in order of time, one at each, with a number"};
        return Done{};
    }
    Status operator()(const CurveFix& curve) const {
        if (curve.calibrations.empty()) return Error{"a curve needs a calibration"};
        for (const auto& c : curve.calibrations) {
            if (c.points.empty()) return Error{"a calibration needs a point at least"};
            const bool finite = std::all_of(c.points.begin(), c.points.end(),
                                            [](const auto& p) { return std::isfinite(p.at); });
            if (!finite ||
                !inOrder(
                    c.points, [](const auto& p) { return p.at; }, [](const auto& p) { return p.by; }))
                return Error{
                    "the points of a calibration stand in order of value, one at each, with a number"};
        }
        if (!inOrder(
                curve.calibrations, [](const auto& c) { return c.time; }, [](const auto&) { return 0.0; }))
            return Error{"the calibrations of a curve stand in order of time, one at each"};
        return Done{};
    }
    Status operator()(const BridgeFix& bridge) const {
        return length(bridge.longest, "the longest gap to bridge");
    }
    Status operator()(const BorrowFix& borrow) const {
        if (!borrow.twin) return Error{"say from which twin to borrow"};
        if (borrow.twin == fix.tag) return Error{"a tag cannot borrow from itself"};
        return length(borrow.margin, "the margin");
    }
    Status operator()(const DecayFix& decay) const {
        if (decay.tau)
            if (const Status good = length(*decay.tau, "the time constant"); !good) return good;
        return length(decay.margin, "the margin");
    }
    Status operator()(const HideFix& hide) const {
        for (std::size_t i = 0; i < hide.parts.size(); ++i)
            if (hide.parts[i].to < hide.parts[i].from || (i > 0 && hide.parts[i].from < hide.parts[i - 1].to))
                return Error{"the hidden parts stand in order of time, without overlap"};
        return Done{};
    }
    Status operator()(const CutFix&) const { return Done{}; }
    Status operator()(const ClockFix& clock) const {
        if (clock.by == Duration::zero()) return Error{"the clock is moved by nothing"};
        return Done{};
    }

    static Status number(double amount) {
        if (!std::isfinite(amount)) return Error{"the amount is not a number"};
        if (std::abs(amount) > kGreatestAmount)
            return Error{fmt::format("an amount of {} is beyond what can be calculated with; at most {}",
                                     amount, kGreatestAmount)};
        return Done{};
    }
    static Status length(Duration d, const char* what) {
        if (d <= Duration::zero()) return Error{fmt::format("{} is not a length of time", what)};
        return Done{};
    }
};

}  // namespace

const char* fixKindName(FixKind kind) {
    return kNames[static_cast<std::size_t>(kind)];
}

Result<FixKind> fixKindNamed(const std::string& name) {
    for (std::size_t i = 0; i < kNames.size(); ++i)
        if (name == kNames[i]) return static_cast<FixKind>(i);
    return Error{fmt::format("`{}` is not a kind of fix; {} are", name, fmt::join(kNames, ", "))};
}

bool Fix::worksOnStates() const {
    const auto* bridge = std::get_if<BridgeFix>(&body);
    return (bridge && bridge->way == BridgeFix::Way::Hold) || kind() >= FixKind::Hide;
}

bool Fix::touches(TimeRange range) const {
    if (!on) return false;
    if (from < range.to && to >= range.from) return true;
    const auto* clock = std::get_if<ClockFix>(&body);
    return clock && from + clock->by < range.to && to + clock->by >= range.from;
}

double changeAt(const Fix& fix, Instant t, double value) {
    if (!fix.on || t < fix.from || t > fix.to) return 0;
    return std::visit(ChangeAt{fix, t, value}, fix.body);
}

double changeAt(std::span<const Fix> fixes, Instant t, double value) {
    double now = value;
    for (const Fix& fix : fixes) now += changeAt(fix, t, now);
    return now - value;
}

Status validateFix(const Fix& fix) {
    if (fix.to < fix.from) return Error{"the fix ends before it starts"};
    return std::visit(Validate{fix}, fix.body);
}

}  // namespace jacinth
