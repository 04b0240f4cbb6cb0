#include "work/derived/derived_inputs.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/base/mark.h"
#include "store/derived_catalog.h"
#include "store/fix_body.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "store/trust_marks.h"
#include "work/base/study_inputs.h"

namespace jacinth {
namespace {

using nlohmann::json;

void textsIn(const Node& n, std::set<std::string>& out) {
    if (n.kind == NodeKind::Text) out.insert(n.text);
    if (!n.window.since.empty()) out.insert(n.window.since);
    if (!n.window.during.empty()) out.insert(n.window.during);
    for (const NodePtr& child : n.children) textsIn(*child, out);
}

std::string markOf(const Study& study, const Track& track, AssetId asset) {
    Mark m;
    for (const Span& s : study.tracks().spans(track.id)) {
        if (s.asset != asset && s.asset) continue;
        m.add(s.start);
        m.add(s.end);
    }
    return m.text();
}

}  // namespace

std::vector<std::string> tracksOf(const Study& study, const Expression& expression) {
    std::set<std::string> texts;
    textsIn(*expression.root, texts);
    std::vector<std::string> out;
    for (const std::string& text : texts)
        if (study.tracks().named(text)) out.push_back(text);
    return out;
}

const Names& StudyMarks::names(AssetId asset) {
    const auto known = names_.find(asset);
    return known != names_.end() ? known->second
                                 : names_.emplace(asset, namesIn(study_, asset)).first->second;
}

std::string StudyMarks::madeFrom(const Tag& tag, const std::string& text) {
    return made_[tag.id] =
               ofInputs(tag.asset, {{"gap", tag.longestGap.value_or(kHour).count()}}, text).dump();
}

std::string StudyMarks::ofSamples(const Tag& tag, Which which) {
    return fmt::format("{} {}", study_.reader(tag.id).generationOf(tag.id),
                       which == Which::Mended ? ofTag(tag) : std::string("as logged"));
}

json StudyMarks::ofInputs(AssetId asset, json begin, const std::string& text) {
    // What is kept in a study for derived tags has stayed as it is, so that none is calculated again.
    const bool ofDerived = !begin.is_null();
    json out = std::move(begin);
    out[kExpression] = text;
    out["sound"] = study_.setting(kSoundDataOnly) == "yes";
    if (const std::string trust = trustSettingsText(trustSettingsOf(study_));
        trust != trustSettingsText(TrustSettings{}))
        out["trust"] = trust;
    const auto expression = compileExpression(text, names(asset));
    if (!expression) {
        out["trouble"] = expression.error().message;
        return out;
    }
    for (const TagId id : tagsOf(study_, *expression, asset)) {
        const Tag& input = *study_.catalog().tag(id);
        json& j = out["tags"][input.path()] = {{"as", ofTag(input)}};
        if (!ofDerived) j["reads"] = ofReading(input);
        if (const std::string made = madeOf(input); !made.empty()) {
            Mark m;
            m.add(made);
            j["made"] = m.text();
            continue;
        }
        // One by expression that is made from itself never has samples.
        const bool logged = !study_.derived().definition(id).contains(kExpression);
        j["generation"] = logged ? study_.reader(id).generationOf(id) : -1;
    }
    std::set<std::string> texts;
    textsIn(*expression->root, texts);
    for (const std::string& name : texts) {
        if (const auto track = study_.tracks().named(name))
            out["tracks"][name] = markOf(study_, *track, asset);
        if (study_.judgement().limitSetNamed(name)) out["limits"][name] = ofRuns(name) + ofTags(asset);
    }
    return out;
}

/// What a derived tag by expression is made from; empty for other tags, and for one that is made from itself.
const std::string& StudyMarks::madeOf(const Tag& tag) {
    static const std::string none;
    if (const auto made = made_.find(tag.id); made != made_.end()) return made->second;
    const json definition = study_.derived().definition(tag.id);
    if (!definition.contains(kExpression) || !definition[kExpression].is_string()) return none;
    if (!within_.insert(tag.id).second) return none;
    (void)madeFrom(tag, definition[kExpression].get<std::string>());
    within_.erase(tag.id);
    return made_[tag.id];
}

/// How a tag is read, whatever its fixes.
std::string StudyMarks::ofReading(const Tag& tag) const {
    Mark m;
    m.add(static_cast<int>(tag.kind));
    m.add(tag.longestGap.value_or(Duration::zero()));
    for (const std::string& s : tag.states) m.add(s);
    if (study_.setting(kSoundDataOnly) == "yes") addTrust(m, tag.id);
    return m.text();
}

void StudyMarks::addTrust(Mark& mark, TagId tag) const {
    for (const TrustMark& trust : study_.judgement().trustMarks(tag)) {
        if (trust.signOff) continue;
        for (const Instant t : {trust.range.from, trust.range.to}) mark.add(t);
        mark.add(trust.grade);
    }
}

/// Fixes that are on, how it is drawn between its samples, what its states are called.
const std::string& StudyMarks::ofTag(const Tag& tag) {
    std::string& out = tags_[tag.id];
    if (!out.empty()) return out;
    Mark m;
    for (const Fix& f : study_.judgement().fixes(tag.id)) {
        if (!f.on) continue;
        m.add(std::string(fixKindName(f.kind())));
        for (const Instant t : {f.from, f.to}) m.add(t);
        m.add(fixBodyText(f.body));
        if (const auto* borrow = std::get_if<BorrowFix>(&f.body)) addTwin(m, borrow->twin);
    }
    addTrust(m, tag.id);
    const Bridging b = tag.bridging();
    m.add(static_cast<int>(b.kind));
    m.add(b.longestGap);
    for (const std::string& s : tag.states) m.add(s);
    return out = m.text();
}

/// The state of a twin's samples. Those of a tag by expression follow from what it is made from: the count of
/// their writings would change with each calculation, also of a tag that is made from itself.
void StudyMarks::addTwin(Mark& mark, TagId twin) {
    if (const auto made = made_.find(twin); made != made_.end())
        mark.add(made->second);
    else if (const json definition = study_.derived().definition(twin); definition.contains(kExpression))
        mark.add(definition.dump());
    else
        mark.add(study_.reader(twin).generationOf(twin));
}

/// Limits are judged without the run in question, along phases or an indicator: they may read any logged tag
/// of the asset.
const std::string& StudyMarks::ofTags(AssetId asset) {
    std::string& out = assets_[asset];
    if (!out.empty()) return out;
    Mark m;
    for (const Tag& t : study_.catalog().tags()) {
        if (t.asset != asset || !study_.derived().definition(t.id).is_null()) continue;
        m.add(study_.reader(t.id).generationOf(t.id));
        m.add(ofTag(t));
    }
    return out = m.text();
}

/// The versions of a set of limits, and the runs and golden runs of their track.
const std::string& StudyMarks::ofRuns(const std::string& limits) {
    std::string& out = runs_[limits];
    if (!out.empty()) return out;
    Mark m;
    for (const LimitSet& set : study_.judgement().limitSets()) {
        if (set.name != limits) continue;
        m.add(set.version);
        for (const SpanId run : study_.judgement().goldenRuns(set.track)) m.add(run.number);
        for (const Span& s : study_.tracks().spans(set.track)) {
            m.add(s.start);
            m.add(s.end);
            m.add(factsToJson(s.facts));
        }
    }
    return out = m.text();
}

}  // namespace jacinth
