#include "work/mend/relation_moments.h"

#include <fmt/format.h>

#include "work/mend/level_change.h"

namespace jacinth {
namespace {

/// The same moment in the words of suspected steps, so that a verdict on one is known to the other.
SuspectedStep asStep(const RelationQuestion& question, const TagRelation& made,
                     const FoundIndicator& moment) {
    const TimeRange row = rowOfMoment(made, moment);
    SuspectedStep step;
    step.tag = question.of;
    step.kind = StepKind::Process;
    step.time = row.from;
    step.between = row;
    step.size = moment.size;
    step.error = moment.error;
    step.seen = false;
    if (moment.kind == IndicatorKind::Point && !question.differences) step.returns = row.to;
    return step;
}

}  // namespace

TimeRange rowOfMoment(const TagRelation& made, const FoundIndicator& moment) {
    const Instant from = made.times.at(moment.row);
    if (moment.row + 1 < made.times.size()) return {from, made.times[moment.row + 1]};
    return {from, moment.row > 0 ? from + (from - made.times[moment.row - 1]) : from};
}

Result<Fix> fixOfMoment(const Study& study, const RelationQuestion& question, const TagRelation& made,
                        const FoundIndicator& moment) {
    if (question.logarithms)
        return Error{"of logarithms the change is a factor, which no fix takes out; check the levels"};
    const TimeRange row = rowOfMoment(made, moment);
    Fix fix;
    fix.tag = question.of;
    fix.from = row.from;
    fix.to = std::max(study.record().to, row.to);
    fix.why = momentReason(study, question, moment);
    const auto rows = static_cast<double>(made.times.size() - 1 - moment.row);
    // What is a point in the differences is a level in the tag, and a level there is a trend.
    const int order = static_cast<int>(moment.kind) + (question.differences ? 1 : 0);
    switch (order) {
        case 0:
            fix.to = row.to - kNanosecond;
            fix.body = HideFix{};
            break;
        case 1:
            fix.body = ShiftFix{-toErrorDigits(moment.size, moment.error)};
            break;
        case 2:
            if (rows < 1) return Error{"the trend begins at the last row; a ramp needs a stretch"};
            fix.to = made.times.back();
            fix.body = RampFix{0, -toErrorDigits(moment.size * rows, moment.error * rows)};
            break;
        default:
            return Error{"a trend in the differences bends the tag; no single fix takes that out"};
    }
    return fix;
}

std::string momentReason(const Study& study, const RelationQuestion& question, const FoundIndicator& moment) {
    std::string against;
    for (const TagId id : question.on)
        if (const Tag* tag = study.catalog().tag(id))
            against += (against.empty() ? "against " : ", ") + tag->path();
    if (!against.empty()) against += " ";
    const char* what = moment.kind == IndicatorKind::Point   ? "one point stands apart by"
                       : moment.kind == IndicatorKind::Level ? "the level changes by"
                                                             : "the trend changes, each row by";
    const char* of = question.logarithms && question.differences ? ", of differences of logarithms"
                     : question.logarithms                       ? ", of logarithms"
                     : question.differences                      ? ", of differences"
                                                                 : "";
    return fmt::format("{}{} {:+.4g} ± {:.2g} (t {:.1f}{})", against, what, moment.size, moment.error,
                       moment.t, of);
}

Status rememberMoment(Study& study, const RelationQuestion& question, const TagRelation& made,
                      const FoundIndicator& moment, const std::string& why) {
    return judgeStep(study, asStep(question, made, moment), StepVerdict::Process, why);
}

Status forgetMoment(Study& study, const RelationQuestion& question, const TagRelation& made,
                    const FoundIndicator& moment) {
    return forgetVerdict(study, asStep(question, made, moment));
}

std::vector<std::optional<JudgedStep>> judgedMoments(const Study& study, const RelationQuestion& question,
                                                     const TagRelation& made) {
    std::vector<SuspectedStep> steps;
    for (const FoundIndicator& moment : made.relation.found) steps.push_back(asStep(question, made, moment));
    return verdictsOn(study, steps);
}

}  // namespace jacinth
