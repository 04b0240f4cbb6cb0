// Resample: a tag by periods, over its samples; and by the plant's calendar.
#pragma once

#include "app/base/bench_page.h"
#include "app/plot/time_plot.h"
#include "app/survey/calendar_view.h"
#include "work/survey/tag_parts.h"

namespace jacinth::app {

class ResamplePage : public BenchPage {
    Q_OBJECT
  public:
    explicit ResamplePage(Session& session);
    QString title() const override;
    QString pointerText() const override;
    QString figures() const override;
    const TagGrid* grid() const { return grid_.get(); }

  private:
    void refresh() override;
    void show(std::shared_ptr<const TagGrid> grid, CalendarView::Hours hours, TagId tag);
    void say(const QString& instead);
    void keep();
    std::optional<Period> period();

    TimePlot* plot_;
    CalendarView* calendar_;
    QComboBox *period_, *take_;
    QLabel* found_;
    QLineEdit* name_;
    QPushButton* keep_;
    std::shared_ptr<const TagGrid> grid_;
    Period made_;
    Take madeTake_ = Take::Mean;
    TagId madeOf_;
};

}  // namespace jacinth::app
