#include "app/plot/bracket_lanes.h"

#include <qcustomplot.h>

#include <algorithm>
#include <map>
#include <set>

#include "app/plot/plot_measures.h"
#include "app/plot/time_plot.h"

namespace jacinth::app {
namespace {

constexpr int kLaneHeight = 19;
constexpr int kMostLanes = 6;  // what overlaps deeper shares the uppermost
constexpr double kGrabEdge = 5;
constexpr double kLeastName = 24;    // pixels without which no name is written
constexpr float kMostShade = 0.34f;  // where many lie over one another the trace is seen all the same

/// Grounds over the height of a pane, mixed by pixel column and drawn at once: however many marks there are,
/// it costs as much as one.
class ShadeRow {
  public:
    explicit ShadeRow(const QRect& pane)
        : pane_(pane), columns_(static_cast<std::size_t>(std::max(0, pane.width()))) {}

    void add(double left, double right, const QColor& colour, float share) {
        left = std::max(0.0, left - pane_.left());
        right = std::min<double>(static_cast<double>(columns_.size()), right - pane_.left());
        for (auto x = static_cast<std::size_t>(left); static_cast<double>(x) < right; ++x) {
            const double at = static_cast<double>(x),
                         inside = std::min(right, at + 1) - std::max(left, at);  // of the column
            columns_[x].lay(colour, share * static_cast<float>(inside));
        }
    }

    void draw(QPainter* p) const {
        if (columns_.empty()) return;
        QImage image(static_cast<int>(columns_.size()), 1, QImage::Format_ARGB32_Premultiplied);
        auto* pixels = reinterpret_cast<QRgb*>(image.scanLine(0));
        for (const Column& c : columns_) *pixels++ = c.pixel();
        p->drawImage(pane_, image);
    }

  private:
    struct Column {
        float red = 0, green = 0, blue = 0, cover = 0;  // each times the cover
        void lay(const QColor& colour, float share) {
            const float left = 1 - share;
            red = red * left + colour.redF() * share;
            green = green * left + colour.greenF() * share;
            blue = blue * left + colour.blueF() * share;
            cover = cover * left + share;
        }
        QRgb pixel() const {
            const float scale = 255 * (cover > kMostShade ? kMostShade / cover : 1);
            const auto byte = [scale](float v) { return static_cast<int>(v * scale + 0.5f); };
            return qRgba(byte(red), byte(green), byte(blue), byte(cover));
        }
    };
    QRect pane_;
    std::vector<Column> columns_;
};

}  // namespace

BracketLanes::BracketLanes(TimePlot& plot) : QObject(&plot), plot_(plot) {}

void BracketLanes::setBrackets(std::vector<Bracket> brackets) {
    brackets_ = std::move(brackets);
    std::stable_sort(brackets_.begin(), brackets_.end(),
                     [](const Bracket& a, const Bracket& b) { return a.range.from < b.range.from; });
    lane_.clear();
    reach_.clear();
    std::vector<Instant> free;  // when each lane is free again
    for (const Bracket& b : brackets_) {
        auto lane = std::find_if(free.begin(), free.end(), [&](Instant t) { return t <= b.range.from; });
        if (lane == free.end() && std::ssize(free) < kMostLanes) lane = free.insert(free.end(), b.range.to);
        if (lane == free.end()) lane = free.end() - 1;
        *lane = std::max(*lane, b.range.to);
        lane_.push_back(static_cast<int>(lane - free.begin()));
        reach_.push_back(reach_.empty() ? b.range.to : std::max(reach_.back(), b.range.to));
    }
    const bool grows = lanes_ != static_cast<int>(free.size());
    lanes_ = static_cast<int>(free.size());
    if (grows) plot_.layOutAgain();
    plot_.replot(QCustomPlot::rpQueuedReplot);
}

int BracketLanes::height() const {
    return lanes_ == 0 ? 0 : lanes_ * kLaneHeight + 4;
}

int BracketLanes::laneOf(SpanId id) const {
    for (std::size_t i = 0; i < brackets_.size(); ++i)
        if (brackets_[i].id == id) return lane_[i];
    return -1;
}

double BracketLanes::laneTop(int lane) const {
    return height() - 2 - (lane + 1) * kLaneHeight;
}

std::size_t BracketLanes::firstIn(Instant from) const {
    return static_cast<std::size_t>(std::upper_bound(reach_.begin(), reach_.end(), from) - reach_.begin());
}

QRectF BracketLanes::rectOf(SpanId id) const {
    const TimeRange view = plot_.session().view().view();
    for (std::size_t i = firstIn(view.from); i < brackets_.size() && brackets_[i].range.from < view.to; ++i)
        if (brackets_[i].id == id && brackets_[i].range.to > view.from) {
            const double left = plot_.xOf(brackets_[i].range.from), right = plot_.xOf(brackets_[i].range.to);
            return {left, laneTop(lane_[i]), std::max(3.0, right - left), kLaneHeight - 1};
        }
    return {};
}

std::vector<SpanId> BracketLanes::within(TimeRange range) const {
    std::vector<SpanId> out;
    for (std::size_t i = firstIn(range.from); i < brackets_.size() && brackets_[i].range.from < range.to; ++i)
        if (brackets_[i].range.to > range.from) out.push_back(brackets_[i].id);
    return out;
}

std::optional<BracketLanes::Hit> BracketLanes::hitAt(const QPointF& at) const {
    const TimeRange view = plot_.session().view().view();
    std::optional<Hit> best;
    double least = kGrabEdge;
    for (std::size_t i = firstIn(view.from); i < brackets_.size() && brackets_[i].range.from < view.to; ++i) {
        const double top = laneTop(lane_[i]);
        if (at.y() < top || at.y() >= top + kLaneHeight) continue;
        const double left = plot_.xOf(brackets_[i].range.from),
                     right = std::max(left + 3, plot_.xOf(brackets_[i].range.to));
        const double away = at.x() < left ? left - at.x() : at.x() > right ? at.x() - right : 0;
        if (away > least || (best && away == least && !brackets_[i].chosen)) continue;
        least = away;
        // A bracket too narrow for three parts is moved as a whole.
        const bool wide = right - left > 4 * kGrabEdge;
        best = Hit{brackets_[i].id, wide && at.x() < left + kGrabEdge    ? Part::Start
                                    : wide && at.x() > right - kGrabEdge ? Part::End
                                                                         : Part::Whole};
    }
    return best;
}

bool BracketLanes::press(const QMouseEvent& e) {
    if (e.button() != Qt::LeftButton || e.pos().y() >= height()) return false;
    pressed_ = now_ = e.pos();
    moved_ = false;
    held_ = hitAt(e.pos());
    banding_ = !held_;
    if (e.type() == QEvent::MouseButtonDblClick && held_) emit doubleClicked(held_->id);
    return true;
}

bool BracketLanes::move(const QMouseEvent& e) {
    now_ = e.pos();
    if (!held_ && !banding_) {
        if (e.buttons() != Qt::NoButton || e.pos().y() >= height()) return false;
        const auto over = hitAt(e.pos());
        plot_.setCursor(!over                       ? Qt::ArrowCursor
                        : over->part == Part::Whole ? Qt::PointingHandCursor
                                                    : Qt::SizeHorCursor);
        return true;
    }
    moved_ = moved_ || (now_ - pressed_).manhattanLength() > 3;
    if (held_ && moved_)
        emit pulled(held_->id, held_->part, plot_.timeAt(now_.x()) - plot_.timeAt(pressed_.x()));
    plot_.replot(QCustomPlot::rpQueuedReplot);
    return true;
}

bool BracketLanes::release(const QMouseEvent& e) {
    if (!held_ && !banding_) return false;
    now_ = e.pos();
    const auto held = std::exchange(held_, std::nullopt);
    const bool banding = std::exchange(banding_, false);
    if (held && moved_) {
        emit dropped(held->id);
    } else if (banding && moved_) {
        const Instant a = plot_.timeAt(pressed_.x()), b = plot_.timeAt(now_.x());
        emit banded({std::min(a, b), std::max(a, b)}, e.modifiers());
    } else {
        emit clicked(held ? held->id : SpanId(), e.modifiers());
    }
    plot_.replot(QCustomPlot::rpQueuedReplot);
    return true;
}

void BracketLanes::draw(QCPPainter* p) const {
    if (lanes_ == 0 || plot_.paneCount() == 0) return;
    const QRect first = plot_.paneRect(0);
    p->save();
    drawShades(p);
    p->setClipRect(QRect(first.left(), 0, first.width(), height()));
    QFont small = uiFont();
    small.setPixelSize(11);
    p->setFont(small);
    const TimeRange view = plot_.session().view().view();
    std::map<std::pair<int, QRgb>, double> drawnTo;  // thousands of marks may lie in one pixel
    for (std::size_t i = firstIn(view.from); i < brackets_.size() && brackets_[i].range.from < view.to; ++i) {
        const Bracket& b = brackets_[i];
        if (b.range.to <= view.from) continue;
        double& to = drawnTo.try_emplace({lane_[i], b.colour.rgb()}, -1).first->second;
        const double right = std::max(plot_.xOf(b.range.from) + 1, plot_.xOf(b.range.to));
        if (right <= to + 0.5 && !b.chosen) continue;
        to = std::max(to, right);
        drawOne(p, b, lane_[i]);
    }
    if (banding_ && moved_) {
        const QColor accent = plot_.session().theme().accent;
        p->setPen(QPen(accent, 1));
        p->setBrush(faded(accent, 0.12));
        p->drawRect(
            QRectF(std::min(pressed_.x(), now_.x()), 1, std::abs(now_.x() - pressed_.x()), height() - 3));
    }
    p->restore();
}

/// A bracket: its name, under it a line with both ends turned down.
void BracketLanes::drawOne(QCPPainter* p, const Bracket& b, int lane) const {
    const Theme& theme = plot_.session().theme();
    const double left = plot_.xOf(b.range.from), right = std::max(left + 1.5, plot_.xOf(b.range.to));
    const double top = laneTop(lane), line = top + kLaneHeight - 5;
    if (b.chosen)
        p->fillRect(QRectF(left, top + 1, right - left, kLaneHeight - 2), faded(theme.accent, 0.16));
    if (right - left < 6) {
        p->fillRect(QRectF(left, line - 1, right - left, 4), b.colour);
        return;
    }
    p->setPen(QPen(b.colour, b.chosen ? 2.4 : 1.8, b.dashed ? Qt::DashLine : Qt::SolidLine, Qt::FlatCap));
    p->drawLine(QPointF(left, line), QPointF(right, line));
    p->setPen(QPen(b.colour, b.chosen ? 2.4 : 1.8));
    p->drawLine(QPointF(left + 1, line), QPointF(left + 1, line + 4));
    p->drawLine(QPointF(right - 1, line), QPointF(right - 1, line + 4));
    // The name stays in sight while any of its bracket is.
    const double at = std::max<double>(left, kPlotLeft),
                 room = std::min<double>(right, p->clipRegion().boundingRect().right()) - at - 6;
    if (room < kLeastName) return;
    p->setPen(b.chosen ? theme.accent : theme.ink);
    p->drawText(QRectF(at + 3, top, room + 2, kLaneHeight - 5), Qt::AlignLeft | Qt::AlignVCenter,
                p->fontMetrics().elidedText(b.text, Qt::ElideRight, static_cast<int>(room)));
}

/// In the panes a faint ground, only where the mark's tags are; the chosen ones with lines at both ends.
void BracketLanes::drawShades(QCPPainter* p) const {
    const TimeRange view = plot_.session().view().view();
    for (int pane = 0; pane < plot_.paneCount(); ++pane) {
        const QRect rect = plot_.paneRect(pane);
        std::set<TagId> tags;
        for (const TraceSpec& trace : plot_.paneSpec(pane).traces) tags.insert(trace.tag);
        if (plot_.paneSpec(pane).states) tags.insert(plot_.paneSpec(pane).states);
        p->setClipRect(rect);
        ShadeRow row(rect);
        for (std::size_t i = firstIn(view.from); i < brackets_.size() && brackets_[i].range.from < view.to;
             ++i) {
            const Bracket& b = brackets_[i];
            const bool here = b.tags.empty() || std::any_of(b.tags.begin(), b.tags.end(),
                                                            [&](TagId t) { return tags.contains(t); });
            if (!here || b.range.to <= view.from) continue;
            const double left = plot_.xOf(b.range.from), right = std::max(left + 1.5, plot_.xOf(b.range.to));
            row.add(left, right, b.colour, b.chosen ? 0.22 : 0.10);
            if (!b.chosen) continue;
            p->setPen(QPen(b.colour, 1.2));
            p->drawLine(QPointF(left, rect.top()), QPointF(left, rect.bottom()));
            p->drawLine(QPointF(right, rect.top()), QPointF(right, rect.bottom()));
        }
        row.draw(p);
    }
}

}  // namespace jacinth::app
