#include "store/rule_body.h"

#include <algorithm>
#include <cmath>

#include "store/json_body.h"

namespace jacinth {
namespace {

using nlohmann::json;

Settings settingsFrom(JsonBody& body) {
    Settings out;
    const json& all = body.member("settings");
    if (all.is_null()) return out;
    if (!all.is_object()) body.remember("`settings` cannot be read");
    for (const auto& [name, value] : all.items())
        if (value.is_number() && std::isfinite(value.get<double>()))
            out[name] = value.get<double>();
        else
            body.remember("the setting `" + name + "` is not a number");
    return out;
}

json jsonOf(const FailureVerdict& f) {
    return {{"asset", f.asset},       {"time", epochNanoseconds(f.time)},
            {"testable", f.testable}, {"caught", f.caught},
            {"late", f.late},         {"warning", f.warning.count()},
            {"reason", f.reason}};
}

FailureVerdict failureFrom(const json& object, JsonBody& whole) {
    JsonBody body(object);
    FailureVerdict out;
    out.asset = body.id<AssetId>("asset");
    out.time = body.instant("time", {});
    out.testable = body.flag("testable", true);
    out.caught = body.flag("caught", false);
    out.late = body.flag("late", false);
    out.warning = body.duration("warning", {});
    out.reason = body.text("reason");
    if (body.trouble()) whole.remember("a failure cannot be read: " + *body.trouble());
    return out;
}

json jsonOf(const AlarmVerdict& a) {
    return {{"asset", a.asset},
            {"from", epochNanoseconds(a.range.from)},
            {"to", epochNanoseconds(a.range.to)},
            {"verdict", verdictName(a.verdict)}};
}

AlarmVerdict alarmFrom(const json& object, JsonBody& whole) {
    JsonBody body(object);
    AlarmVerdict out;
    out.asset = body.id<AssetId>("asset");
    out.range = {body.instant("from", {}), body.instant("to", {})};
    const std::string name = body.text("verdict");
    const auto found =
        std::find_if(kVerdicts.begin(), kVerdicts.end(), [&](Verdict v) { return verdictName(v) == name; });
    if (found == kVerdicts.end())
        body.remember("its verdict is unknown");
    else
        out.verdict = *found;
    if (body.trouble()) whole.remember("an alarm cannot be read: " + *body.trouble());
    return out;
}

}  // namespace

std::string ruleBodyOf(const Rule& rule) {
    return json{{"most", rule.spec.most.count()},
                {"least", rule.spec.least.count()},
                {"join", rule.spec.join.count()},
                {"offDelay", rule.spec.offDelay.count()},
                {"settings", rule.settings},
                {"failures", rule.failures},
                {"masks", rule.masks},
                {"severity", rule.severity},
                {"meaning", rule.meaning},
                {"advice", rule.advice},
                {"note", rule.note},
                {"searched", rule.searched},
                {"made", epochNanoseconds(rule.made)},
                {"who", rule.who}}
        .dump();
}

Status readRuleBody(const std::string& text, Rule& rule) {
    JsonBody body(text);
    Rule read = rule;
    read.spec.most = body.duration("most", read.spec.most);
    read.spec.least = body.duration("least", read.spec.least);
    read.spec.join = body.duration("join", read.spec.join);
    read.spec.offDelay = body.duration("offDelay", read.spec.offDelay);
    read.settings = settingsFrom(body);
    read.failures = body.text("failures");
    read.masks = body.texts("masks");
    read.severity = static_cast<int>(body.integer("severity", kLeastSeverity, kMostSeverity, read.severity));
    read.meaning = body.text("meaning");
    read.advice = body.text("advice");
    read.note = body.text("note");
    read.searched = body.text("searched");
    read.made = body.instant("made", {});
    read.who = body.text("who");
    if (body.trouble()) return Error{*body.trouble()};
    rule = std::move(read);
    return Done{};
}

std::string proofBodyOf(const KeptProof& kept) {
    json failures = json::array(), alarms = json::array();
    for (const FailureVerdict& f : kept.proof.failures) failures.push_back(jsonOf(f));
    for (const AlarmVerdict& a : kept.proof.alarms) alarms.push_back(jsonOf(a));
    return json{
        {"failures", failures},  {"alarms", alarms},         {"counting", kept.proof.countingTime.count()},
        {"mended", kept.mended}, {"asset", kept.asset},      {"made", epochNanoseconds(kept.made)},
        {"who", kept.who},       {"madeFrom", kept.madeFrom}}
        .dump();
}

Status readProofBody(const std::string& text, KeptProof& kept) {
    JsonBody body(text);
    KeptProof read = kept;
    const json &failures = body.member("failures"), &alarms = body.member("alarms"),
               &marks = body.member("madeFrom");
    if (!failures.is_array() || !alarms.is_array()) return Error{"it holds no verdicts"};
    for (const json& f : failures) read.proof.failures.push_back(failureFrom(f, body));
    for (const json& a : alarms) read.proof.alarms.push_back(alarmFrom(a, body));
    read.proof.countingTime =
        Duration(body.integer("counting", 0, std::numeric_limits<std::int64_t>::max(), 0));
    read.mended = body.flag("mended", true);
    read.asset = body.text("asset");
    read.made = body.instant("made", {});
    read.who = body.text("who");
    if (marks.is_object())
        for (const auto& [name, mark] : marks.items())
            if (mark.is_string()) read.madeFrom[name] = mark.get<std::string>();
    if (body.trouble()) return Error{*body.trouble()};
    countVerdicts(read.proof);
    kept = std::move(read);
    return Done{};
}

}  // namespace jacinth
