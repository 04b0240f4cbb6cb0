#include "work/prove/failures.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/base/text.h"
#include "core/label/label_book.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/label/labels.h"
#include "work/label/written.h"

namespace jacinth {
namespace {

const WrittenOn kOn{track_kind::kFailures, "Failures", "failure"};

/// As one step; those that are on record already stay out.
FailuresAdded addAll(Study& study, const std::vector<Span>& from, const std::string& kind,
                     const std::string& why) {
    std::vector<Span> known = study.tracks().spansOf(track_kind::kFailures), fresh;
    FailuresAdded out;
    for (const Span& s : from) {
        const bool there = std::any_of(known.begin(), known.end(), [&](const Span& f) {
            return f.asset == s.asset && f.start == s.start;
        });
        if (there || !s.asset) {
            out.known += there;
            continue;
        }
        Span failure{{}, s.asset, {}, s.start, s.start, {}};
        if (!kind.empty()) failure.facts[kFailureKind] = kind;
        failure.facts[kFailureNote] = why;
        fresh.push_back(failure);
        known.push_back(failure);
    }
    out.added = fresh.size();
    if (fresh.empty()) return out;
    study.change("failures from " + why, "", {{"added", fresh.size()}}, [&] {
        const auto track = study.tracks().firstOf(track_kind::kFailures);
        const TrackId to = track ? track->id : study.tracks().put(kOn.trackName, kOn.trackKind);
        for (const Span& f : fresh) study.tracks().addSpan(to, f);
    });
    return out;
}

}  // namespace

Status keepFailure(Study& study, const Span& failure) {
    if (!study.catalog().asset(failure.asset)) return Error{"a failure is of an asset: choose which"};
    return keepWritten(study, failure, kOn);
}

Status removeFailures(Study& study, const std::vector<SpanId>& ids) {
    const std::vector<Span> all = study.tracks().spansOf(track_kind::kFailures, ids);
    if (all.size() != ids.size()) return Error{"this failure is not there any more"};
    if (all.empty()) return Done{};
    study.change(all.size() == 1 ? "remove the failure of " + study.zone().text(all.front().start)
                                 : fmt::format("remove {} failures", all.size()),
                 "", {{"removed", all.size()}}, [&] {
                     for (const SpanId id : ids) study.tracks().removeSpan(id);
                 });
    return Done{};
}

Status setCounted(Study& study, const std::vector<SpanId>& ids, bool counted, const std::string& why) {
    std::vector<Span> all = study.tracks().spansOf(track_kind::kFailures, ids);
    if (all.size() != ids.size()) return Error{"this failure is not there any more"};
    if (all.empty()) return Done{};
    const std::string which = all.size() == 1 ? "the failure of " + study.zone().text(all.front().start)
                                              : fmt::format("{} failures", all.size());
    study.change((counted ? "count " : "leave out ") + which, why, {{"counted", counted}, {"why", why}}, [&] {
        for (Span& f : all) {
            f.facts.erase(kCounted);
            f.facts.erase(kNotCountedWhy);
            if (!counted) f.facts[kCounted] = "no";
            if (!counted && !why.empty()) f.facts[kNotCountedWhy] = why;
            study.tracks().updateSpan(f);
        }
    });
    return Done{};
}

Result<FailuresAdded> failuresFromLabels(Study& study, const std::string& labelKind,
                                         const std::string& kind) {
    const LabelBook book = study.judgement().labelBook();
    if (!findKind(book, labelKind)) return Error{fmt::format("`{}` is not in the label book", labelKind)};
    std::vector<Span> from = labelsOf(study);
    std::erase_if(from, [&](const Span& s) {
        return !isKindOf(book, factText(s.facts, label_fact::kKind), labelKind);
    });
    return addAll(study, from, kind.empty() ? labelKind : kind, "labels “" + labelKind + "”");
}

Result<FailuresAdded> failuresFromWorkOrders(Study& study, const std::string& words,
                                             const std::string& kind) {
    if (trimmed(words).empty()) return Error{"say which words a work order of a failure holds"};
    std::vector<Span> from = study.tracks().spansOf(track_kind::kWorkOrders);
    const std::string wanted = lowerCase(trimmed(words));
    std::erase_if(from, [&](const Span& s) {
        return lowerCase(factText(s.facts, "text")).find(wanted) == std::string::npos;
    });
    return addAll(study, from, kind, "work orders with “" + std::string(trimmed(words)) + "”");
}

}  // namespace jacinth
