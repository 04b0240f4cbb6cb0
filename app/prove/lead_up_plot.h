// The days before each failure: chosen tags of the failed assets, lined up at the failure, with the useful
// warning time.
#pragma once

#include <qcustomplot.h>

#include "app/base/session.h"
#include "core/prove/prove.h"

namespace jacinth::app {

class LeadUpPlot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit LeadUpPlot(Session& session, QWidget* parent = nullptr);
    struct Line {
        AssetId asset;
        Instant failure;
    };
    void show(std::vector<Line> failures, std::vector<std::string> roles, const ProveSpec& spec,
              const std::vector<AlarmVerdict>& alarms);
    void setStrong(AssetId asset, Instant failure);  ///< one failure drawn strong; 0 for none
    int graphsDrawn() const { return graphCount(); }

  private:
    /// Reads the lines beside the interface thread and draws them when they are there.
    void read();
    Duration lookBack() const { return std::max<Duration>(7 * kDay, spec_.most * 2); }
    void rebuild();
    struct PaneName {
        QString text;
        QColor colour;
    };
    void drawPane(QCPAxisRect* rect, const std::string& role, bool last);
    void layAxes(QCPAxisRect* rect, bool last);
    PaneName drawLines(QCPAxisRect* rect, const std::string& role);  ///< a line a failure
    void drawUsefulWarning(QCPAxisRect* rect);
    void writeIn(QCPAxisRect* rect, const QString& text, const QColor& ink, double at, Qt::Alignment align);
    void markAlarms(QCPAxisRect* rect);
    Session& session_;
    std::vector<Line> failures_;
    std::vector<std::string> roles_;
    ProveSpec spec_;
    std::vector<AlarmVerdict> alarms_;
    std::map<std::string, std::vector<std::vector<Summary>>> columns_;  ///< by role, then as failures_
    std::pair<AssetId, Instant> strong_;
};

}  // namespace jacinth::app
