// The days before each failure: chosen tags of the failed assets, lined up at the failure, over as many
// stretches that no failure followed.
#pragma once

#include <QWidget>
#include <map>
#include <optional>

#include "app/base/session.h"
#include "app/plot/chart.h"
#include "core/prove/lead_up.h"
#include "core/prove/prove.h"
#include "work/prove/lead_up_rules.h"

namespace jacinth::app {

inline constexpr std::size_t kMostLinedUp = 200;  ///< failures; of more, so many from the first to the last

class LeadUpPlot : public QWidget {
    Q_OBJECT
  public:
    explicit LeadUpPlot(Session& session, QWidget* parent = nullptr);
    struct Asked {
        std::vector<LeadUpStretch> failures;
        std::vector<std::string> names;  ///< roles, or paths of tags; a pane each
        bool isWritten = false;          ///< there is a rule without a slip, whatever its tags
        ProveSpec spec;
        Duration before = 7 * kDay;
        bool band = false;  ///< quantiles in place of a line for each failure
        bool quiet = true;  ///< with stretches that no failure followed
        bool operator==(const Asked&) const = default;
    };
    /// Reads again where something else is asked for, or where `again` says that the record has changed.
    void show(Asked asked, bool again);
    void setAlarms(std::vector<AlarmVerdict> alarms);
    void setStrong(AssetId asset, Instant failure);  ///< one failure drawn strong; none for no asset
    /// The part that was dragged over, from so long before the failure to so long before, and its pane.
    struct Part {
        std::string name;
        Duration from, to;
    };
    const std::optional<Part>& part() const { return part_; }
    void clearPart();
    const std::vector<LeadUpStretch>& quietOnes() const { return quiet_; }
    QString pointerText() const { return pointed_; }
    int linesDrawn() const;  ///< of failures, in all panes; none as a band
    int panes() const { return static_cast<int>(asked_.names.size()); }
    double xOf(Duration before) const;
    QRectF paneRect(int pane) const;

  signals:
    void pointerMoved();
    void chosen(AssetId asset, jacinth::Instant failure);
    void opened(AssetId asset, jacinth::Instant failure);
    void partMarked();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void wheelEvent(QWheelEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    void leaveEvent(QEvent* e) override;

  private:
    struct Pane {
        std::vector<LeadUpLine> failures, quiet;
        LeadUpBand failureBand, quietBand;
        QString name, unit;
        QColor colour;
    };
    void read();
    void nameWith(Pane& pane, const std::string& name) const;
    ChartArea areaOf(int pane) const;
    Duration timeAtX(double x) const;  ///< before the failure; below 0 after it
    double binX(const ChartArea& area, std::size_t bin) const;
    int paneAt(const QPointF& at) const;
    int lineAt(const QPointF& at) const;
    QPen linePen(const Pane& pane) const;
    void paintPane(QPainter& p, int pane);
    void paintBand(QPainter& p, const ChartArea& area, const LeadUpBand& band, const QColor& ink, bool inner);
    void paintLine(QPainter& p, const ChartArea& area, const LeadUpLine& line, const QPen& pen, double shade);
    void paintWords(QPainter& p, int pane, const ChartArea& area);
    void paintAlarms(QPainter& p, const ChartArea& area);
    void paintAxis(QPainter& p, const ChartArea& area);
    void point(const QPointF& at);

    Session& session_;
    Asked asked_;
    std::vector<LeadUpStretch> quiet_;
    std::map<std::string, Pane> drawn_;
    std::vector<AlarmVerdict> alarms_;
    std::pair<AssetId, Instant> strong_;
    double left_ = 0, right_ = 0;  ///< hours from the failure, as zoomed; both 0 for all
    std::optional<Part> part_;
    std::optional<QPointF> pressed_;
    bool dragging_ = false;
    QString pointed_;
};

}  // namespace jacinth::app
