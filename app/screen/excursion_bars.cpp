#include "app/screen/excursion_bars.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

#include "app/base/save_picture.h"
#include "app/base/ui.h"
#include "app/plot/chart.h"

namespace jacinth::app {

ExcursionBars::ExcursionBars(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("excursionBars");
    givePictureMenu(this);
    setAccessibleName("Excursions counted");
    setMinimumHeight(150);
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void ExcursionBars::show(Picture picture) {
    picture_ = std::move(picture);
    update();
}

QRectF ExcursionBars::area() const {
    return QRectF(rect()).adjusted(42, 14, picture_.weeks ? -8 : -40, -22);
}

double ExcursionBars::most() const {
    double out = 0;
    for (const ExcursionCount& c : picture_.counts) out = std::max(out, figure(c));
    return out > 0 ? out * 1.12 : 1;
}

QRectF ExcursionBars::barRect(int bar) const {
    const QRectF a = area();
    const double wide = a.width() / static_cast<double>(std::max<std::size_t>(1, picture_.counts.size()));
    const double used = std::min(wide - 3, 64.0);
    const double tall = figure(picture_.counts[static_cast<std::size_t>(bar)]) / most() * a.height();
    return {a.left() + (bar + 0.5) * wide - used / 2, a.bottom() - tall, used, tall};
}

void ExcursionBars::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& theme = session_.theme();
    if (picture_.counts.empty())
        return drawInstead(p, theme, rect(), "Nothing to count: no excursions pass the filters above.");
    ChartArea chart;
    chart.rect = area();
    chart.bottom = 0;
    chart.top = most();
    chart.left = 0;
    chart.right = 1;
    drawAxes(p, theme, chart, Axes::Left);
    double free = -1;
    for (std::size_t i = 0; i < picture_.counts.size(); ++i) {
        const QRectF bar = barRect(static_cast<int>(i));
        p.fillRect(bar, faded(theme.accent, 0.55));
        const QString name = QString::fromStdString(picture_.counts[i].name);
        p.setFont(smallFont(10));
        p.setPen(theme.second);
        const double w = p.fontMetrics().horizontalAdvance(name);
        const double left = bar.center().x() - w / 2;
        if (left > free) {
            p.drawText(QPointF(left, height() - 8.0), name);
            free = left + w + 6;
        }
    }
    if (picture_.weeks)
        paintChange(p);
    else
        paintShares(p);
    p.setFont(smallFont(10));
    p.setPen(theme.second);
    p.drawText(QPointF(4, 10), picture_.hours ? "hours outside" : "excursions");
}

/// The moment where excursions became more or fewer, and its range.
void ExcursionBars::paintChange(QPainter& p) const {
    if (!picture_.change || picture_.change->change.probability > 0.05) return;
    const Theme& theme = session_.theme();
    const auto& weeks = picture_.counts;
    const QRectF a = area();
    const double wide = a.width() / static_cast<double>(weeks.size());
    const auto x = [&](Instant t) { return a.left() + toHours(t - weeks.front().from) / (24 * 7) * wide; };
    p.fillRect(
        QRectF(QPointF(x(picture_.change->from), a.top()), QPointF(x(picture_.change->to), a.bottom())),
        faded(theme.ink, 0.08));
    p.setPen(QPen(theme.ink, 1.5));
    p.drawLine(QPointF(x(picture_.change->at), a.top()), QPointF(x(picture_.change->at), a.bottom()));
    p.setFont(smallFont(10));
    p.drawText(QPointF(std::min(x(picture_.change->at) + 4, a.right() - 40), a.top() + 9), "change");
}

/// The share of all that the bars up to here make up.
void ExcursionBars::paintShares(QPainter& p) const {
    const Theme& theme = session_.theme();
    const QRectF a = area();
    double total = 0, so = 0;
    for (const ExcursionCount& c : picture_.counts) total += figure(c);
    if (total <= 0) return;
    QPolygonF line;
    for (std::size_t i = 0; i < picture_.counts.size(); ++i) {
        so += figure(picture_.counts[i]);
        line << QPointF(barRect(static_cast<int>(i)).center().x(), a.bottom() - so / total * a.height());
    }
    p.setPen(QPen(theme.ink, 1.4));
    p.drawPolyline(line);
    p.setPen(Qt::NoPen);
    p.setBrush(theme.ink);
    for (const QPointF& at : line) p.drawEllipse(at, 2.2, 2.2);
    p.setBrush(Qt::NoBrush);
    p.setFont(smallFont(10));
    p.setPen(theme.second);
    for (const int share : {0, 50, 100})
        p.drawText(QRectF(a.right() + 4, a.bottom() - share / 100.0 * a.height() - 7, 36, 14),
                   Qt::AlignLeft | Qt::AlignVCenter, QString("%1 %").arg(share));
}

void ExcursionBars::mousePressEvent(QMouseEvent* e) {
    const double wide =
        area().width() / static_cast<double>(std::max<std::size_t>(1, picture_.counts.size()));
    const int bar = static_cast<int>((e->position().x() - area().left()) / wide);
    if (e->position().x() >= area().left() && bar < static_cast<int>(picture_.counts.size()))
        emit barChosen(bar);
}

bool ExcursionBars::event(QEvent* e) {
    if (e->type() != QEvent::ToolTip || picture_.counts.empty()) return QWidget::event(e);
    auto* help = static_cast<QHelpEvent*>(e);
    const double wide = area().width() / static_cast<double>(picture_.counts.size());
    const int bar = static_cast<int>((help->pos().x() - area().left()) / wide);
    if (bar < 0 || bar >= static_cast<int>(picture_.counts.size())) return QToolTip::hideText(), true;
    const ExcursionCount& c = picture_.counts[static_cast<std::size_t>(bar)];
    QToolTip::showText(help->globalPos(),
                       plainTip(QString("%1\n%2 excursions, %3 h outside\nin %4 of %5 runs")
                                    .arg(QString::fromStdString(c.name))
                                    .arg(c.count)
                                    .arg(c.hours, 0, 'f', 1)
                                    .arg(c.runs)
                                    .arg(c.allRuns)),
                       this);
    return true;
}

}  // namespace jacinth::app
