#include "work/prove/example_rules.h"

#include "work/base/study_inputs.h"

namespace jacinth {
namespace {

Rule example(const char* name, const char* text, Settings settings, const char* meaning, const char* advice) {
    Rule out;
    out.name = name;
    out.text = text;
    out.settings = std::move(settings);
    out.meaning = meaning;
    out.advice = advice;
    out.note = "a ready example";
    return out;
}

std::vector<Rule> allExamples() {
    const char* const look = "Look at the fan bearing at the next stop; order the part now.";
    return {
        example("Bearing vibration high", "mean(@bearing_vibration over {hours}h) > {limit}",
                {{"hours", 6}, {"limit", 3}}, "The fan bearing runs rougher than it should.", look),
        example("Bearing vibration climbing", "slope(@bearing_vibration over {hours}h) > {per_hour} for 20m",
                {{"hours", 12}, {"per_hour", 0.05}}, "The fan bearing gets worse by the hour.", look),
        example("Bearing vibration above its own week",
                "median(@bearing_vibration over {hours}h) > {times} * median(@bearing_vibration over 7d)",
                {{"hours", 4}, {"times", 1.3}}, "Rougher than this fan has been over the last week.", look),
        example("Vibration up and fan current down",
                "mean(@bearing_vibration over 6h) > {limit} and mean(@fan_current over 6h) < {share} * "
                "median(@fan_current over 7d)",
                {{"limit", 2.5}, {"share", 0.97}}, "The bearing is rough and the fan has begun to sag.",
                "Change the bearing at the end of this run."),
        example("Bearing warm", "mean(@bearing_temp over 2h) > {limit} for 1h", {{"limit", 60}},
                "The fan bearing is warmer than it should be.", look),
    };
}

}  // namespace

std::vector<Rule> exampleRules(const Study& study) {
    std::vector<Rule> out;
    for (Rule& rule : allExamples()) {
        const auto text = withSettings(rule.text, rule.settings);
        if (text && compileForFleet(study, *text)) out.push_back(std::move(rule));
    }
    return out;
}

}  // namespace jacinth
