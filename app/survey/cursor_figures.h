// Values at two cursors, their difference and slope, and statistics with a histogram between them.
#pragma once

#include <QTimer>
#include <QWidget>

#include "app/base/request.h"
#include "app/base/save_picture.h"
#include "app/base/session.h"
#include "app/base/tables.h"
#include "app/base/ui.h"

namespace jacinth::app {

/// Bars of how often values lie where.
class HistogramView : public QWidget {
    Q_OBJECT
  public:
    explicit HistogramView(Session& session) : session_(session) {
        setFixedHeight(72);
        givePictureMenu(this);
    }
    void setValues(const std::vector<double>& values);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Session& session_;
    std::vector<int> bins_;
    double low_ = 0, high_ = 0;
};

class CursorFigures : public QWidget {
    Q_OBJECT
  public:
    explicit CursorFigures(Session& session);
    /// What is said of a stretch of one tag.
    struct Stretch {
        TagId tag;
        Summary all;
        std::vector<double> values;  ///< of samples, or means of columns where these are too many
        double slope = 0;            ///< per hour
        bool exact = true;           ///< `values` are samples
    };

  signals:
    void asked(const jacinth::app::Request& request);

  private:
    void update_();
    void updateStretch(TimeRange range);
    void showStretch(const Stretch& stretch);
    TimeRange stretch() const;

    Session& session_;
    RowsModel* model_;
    QTableView* table_;
    QLabel* hint_;
    QLabel* between_;
    QLabel* stretchTitle_;
    QLabel* figures_;
    HistogramView* histogram_;
    QPushButton* label_;
    QPushButton* mend_;
    QPushButton* rule_;
    Stretch last_;
    QTimer* later_;
};

}  // namespace jacinth::app
