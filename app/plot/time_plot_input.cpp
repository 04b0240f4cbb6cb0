// What mouse, wheel and keys do to the panes.
#include <QMouseEvent>

#include "app/plot/bracket_lanes.h"
#include "app/plot/plot_measures.h"
#include "app/plot/plot_overlay.h"
#include "app/plot/time_plot.h"

namespace jacinth::app {
namespace {
constexpr int kGrab = 7;  // how near the pointer has to be to take hold of a handle
}  // namespace

int TimePlot::handleAt(const QPoint& p) const {
    int best = -1;
    double nearest = kGrab;
    for (std::size_t i = 0; i < handles_.size(); ++i) {
        const QRect r = paneRect(std::min(handles_[i].pane, paneCount() - 1));
        if (p.y() < r.top() || p.y() > r.bottom()) continue;
        const double d = std::abs(p.x() - xOf(handles_[i].time));
        if (d < nearest) nearest = d, best = static_cast<int>(i);
    }
    return best;
}

int TimePlot::cursorAt(const QPoint& p) const {
    constexpr double kNear = 4;
    for (const int c : {0, 1})
        if (const auto t = session_.view().cursor(c);
            t && paneAt(p) >= 0 && std::abs(p.x() - xOf(*t)) <= kNear)
            return c;
    return -1;
}

void TimePlot::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (brackets_ && brackets_->press(*e)) return;
    if (e->button() != Qt::LeftButton && e->button() != Qt::MiddleButton) return;
    pressed_ = now_ = e->pos();
    pressedView_ = session_.view().view();
    draggedHandle_ = e->button() == Qt::LeftButton ? handleAt(e->pos()) : -1;
    liftedHandle_ = false;
    heldHandle_ = draggedHandle_ >= 0 ? handles_[static_cast<std::size_t>(draggedHandle_)].id : -1;
    if (draggedHandle_ >= 0) emit handleTaken(handles_[static_cast<std::size_t>(draggedHandle_)].id);
    draggedCursor_ = e->button() == Qt::LeftButton && draggedHandle_ < 0 ? cursorAt(e->pos()) : -1;
    if (draggedHandle_ >= 0)
        drag_ = Drag::Handle;
    else if (draggedCursor_ >= 0)
        drag_ = Drag::Cursor;
    else if (e->modifiers() & Qt::ShiftModifier)
        drag_ = Drag::Box;
    else
        drag_ = dragMarks_ && e->button() == Qt::LeftButton ? Drag::Mark : Drag::Pan;
}

void TimePlot::mouseMoveEvent(QMouseEvent* e) {
    now_ = e->pos();
    pointer_ = timeAt(e->pos().x());
    if (drag_ == Drag::None && brackets_ && brackets_->move(*e)) return emit pointed();
    if (drag_ == Drag::Pan) {
        const double share =
            static_cast<double>(pressed_.x() - now_.x()) / std::max(1, width() - kPlotLeft - rightMargin());
        const auto by = fromNanoseconds(share * toNanoseconds(pressedView_.length()));
        session_.view().setView({pressedView_.from + by, pressedView_.to + by});
    } else if (drag_ == Drag::Handle) {
        const Handle& h = handles_[static_cast<std::size_t>(draggedHandle_)];
        // A pull sideways is never quite level: a few pixels do not count as up or down.
        const bool upOrDown = liftedHandle_ || std::abs(now_.y() - pressed_.y()) > kLevelPull;
        liftedHandle_ = upOrDown;
        emit handleMoved(h.id, *pointer_,
                         upOrDown ? valueAt(h.pane, now_.y()) - valueAt(h.pane, pressed_.y()) : 0);
    } else if (drag_ == Drag::Cursor) {
        session_.view().setCursor(draggedCursor_, *pointer_);
    } else {
        const bool held = handleAt(e->pos()) >= 0 || cursorAt(e->pos()) >= 0;
        setCursor(held ? Qt::SizeHorCursor : Qt::ArrowCursor);
        replot(rpQueuedReplot);
    }
    emit pointed();
}

void TimePlot::mouseReleaseEvent(QMouseEvent* e) {
    if (drag_ == Drag::None && brackets_ && brackets_->release(*e)) return;
    const Drag was = drag_;
    drag_ = Drag::None;
    now_ = e->pos();
    const bool moved = (now_ - pressed_).manhattanLength() > 3;
    if (was == Drag::Handle) {
        const int id = handles_.size() > static_cast<std::size_t>(draggedHandle_)
                           ? handles_[static_cast<std::size_t>(draggedHandle_)].id
                           : -1;
        draggedHandle_ = -1;
        emit handleDropped(id);
        if (const PointMark* point = moved ? nullptr : pointAt(now_))  // a handle may stand on it
            emit pointClicked(paneAt(now_), point->time);
    } else if (was == Drag::Box && moved) {
        const Instant a = timeAt(pressed_.x()), b = timeAt(now_.x());
        const int pane = paneAt(pressed_);
        if (pane >= 0 && !panes_[static_cast<std::size_t>(pane)].low() &&
            std::abs(now_.y() - pressed_.y()) > 12)
            panes_[static_cast<std::size_t>(pane)].fixed[0] =
                QCPRange(valueAt(pane, std::max(pressed_.y(), now_.y())),
                         valueAt(pane, std::min(pressed_.y(), now_.y())));
        session_.view().setView({std::min(a, b), std::max(a, b)});
        reloadSoon();
    } else if (was == Drag::Mark && moved) {
        const Instant a = timeAt(pressed_.x()), b = timeAt(now_.x());
        emit marked({std::min(a, b), std::max(a, b)});
    } else if (was != Drag::None && !moved) {
        const Instant t = timeAt(now_.x());
        if (const PointMark* point = pointAt(now_)) emit pointClicked(paneAt(now_), point->time);
        const SpanMark* hit = nullptr;
        for (const SpanMark& m : marks_)
            if (m.id && m.range.from <= t && t <= m.range.to &&
                (!hit || m.range.length() < hit->range.length()))
                hit = &m;
        if (hit) emit markClicked(hit->id);
    }
    replot(rpQueuedReplot);
}

const PointMark* TimePlot::pointAt(const QPoint& p) const {
    const int pane = paneAt(p);
    if (pane < 0) return nullptr;
    const PointMark* nearest = nullptr;
    double least = 8;
    for (const PointMark& point : panes_[static_cast<std::size_t>(pane)].points) {
        const double away = std::hypot(xOf(point.time) - p.x(), yOf(pane, point.value) - p.y());
        if (away < least) least = away, nearest = &point;
    }
    return nearest;
}

void TimePlot::mouseDoubleClickEvent(QMouseEvent* e) {
    if (brackets_ && brackets_->press(*e)) return;
    drag_ = Drag::None;
    const int pane = paneAt(e->pos());
    if (pane >= 0) panes_[static_cast<std::size_t>(pane)].fixed.clear();
    reloadSoon();
}

/// Zooms the scale under the pointer: over the numbers of a right-hand scale that one, else the left one.
void TimePlot::zoomValues(Pane& pane, const QPointF& at, double factor) {
    const double beyond = at.x() - (width() - rightMargin());
    const std::size_t scale =
        beyond < 0 ? 0 : std::min(pane.scales.size() - 1, 1 + static_cast<std::size_t>(beyond / kWideRight));
    const QCPAxis* axis = pane.scales[scale];
    const double value = axis->pixelToCoord(at.y());
    const QCPRange r = axis->range();
    pane.fixed[scale] = QCPRange(value - (value - r.lower) * factor, value + (r.upper - value) * factor);
}

void TimePlot::wheelEvent(QWheelEvent* e) {
    const double steps = e->angleDelta().y() / 120.0;
    if (steps == 0) return;
    const double factor = std::pow(0.8, steps);
    if (e->modifiers() & Qt::ControlModifier) {
        // Over the numbers of a scale as well: these stand beside the pane.
        const QPoint at(kPlotLeft + 1, e->position().toPoint().y());
        const int pane = paneAt(at);
        if (pane < 0 || panes_[static_cast<std::size_t>(pane)].low()) return;
        zoomValues(panes_[static_cast<std::size_t>(pane)], e->position(), factor);
        return reloadSoon();
    }
    const TimeRange view = session_.view().view();
    const Instant at = timeAt(e->position().x());
    session_.view().setView({at - fromNanoseconds(toNanoseconds(at - view.from) * factor),
                             at + fromNanoseconds(toNanoseconds(view.to - at) * factor)});
}

void TimePlot::leaveEvent(QEvent*) {
    pointer_.reset();
    replot(rpQueuedReplot);
    emit pointed();
}

void TimePlot::dropCursor(int which) {
    const TimeRange view = session_.view().view();
    session_.view().setCursor(which, pointer_ ? *pointer_ : view.from + view.length() / (which ? 3 : 2));
}

void TimePlot::holdHandle(int id) {
    heldHandle_ = id;
    replot(rpQueuedReplot);
}

bool TimePlot::stepHeldHandle(const QKeyEvent* e) {
    const int by = e->modifiers() & Qt::ShiftModifier ? 10 : 1;
    switch (heldHandle_ < 0 ? Qt::Key_unknown : e->key()) {
        case Qt::Key_Left:
            emit handleStepped(heldHandle_, -by, 0);
            return true;
        case Qt::Key_Right:
            emit handleStepped(heldHandle_, by, 0);
            return true;
        case Qt::Key_Up:
            emit handleStepped(heldHandle_, 0, by);
            return true;
        case Qt::Key_Down:
            emit handleStepped(heldHandle_, 0, -by);
            return true;
        case Qt::Key_Escape:
            heldHandle_ = -1;
            replot(rpQueuedReplot);
            return true;
        default:
            return false;
    }
}

void TimePlot::keyPressEvent(QKeyEvent* e) {
    if (stepHeldHandle(e)) return;
    ViewState& state = session_.view();
    const TimeRange view = state.view();
    const Duration half = view.length() / 2;
    const auto by = [&](Duration d) { state.setView({view.from + d, view.to + d}); };
    switch (e->key()) {
        case Qt::Key_BracketLeft:
            return by(-view.length());
        case Qt::Key_BracketRight:
            return by(view.length());
        case Qt::Key_Left:
            return by(-view.length() / 10);
        case Qt::Key_Right:
            return by(view.length() / 10);
        case Qt::Key_Plus:
        case Qt::Key_Equal:
            return state.setView({view.from + half / 4, view.to - half / 4});
        case Qt::Key_Minus:
            return state.setView({view.from - half / 3, view.to + half / 3});
        case Qt::Key_Home:
            return state.setView({state.record().from, state.record().from + view.length()});
        case Qt::Key_End:
            return state.setView({state.record().to - view.length(), state.record().to});
        case Qt::Key_C:
            return dropCursor(e->modifiers() & Qt::ShiftModifier ? 1 : 0);
        case Qt::Key_Escape:
            state.setCursor(0, {});
            state.setCursor(1, {});
            break;
        default:
            break;
    }
    QCustomPlot::keyPressEvent(e);
}

}  // namespace jacinth::app
