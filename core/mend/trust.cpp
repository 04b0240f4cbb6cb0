#include "core/mend/trust.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "core/span/span.h"

namespace jacinth {
namespace {

std::size_t placeIn(const std::vector<std::string>& scale, const std::string& grade) {
    return static_cast<std::size_t>(std::find(scale.begin(), scale.end(), grade) - scale.begin());
}

/// The stretches of a fix, both ends included as ranges.
std::vector<TimeRange> stretchesOf(const Fix& fix) {
    std::vector<TimeRange> out;
    if (const auto* hide = std::get_if<HideFix>(&fix.body))
        for (const TimeRange& part : hide->parts) out.push_back({part.from, part.to + kNanosecond});
    if (out.empty()) out.push_back({fix.from, fix.to + kNanosecond});
    return joined(std::move(out));
}

const std::string& gradeBy(const TrustSettings& settings, FixKind kind) {
    switch (kind) {
        case FixKind::Bridge:
        case FixKind::Borrow:
        case FixKind::Decay:
            return settings.filled;
        case FixKind::Hide:
        case FixKind::Cut:
            return settings.hidden;
        case FixKind::Shift:
        case FixKind::Ramp:
        case FixKind::Bend:
        case FixKind::Curve:
        case FixKind::Clock:
            break;
    }
    return settings.corrected;
}

void addRanges(std::vector<GradedStretch>& out, const std::vector<TimeRange>& ranges,
               const std::string& grade, const std::string& from) {
    for (const TimeRange& r : ranges) out.push_back({r, grade, from});
}

std::vector<GradedStretch> byTime(std::vector<GradedStretch> stretches) {
    std::sort(stretches.begin(), stretches.end(),
              [](const GradedStretch& a, const GradedStretch& b) { return a.range.from < b.range.from; });
    return stretches;
}

/// Marks of one scale, cut to the range; where they overlap the later in the list counts.
std::vector<GradedStretch> painted(std::span<const TrustMark> marks, bool signOff, TimeRange range,
                                   std::vector<TimeRange>& covered) {
    std::vector<GradedStretch> out;
    for (std::size_t i = marks.size(); i-- > 0;) {
        if (marks[i].signOff != signOff) continue;
        addRanges(out, subtract(intersect({marks[i].range}, {range}), covered), marks[i].grade, marks[i].who);
        covered.push_back(marks[i].range);
        covered = joined(std::move(covered));
    }
    return out;
}

}  // namespace

bool TrustSettings::isTrust(const std::string& grade) const {
    return placeIn(trust, grade) < trust.size();
}

bool TrustSettings::isSignOff(const std::string& grade) const {
    return placeIn(signOff, grade) < signOff.size();
}

bool TrustSettings::isUnsound(const std::string& grade) const {
    return isTrust(grade) && placeIn(trust, grade) > placeIn(trust, soundDownTo);
}

bool TrustSettings::maySet(const std::string& grade, const std::string& person) const {
    const auto named = who.find(grade);
    return named == who.end() || named->second.empty() ||
           std::find(named->second.begin(), named->second.end(), person) != named->second.end();
}

Status validateTrustSettings(const TrustSettings& s) {
    std::set<std::string> seen{kNotJudged};
    for (const auto* scale : {&s.trust, &s.signOff}) {
        if (scale->empty()) return Error{"each scale takes at least one grade"};
        for (const std::string& grade : *scale) {
            if (grade.empty()) return Error{"a grade needs a name"};
            if (!seen.insert(grade).second)
                return Error{fmt::format("`{}` cannot be a grade: the name is taken", grade)};
        }
    }
    for (const std::string* rule : {&s.filled, &s.hidden, &s.corrected})
        if (!rule->empty() && !s.isTrust(*rule))
            return Error{fmt::format("`{}` is not a grade of trust", *rule)};
    if (!s.isTrust(s.soundDownTo)) return Error{fmt::format("`{}` is not a grade of trust", s.soundDownTo)};
    for (const auto& [grade, people] : s.who)
        if (!s.isTrust(grade) && !s.isSignOff(grade))
            return Error{fmt::format("`{}` is a grade of neither scale", grade)};
    return Done{};
}

std::vector<GradedStretch> trustOver(const TrustSettings& settings, std::span<const TrustMark> marks,
                                     std::span<const Fix> fixes, TimeRange range) {
    std::vector<TimeRange> covered;
    std::vector<GradedStretch> out = painted(marks, false, range, covered);
    for (auto grade = settings.trust.rbegin(); grade != settings.trust.rend(); ++grade)
        for (const Fix& fix : fixes) {
            if (!fix.on || gradeBy(settings, fix.kind()) != *grade) continue;
            const std::vector<TimeRange> ranges = subtract(intersect(stretchesOf(fix), {range}), covered);
            addRanges(out, ranges, *grade, fixKindName(fix.kind()));
            covered.insert(covered.end(), ranges.begin(), ranges.end());
            covered = joined(std::move(covered));
        }
    return byTime(std::move(out));
}

std::vector<GradedStretch> signOffOver(const TrustSettings& settings, std::span<const TrustMark> marks,
                                       std::span<const Fix> fixes, TimeRange range) {
    std::vector<GradedStretch> out;
    std::vector<TimeRange> covered;
    for (std::size_t i = marks.size(); i-- > 0;) {
        const TrustMark& mark = marks[i];
        if (!mark.signOff) continue;
        const std::vector<TimeRange> open = subtract(intersect({mark.range}, {range}), covered);
        std::vector<TimeRange> since;
        for (const Fix& fix : fixes)
            if (fix.on && fix.entered > mark.set)
                for (const TimeRange& r : stretchesOf(fix)) since.push_back(r);
        since = joined(std::move(since));
        addRanges(out, subtract(open, since), mark.grade, mark.who);
        addRanges(out, intersect(open, since), settings.signOff.front(), "a fix entered since");
        covered.push_back(mark.range);
        covered = joined(std::move(covered));
    }
    return byTime(std::move(out));
}

}  // namespace jacinth
