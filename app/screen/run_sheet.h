// The run sheet: runs against limited tags, a gem where a run left the limits, gold where it is golden. One
// asset's runs, or the fleet's.
#pragma once

#include <QPixmap>
#include <QScrollBar>
#include <QWidget>
#include <array>
#include <set>

#include "app/base/session.h"
#include "work/limits/screening.h"

namespace jacinth::app {

class RunSheet : public QWidget {
    Q_OBJECT
  public:
    explicit RunSheet(Session& session, QWidget* parent = nullptr);
    struct RowName {
        std::string role;
        QString name;
    };
    /// What is picked: one cell, a run in all tags, or a tag in all runs.
    enum class Pick { Cell, Run, Tag };

    /// Runs in the order of columns; where the asset changes a line parts them. `golden`: with the reason of
    /// each.
    void setSheet(std::vector<Span> runs, std::vector<RowName> rows,
                  const std::vector<KeptExcursion>& excursions, std::map<SpanId, std::string> golden,
                  const std::vector<Span>& stops);
    void sayWhenEmpty(const QString& words) { whyEmpty_ = words; }
    QString wordsWhenEmpty() const { return whyEmpty_; }
    void setCurrent(SpanId run, const std::string& role);
    /// Cells that belong together, shown on a soft ground.
    void setMarked(std::set<std::pair<SpanId, std::string>> cells);
    const std::set<std::pair<SpanId, std::string>>& marked() const { return marked_; }
    QPoint cellCentre(SpanId run, int row) const;  ///< row = rowCount() is the golden row, −1 the head
    QPoint rowHead(int row) const;
    int rowCount() const { return static_cast<int>(rows_.size()); }
    const std::vector<Span>& runs() const { return runs_; }
    Pick pick() const { return pick_; }
    double columnWidth() const { return columnWidth_; }
    QSize sizeHint() const override { return {600, 190}; }

  signals:
    void cellChosen(SpanId run, const QString& role);
    void cellOpened(SpanId run, const QString& role);
    void goldenToggled(SpanId run);

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void wheelEvent(QWheelEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    bool event(QEvent* e) override;

  private:
    struct Place {
        int column = -1, row = -1;
    };
    static constexpr int kRowHeight = 21;
    Place placeAt(const QPoint& p) const;
    double columnX(int column) const;  ///< of its middle
    std::pair<int, int> columnsInView() const;
    QRectF cells() const;
    void setColumnWidth(double width, double keepX);
    double fittingWidth() const;
    void follow();  ///< the scroll bar follows width and zoom
    void choose(Place place, Pick pick);
    int columnOf(SpanId run) const;
    void showColumn(int column);
    void makeGems();
    void paintHead(QPainter& p, std::pair<int, int> columns) const;
    void paintRow(QPainter& p, int row, std::pair<int, int> columns) const;
    void paintGolden(QPainter& p, std::pair<int, int> columns) const;

    Session& session_;
    QScrollBar* scroll_;
    std::vector<Span> runs_;
    std::map<SpanId, int> columnOf_;
    std::vector<RowName> rows_;
    std::vector<std::vector<std::int8_t>> grades_;  ///< greatest severity by row and column, 0 for none
    std::vector<bool> golden_, stopped_;            ///< by column
    std::map<SpanId, std::string> reasons_;         ///< of golden runs
    double columnWidth_ = 1;
    double zoom_ = 1;              ///< 1: as wide as fits, or as narrow as can be read
    std::array<QPixmap, 4> gems_;  ///< one a severity: thousands are drawn a frame
    std::set<std::pair<SpanId, std::string>> marked_;
    QString whyEmpty_;
    SpanId run_;
    std::string role_;
    Pick pick_ = Pick::Cell;
};

}  // namespace jacinth::app
