#include "work/mend/take_out_step.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/base/text.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/mend/level_change.h"

namespace jacinth {
namespace {

constexpr const char* kTrack = "Judged steps";
constexpr const char* kTrackKind = "judged-steps";
constexpr Duration kNear = kHour;

const char* verdictName(StepVerdict verdict) {
    return verdict == StepVerdict::Process ? "process" : "leave";
}

std::vector<Span> judged(const Study& study) {
    const auto track = study.tracks().named(kTrack);
    return track && track->kind == kTrackKind ? study.tracks().spans(track->id) : std::vector<Span>{};
}

bool isAbout(const Span& span, const SuspectedStep& step) {
    if (span.tag != step.tag || factNumber(span.facts, "size") * step.size <= 0) return false;
    return (span.start >= step.time - kNear && span.start <= step.time + kNear) ||
           (span.start >= step.between.from && span.start <= step.between.to);
}

const Span* verdictAmong(const std::vector<Span>& spans, const SuspectedStep& step) {
    const auto found =
        std::find_if(spans.begin(), spans.end(), [&](const Span& s) { return isAbout(s, step); });
    return found == spans.end() ? nullptr : &*found;
}

std::string names(const Study& study, const std::vector<TagId>& tags) {
    std::string out;
    for (std::size_t i = 0; i < tags.size(); ++i) {
        const Tag* tag = study.catalog().tag(tags[i]);
        out += (i == 0 ? "" : i + 1 == tags.size() ? " and " : ", ") + (tag ? tag->name : "?");
    }
    return out;
}

std::size_t tagsBeside(const Study& study, TagId id) {
    const Tag* tag = study.catalog().tag(id);
    const auto& all = study.catalog().tags();
    return static_cast<std::size_t>(std::count_if(all.begin(), all.end(), [&](const Tag& other) {
        return tag && other.asset == tag->asset && other.id != id && other.kind == TagKind::Continuous;
    }));
}

}  // namespace

Status judgeStep(Study& study, const SuspectedStep& step, StepVerdict verdict, const std::string& why) {
    const Tag* tag = study.catalog().tag(step.tag);
    if (!tag) return Error{"the tag is not in this study"};
    const std::string reason(trimmed(why));
    if (reason.empty()) return Error{"say why, so that others can follow the verdict"};
    const std::vector<Span> before = judged(study);
    Span span;
    if (const Span* known = verdictAmong(before, step)) span.id = known->id;
    span.asset = tag->asset;
    span.tag = tag->id;
    span.start = step.time;
    span.end = step.returns.value_or(step.time);
    span.facts = {
        {"verdict", verdictName(verdict)}, {"size", step.size}, {"why", reason}, {"who", study.who()}};
    const char* words = verdict == StepVerdict::Process ? "it is the process" : "left as it is";
    study.change(fmt::format("step of {}: {}", tag->path(), words), reason,
                 {{"tag", tag->path()},
                  {"time", toIso(step.time)},
                  {"size", step.size},
                  {"verdict", verdictName(verdict)}},
                 [&] {
                     const TrackId track = study.tracks().put(kTrack, kTrackKind);
                     if (span.id)
                         study.tracks().updateSpan(span);
                     else
                         study.tracks().addSpan(track, span);
                 });
    return Done{};
}

Status forgetVerdict(Study& study, const SuspectedStep& step) {
    const std::vector<Span> all = judged(study);
    const Span* known = verdictAmong(all, step);
    const Tag* tag = study.catalog().tag(step.tag);
    if (!known || !tag) return Error{"nothing was judged about this step"};
    study.change(fmt::format("step of {}: verdict taken back", tag->path()), "",
                 {{"tag", tag->path()}, {"time", toIso(step.time)}},
                 [&] { study.tracks().removeSpan(known->id); });
    return Done{};
}

std::vector<std::optional<JudgedStep>> verdictsOn(const Study& study,
                                                  const std::vector<SuspectedStep>& steps) {
    const std::vector<Span> all = judged(study);
    std::vector<std::optional<JudgedStep>> out;
    for (const SuspectedStep& step : steps) {
        const Span* known = verdictAmong(all, step);
        out.emplace_back();
        if (known)
            out.back() = JudgedStep{known->id,
                                    factText(known->facts, "verdict") == verdictName(StepVerdict::Leave)
                                        ? StepVerdict::Leave
                                        : StepVerdict::Process,
                                    factText(known->facts, "why"), factText(known->facts, "who")};
    }
    return out;
}

std::vector<std::size_t> mountMates(const std::vector<SuspectedStep>& steps, std::size_t step) {
    std::vector<std::size_t> out{step};
    const SuspectedStep& s = steps[step];
    for (std::size_t i = 0; i < steps.size(); ++i)
        if (i != step && std::chrono::abs(steps[i].time - s.time) < 2 * kMinute &&
            std::find(s.sharedWith.begin(), s.sharedWith.end(), steps[i].tag) != s.sharedWith.end())
            out.push_back(i);
    return out;
}

namespace {

/// Where a drift that ends at `step` may have begun: at the end of the one before it, else at the first
/// sample.
Instant driftBegan(const Study& study, const SuspectedStep& step, const std::vector<SuspectedStep>& others) {
    const auto extent = study.reader(step.tag).extent(step.tag);
    Instant out = extent ? extent->from : step.time;
    for (const SuspectedStep& other : others)
        if (other.tag == step.tag && other.kind == StepKind::DriftEnd && other.time < step.time)
            out = std::max(out, other.time);
    return out;
}

}  // namespace

Fix fixOfStep(const Study& study, const SuspectedStep& step, const std::vector<SuspectedStep>& others) {
    Fix out;
    out.tag = step.tag;
    if (step.kind == StepKind::DriftEnd) {
        out.from = driftBegan(study, step, others);
        out.to = step.time - kNanosecond;
        out.body = RampFix{0, toErrorDigits(step.size, step.error)};
        return out;
    }
    out.body = ShiftFix{-toErrorDigits(step.size, step.error)};
    out.from = step.time;
    out.to = step.returns ? *step.returns - kNanosecond : study.record().to;
    return out;
}

bool isTakenOut(const Study& study, const SuspectedStep& step) {
    const auto& fixes = study.judgement().fixes(step.tag);
    return std::any_of(fixes.begin(), fixes.end(), [&](const Fix& f) {
        if (const auto* ramp = std::get_if<RampFix>(&f.body); ramp && step.kind == StepKind::DriftEnd)
            return f.on && std::chrono::abs(f.to - step.time) < kNear &&
                   std::abs(ramp->endBy - step.size) < 0.3 * std::abs(step.size);
        const auto* shift = std::get_if<ShiftFix>(&f.body);
        return f.on && shift && f.from <= step.time && f.to >= step.time &&
               std::abs(shift->by + step.size) < 0.3 * std::abs(step.size);
    });
}

const char* stepKindName(StepKind kind) {
    switch (kind) {
        case StepKind::Lonely:
            return "lonely";
        case StepKind::Process:
            return "process";
        case StepKind::DriftEnd:
            return "drift end";
    }
    return "";
}

std::string stepReason(const Study& study, const SuspectedStep& step) {
    const Tag* twin = step.twin ? study.catalog().tag(step.twin) : nullptr;
    std::string out;
    if (step.kind == StepKind::Process)
        out = fmt::format("{} moved at the same time: the process changed", names(study, step.moved));
    else if (step.kind == StepKind::DriftEnd)
        out = fmt::format("it takes back what it had drifted away{}", twin ? " from " + twin->name : "");
    else if (twin)
        out = fmt::format("{}, which reads the same, did not move", twin->name);
    else if (!step.companions.empty())
        out = fmt::format("{}, with which it usually moves, did not", names(study, step.companions));
    else if (step.sharedWith.empty() && tagsBeside(study, step.tag) == 0)
        out = "there is no other tag to compare it with";
    else if (step.sharedWith.empty())
        out = step.seen ? "no other tag of the asset moved with it"
                        : "no other tag of the asset shifted with it";
    if (!step.sharedWith.empty())
        out += fmt::format("{}{} stepped at the same moment: one mount", out.empty() ? "" : "; ",
                           names(study, step.sharedWith));
    if (!step.seen) out += "; it shows in the levels before and after, not at one moment";
    return out;
}

std::string stepSentence(const Study& study, const SuspectedStep& step) {
    const Tag* tag = study.catalog().tag(step.tag);
    const std::string unit = tag && !tag->unit.empty() ? " " + tag->unit : "";
    const std::string stays =
        step.returns ? "and returns after " + sayDuration(*step.returns - step.time) : "and stays there";
    return fmt::format("{} {} by {:.4g}{} ({:.4g} to {:.4g}) {}: {}.", tag ? tag->path() : "?",
                       step.size > 0 ? "rises" : "falls", std::abs(step.size), unit,
                       std::min(std::abs(step.low()), std::abs(step.high())),
                       std::max(std::abs(step.low()), std::abs(step.high())), stays, stepReason(study, step));
}

}  // namespace jacinth
