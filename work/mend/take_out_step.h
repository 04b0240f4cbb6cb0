// What is done about a suspected step: taken out, or judged to be none and remembered; and what it says of
// itself in words.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/steps/suspected_steps.h"
#include "store/study.h"

namespace jacinth {

enum class StepVerdict { Process, Leave };  ///< it is the process; leave it as it is

/// What was judged about a step. It stands on the track “Judged steps”, a span from the step to its return.
struct JudgedStep {
    SpanId id;
    StepVerdict verdict = StepVerdict::Process;
    std::string why, who;
};

/// Remembers the verdict, as one undoable step; a verdict given before is replaced. Fails without a reason.
Status judgeStep(Study& study, const SuspectedStep& step, StepVerdict verdict, const std::string& why);
/// Forgets it, as one undoable step. Fails where there is none.
Status forgetVerdict(Study& study, const SuspectedStep& step);
/// For each step what was judged about it: a verdict on the same tag, within an hour or within the time in
/// which the step happened, about a change of the same sign.
std::vector<std::optional<JudgedStep>> verdictsOn(const Study& study,
                                                  const std::vector<SuspectedStep>& steps);

/// The places, in `steps`, of the step and of those that share its mount: same time, named by it.
std::vector<std::size_t> mountMates(const std::vector<SuspectedStep>& steps, std::size_t step);

/// The fix that takes the step out, not entered yet. A shift: against its size to the digit of its error,
/// from its first sample to the last before its return, or to the end of the record. Of the end of a drift
/// the ramp that rises to its size there, from the end of the drift before it among `others`, else from the
/// tag's first sample: where it began is for the engineer to say.
Fix fixOfStep(const Study& study, const SuspectedStep& step, const std::vector<SuspectedStep>& others = {});

/// A shift that is on acts at the step against about its size; of the end of a drift, a ramp up to it.
bool isTakenOut(const Study& study, const SuspectedStep& step);

/// One sentence: what stepped, by how much, for how long, and why it is held for a false step or for the
/// process.
std::string stepSentence(const Study& study, const SuspectedStep& step);
/// The last part of it: why it is held for what it is.
std::string stepReason(const Study& study, const SuspectedStep& step);
const char* stepKindName(StepKind kind);  ///< lonely, process, drift end

}  // namespace jacinth
