// Panes of traces over one shared time axis: moving, zooming, cursors, marks and handles to drag.
#pragma once

#include <qcustomplot.h>

#include <chrono>

#include "app/base/session.h"
#include "app/plot/time_ticker.h"
#include "app/plot/traces.h"

namespace jacinth::app {

/// Reads the columns of a trace; called on the reading thread, so it holds copies and no pointers.
using Reading = std::function<std::vector<Summary>(Study&, TimeRange, int pixels)>;

/// One trace: where its columns come from and how it looks. `tag` is what it is of; 0 for what is not a tag.
struct TraceSpec {
    TagId tag;
    QString name, unit;
    QColor colour;
    double width = 1.3;
    Qt::PenStyle style = Qt::SolidLine;
    Bridging bridging;
    bool ends = false;                  ///< see TracePlottable::setEnds
    std::function<Reading()> reading;   ///< how to read it as things stand now
    std::function<double(Instant)> at;  ///< value at the pointer
    bool inLegend = true;
    bool under = false;  ///< drawn beneath the other traces of its pane
};

struct PaneSpec {
    std::vector<TraceSpec> traces;
    QString title;   ///< in place of the traces' names
    TagId states;    ///< a state tag, drawn as bands; then no traces
    TrackId lane;    ///< a track, its spans on `laneOf` drawn as bars; then no traces
    AssetId laneOf;  ///< an asset
    double stretch = 1;
    bool zeroLine = false;
    bool folded = false;  ///< one line high: its names, no traces
};

/// A line across a pane that can be dragged: along time, and by its grip along values.
struct Handle {
    int id = 0;
    Instant time{};
    int pane = 0;
    QString pill;
    std::optional<double> grip;  ///< value the grip stands at
};

/// A shaded stretch with a name.
struct SpanMark {
    TimeRange range;
    QColor colour;
    QString text;
    bool strong = false;
    SpanId id;
    bool wedge = false;  ///< a failure: a black wedge at the top and a line, no shade
    bool line = false;   ///< a moment: a dashed line with its name, no shade
};

/// A mark on a value: an open lozenge (a check reading), a dot (a peak), a tick above it (a narrow peak), a
/// hollow ring (a hidden sample).
enum class PointLook { Lozenge, Dot, Tick, Hollow };
struct PointMark {
    Instant time{};
    double value = 0;
    PointLook look = PointLook::Lozenge;
};

class BracketLanes;

class TimePlot : public QCustomPlot {
    Q_OBJECT
  public:
    TimePlot(Session& session, QWidget* parent = nullptr);

    /// With what the view lays over them (app/plot/laid_over.h), unless that was switched off: further traces
    /// in these panes, and a further pane below.
    void setPanes(std::vector<PaneSpec> panes);
    void setLaysOver(bool on) { laysOver_ = on; }
    /// Draws what is at hand for the view, and asks for what it lacks: the picture may be coarse or lack its
    /// edges for a moment, it never waits. Once, when control returns.
    void reloadSoon();
    void reloadNow();
    void setHandles(std::vector<Handle> handles);
    int handleCount() const { return static_cast<int>(handles_.size()); }
    void setMarks(std::vector<SpanMark> marks);
    void setPoints(int pane, std::vector<PointMark> points);
    void setShade(std::optional<TimeRange> shade);
    BracketLanes* brackets();  ///< above the panes; made when it is first asked for
    void layOutAgain();        ///< the brackets need another height
    Session& session() const { return session_; }
    void holdHandle(int id);  ///< arrows move it from now on; −1 for none
    bool holdsHandle() const { return heldHandle_ >= 0; }
    int pressedPane() const { return paneAt(pressed_); }  ///< where the mouse went down last
    void setDragMarks(bool on) { dragMarks_ = on; }       ///< a plain drag marks a stretch instead of panning
    void setEmptyText(const QString& text) { emptyText_ = text; }

    double xOf(Instant t) const;
    Instant timeAt(double x) const;
    int paneAt(const QPoint& p) const;
    const PointMark* pointAt(const QPoint& p) const;  ///< within eight pixels; null for none
    QRect paneRect(int pane) const;
    double valueAt(int pane, double y) const;
    double yOf(int pane, double value) const;
    const std::vector<Summary>& columnsOf(int pane, int trace) const;
    const PaneSpec& paneSpec(int pane) const { return panes_[static_cast<std::size_t>(pane)].spec; }
    const std::vector<TimeRange>& barsOf(int pane) const {
        return panes_[static_cast<std::size_t>(pane)].bars;
    }  ///< of a lane, as read last
    int paneCount() const { return static_cast<int>(panes_.size()); }
    double lastFrameMs() const { return frameMs_; }  ///< drawing, of the last frame
    double lastReadingMs() const {
        return readingMs_;
    }  ///< from asking to the sharp picture, of the last one
    std::optional<Instant> pointer() const { return pointer_; }
    void fitValues();

  signals:
    void pointed();  ///< the pointer is over another moment
    void handleTaken(int id);
    /// `lifted`: by how much the pointer was moved up on the value scale since the handle was taken.
    void handleMoved(int id, jacinth::Instant t, double lifted);
    void handleDropped(int id);
    /// Arrows while a handle is held (clicked before): so many samples along time, so many steps of its
    /// amount up. Shift: ten.
    void handleStepped(int id, int samples, int steps);
    void marked(jacinth::TimeRange range);  ///< a stretch was dragged (see setDragMarks)
    void markClicked(SpanId id);
    void pointClicked(int pane, jacinth::Instant t);  ///< a point of setPoints
    void tagDropped(TagId tag, int pane);  ///< dragged here from the plant panel; −1: below the panes
    void paneMenuAsked(int pane, const QPoint& at);
    void framed();  ///< a picture with all its columns has been drawn

  protected:
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void wheelEvent(QWheelEvent* e) override;
    void leaveEvent(QEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    void resizeEvent(QResizeEvent* e) override;
    void showEvent(QShowEvent* e) override;
    void dragEnterEvent(QDragEnterEvent* e) override;
    void dropEvent(QDropEvent* e) override;
    void contextMenuEvent(QContextMenuEvent* e) override;

  private:
    friend class PlotOverlay;
    struct Pane {
        PaneSpec spec;
        QCPAxisRect* rect = nullptr;
        std::vector<TracePlottable*> traces;
        BandPlottable* bands = nullptr;
        std::vector<TimeRange> bars;                           ///< of a lane
        bool low() const { return spec.states || spec.lane; }  ///< one line high, without scale
        std::vector<QCPAxis*> scales;      ///< one a unit; the first on the left, the second on the right
        std::vector<std::size_t> scaleOf;  ///< by trace
        std::map<std::size_t, QCPRange> fixed;  ///< scales, as zoomed by the user
        std::vector<PointMark> points;
        int height = 100;  ///< as laid out; the axis rect itself learns of it only when it is drawn
    };
    enum class Drag { None, Pan, Box, Mark, Handle, Cursor };

    int cursorAt(const QPoint& p) const;  ///< 0 or 1; −1 where there is none
    void zoomValues(Pane& pane, const QPointF& at, double factor);
    void build();
    void buildTraces(Pane& pane);
    void layOver();  ///< the panes again, with what is laid over them now
    void applyTheme();
    void layOut();
    std::uint64_t ask();  ///< the number of the reading
    struct Read;
    void deliver(Read& read);
    void setBands(Pane& pane, std::vector<BandPlottable::Band> bands);
    void redraw();
    void fitPane(Pane& pane);
    void fitScale(Pane& pane, std::size_t scale);
    int rightMargin() const;
    int topMargin() const;
    int handleAt(const QPoint& p) const;
    void dropCursor(int which);

    Session& session_;
    Instant origin_{};
    std::vector<PaneSpec> asked_;  ///< as setPanes was given them
    bool laysOver_ = true;
    std::vector<Pane> panes_;
    std::vector<Handle> handles_;
    std::vector<SpanMark> marks_;
    std::optional<TimeRange> shade_;
    BracketLanes* brackets_ = nullptr;
    QSharedPointer<TimeTicker> ticker_;
    QTimer* reload_;
    QString emptyText_;
    std::optional<Instant> pointer_;
    bool dragMarks_ = false;
    Drag drag_ = Drag::None;
    QPoint pressed_, now_;
    TimeRange pressedView_;
    int draggedHandle_ = -1;
    int draggedCursor_ = -1;
    int heldHandle_ = -1;  ///< id of the one that arrows move; −1 for none
    bool stepHeldHandle(const QKeyEvent* e);
    bool liftedHandle_ = false;  ///< it was pulled up or down, not only sideways
    static constexpr std::chrono::microseconds kWorthWaitingFor{4000};
    double frameMs_ = 0, readingMs_ = 0;
    std::chrono::microseconds lastReading_ = kWorthWaitingFor;
    std::uint64_t built_ = 0;  ///< counts what the panes are: a reading for others is of no use
};

}  // namespace jacinth::app

Q_DECLARE_METATYPE(jacinth::TimeRange)
