#include "store/fix_body.h"

#include <fmt/format.h>

#include <array>

#include "store/json_body.h"

namespace jacinth {
namespace {

using nlohmann::json;

constexpr double kAnything = 1e300;
constexpr std::size_t kMostPlaces = 1'000'000;
constexpr std::array<const char*, 4> kWays{"hold", "line", "cubic", "spline"};

struct ToJson {
    json operator()(const ShiftFix& f) const { return {{"by", f.by}}; }
    json operator()(const RampFix& f) const { return {{"startBy", f.startBy}, {"endBy", f.endBy}}; }
    json operator()(const BendFix& f) const {
        json knots = json::array();
        for (const auto& k : f.knots) knots.push_back({epochNanoseconds(k.time), k.by});
        return {{"knots", knots}};
    }
    json operator()(const CurveFix& f) const {
        json calibrations = json::array();
        for (const auto& c : f.calibrations) {
            json points = json::array();
            for (const auto& p : c.points) points.push_back({p.at, p.by});
            calibrations.push_back({{"time", epochNanoseconds(c.time)}, {"points", points}});
        }
        return {{"calibrations", calibrations}};
    }
    json operator()(const BridgeFix& f) const {
        return {{"way", bridgeWayName(f.way)}, {"longest", f.longest.count()}, {"over", f.over}};
    }
    json operator()(const BorrowFix& f) const {
        return {{"twin", f.twin}, {"margin", f.margin.count()}, {"over", f.over}};
    }
    json operator()(const DecayFix& f) const {
        json out{{"margin", f.margin.count()}, {"over", f.over}};
        if (f.tau) out["tau"] = f.tau->count();
        return out;
    }
    json operator()(const HideFix& f) const {
        json parts = json::array();
        for (const TimeRange& p : f.parts)
            parts.push_back({epochNanoseconds(p.from), epochNanoseconds(p.to)});
        return {{"parts", parts}};
    }
    json operator()(const CutFix&) const { return json::object(); }
    json operator()(const ClockFix& f) const { return {{"by", f.by.count()}}; }
};

bool isTime(const json& v) {
    return v.is_number_integer();
}

/// The members of an array of pairs, each handed to `take`; trouble where one is not such a pair.
template <typename Take>
void readPairs(JsonBody& body, const char* name, bool firstIsTime, bool secondIsTime, Take take) {
    const json& all = body.member(name);
    if (all.is_null()) return;
    if (!all.is_array() || all.size() > kMostPlaces)
        return body.remember(fmt::format("`{}` cannot be read", name));
    for (const json& pair : all) {
        const bool good = pair.is_array() && pair.size() == 2 &&
                          (firstIsTime ? isTime(pair[0]) : pair[0].is_number()) &&
                          (secondIsTime ? isTime(pair[1]) : pair[1].is_number());
        if (!good) return body.remember(fmt::format("a part of `{}` cannot be read", name));
        take(pair);
    }
}

Instant timeOf(const json& v) {
    return fromEpochNanoseconds(v.get<std::int64_t>());
}

BendFix readBend(JsonBody& body) {
    BendFix out;
    readPairs(body, "knots", true, false, [&](const json& k) {
        out.knots.push_back({timeOf(k[0]), k[1].get<double>()});
    });
    return out;
}

CurveFix readCurve(JsonBody& body) {
    CurveFix out;
    const json& all = body.member("calibrations");
    if (!all.is_array() || all.size() > kMostPlaces) {
        body.remember("`calibrations` cannot be read");
        return out;
    }
    for (const json& one : all) {
        JsonBody part(one);
        CurveFix::Calibration c{part.instant("time", {}), {}};
        readPairs(part, "points", false, false, [&](const json& p) {
            c.points.push_back({p[0].get<double>(), p[1].get<double>()});
        });
        if (part.trouble()) body.remember("a calibration cannot be read: " + *part.trouble());
        out.calibrations.push_back(std::move(c));
    }
    return out;
}

BridgeFix readBridge(JsonBody& body) {
    BridgeFix out;
    if (const auto way = bridgeWayNamed(body.text("way", kWays[1])))
        out.way = *way;
    else
        body.remember(way.error().message);
    out.longest = body.duration("longest", out.longest, false);
    out.over = body.flag("over", out.over);
    return out;
}

HideFix readHide(JsonBody& body) {
    HideFix out;
    readPairs(body, "parts", true, true, [&](const json& p) {
        out.parts.push_back({timeOf(p[0]), timeOf(p[1])});
    });
    return out;
}

ClockFix readClock(JsonBody& body) {
    constexpr std::int64_t most = kLongestTime.count();
    return {Duration(body.integer("by", -most, most, 0))};
}

FixBody readMembers(FixKind kind, JsonBody& body) {
    switch (kind) {
        case FixKind::Shift:
            return ShiftFix{body.number("by", -kAnything, kAnything, 0)};
        case FixKind::Ramp:
            return RampFix{body.number("startBy", -kAnything, kAnything, 0),
                           body.number("endBy", -kAnything, kAnything, 0)};
        case FixKind::Bend:
            return readBend(body);
        case FixKind::Curve:
            return readCurve(body);
        case FixKind::Bridge:
            return readBridge(body);
        case FixKind::Borrow: {
            BorrowFix out{body.id<TagId>("twin")};
            out.margin = body.duration("margin", out.margin, false);
            out.over = body.flag("over", out.over);
            return out;
        }
        case FixKind::Decay: {
            DecayFix out;
            if (body.has("tau")) out.tau = body.duration("tau", kHour, false);
            out.margin = body.duration("margin", out.margin, false);
            out.over = body.flag("over", out.over);
            return out;
        }
        case FixKind::Hide:
            return readHide(body);
        case FixKind::Cut:
            return CutFix{};
        case FixKind::Clock:
            return readClock(body);
    }
    return ShiftFix{};
}

}  // namespace

const char* bridgeWayName(BridgeFix::Way way) {
    return kWays[static_cast<std::size_t>(way)];
}

Result<BridgeFix::Way> bridgeWayNamed(const std::string& name) {
    for (std::size_t i = 0; i < kWays.size(); ++i)
        if (name == kWays[i]) return static_cast<BridgeFix::Way>(i);
    return Error{fmt::format("`{}` is not a way to bridge; {} are", name, fmt::join(kWays, ", "))};
}

json fixBodyToJson(const FixBody& body) {
    return std::visit(ToJson{}, body);
}

std::string fixBodyText(const FixBody& body) {
    return fixBodyToJson(body).dump();
}

Result<FixBody> readFixBody(FixKind kind, const std::string& text) {
    JsonBody body(text);
    FixBody out = readMembers(kind, body);
    if (body.trouble()) return Error{*body.trouble()};
    return out;
}

}  // namespace jacinth
