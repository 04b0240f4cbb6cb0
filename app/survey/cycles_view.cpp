#include "app/survey/cycles_view.h"

#include <QMouseEvent>

#include "app/base/save_picture.h"

namespace jacinth::app {

CyclesView::CyclesView(Session& session) : session_(session) {
    setObjectName("cyclesView");
    givePictureMenu(this);
    setAccessibleName("Cycles");
    setMouseTracking(true);
    setMinimumSize(420, 240);
}

void CyclesView::show(std::shared_ptr<const CyclePicture> picture) {
    picture_ = std::move(picture);
    chosen_ = -1;
    instead_.clear();
    double days = 0, low = 1e300, high = -1e300;
    for (const Cycle& c : picture_->cycles)
        for (std::size_t i = 0; i < c.days.x.size(); ++i) {
            days = std::max(days, c.days.x[i]);
            low = std::min(low, c.days.y[i]);
            high = std::max(high, c.days.y[i]);
        }
    if (low > high) return say("No figures lie between these: choose a longer step or another condition.");
    area_.setX(0, days, 0);
    area_.right = days * 1.02;
    area_.setY(low, high);
    layOut();
    update();
}

void CyclesView::say(const QString& instead) {
    picture_.reset();
    instead_ = instead;
    update();
}

void CyclesView::choose(int cycle) {
    chosen_ = cycle;
    update();
}

void CyclesView::layOut() {
    area_.rect = QRectF(64, 14, std::max(80, width() - 78), std::max(60, height() - 60));
}

QColor CyclesView::colourOf(std::size_t cycle) const {
    return session_.theme().traces[cycle % session_.theme().traces.size()];
}

QPointF CyclesView::pointAt(int cycle, int figure) const {
    const Stretch& s = picture_->cycles[static_cast<std::size_t>(cycle)].days;
    return {area_.x(s.x[static_cast<std::size_t>(figure)]), area_.y(s.y[static_cast<std::size_t>(figure)])};
}

void CyclesView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& theme = session_.theme();
    if (!picture_) {
        drawInstead(p, theme, rect(), instead_);
        return;
    }
    drawAxes(p, theme, area_, Axes::Both, "days since the stop before");
    p.setRenderHint(QPainter::Antialiasing);
    p.setClipRect(area_.rect);
    for (std::size_t c = 0; c < picture_->cycles.size(); ++c) {
        const bool other = chosen_ >= 0 && static_cast<int>(c) != chosen_;
        const QColor ink = faded(colourOf(c), other ? 0.25 : 1);
        const Stretch& s = picture_->cycles[c].days;
        for (std::size_t i = 0; i < s.x.size(); ++i) {
            const QPointF at(area_.x(s.x[i]), area_.y(s.y[i]));
            p.setPen(QPen(ink, 1.4));
            p.setBrush(picture_->cycles[c].open ? QBrush(theme.plot) : QBrush(ink));
            // Shapes besides colours, so that cycles can be distinguished without them.
            if (c % 3 == 0)
                p.drawEllipse(at, 3.2, 3.2);
            else if (c % 3 == 1)
                p.drawRect(QRectF(at.x() - 3, at.y() - 3, 6, 6));
            else
                p.drawPolygon(QPolygonF{
                    {at.x(), at.y() - 3.8}, {at.x() + 3.6, at.y() + 3}, {at.x() - 3.6, at.y() + 3}});
        }
        if (!picture_->slopes || picture_->slopes->own[c].n == 0) continue;
        const StretchLine& line = picture_->slopes->own[c];
        const double end = s.x.back();
        p.setPen(QPen(ink, 2));
        p.drawLine(QPointF(area_.x(0), area_.y(line.intercept)),
                   QPointF(area_.x(end), area_.y(line.intercept + line.slope * end)));
    }
    p.setClipping(false);
    p.setFont(smallFont());
    p.setPen(theme.second);
    p.drawText(
        QRectF(area_.rect.left() + 8, area_.rect.top() + 4, area_.rect.width() - 16, 16), Qt::AlignRight,
        QString::fromStdString(picture_->unit) + " · open marks: the cycle began or ends with the record");
}

std::optional<std::pair<int, int>> CyclesView::nearest(const QPoint& at) const {
    std::optional<std::pair<int, int>> out;
    double best = 12;
    if (!picture_) return out;
    for (std::size_t c = 0; c < picture_->cycles.size(); ++c)
        for (std::size_t i = 0; i < picture_->cycles[c].days.x.size(); ++i) {
            const QPointF d = pointAt(static_cast<int>(c), static_cast<int>(i)) - at;
            const double away = std::hypot(d.x(), d.y());
            if (away < best) best = away, out = {static_cast<int>(c), static_cast<int>(i)};
        }
    return out;
}

void CyclesView::mouseMoveEvent(QMouseEvent* e) {
    pointerText_.clear();
    if (const auto hit = nearest(e->pos())) {
        const Cycle& c = picture_->cycles[static_cast<std::size_t>(hit->first)];
        const auto i = static_cast<std::size_t>(hit->second);
        pointerText_ = QString("cycle %1 · %2 · %3 d after the stop · %4 · double-click goes there")
                           .arg(hit->first + 1)
                           .arg(QString::fromStdString(session_.zone().shortText(c.at[i])))
                           .arg(c.days.x[i], 0, 'f', 1)
                           .arg(valueText(c.days.y[i], QString::fromStdString(picture_->unit)));
    }
    emit pointed();
}

void CyclesView::mousePressEvent(QMouseEvent* e) {
    const auto hit = nearest(e->pos());
    choose(hit ? hit->first : -1);
    emit chosen(chosen_);
}

void CyclesView::mouseDoubleClickEvent(QMouseEvent* e) {
    if (const auto hit = nearest(e->pos()))
        emit opened(
            picture_->cycles[static_cast<std::size_t>(hit->first)].at[static_cast<std::size_t>(hit->second)]);
}

}  // namespace jacinth::app
