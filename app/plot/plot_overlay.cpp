#include "app/plot/plot_overlay.h"

#include <set>

#include "app/base/gem.h"
#include "app/plot/bracket_lanes.h"
#include "app/plot/trust_bands.h"
#include "store/judgement.h"

namespace jacinth::app {

QRect PlotOverlay::whole() const {
    if (plot_.panes_.empty()) return plot_.rect();
    return plot_.panes_.front().rect->rect().united(plot_.panes_.back().rect->rect());
}

int PlotOverlay::textBottom() const {
    for (auto pane = plot_.panes_.rbegin(); pane != plot_.panes_.rend(); ++pane)
        if (!pane->low()) return pane->rect->bottom();
    return whole().bottom();
}

void PlotOverlay::draw(QCPPainter* p) {
    p->setFont(uiFont());
    if (plot_.panes_.empty()) return drawEmpty(p);
    drawMarks(p);
    if (plot_.brackets_) plot_.brackets_->draw(p);
    drawMended(p);
    drawTrust(p);
    drawLanes(p);
    drawPoints(p);
    drawTitles(p);
    drawHandles(p);
    drawCursors(p);
    drawDrag(p);
}

void PlotOverlay::drawEmpty(QCPPainter* p) const {
    p->setPen(plot_.session_.theme().second);
    p->drawText(plot_.rect().adjusted(40, 40, -40, -40), Qt::AlignCenter | Qt::TextWordWrap,
                plot_.emptyText_);
}

void PlotOverlay::drawMarks(QCPPainter* p) const {
    const QRect all = whole();
    p->save();
    p->setClipRect(all);
    if (plot_.shade_)
        p->fillRect(
            QRectF(plot_.xOf(plot_.shade_->from), all.top(),
                   plot_.xOf(plot_.shade_->to) - plot_.xOf(plot_.shade_->from), plot_.paneRect(0).height()),
            faded(plot_.session_.theme().accent, 0.08));
    fillMarks(p);
    for (const SpanMark& m : plot_.marks_) {
        const double left = plot_.xOf(m.range.from), right = std::max(left + 1.5, plot_.xOf(m.range.to));
        if (right < all.left() || left > all.right()) continue;
        if (m.wedge) {
            p->setPen(QPen(m.colour, 1.2));
            p->drawLine(QPointF(left, all.top()), QPointF(left, all.bottom()));
            const std::array<QPointF, 3> wedge{QPointF(left - 6, all.top()), QPointF(left + 6, all.top()),
                                               QPointF(left, all.top() + 10)};
            p->setBrush(m.colour);
            p->drawPolygon(wedge.data(), 3);
            p->setBrush(Qt::NoBrush);
            continue;
        }
        if (m.line) {
            p->setPen(QPen(m.colour, m.strong ? 1.8 : 1.1, m.strong ? Qt::SolidLine : Qt::DashLine));
            p->drawLine(QPointF(left, all.top()), QPointF(left, all.bottom()));
            continue;
        }
        p->fillRect(QRectF(left, all.top(), right - left, 3), m.colour);
        if (m.strong) {
            p->fillRect(QRectF(left, all.top(), right - left, all.height()), faded(m.colour, 0.22));
            p->setPen(QPen(m.colour, 1.4));
            p->drawLine(QPointF(left, all.top()), QPointF(left, all.bottom()));
            p->drawLine(QPointF(right, all.top()), QPointF(right, all.bottom()));
        }
    }
    nameMarks(p);
    p->restore();
}

/// Where marks of one colour lie over each other the ground is tinted once, or traces would drown in it.
void PlotOverlay::fillMarks(QCPPainter* p) const {
    const QRect all = whole();
    std::map<QRgb, std::vector<TimeRange>> byColour;
    for (const SpanMark& m : plot_.marks_)
        if (!m.wedge && !m.strong && !m.line) byColour[m.colour.rgb()].push_back(m.range);
    for (auto& [colour, ranges] : byColour)
        for (const TimeRange& r : joined(std::move(ranges))) {
            const double left = plot_.xOf(r.from), right = std::max(left + 1.5, plot_.xOf(r.to));
            p->fillRect(QRectF(left, all.top(), right - left, all.height()), faded(QColor(colour), 0.12));
        }
}

/// Names stand in rows from the bottom up, each where it covers no other; those without room are left out.
void PlotOverlay::nameMarks(QCPPainter* p) const {
    const QRect all = whole();
    std::array<std::vector<QRectF>, 4> rows;
    for (const SpanMark& m : plot_.marks_) {
        if (m.wedge || m.text.isEmpty()) continue;
        const double at = plot_.xOf(m.range.from), from = std::max<double>(at, all.left()),
                     room = (m.line ? all.right() : std::min<double>(plot_.xOf(m.range.to), all.right())) -
                            from - 8;
        if (room < 22 || (m.line && at < all.left())) continue;
        const QString words = p->fontMetrics().elidedText(m.text, Qt::ElideRight, static_cast<int>(room));
        for (std::size_t row = 0; row < rows.size(); ++row) {
            const QRectF box(from + 5, textBottom() - 18 - 16 * static_cast<double>(row),
                             p->fontMetrics().horizontalAdvance(words) + 2, 16);
            if (std::any_of(rows[row].begin(), rows[row].end(),
                            [&](const QRectF& other) { return other.intersects(box.adjusted(-4, 0, 4, 0)); }))
                continue;
            rows[row].push_back(box);
            p->setPen(m.colour);
            p->drawText(box, Qt::AlignLeft | Qt::AlignVCenter, words);
            break;
        }
    }
}

void PlotOverlay::drawPoints(QCPPainter* p) const {
    const Theme& theme = plot_.session_.theme();
    for (std::size_t i = 0; i < plot_.panes_.size(); ++i) {
        p->save();
        p->setClipRect(plot_.paneRect(static_cast<int>(i)));
        for (const PointMark& m : plot_.panes_[i].points) {
            const QPointF at(plot_.xOf(m.time), plot_.yOf(static_cast<int>(i), m.value));
            if (m.look == PointLook::Lozenge) {
                drawGem(p, at, 6, 0, theme.ink, theme.ink, theme.plot);
            } else if (m.look == PointLook::Dot) {
                p->setPen(QPen(theme.plot, 1));
                p->setBrush(theme.ink);
                p->drawEllipse(at, 3.2, 3.2);
            } else if (m.look == PointLook::Hollow) {
                p->setPen(QPen(theme.second, 1.4));
                p->setBrush(theme.plot);
                p->drawEllipse(at, 3.6, 3.6);
            } else {
                p->setPen(QPen(theme.accent, 1.6));
                p->drawLine(at + QPointF(0, -9), at + QPointF(0, -2));
            }
        }
        p->restore();
    }
}

void PlotOverlay::drawTitles(QCPPainter* p) const {
    const Theme& theme = plot_.session_.theme();
    QFont bold = uiFont();
    bold.setWeight(QFont::DemiBold);
    for (const auto& pane : plot_.panes_) {
        const QRect r = pane.rect->rect();
        if (pane.bands) {
            const Tag* tag = plot_.session_.tag(pane.spec.states);
            p->setPen(theme.second);
            QFont small = uiFont();
            small.setPixelSize(11);
            p->setFont(small);
            if (tag) {
                const QString name = QString::fromStdString(tag->name);
                p->drawText(QRect(0, r.top(), r.left() - 6, r.height()), Qt::AlignRight | Qt::AlignVCenter,
                            p->fontMetrics().elidedText(name.section(' ', -1), Qt::ElideRight, r.left() - 6));
            }
            continue;
        }
        if (pane.spec.lane) continue;
        double x = r.left() + 8;
        const double y = r.top() + 4;
        const auto write = [&](const QString& text, const QColor& colour, const QFont& font) {
            p->setFont(font);
            const double wide = p->fontMetrics().horizontalAdvance(text);
            p->fillRect(QRectF(x - 2, y, wide + 4, 16), faded(theme.plot, 0.82));
            p->setPen(colour);
            p->drawText(QPointF(x, y + 12), text);
            x += wide;
        };
        if (!pane.spec.title.isEmpty()) {
            write(pane.spec.title, theme.second, uiFont());
            x += 14;
        }
        QString unit;
        for (const TraceSpec& t : pane.spec.traces) {
            if (!t.inLegend) continue;
            write(t.name, t.colour, bold);
            const double v = plot_.pointer_ && t.at ? t.at(*plot_.pointer_) : std::nan("");
            if (std::isfinite(v)) write(" " + valueText(v), theme.ink, uiFont());
            x += 12;
            unit = t.unit;
        }
        if (!unit.isEmpty() && pane.spec.title.isEmpty()) write(unit, theme.second, uiFont());
    }
}

void PlotOverlay::drawHandles(QCPPainter* p) const {
    const Theme& theme = plot_.session_.theme();
    QFont bold = uiFont();
    bold.setWeight(QFont::DemiBold);
    p->setFont(bold);
    std::array<double, 2> taken{-1e9, -1e9};  // right ends of the pills in two rows
    std::vector<Handle> handles = plot_.handles_;
    std::stable_sort(handles.begin(), handles.end(),
                     [](const Handle& a, const Handle& b) { return a.time < b.time; });
    for (const Handle& h : handles) {
        if (h.pane >= plot_.paneCount()) continue;
        const QRect r = plot_.paneRect(h.pane);
        const double x = plot_.xOf(h.time);
        if (x < r.left() - 1 || x > r.right() + 1) continue;
        p->setPen(QPen(theme.accent, 1.6));
        p->drawLine(QPointF(x, r.top()), QPointF(x, r.bottom()));
        p->setBrush(theme.accent);
        p->setPen(Qt::NoPen);
        const double grip = std::clamp<double>(h.grip ? plot_.yOf(h.pane, *h.grip) : r.center().y(),
                                               r.top() + 10, r.bottom() - 10);
        p->drawRoundedRect(QRectF(x - 5, grip - 9, 10, 18), 3, 3);
        if (h.id == plot_.heldHandle_) {  // arrows move it
            p->setPen(QPen(theme.accent, 1.4));
            p->setBrush(Qt::NoBrush);
            p->drawRoundedRect(QRectF(x - 8.5, grip - 12.5, 17, 25), 5, 5);
            p->setPen(Qt::NoPen);
            p->setBrush(theme.accent);
        }
        if (h.pill.isEmpty()) continue;
        const double wide = p->fontMetrics().horizontalAdvance(h.pill) + 16;
        const double left = std::clamp<double>(x - wide / 2, r.left(), r.right() - wide);
        const auto row =
            std::find_if(taken.begin(), taken.end(), [&](double right) { return left >= right; });
        if (row == taken.end()) continue;  // among many knots: the table has their amounts
        *row = left + wide;
        const double top = r.top() + (row == taken.begin() ? 22 : 44);
        p->drawRoundedRect(QRectF(left, top, wide, 18), 9, 9);
        p->setPen(theme.dark ? theme.plot : QColor(Qt::white));
        p->drawText(QRectF(left, top, wide, 18), Qt::AlignCenter, h.pill);
    }
    p->setBrush(Qt::NoBrush);
}

void PlotOverlay::drawCursors(QCPPainter* p) const {
    const Theme& theme = plot_.session_.theme();
    const QRect all = whole();
    for (const int c : {0, 1}) {
        const auto t = plot_.session_.view().cursor(c);
        if (!t) continue;
        const double x = plot_.xOf(*t);
        if (x < all.left() || x > all.right()) continue;
        p->setPen(QPen(theme.accent, 1.4, c ? Qt::DashLine : Qt::SolidLine));
        p->drawLine(QPointF(x, all.top()), QPointF(x, all.bottom()));
        p->setFont(uiFont());
        p->setPen(theme.accent);
        // The first's name stands left of its line where the second is close behind.
        const auto other = plot_.session_.view().cursor(1 - c);
        const bool left = other && *other > *t && plot_.xOf(*other) - x < 30;
        p->drawText(QPointF(left ? x - 22 : x + 4, textBottom() - 5), c ? "2nd" : "1st");
    }
    drawCursorDistance(p);
    if (plot_.pointer_ && plot_.drag_ == TimePlot::Drag::None) {
        const double x = plot_.xOf(*plot_.pointer_);
        if (x < all.left() || x > all.right()) return;
        p->setPen(QPen(faded(theme.second, 0.7), 1, Qt::DotLine));
        p->drawLine(QPointF(x, all.top()), QPointF(x, all.bottom()));
    }
}

/// How far the two cursors are apart, between them at the bottom.
void PlotOverlay::drawCursorDistance(QCPPainter* p) const {
    const auto a = plot_.session_.view().cursor(0), b = plot_.session_.view().cursor(1);
    if (!a || !b || *a == *b) return;
    const QRect all = whole();
    const double left = std::max<double>(all.left(), plot_.xOf(std::min(*a, *b))),
                 right = std::min<double>(all.right(), plot_.xOf(std::max(*a, *b)));
    const QString words = QString::fromStdString(sayDuration(std::chrono::abs(*b - *a)));
    p->setFont(uiFont());
    if (right - left < p->fontMetrics().horizontalAdvance(words) + 12) return;
    const double y = textBottom() - 9;
    p->setPen(QPen(plot_.session_.theme().accent, 1));
    const double middle = (left + right) / 2, half = p->fontMetrics().horizontalAdvance(words) / 2.0 + 5;
    p->drawLine(QPointF(left + 30, y), QPointF(std::max(left + 30, middle - half), y));
    p->drawLine(QPointF(std::min(right - 4, middle + half), y), QPointF(right - 4, y));
    p->drawText(QRectF(left, y - 9, right - left, 18), Qt::AlignCenter, words);
}

/// Stretches that are mended have a dotted line under the trace, in its colour: colour alone would not say
/// it.
void PlotOverlay::drawMended(QCPPainter* p) const {
    if (plot_.session_.view().which() == Which::AsLogged) return;
    const Study& study = plot_.session_.study();
    for (int i = 0; i < plot_.paneCount(); ++i) {
        const TimePlot::Pane& pane = plot_.panes_[static_cast<std::size_t>(i)];
        if (pane.spec.folded || pane.low()) continue;
        const QRect rect = plot_.paneRect(i);
        int row = 0;
        std::set<TagId> seen;  // Mend draws one tag several times
        for (const TraceSpec& trace : pane.spec.traces) {
            if (!trace.tag || !trace.inLegend || !seen.insert(trace.tag).second) continue;
            bool any = false;
            for (const Fix& f : study.judgement().fixes(trace.tag)) {
                const double from = std::max<double>(rect.left(), plot_.xOf(f.from)),
                             to = std::min<double>(rect.right(), plot_.xOf(f.to));
                if (!f.on || to < rect.left() || from > rect.right()) continue;
                p->setPen(QPen(trace.colour, 2.4, Qt::DotLine, Qt::RoundCap));
                const double y = rect.bottom() - 3 - 5 * row;
                p->drawLine(QPointF(from, y), QPointF(std::max(to, from + 3), y));
                any = true;
            }
            row += any;
        }
    }
}

/// Above the dotted lines of mended stretches, two bands for each tag of the pane.
void PlotOverlay::drawTrust(QCPPainter* p) const {
    for (int i = 0; i < plot_.paneCount(); ++i) {
        const TimePlot::Pane& pane = plot_.panes_[static_cast<std::size_t>(i)];
        if (pane.spec.folded || pane.low()) continue;
        const QRect rect = plot_.paneRect(i);
        std::set<TagId> seen;
        int bottom = rect.bottom() - 7;
        for (const TraceSpec& trace : pane.spec.traces)
            if (trace.tag && trace.inLegend && seen.insert(trace.tag).second &&
                drawTrustBands(*p, plot_.session_, trace.tag, rect, bottom,
                               [this](Instant t) { return plot_.xOf(t); }))
                bottom -= kTrustBandsHeight + 1;
    }
}

/// Spans of a track as bars, under its name: wide enough to be seen and hit however short they are.
void PlotOverlay::drawLanes(QCPPainter* p) const {
    const Theme& theme = plot_.session_.theme();
    for (const TimePlot::Pane& pane : plot_.panes_) {
        if (!pane.spec.lane) continue;
        const QRect r = pane.rect->rect();
        p->save();
        p->setClipRect(r);
        p->setPen(QPen(theme.hairline, 1));
        p->drawLine(r.topLeft(), r.topRight());
        double drawnTo = -1;
        for (const TimeRange& bar : pane.bars) {
            const double left = plot_.xOf(bar.from), right = std::max(left + 2, plot_.xOf(bar.to));
            if (right <= drawnTo) continue;  // thousands of peaks may lie in one pixel
            p->fillRect(QRectF(left, r.bottom() - 6, right - left, 6), faded(theme.traces[4], 0.8));
            drawnTo = std::max(drawnTo, right);
        }
        QFont small = uiFont();
        small.setPixelSize(11);
        p->setFont(small);
        p->setPen(theme.second);
        p->drawText(QRectF(r.left() + 2, r.top(), r.width(), r.height() - 7),
                    Qt::AlignLeft | Qt::AlignVCenter, pane.spec.title);
        p->restore();
    }
}

void PlotOverlay::drawDrag(QCPPainter* p) const {
    if (plot_.drag_ != TimePlot::Drag::Box && plot_.drag_ != TimePlot::Drag::Mark) return;
    const QRect all = whole();
    QRectF box = QRectF(plot_.pressed_, plot_.now_).normalized();
    if (plot_.drag_ == TimePlot::Drag::Mark) box = QRectF(box.left(), all.top(), box.width(), all.height());
    p->setPen(QPen(plot_.session_.theme().accent, 1));
    p->setBrush(faded(plot_.session_.theme().accent, 0.12));
    p->drawRect(box);
    p->setBrush(Qt::NoBrush);
}

}  // namespace jacinth::app
