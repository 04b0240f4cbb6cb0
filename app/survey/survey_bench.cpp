#include "app/survey/survey_bench.h"

#include "app/base/time_field.h"

namespace jacinth::app {

template <typename P>
P* SurveyBench::newPage() {
    auto* made = new P(session_);
    connect(made, &BenchPage::tracesAsked, this, [this] { turnTo(SurveyWay::Traces); });
    if constexpr (requires { &P::labelAsked; }) connect(made, &P::labelAsked, this, &SurveyBench::labelAsked);
    if constexpr (requires { &P::mendAsked; }) connect(made, &P::mendAsked, this, &SurveyBench::mendAsked);
    if constexpr (requires { &P::ruleAsked; }) connect(made, &P::ruleAsked, this, &SurveyBench::ruleAsked);
    return made;
}

SurveyBench::SurveyBench(Session& session) : PagedBench(session) {
    titleLabel()->setObjectName("surveyTitle");
    addPage("wayTraces", "Traces", [this] { return newPage<TracesPage>(); });
    addPage("wayFleet", "Fleet", [this] { return newPage<FleetPage>(); });
    addPage("wayByState", "By state", [this] { return newPage<StatePage>(); });
    addPage("wayParts", "Parts", [this] { return newPage<PartsPage>(); });
    addPage("wayPeaks", "Peaks", [this] { return newPage<PeaksPage>(); });
    addPage("wayResample", "Resample", [this] { return newPage<ResamplePage>(); });
    addPage("wayCycles", "Cycles", [this] { return newPage<CyclesPage>(); });
    addToRow(new TimeField(session));
}

}  // namespace jacinth::app
