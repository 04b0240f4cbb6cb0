// The run sheet: runs of an asset against limited tags, a gem where a run left the limits, gold where it is
// golden.
#pragma once

#include <QWidget>

#include "app/shell/session.h"
#include "work/screening.h"

namespace jacinth::app {

class RunSheet : public QWidget {
    Q_OBJECT
  public:
    explicit RunSheet(Session& session, QWidget* parent = nullptr);
    struct RowName {
        std::string role;
        QString name;
    };
    void setSheet(std::vector<Span> runs, std::vector<RowName> rows,
                  const std::vector<KeptExcursion>& excursions, std::vector<std::int64_t> golden,
                  std::vector<Span> stops);
    void setCurrent(std::int64_t run, const std::string& role);
    QPoint cellCentre(std::int64_t run, int row) const;  ///< row = rowCount() is the golden row
    int rowCount() const { return static_cast<int>(rows_.size()); }
    const std::vector<Span>& runs() const { return runs_; }
    QSize sizeHint() const override { return {600, 190}; }

  signals:
    void cellChosen(std::int64_t run, const QString& role);
    void cellOpened(std::int64_t run, const QString& role);
    void goldenToggled(std::int64_t run);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    bool event(QEvent* e) override;

  private:
    struct Place {
        int column = -1, row = -1;
    };
    Place placeAt(const QPoint& p) const;
    double columnX(int column) const;
    double columnWidth() const;
    double rowHeight() const { return 21; }
    void choose(Place place);
    int columnOf(std::int64_t run) const;

    Session& session_;
    std::vector<Span> runs_;
    std::vector<RowName> rows_;
    std::map<std::pair<std::int64_t, std::string>, int> grades_;  ///< greatest severity by run and role
    std::vector<std::int64_t> golden_;
    std::vector<Span> stops_;
    std::int64_t run_ = 0;
    std::string role_;
};

}  // namespace jacinth::app
