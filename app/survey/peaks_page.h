// Peaks: found live by height, prominence, width and distance; narrow and broad ones separated; kept, or sent
// to Mend.
#pragma once

#include <QCheckBox>
#include <QSlider>

#include "app/base/bench_page.h"
#include "app/plot/time_plot.h"
#include "app/survey/cursor_figures.h"
#include "work/survey/tag_by_state.h"
#include "work/survey/tag_peaks.h"

namespace jacinth::app {

class PeaksPage : public BenchPage {
    Q_OBJECT
  public:
    explicit PeaksPage(Session& session);
    QString title() const override;
    QString pointerText() const override;
    QString figures() const override;
    const std::vector<Peak>& peaks() const { return peaks_; }
    TimePlot* plot() const { return plot_; }

  private:
    struct Found {
        std::vector<Peak> peaks;
        Duration narrow{};
        double spread = 0;      ///< of the values in view, greatest less least
        double prominence = 0;  ///< that was asked for
    };
    void refresh() override;
    std::optional<PeakSearch> search();
    void cannot(const std::string& why);
    void show(Found found, TagId tag);
    void keep();
    void send();

    TimePlot* plot_;
    QSlider* prominence_;
    QLineEdit *prominenceField_, *height_, *width_, *distance_;
    QCheckBox* troughs_;
    QLabel *count_, *split_;
    HistogramView* widths_;
    QPushButton *keep_, *send_;
    std::vector<Peak> peaks_;
    Duration narrow_{};
    double spread_ = 0;
    TagId of_;
    bool setting_ = false;
    bool typed_ = false;  ///< the prominence is the user's
};

}  // namespace jacinth::app
