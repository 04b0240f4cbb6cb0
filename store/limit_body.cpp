#include "store/limit_body.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "store/json_body.h"

namespace jacinth {
namespace {

using nlohmann::json;

constexpr std::size_t kMostSlices = 1'000'000;
constexpr double kAnything = 1e300;

json limitsToJson(const GoldenLimits& g) {
    json slices = json::array(), phases = json::array();
    for (const LimitSlice& s : g.slices)
        slices.push_back({s.offset.time_since_epoch().count(), s.n, s.low, s.centre, s.high});
    for (const PhaseSlot& p : g.phases) phases.push_back({{"name", p.name}, {"length", p.length.count()}});
    return {{"every", g.spec.every.count()},
            {"method", limitMethodName(g.spec.method)},
            {"leaveOutAbnormal", g.spec.leaveOutAbnormal},
            {"lineUp", lineUpName(g.spec.lineUp)},
            {"k", g.spec.k},
            {"q", g.spec.q},
            {"coverage", g.spec.coverage},
            {"confidence", g.spec.confidence},
            {"leastRuns", g.spec.leastRuns},
            {"smooth", g.spec.smooth},
            {"slack", g.spec.slack.count()},
            {"indicator", g.spec.indicator},
            {"widened", g.widened},
            {"phases", phases},
            {"slices", slices}};
}

/// NaN has no place in JSON: null stands for it.
bool isFigure(const json& v) {
    return v.is_number() || v.is_null();
}

double figure(const json& v) {
    return v.is_number() ? v.get<double>() : std::nan("");
}

void readSlices(JsonBody& body, std::vector<LimitSlice>& slices) {
    const json& all = body.member("slices");
    if (!all.is_array() || all.size() > kMostSlices) return body.remember("`slices` cannot be read");
    for (const json& s : all) {
        if (!s.is_array() || s.size() != 5 || !s[0].is_number_integer() || !s[1].is_number_integer() ||
            !isFigure(s[2]) || !isFigure(s[3]) || !isFigure(s[4]))
            return body.remember("a slice cannot be read");
        slices.push_back({Place(Duration(s[0].get<std::int64_t>())), s[1].get<int>(), figure(s[2]),
                          figure(s[3]), figure(s[4])});
        if (slices.size() > 1 && slices.back().offset <= slices[slices.size() - 2].offset &&
            slices[0].offset <= Place())
            return body.remember("the slices are not in order");
    }
}

void readPhases(JsonBody& body, std::vector<PhaseSlot>& phases) {
    const json& all = body.member("phases");
    if (all.is_null()) return;
    if (!all.is_array()) return body.remember("`phases` cannot be read");
    for (const json& p : all) {
        JsonBody phase(p);
        phases.push_back({phase.text("name"), phase.duration("length", {})});
        if (phase.trouble()) return body.remember("a phase cannot be read: " + *phase.trouble());
    }
}

void readFlagged(JsonBody& body, std::map<std::string, FlaggedRuns>& flagged) {
    const json& all = body.member("flagged");
    if (all.is_null()) return;  // of an earlier version
    if (!all.is_object()) return body.remember("`flagged` cannot be read");
    constexpr std::int64_t kMost = 1'000'000'000;
    for (const auto& [role, counted] : all.items()) {
        JsonBody count(counted);
        const auto of = static_cast<int>(count.integer("of", 0, kMost, 0));
        flagged[role] = {static_cast<int>(count.integer("flagged", 0, of, 0)), of};
        if (count.trouble())
            return body.remember("a count of flagged runs cannot be read: " + *count.trouble());
    }
}

Result<GoldenLimits> readLimits(const json& object) {
    JsonBody body(object);
    GoldenLimits g;
    LimitSpec& spec = g.spec;
    const auto method = limitMethodNamed(body.text("method"));
    const auto lineUp = lineUpNamed(body.text("lineUp"));
    if (!method || !lineUp) return Error{"its method or its way to line up is unknown"};
    spec.method = *method;
    spec.lineUp = *lineUp;
    spec.every = body.duration("every", {}, false);
    if (spec.every == Duration::zero()) body.remember("its slices have no length");
    spec.k = body.number("k", 0, kAnything, spec.k);
    spec.q = body.number("q", 0, 0.5, spec.q);
    spec.coverage = body.number("coverage", 0, 1, spec.coverage);
    spec.confidence = body.number("confidence", 0, 1, spec.confidence);
    spec.leastRuns = static_cast<int>(body.integer("leastRuns", 1, 1'000'000'000, spec.leastRuns));
    spec.smooth = static_cast<int>(body.integer("smooth", 0, 1'000'000, spec.smooth));
    spec.slack = body.duration("slack", spec.slack);
    spec.indicator = body.text("indicator");
    spec.leaveOutAbnormal = body.flag("leaveOutAbnormal", false);  // not known to earlier versions
    g.widened = body.number("widened", 1, kAnything, 1);           // not known to earlier versions
    readPhases(body, g.phases);
    readSlices(body, g.slices);
    if (body.trouble()) return Error{*body.trouble()};
    // Up to format 3 places before the end were kept without their sign.
    if (spec.lineUp == LineUp::End && !g.slices.empty() && g.slices.back().offset > Place()) {
        for (LimitSlice& s : g.slices) s.offset = Place(-s.offset.time_since_epoch());
        std::reverse(g.slices.begin(), g.slices.end());
    }
    return g;
}

}  // namespace

std::string limitBodyOf(const LimitSet& set) {
    json flagged = json::object();
    for (const auto& [role, count] : set.flagged)
        flagged[role] = {{"flagged", count.flagged}, {"of", count.of}};
    json roles = json::object();
    for (const auto& [role, limits] : set.byRole) roles[role] = limitsToJson(limits);
    return json{{"golden", set.goldenRuns},
                {"roles", roles},
                {"validFrom", epochNanoseconds(set.validFrom)},
                {"forRuns", set.forRuns},
                {"madeFrom", set.madeFrom},
                {"flagged", flagged},
                {"made", epochNanoseconds(set.made)},
                {"who", set.who}}
        .dump();
}

Status readLimitBody(const std::string& text, LimitSet& set) {
    JsonBody body(text);
    LimitSet read = set;
    read.goldenRuns = body.ids<SpanId>("golden");
    read.validFrom = body.instant("validFrom", kNoInstant);
    read.forRuns = body.text("forRuns");
    read.madeFrom = body.text("madeFrom");
    read.made = body.instant("made", {});
    read.who = body.text("who");
    readFlagged(body, read.flagged);
    const json& roles = body.member("roles");
    if (!roles.is_object()) body.remember("it holds no limits");
    if (roles.is_object())
        for (const auto& [role, limits] : roles.items()) {
            auto one = readLimits(limits);
            if (!one) return Error{fmt::format("{}: {}", role, one.error().message)};
            read.byRole[role] = std::move(*one);
        }
    if (body.trouble()) return Error{*body.trouble()};
    set = std::move(read);
    return Done{};
}

}  // namespace jacinth
