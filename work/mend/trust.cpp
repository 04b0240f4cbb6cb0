#include "work/mend/trust.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/base/parse_json.h"
#include "core/base/text.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "store/wall_time.h"

namespace jacinth {
namespace {

Status checkGrade(const std::vector<std::string>& scale, const char* what, const std::string& grade,
                  const TrustSettings& settings, const std::string& person) {
    if (grade.empty() || grade == kNotJudged) return Done{};
    if (std::find(scale.begin(), scale.end(), grade) == scale.end())
        return Error{fmt::format("`{}` is not a grade of {}{}", grade, what, sayNearest(grade, scale))};
    if (!settings.maySet(grade, person))
        return Error{fmt::format("{} may not set `{}`; {} may", person, grade,
                                 fmt::join(settings.who.at(grade), ", "))};
    return Done{};
}

/// Nobody signs what they fixed.
Status checkOwnFixes(const Study& study, const std::vector<TagId>& tags, TimeRange range) {
    for (const TagId tag : tags)
        for (const Fix& fix : study.judgement().fixes(tag))
            if (fix.on && fix.who == study.who() && fix.from < range.to && fix.to >= range.from)
                return Error{
                    fmt::format("{} entered a fix in this stretch of {}: somebody else has to sign it",
                                study.who(), study.catalog().tag(tag)->path())};
    return Done{};
}

/// Takes the stretch out of the marks of one scale.
void clearStretch(Study& study, TrackId track, TagId tag, TimeRange range, bool signOff) {
    for (const Span& span : study.tracks().spansOf(track_kind::kTrust)) {
        if (span.tag != tag || span.end <= range.from || span.start >= range.to ||
            markOfSpan(span).signOff != signOff)
            continue;
        Span left = span, right = span;
        left.end = range.from;
        right.start = range.to;
        const bool hasLeft = left.end > left.start, hasRight = right.end > right.start;
        if (hasLeft)
            study.tracks().updateSpan(left);
        else if (hasRight)
            study.tracks().updateSpan(right);
        else
            study.tracks().removeSpan(span.id);
        if (hasLeft && hasRight) right.id = {}, study.tracks().addSpan(track, right);
    }
}

void paintScale(Study& study, const Tag& tag, TimeRange range, const std::string& grade, bool signOff,
                const std::string& why) {
    if (grade.empty()) return;
    const TrackId track = study.tracks().put(kTrustTrack, track_kind::kTrust);
    clearStretch(study, track, tag.id, range, signOff);
    if (grade == kNotJudged) return;
    study.tracks().addSpan(
        track, spanOfMark({range, grade, signOff, study.who(), why, timeNow()}, tag.asset, tag.id));
}

}  // namespace

Status paintTrust(Study& study, const std::vector<TagId>& tags, TimeRange range, const TrustPaint& paint) {
    const TrustSettings settings = trustSettingsOf(study);
    if (range.length() <= Duration::zero()) return Error{"the stretch has no length"};
    if (paint.trust.empty() && paint.signOff.empty())
        return Error{"say a grade of trust, of sign-off, or both"};
    for (const TagId id : tags)
        if (!study.catalog().tag(id)) return Error{"the tag is not in this study"};
    if (const Status s = checkGrade(settings.trust, "trust", paint.trust, settings, study.who()); !s)
        return s;
    if (const Status s = checkGrade(settings.signOff, "sign-off", paint.signOff, settings, study.who()); !s)
        return s;
    if (paint.signOff == settings.signOff.back() && !settings.ownFixes)
        if (const Status s = checkOwnFixes(study, tags, range); !s) return s;
    const std::string why(trimmed(paint.why));
    const std::string grades = paint.trust.empty()
                                   ? paint.signOff
                                   : paint.trust + (paint.signOff.empty() ? "" : ", " + paint.signOff);
    const std::string where =
        tags.size() == 1 ? study.catalog().tag(tags.front())->path() : fmt::format("{} tags", tags.size());
    study.change(fmt::format("{} on {}", grades, where), why,
                 {{"tags", tags.size()},
                  {"tag", study.catalog().tag(tags.front())->path()},
                  {"from", toIso(range.from)},
                  {"to", toIso(range.to)},
                  {"trust", paint.trust},
                  {"sign-off", paint.signOff}},
                 [&] {
                     for (const TagId id : tags) {
                         const Tag tag = *study.catalog().tag(id);
                         paintScale(study, tag, range, paint.trust, false, why);
                         paintScale(study, tag, range, paint.signOff, true, why);
                     }
                 });
    return Done{};
}

Status setTrustSettings(Study& study, const TrustSettings& settings) {
    if (const Status good = validateTrustSettings(settings); !good) return good;
    WriteBatch transaction(study);
    const auto before = parseJson(trustSettingsText(trustSettingsOf(study)));
    keepTrustSettings(study, settings);
    study.history().enterInLedger("trust and sign-off: scales", "", {{"before", before}});
    transaction.commit();
    return Done{};
}

}  // namespace jacinth
