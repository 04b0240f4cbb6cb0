#include "work/prove/proofs.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "core/base/mark.h"
#include "core/base/parse_json.h"
#include "store/tracks.h"
#include "store/wall_time.h"
#include "work/derived/derived_inputs.h"
#include "work/label/labels.h"

namespace jacinth {
namespace {

using nlohmann::json;

const char* const kFailuresMark = "failures";
const char* const kMasksMark = "masks";
const char* const kLabelsMark = "labels of alarms";
const char* const kAssetMark = "asset ";  ///< with its name behind

void addSpan(Mark& mark, const Span& s) {
    mark.add(s.asset.number);
    mark.add(s.start);
    mark.add(s.end);
}

std::string markOfFailures(const Study& study, const ProveRequest& request) {
    Mark mark;
    if (const auto failures = failuresOf(study, request.failures))
        for (const Span& f : *failures) {
            addSpan(mark, f);
            mark.add(isCounted(f) ? 1 : 0);
        }
    return mark.text();
}

/// Tracks that mask, and stops, which end the time after a failure. What conditions read is with the assets.
std::string markOfMasks(const Study& study, const ProveRequest& request) {
    Mark mark;
    for (const Span& s : study.tracks().spansOf(track_kind::kStops)) addSpan(mark, s);
    for (const std::string& mask : request.masks)
        if (const auto track = study.tracks().named(mask))
            for (const Span& s : study.tracks().spans(track->id)) addSpan(mark, s);
    return mark.text();
}

std::string markOfLabels(const Study& study) {
    Mark mark;
    for (const Span& s : labelsOf(study))
        if (const std::string kind = factText(s.facts, label_fact::kKind);
            kind == kNearMiss || kind == kTrueAfterAll) {
            addSpan(mark, s);
            mark.add(kind);
        }
    return mark.text();
}

/// Of what one text reads; of samples as logged fixes do not matter.
json markOfText(StudyMarks& marks, AssetId asset, const std::string& text, Which which) {
    json out = parseJson(marks.ofText(asset, text));
    if (which == Which::AsLogged && out.contains("tags"))
        for (auto& [path, mark] : out["tags"].items()) mark.erase("as");
    return out;
}

/// Of what the rule and the conditions among its masks read of an asset.
std::string markOfAsset(const Study& study, StudyMarks& marks, AssetId asset, const std::string& text,
                        const ProveRequest& request) {
    json out = json::array({markOfText(marks, asset, text, request.which)});
    for (const std::string& mask : request.masks)
        if (!study.tracks().named(mask)) out.push_back(markOfText(marks, asset, mask, request.which));
    return out.dump();
}

/// Which of the tags that a text read differ, and how.
void tagsThatDiffer(const json& before, const json& now, std::vector<std::string>& out) {
    const json was = before.value("tags", json::object()), is = now.value("tags", json::object());
    for (const auto& [path, mark] : was.items()) {
        if (!is.contains(path)) {
            out.push_back(path + " is read no more");
            continue;
        }
        if (mark.value("generation", json()) != is[path].value("generation", json()))
            out.push_back(path + " has other samples");
        if (mark.value("as", json()) != is[path].value("as", json()))
            out.push_back(path + " has other fixes");
        else if (mark.value("reads", json()) != is[path].value("reads", json()))
            out.push_back(path + " is read in another way: its kind, longest gap or states were changed");
        if (mark.value("made", json()) != is[path].value("made", json()))
            out.push_back(path + " is made from something else now: its text or what it reads was changed");
    }
    for (const auto& [path, mark] : is.items())
        if (!was.contains(path)) out.push_back(path + " is read as well");
}

/// Proofs of earlier versions did not mark how a tag is read, nor what derived tags are made from.
void leaveOutWhatWasNotMarked(const json& was, json& is) {
    if (!was.is_array() || !is.is_array() || was.size() != is.size()) return;
    for (std::size_t i = 0; i < was.size(); ++i) {
        if (!was[i].contains("tags") || !is[i].contains("tags")) continue;
        for (auto& [path, mark] : is[i]["tags"].items()) {
            const json before = was[i]["tags"].value(path, json());
            if (!before.is_object()) continue;
            if (!before.contains("reads")) mark.erase("reads");
            if (!before.contains("made")) mark.erase("made");
            if (before.value("generation", json()) == -1) mark["generation"] = -1;
        }
    }
}

std::vector<std::string> assetDiffers(const std::string& name, const std::string& before,
                                      const std::string& now) {
    const json was = parseJson(before);
    json is = parseJson(now);
    leaveOutWhatWasNotMarked(was, is);
    std::vector<std::string> out;
    if (was == is) return out;
    if (was.is_array() && is.is_array() && was.size() == is.size())
        for (std::size_t i = 0; i < was.size(); ++i)
            if (was[i] != is[i]) tagsThatDiffer(was[i], is[i], out);
    if (out.empty()) out.push_back(name + ": what the rule reads was changed");
    return out;
}

std::string wordsFor(const std::string& what) {
    if (what == kFailuresMark) return "failures were added, changed or removed";
    if (what == kMasksMark) return "stops or other masks were added, changed or removed";
    if (what == kLabelsMark) return "alarms were labelled";
    return what + " was changed";
}

std::string atMoment(const Study& study, AssetId id, Instant t) {
    const Asset* asset = study.catalog().asset(id);
    return fmt::format("{}, {}", asset ? asset->name : "no asset", study.zone().shortText(t));
}

std::string verdictOf(const FailureVerdict& f) {
    return !f.testable ? "untestable" : f.caught ? "caught" : "missed";
}

/// A line where they differ.
void addMore(std::vector<std::string>& out, int before, int after, const char* one, const char* several) {
    const int by = std::abs(after - before);
    if (by > 0)
        out.push_back(
            fmt::format("{} {} {}", by, after > before ? "more" : "fewer", by == 1 ? one : several));
}

}  // namespace

std::map<std::string, std::string> provedFrom(const Study& study, const ProveRequest& request) {
    std::map<std::string, std::string> out{{kFailuresMark, markOfFailures(study, request)},
                                           {kMasksMark, markOfMasks(study, request)},
                                           {kLabelsMark, markOfLabels(study)}};
    const auto text = withSettings(request.rule, request.settings);
    if (!text) return out;
    const auto fleet = compileRule(study, *text, request.failures, request.asset);
    if (!fleet) return out;
    StudyMarks marks(study);
    for (const auto& [asset, expression] : fleet->byAsset)
        out[kAssetMark + asset.name] = markOfAsset(study, marks, asset.id, *text, request);
    return out;
}

namespace {

KeptProof proofToKeep(const Study& study, const ProveRequest& request, const Proof& proof) {
    KeptProof kept;
    kept.proof = proof;
    kept.mended = request.which == Which::Mended;
    kept.asset = request.asset;
    kept.made = timeNow();
    kept.who = study.who();
    kept.madeFrom = provedFrom(study, request);
    return kept;
}

json detailOf(const Rule& rule, const Proof& proof) {
    return {{"rule", rule.text},
            {"settings", rule.settings},
            {"caught", proof.caught},
            {"missed", proof.missed},
            {"falseAlarms", proof.falseAlarms}};
}

}  // namespace

Result<RuleId> keepProved(Study& study, const Rule& rule, const ProveRequest& request, const Proof& proof) {
    if (const Status good = checkRule(study, rule); !good) return good.error();
    KeptProof kept = proofToKeep(study, request, proof);
    study.change("keep the rule " + rule.name + " and its proof", rule.note, detailOf(rule, proof), [&] {
        kept.rule = putRule(study, rule);
        study.judgement().putProof(kept);
    });
    return kept.rule;
}

Status keepProofOf(Study& study, const Rule& rule, const ProveRequest& request, const Proof& proof) {
    const auto known = ruleNamed(study, rule.name, rule.version);
    if (!known) return known.error();
    KeptProof kept = proofToKeep(study, request, proof);
    kept.rule = known->id;
    study.change("keep a proof of " + titleOf(*known), "", detailOf(*known, proof),
                 [&] { study.judgement().putProof(kept); });
    return Done{};
}

std::optional<KeptProof> lastProof(const Study& study, RuleId rule) {
    auto all = study.judgement().proofs(rule);
    if (all.empty()) return {};
    return std::move(all.back());
}

std::vector<std::string> outOfDate(const Study& study, const Rule& rule, const KeptProof& kept) {
    ProveRequest request = requestOf(rule);
    request.asset = kept.asset;
    request.which = kept.mended ? Which::Mended : Which::AsLogged;
    const auto now = provedFrom(study, request);
    std::vector<std::string> out;
    std::set<std::string> names;
    for (const auto& [name, mark] : now) names.insert(name);
    for (const auto& [name, mark] : kept.madeFrom) names.insert(name);
    for (const std::string& name : names) {
        const auto was = kept.madeFrom.find(name), is = now.find(name);
        const bool asset = name.starts_with(kAssetMark);
        const std::string called = asset ? name.substr(std::string(kAssetMark).size()) : name;
        if (is == now.end())
            out.push_back(called + " is not covered any more");
        else if (was == kept.madeFrom.end())
            out.push_back(called + " is covered as well now");
        else if (was->second != is->second && asset) {
            const auto lines = assetDiffers(called, was->second, is->second);
            out.insert(out.end(), lines.begin(), lines.end());
        } else if (was->second != is->second)
            out.push_back(wordsFor(name));
    }
    return out;
}

std::vector<std::string> whatDiffers(const Study& study, const Proof& before, const Proof& after) {
    std::vector<std::string> out;
    const auto same = [](const FailureVerdict& a, const FailureVerdict& b) {
        return a.asset == b.asset && a.time == b.time;
    };
    const auto find = [&](const Proof& in, const FailureVerdict& f) {
        return std::find_if(in.failures.begin(), in.failures.end(),
                            [&](const FailureVerdict& other) { return same(f, other); });
    };
    for (const FailureVerdict& f : after.failures) {
        const auto was = find(before, f);
        const std::string where = atMoment(study, f.asset, f.time);
        if (was == before.failures.end())
            out.push_back(fmt::format("{} is new, and {}", where, verdictOf(f)));
        else if (verdictOf(*was) != verdictOf(f))
            out.push_back(fmt::format("{} was {}, and is {} now", where, verdictOf(*was), verdictOf(f)));
    }
    for (const FailureVerdict& f : before.failures)
        if (find(after, f) == after.failures.end())
            out.push_back(atMoment(study, f.asset, f.time) + " is gone");
    addMore(out, before.falseAlarms, after.falseAlarms, "false alarm", "false alarms");
    addMore(out, before.cameTrue, after.cameTrue, "alarm came true", "alarms came true");
    addMore(out, before.nearMisses, after.nearMisses, "near miss", "near misses");
    return out;
}

}  // namespace jacinth
