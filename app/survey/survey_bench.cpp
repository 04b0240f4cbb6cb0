#include "app/survey/survey_bench.h"

#include "app/base/time_field.h"

namespace jacinth::app {

template <typename P>
void SurveyBench::add(SurveyWay way, const char* buttonName) {
    addPage(buttonName, pages()[static_cast<int>(way)], [this] {
        auto* made = new P(session_);
        connect(made, &BenchPage::tracesAsked, this, [this] { turnTo(SurveyWay::Traces); });
        return made;
    });
}

QStringList SurveyBench::pages() {
    return {"Traces", "Fleet", "By state", "Parts", "Peaks", "Resample", "Cycles"};
}

SurveyBench::SurveyBench(Session& session) : PagedBench(session) {
    titleLabel()->setObjectName("surveyTitle");
    add<TracesPage>(SurveyWay::Traces, "wayTraces");
    add<FleetPage>(SurveyWay::Fleet, "wayFleet");
    add<StatePage>(SurveyWay::ByState, "wayByState");
    add<PartsPage>(SurveyWay::Parts, "wayParts");
    add<PeaksPage>(SurveyWay::Peaks, "wayPeaks");
    add<ResamplePage>(SurveyWay::Resample, "wayResample");
    add<CyclesPage>(SurveyWay::Cycles, "wayCycles");
    addToRow(new TimeField(session));
}

void SurveyBench::fitValues() {
    plot()->fitValues();
}

}  // namespace jacinth::app
