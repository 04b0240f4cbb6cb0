// The truth as JSON, for tests and for anyone who checks Jacinth from outside.
#include <nlohmann/json.hpp>

#include "demo/demo.h"
#include "demo/sight_glass.h"

namespace jacinth::demo {
namespace {

using nlohmann::json;

json timesOf(TimeRange r) {
    return {{"start", toIso(r.from)}, {"end", toIso(r.to)}};
}

json stretches(const std::vector<TagStretch>& all) {
    json out = json::array();
    for (const TagStretch& s : all) {
        json j = timesOf(s.range);
        j["tag"] = s.tag;
        out.push_back(j);
    }
    return out;
}

json offPathToJson(const OffPath& off) {
    static const std::array<const char*, 3> kinds{"channelling", "hot cure", "under-fanned"};
    static const std::array<const char*, 3> tags{"Air-off temp", "Air-on temp", "Fan current"};
    static const std::array<const char*, 4> severities{"", "slight", "middling", "serious"};
    json j = timesOf(off.when);
    j["kind"] = kinds[static_cast<std::size_t>(off.kind)];
    j["tag"] = tags[static_cast<std::size_t>(off.kind)];
    j["severity"] = severities[static_cast<std::size_t>(off.severity)];
    return j;
}

json runToJson(const KilnHistory& h, const RunRecord& r, Instant recordEnd) {
    json j = timesOf(r.range);
    j["asset"] = kilnName(h.kiln);
    j["number"] = r.number;
    j["complete"] = r.range.to < recordEnd;
    j["product"] = r.plan.product;
    j["load"] = r.plan.load;
    j["finalMoisture"] = r.finalMoisture;
    j["colour"] = r.colour;
    j["offPath"] = r.offPath && r.offPath->when.to != Instant{} ? offPathToJson(*r.offPath) : json();
    bool held = false;
    for (const Stop& s : h.stops) held |= s.range.from < r.range.to && s.range.to > r.range.from;
    j["interrupted"] = held;
    j["lookAlike"] = r.plan.load > 44.5  ? json("heavy load")
                     : r.plan.damperOpen ? json("open damper")
                                         : json();
    j["manualBurner"] = r.plan.manualBurner;
    return j;
}

}  // namespace

json truthToJson(const Truth& truth) {
    const TimeRange record = truth.spec.record();
    json out{{"plant", "Corvane Maltings"},
             {"zone", "Europe/Oslo"},
             {"days", truth.spec.days},
             {"seed", truth.spec.seed},
             {"record", timesOf(record)},
             {"oddKiln", kilnName(truth.oddKiln)},
             {"beltKiln", kilnName(truth.beltKiln)}};
    for (const char* list : {"runs", "failures", "stops", "flameLosses", "fanRunsOn", "washDowns",
                             "beltChanges", "drifts", "falseSteps", "spikes", "trueValues", "processChanges"})
        out[list] = json::array();
    for (const KilnHistory& h : truth.kilns) {
        const std::string name = kilnName(h.kiln);
        const auto stretch = [&](const char* list, TimeRange r) -> json& {
            json j = timesOf(r);
            j["asset"] = name;
            out[list].push_back(j);
            return out[list].back();
        };
        for (const RunRecord& r : h.runs) out["runs"].push_back(runToJson(h, r, record.to));
        for (const Wear& w : h.wears)
            out["failures"].push_back({{"asset", name},
                                       {"time", toIso(w.failure)},
                                       {"kind", "fan bearing"},
                                       {"climbDays", w.days},
                                       {"style", w.style}});
        for (const Stop& s : h.stops) stretch("stops", s.range)["reason"] = s.reason;
        for (const FlameLoss& f : h.flameLosses) stretch("flameLosses", f.range)["stopped"] = f.stopped;
        for (const TimeRange& r : h.fanRunsOn) stretch("fanRunsOn", r);
        for (const Instant t : h.washDowns) out["washDowns"].push_back({{"asset", name}, {"time", toIso(t)}});
        for (const Instant t : h.beltChanges)
            out["beltChanges"].push_back({{"asset", name}, {"time", toIso(t)}});
    }
    const SightGlass camera = sightGlassOf(truth);
    json filmed = json::array();
    for (const TimeRange& r : camera.filmed) filmed.push_back(timesOf(r));
    out["camera"] = {
        {"asset", kilnName(camera.kiln)}, {"aheadSeconds", toSeconds(kCameraAhead)}, {"filmed", filmed}};
    for (const Drift& d : truth.drifts) {
        json j = timesOf(d.range);
        j["tag"] = d.tag;
        j["startError"] = 0;
        j["endError"] = d.endError;
        out["drifts"].push_back(j);
    }
    for (const FalseStep& s : truth.steps)
        out["falseSteps"].push_back({{"tag", s.tag},
                                     {"time", toIso(s.time)},
                                     {"size", s.size},
                                     {"cause", s.cause},
                                     {"returns", s.returns ? json(toIso(*s.returns)) : json()}});
    for (const Spike& s : truth.spikes)
        out["spikes"].push_back({{"tag", s.tag}, {"time", toIso(s.time)}, {"size", s.size}});
    for (const TrueValue& v : truth.trueValues)
        out["trueValues"].push_back({{"tag", v.tag}, {"time", toIso(v.time)}, {"value", v.value}});
    for (const ProcessChange& c : truth.changes)
        out["processChanges"].push_back({{"asset", c.asset}, {"time", toIso(c.time)}, {"what", c.what}});
    out["gaps"] = stretches(truth.gaps);
    out["stuck"] = stretches(truth.stuck);
    out["badQuality"] = stretches(truth.bad);
    out["clockError"] = truth.clockError.tag.empty() ? json::array() : stretches({truth.clockError});
    return out;
}

}  // namespace jacinth::demo
