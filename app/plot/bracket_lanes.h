// Marks above the panes of a TimePlot: a bracket each with its name, in lanes where they overlap. Brackets
// are clicked, dragged whole or by an edge, and gathered with a rubber band.
#pragma once

#include <QMouseEvent>
#include <QObject>
#include <optional>
#include <vector>

#include "app/base/session.h"

class QCPPainter;

namespace jacinth::app {

class TimePlot;

struct Bracket {
    SpanId id;
    TimeRange range;
    QColor colour;
    QString text;
    bool chosen = false;
    bool dashed = false;      ///< not sure, or not named yet
    std::vector<TagId> tags;  ///< those it is about; none: all
};

class BracketLanes : public QObject {
    Q_OBJECT
  public:
    explicit BracketLanes(TimePlot& plot);

    /// Any number: lanes are worked out once, and drawing looks only at those in view.
    void setBrackets(std::vector<Bracket> brackets);
    const std::vector<Bracket>& brackets() const { return brackets_; }  ///< by start
    int laneOf(SpanId id) const;     ///< 0 the lowest; −1 where there is none
    int height() const;              ///< in pixels; 0 without brackets
    QRectF rectOf(SpanId id) const;  ///< in the plot's pixels; empty where it is out of sight
    std::vector<SpanId> within(TimeRange range) const;  ///< that touch it, by start

    void draw(QCPPainter* p) const;
    /// Each says whether the event was for the lanes.
    bool press(const QMouseEvent& e);
    bool move(const QMouseEvent& e);
    bool release(const QMouseEvent& e);

    enum class Part { Start, End, Whole };

  signals:
    void clicked(SpanId id, Qt::KeyboardModifiers modifiers);  ///< none: beside all of them
    void doubleClicked(SpanId id);
    /// A bracket is pulled: by so much since it was taken hold of.
    void pulled(SpanId id, jacinth::app::BracketLanes::Part part, jacinth::Duration by);
    void dropped(SpanId id);
    void banded(jacinth::TimeRange range, Qt::KeyboardModifiers modifiers);

  private:
    struct Hit {
        SpanId id;
        Part part = Part::Whole;
    };
    std::optional<Hit> hitAt(const QPointF& at) const;
    std::size_t firstIn(Instant from) const;  ///< index of the first that can reach so far
    double laneTop(int lane) const;
    void drawOne(QCPPainter* p, const Bracket& b, int lane) const;
    void drawShades(QCPPainter* p) const;

    TimePlot& plot_;
    std::vector<Bracket> brackets_;
    std::vector<int> lane_;       ///< by bracket
    std::vector<Instant> reach_;  ///< the last end of all brackets up to this one
    int lanes_ = 0;
    std::optional<Hit> held_;
    bool banding_ = false, moved_ = false;
    QPointF pressed_, now_;
};

}  // namespace jacinth::app
