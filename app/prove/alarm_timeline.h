// Every alarm of a proof and every failure over the record, a lane an asset: what came true, what did not.
#pragma once

#include <QWidget>

#include "app/base/row_window.h"
#include "app/base/session.h"
#include "core/prove/prove.h"

namespace jacinth::app {

class AlarmTimeline : public QWidget {
    Q_OBJECT
  public:
    explicit AlarmTimeline(Session& session);
    void show(const std::optional<Proof>& proof);
    void setCurrent(int alarm);  ///< by its place in the proof; −1 for none
    QRectF shapeOf(int alarm) const;
    QSize sizeHint() const override;
    /// How a verdict is drawn, for the table and the legend too.
    static void drawAlarm(QPainter& p, const Theme& theme, const QRectF& box, Verdict verdict);

  signals:
    void chosen(int alarm);
    void opened(int alarm);

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override { lay(); }
    void mousePressEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void wheelEvent(QWheelEvent* e) override;
    bool event(QEvent* e) override;  ///< says in a tip what is under the pointer

  private:
    void paintLane(QPainter& p, int lane) const;
    void paintAxis(QPainter& p) const;
    void paintLegend(QPainter& p) const;
    int alarmAt(const QPointF& at) const;
    int laneOf(AssetId asset) const;
    void lay();
    int top() const;  ///< of the first lane
    QString restWords() const;
    void takeLanes();
    bool isShown(int lane) const { return lane >= rows_.first() && lane < rows_.end(); }
    double laneTop(int lane) const;  ///< of one that is shown
    double xOf(Instant t) const;
    Instant timeAt(double x) const;
    QString wordsFor(int alarm) const;
    Session& session_;
    std::optional<Proof> proof_;
    std::vector<AssetId> lanes_;
    int quiet_ = 0;  ///< assets left out: nothing ever happened there
    RowWindow rows_;
    TimeRange range_;
    int current_ = -1;
};

}  // namespace jacinth::app
