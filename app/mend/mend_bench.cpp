#include "app/mend/mend_bench.h"

#include "app/base/time_field.h"

namespace jacinth::app {

QStringList MendBench::pages() {
    return {"Fixes", "Relation"};
}

MendBench::MendBench(Session& session) : PagedBench(session) {
    addPage("mendFixes", pages()[0], [this] { return new FixesPage(session_); });
    addPage("mendRelation", pages()[1], [this] {
        auto* made = new RelationPage(session_);
        connect(made, &RelationPage::fixAsked, this, [this](const Fix& fix, const QString& why) {
            turnTo(MendWay::Fixes);
            fixesPage()->takeUp(fix, why);
        });
        return made;
    });
    auto* time = new TimeField(session);
    time->setMaximumWidth(240);
    addToRow(time);
}

void MendBench::openFix(FixId fix) {
    turnTo(MendWay::Fixes);
    fixesPage()->openFix(fix);
}

void MendBench::takeInHand(TimeRange stretch) {
    turnTo(MendWay::Fixes);
    fixesPage()->takeInHand(stretch);
}

}  // namespace jacinth::app
