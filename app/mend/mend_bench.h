// Mend: fixes on their handles and what is found to mend; a tag against its companions.
#pragma once

#include "app/base/paged_bench.h"
#include "app/mend/fixes_page.h"
#include "app/mend/relation_page.h"

namespace jacinth::app {

enum class MendWay { Fixes, Relation };

class MendBench : public PagedBench {
    Q_OBJECT
  public:
    explicit MendBench(Session& session);
    static QStringList pages();  ///< names, in the order of MendWay
    void turnTo(MendWay way) { turnToPage(static_cast<int>(way)); }
    void openFix(FixId fix) override;
    void fitValues() override { fixesPage()->plot()->fitValues(); }
    /// Begins a fix of the kind in hand over this stretch.
    void takeInHand(TimeRange stretch);
    FixesPage* fixesPage() { return static_cast<FixesPage*>(page(static_cast<int>(MendWay::Fixes))); }
    RelationPage* relationPage() {
        return static_cast<RelationPage*>(page(static_cast<int>(MendWay::Relation)));
    }
    TimePlot* plot() { return fixesPage()->plot(); }
    QTableView* ledger() { return fixesPage()->ledger(); }
    const Fix& draft() { return fixesPage()->draft(); }
};

}  // namespace jacinth::app
