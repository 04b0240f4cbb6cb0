#include "store/trust_marks.h"

#include <algorithm>

#include "store/json_body.h"
#include "store/judgement.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

constexpr const char* kSetting = "trust and sign-off";

std::vector<std::string> texts(JsonBody& body, const char* name, const std::vector<std::string>& otherwise) {
    if (!body.has(name)) return otherwise;
    std::vector<std::string> out;
    for (const auto& grade : body.member(name)) {
        if (!grade.is_string()) return otherwise;
        out.push_back(grade.get<std::string>());
    }
    return out;
}

}  // namespace

TrustSettings trustSettingsOf(const Study& study) {
    const std::string text = study.setting(kSetting);
    TrustSettings out;
    if (text.empty()) return out;
    JsonBody body(text);
    out.trust = texts(body, "trust", out.trust);
    out.signOff = texts(body, "signOff", out.signOff);
    out.soundDownTo = body.text("soundDownTo", out.soundDownTo);
    out.filled = body.text("filled", out.filled);
    out.hidden = body.text("hidden", out.hidden);
    out.corrected = body.text("corrected", out.corrected);
    out.ownFixes = body.flag("ownFixes", out.ownFixes);
    if (body.has("who") && body.member("who").is_object())
        for (const auto& [grade, people] : body.member("who").items())
            for (const auto& person : people)
                if (person.is_string()) out.who[grade].push_back(person.get<std::string>());
    return body.trouble() || !validateTrustSettings(out) ? TrustSettings{} : out;
}

std::string trustSettingsText(const TrustSettings& s) {
    nlohmann::json who = nlohmann::json::object();
    for (const auto& [grade, people] : s.who) who[grade] = people;
    return nlohmann::json{{"trust", s.trust},   {"signOff", s.signOff},  {"soundDownTo", s.soundDownTo},
                          {"filled", s.filled}, {"hidden", s.hidden},    {"corrected", s.corrected},
                          {"who", who},         {"ownFixes", s.ownFixes}}
        .dump();
}

void keepTrustSettings(Study& study, const TrustSettings& settings) {
    study.setSetting(kSetting, trustSettingsText(settings));
}

Span spanOfMark(const TrustMark& mark, AssetId asset, TagId tag) {
    Span out{{}, asset, tag, mark.range.from, mark.range.to, {}};
    out.facts[mark.signOff ? "sign-off" : "trust"] = mark.grade;
    out.facts["who"] = mark.who;
    out.facts["set"] = toIso(mark.set);
    if (!mark.why.empty()) out.facts["why"] = mark.why;
    return out;
}

TrustMark markOfSpan(const Span& span) {
    TrustMark out;
    out.range = span.range();
    out.grade = factText(span.facts, "trust");
    if (out.grade.empty()) out.grade = factText(span.facts, "sign-off"), out.signOff = true;
    out.who = factText(span.facts, "who");
    out.why = factText(span.facts, "why");
    if (const auto set = fromIso(factText(span.facts, "set"))) out.set = *set;
    return out;
}

std::vector<GradedStretch> trustOf(const Study& study, TagId tag, TimeRange range, Which which) {
    const std::vector<Fix> none;
    return trustOver(trustSettingsOf(study), study.judgement().trustMarks(tag),
                     which == Which::Mended ? study.judgement().fixes(tag) : none, range);
}

std::vector<GradedStretch> signOffOf(const Study& study, TagId tag, TimeRange range) {
    return signOffOver(trustSettingsOf(study), study.judgement().trustMarks(tag),
                       study.judgement().fixes(tag), range);
}

}  // namespace jacinth
