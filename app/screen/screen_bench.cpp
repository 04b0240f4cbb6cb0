#include "app/screen/screen_bench.h"

namespace jacinth::app {

template <typename P>
P* ScreenBench::newPage() {
    auto* made = new P(session_, state_);
    if constexpr (requires { &P::momentAsked; })
        connect(made, &P::momentAsked, this, &ScreenBench::momentAsked);
    if constexpr (requires { &P::labelAsked; }) connect(made, &P::labelAsked, this, &ScreenBench::labelAsked);
    if constexpr (requires { &P::runAsked; }) connect(made, &P::runAsked, this, &ScreenBench::openSpan);
    if constexpr (requires { &P::excursionAsked; })
        connect(made, &P::excursionAsked, this, &ScreenBench::openSpan);
    return made;
}

ScreenBench::ScreenBench(Session& session) : PagedBench(session), state_(session) {
    addPage("screenSheet", "Sheet", [this] { return newPage<SheetPage>(); });
    addPage("screenRuns", "Runs", [this] { return newPage<RunsPage>(); });
    addPage("screenExcursions", "Excursions", [this] { return newPage<ExcursionsPage>(); });
    addPage("screenCompare", "Compare", [this] { return newPage<ComparePage>(); });
}

void ScreenBench::entered() {
    // Who has no runs yet wants to find some.
    if (!state_.track()) turnTo(ScreenWay::Runs);
    PagedBench::entered();
}

void ScreenBench::openSpan(SpanId id) {
    turnTo(ScreenWay::Sheet);
    sheetPage()->open(id);
}

}  // namespace jacinth::app
