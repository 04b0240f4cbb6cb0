// Label: marks over the traces; more of the same shape; how far the record is labelled; two people's labels.
#pragma once

#include "app/base/paged_bench.h"
#include "app/label/agreement_page.h"
#include "app/label/alike_page.h"
#include "app/label/marks_page.h"
#include "app/label/overview_page.h"

namespace jacinth::app {

enum class LabelWay { Marks, Alike, Overview, Agreement };

class LabelBench : public PagedBench {
    Q_OBJECT
  public:
    explicit LabelBench(Session& session);
    static QStringList pages();  ///< names, in the order of LabelWay
    void turnTo(LabelWay way) { turnToPage(static_cast<int>(way)); }
    void openSpan(SpanId label) override;
    void fitValues() override { marks()->plot()->fitValues(); }
    /// A new mark over a stretch, with no kind yet; it becomes the chosen one.
    void mark(TimeRange range, AssetId asset);
    /// The same over an excursion on record, which it says that it was made from.
    void markExcursion(SpanId excursion);
    void editBook();
    MarksPage* marks() { return static_cast<MarksPage*>(page(static_cast<int>(LabelWay::Marks))); }
    AlikePage* alike() { return static_cast<AlikePage*>(page(static_cast<int>(LabelWay::Alike))); }
    OverviewPage* overview() {
        return static_cast<OverviewPage*>(page(static_cast<int>(LabelWay::Overview)));
    }
    AgreementPage* agreement() {
        return static_cast<AgreementPage*>(page(static_cast<int>(LabelWay::Agreement)));
    }
    void searchLike(SpanId label);  ///< more like this mark
    TimePlot* plot() { return marks()->plot(); }
    QTableView* list() { return marks()->list(); }
};

}  // namespace jacinth::app
