#include "app/screen/screen_bench.h"

#include "app/screen/out_of_date_bar.h"
#include "store/tracks.h"

namespace jacinth::app {

template <typename P>
void ScreenBench::add(ScreenWay way, const char* buttonName) {
    addPage(buttonName, pages()[static_cast<int>(way)], [this] {
        auto* made = new P(session_, state_);
        if constexpr (requires { &P::runAsked; }) connect(made, &P::runAsked, this, &ScreenBench::openSpan);
        if constexpr (requires { &P::excursionAsked; })
            connect(made, &P::excursionAsked, this, &ScreenBench::openSpan);
        return made;
    });
}

QStringList ScreenBench::pages() {
    return {"Sheet", "Runs", "Excursions", "Causes", "Compare"};
}

namespace {

/// Who has no runs yet wants to find some.
ScreenWay firstWay(const Session& session) {
    return session.study().tracks().firstOf(track_kind::kRuns) ? ScreenWay::Sheet : ScreenWay::Runs;
}

}  // namespace

ScreenBench::ScreenBench(Session& session)
    : PagedBench(session, static_cast<int>(firstWay(session))), state_(session) {
    addBar(new OutOfDateBar(session, state_));
    add<SheetPage>(ScreenWay::Sheet, "screenSheet");
    add<RunsPage>(ScreenWay::Runs, "screenRuns");
    add<ExcursionsPage>(ScreenWay::Excursions, "screenExcursions");
    add<CausesPage>(ScreenWay::Causes, "screenCauses");
    add<ComparePage>(ScreenWay::Compare, "screenCompare");
}

void ScreenBench::entered() {
    if (!state_.track()) turnTo(ScreenWay::Runs);
    PagedBench::entered();
}

void ScreenBench::openSpan(SpanId id) {
    turnTo(ScreenWay::Sheet);
    sheetPage()->open(id);
}

}  // namespace jacinth::app
