#include "work/prove/look_at_alarm.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "store/judgement.h"
#include "store/tracks.h"
#include "work/label/labels.h"

namespace jacinth {
namespace {

bool isAlarmKind(const std::string& kind) {
    return std::find(kAlarmKinds.begin(), kAlarmKinds.end(), kind) != kAlarmKinds.end();
}

const char* meaningOf(const std::string& kind) {
    if (kind == kTrueAfterAll) return "An alarm of a failure that is not on record.";
    if (kind == kNearMiss) return "An alarm of what would have become a failure.";
    return kind == kFalseByProcess ? "An alarm of something that the process does by itself."
                                   : "An alarm of a sensor that was wrong.";
}

/// Labels of these kinds over the alarm.
std::vector<Span> labelsOver(const std::vector<Span>& labels, const AlarmVerdict& alarm) {
    std::vector<Span> out;
    for (const Span& s : labels)
        if (s.asset == alarm.asset && s.start < alarm.range.to && alarm.range.from < s.end &&
            isAlarmKind(factText(s.facts, label_fact::kKind)))
            out.push_back(s);
    return out;
}

void addToBook(Study& study, const std::string& name) {
    LabelBook book = study.judgement().labelBook();
    if (findKind(book, name)) return;
    LabelKind kind;
    kind.name = name;
    kind.meaning = meaningOf(name);
    kind.colour = freeColour(book);
    kind.normal = name == kFalseByProcess || name == kFalseBySensor;
    book.push_back(kind);
    study.judgement().setLabelBook(book);
}

}  // namespace

Status labelAlarm(Study& study, const AlarmVerdict& alarm, const std::string& kind, const std::string& rule) {
    if (!kind.empty() && !isAlarmKind(kind))
        return Error{fmt::format("`{}` does not say what an alarm was", kind)};
    const std::vector<Span> before = labelsOver(labelsOf(study), alarm);
    if (kind.empty() && before.empty()) return Done{};
    const Asset* asset = study.catalog().asset(alarm.asset);
    const std::string where =
        fmt::format("{}, {}", asset ? asset->name : "no asset", study.zone().shortText(alarm.range.from));
    const std::string name = kind.empty() ? fmt::format("take back what the alarm on {} was", where)
                                          : fmt::format("call the alarm on {} {}", where, kind);
    study.change(name, "", {{"kind", kind}, {"rule", rule}}, [&] {
        for (const Span& s : before) study.tracks().removeSpan(s.id);
        if (kind.empty()) return;
        addToBook(study, kind);
        Span label{{}, alarm.asset, {}, alarm.range.from, alarm.range.to, {}};
        label.facts[label_fact::kKind] = kind;
        label.facts[label_fact::kBy] = study.who();
        label.facts[label_fact::kFrom] =
            rule.empty() ? std::string("alarms of a rule") : "alarms of the rule " + rule;
        study.tracks().addSpan(labelTrack(study), label);
    });
    return Done{};
}

std::vector<std::string> labelsOfAlarms(const Study& study, const Proof& proof) {
    std::vector<Span> labels = labelsOf(study);
    std::erase_if(labels, [](const Span& s) { return !isAlarmKind(factText(s.facts, label_fact::kKind)); });
    std::vector<std::string> out;
    for (const AlarmVerdict& a : proof.alarms) {
        const auto over = labelsOver(labels, a);
        out.push_back(over.empty() ? std::string() : factText(over.back().facts, label_fact::kKind));
    }
    return out;
}

}  // namespace jacinth
