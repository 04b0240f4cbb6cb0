#include "app/screen/week_bars.h"

#include <QPainter>

#include "app/plot/chart.h"

namespace jacinth::app {

void WeekBars::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& theme = session_.theme();
    p.setFont(smallFont(10));
    if (weeks_.empty()) return;
    double most = 1;
    for (const auto& [name, h] : weeks_) most = std::max(most, h);
    const double wide = static_cast<double>(width()) / static_cast<double>(weeks_.size());
    const double floor = height() - 16;
    double free = -1;
    for (std::size_t i = 0; i < weeks_.size(); ++i) {
        const double tall = weeks_[i].second / most * (floor - 16);
        const QRectF bar(static_cast<double>(i) * wide + 1, floor - tall, std::max(1.0, wide - 3), tall);
        p.fillRect(bar, weeks_[i].second > 0.6 * most ? theme.accent : faded(theme.accent, 0.35));
        p.setPen(theme.second);
        if (wide >= 18)
            p.drawText(QRectF(bar.left() - 4, bar.top() - 14, bar.width() + 8, 13), Qt::AlignCenter,
                       weeks_[i].second > 0 ? QString::number(weeks_[i].second, 'f', 0) : "");
        const double name = p.fontMetrics().horizontalAdvance(weeks_[i].first);
        const double left = bar.center().x() - name / 2;
        if (left < free) continue;
        p.drawText(QRectF(left - 4, floor + 2, name + 8, 13), Qt::AlignCenter, weeks_[i].first);
        free = left + name + 4;
    }
    p.fillRect(QRectF(0, floor, width(), 1), theme.hairline);
}

}  // namespace jacinth::app
