// Parts: a tag taken apart into trend, cycle and remainder, over the time in view.
#pragma once

#include <QCheckBox>

#include "app/base/bench_page.h"
#include "app/plot/time_plot.h"
#include "work/survey/tag_parts.h"

namespace jacinth::app {

class PartsPage : public BenchPage {
    Q_OBJECT
  public:
    explicit PartsPage(Session& session);
    QString title() const override;
    QString pointerText() const override;
    QString figures() const override;
    const TagParts* parts() const { return parts_.get(); }
    TimePlot* plot() const { return plot_; }

  private:
    void refresh() override;
    std::optional<PartsSpec> spec();
    void show(std::shared_ptr<const TagParts> parts, TagId tag, const PartsSpec& spec);
    void say(const QString& instead);
    void keep();

    TimePlot* plot_;
    QLineEdit *every_, *period_;
    QComboBox *take_, *kind_, *way_;
    QCheckBox* robust_;
    QLabel *found_, *reason_;
    QPushButton* keep_;
    std::shared_ptr<const TagParts> parts_;
    PartsSpec made_;
    TagId madeOf_;
    TimeRange madeOver_;
    QString asked_;        ///< the controls as they were when it was made
    bool remake_ = false;  ///< make it over the view, whatever is there
};

}  // namespace jacinth::app
