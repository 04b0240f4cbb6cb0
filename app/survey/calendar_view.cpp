#include "app/survey/calendar_view.h"

#include <QMouseEvent>

#include "app/base/save_picture.h"

namespace jacinth::app {

CalendarView::CalendarView(Session& session) : session_(session) {
    setObjectName("calendarView");
    givePictureMenu(this);
    setAccessibleName("By the calendar");
    setMouseTracking(true);
    setFixedHeight(190);
}

void CalendarView::show(Hours hours) {
    cells_.clear();
    days_.clear();
    unit_ = hours.unit;
    low_ = 1e300, high_ = -1e300;
    for (std::size_t i = 0; i < hours.value.size(); ++i) {
        const Instant day = session_.zone().startOfDay(hours.start[i]);
        if (days_.empty() || days_.back() != day) days_.push_back(day);
        if (!std::isfinite(hours.value[i])) continue;
        low_ = std::min(low_, hours.value[i]);
        high_ = std::max(high_, hours.value[i]);
        cells_.push_back({static_cast<int>(days_.size()) - 1, session_.zone().wall(hours.start[i]).hour,
                          hours.value[i], hours.start[i]});
    }
    if (!(high_ > low_)) high_ = low_ + 1;
    update();
}

QRectF CalendarView::area() const {
    return QRectF(54, 24, std::max(50, width() - 64), std::max(24, height() - 46));
}

void CalendarView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& theme = session_.theme();
    const QRectF r = area();
    QFont bold = uiFont();
    bold.setWeight(QFont::DemiBold);
    p.setFont(bold);
    p.setPen(theme.ink);
    p.drawText(QRectF(r.left(), 0, 400, 20), Qt::AlignLeft | Qt::AlignVCenter, "By the plant's calendar");
    if (cells_.empty()) {
        p.setFont(uiFont());
        p.setPen(theme.second);
        p.drawText(r, Qt::AlignCenter,
                   "No hours with values, or more than three years of them, are in view.");
        return;
    }
    drawHeatScale(p, theme, {r.right() - 220, 6, 100, 8}, low_, high_, unit_);
    const double wide = r.width() / static_cast<double>(days_.size()), tall = r.height() / 24;
    p.setRenderHint(QPainter::Antialiasing, false);
    for (const Cell& c : cells_)
        p.fillRect(QRectF(r.left() + c.day * wide, r.top() + c.hour * tall, wide + 0.6, tall + 0.6),
                   heatColour(theme, (c.value - low_) / (high_ - low_)));
    p.setPen(theme.hairline);
    p.drawRect(r);
    p.setFont(smallFont());
    p.setPen(theme.second);
    for (const int hour : {0, 6, 12, 18})
        p.drawText(QRectF(0, r.top() + hour * tall - 2, r.left() - 6, 14), Qt::AlignRight | Qt::AlignTop,
                   QString("%1:00").arg(hour, 2, 10, QChar('0')));
    const auto each = static_cast<std::size_t>(std::max(1.0, std::ceil(70 / wide)));
    for (std::size_t d = 0; d < days_.size(); d += each)
        p.drawText(QRectF(r.left() + static_cast<double>(d) * wide, r.bottom() + 3, 80, 14), Qt::AlignLeft,
                   QString::fromStdString(session_.zone().shortDate(days_[d])));
}

const CalendarView::Cell* CalendarView::cellAt(const QPoint& at) const {
    const QRectF r = area();
    if (!r.contains(at) || days_.empty()) return nullptr;
    const int day = static_cast<int>((at.x() - r.left()) / r.width() * static_cast<double>(days_.size()));
    const int hour = static_cast<int>((at.y() - r.top()) / r.height() * 24);
    for (const Cell& c : cells_)
        if (c.day == day && c.hour == hour) return &c;
    return nullptr;
}

void CalendarView::mouseMoveEvent(QMouseEvent* e) {
    const Cell* c = cellAt(e->pos());
    pointerText_ =
        c ? QString("%1 · mean of the hour %2")
                .arg(QString::fromStdString(session_.zone().text(c->start)), valueText(c->value, unit_))
          : QString();
    emit pointed();
}

void CalendarView::mousePressEvent(QMouseEvent* e) {
    if (const Cell* c = cellAt(e->pos())) emit picked(days_[static_cast<std::size_t>(c->day)]);
}

void CalendarView::leaveEvent(QEvent*) {
    pointerText_.clear();
    emit pointed();
}

}  // namespace jacinth::app
