#include "app/plot/chart.h"

#include <cmath>

namespace jacinth::app {
namespace {

void widen(double& low, double& high, double least, double most, double room) {
    if (!(most > least)) {
        const double around = std::max(1e-9, std::abs(least) * 0.01);
        least -= around, most += around;
    }
    low = least - (most - least) * room;
    high = most + (most - least) * room;
}

}  // namespace

void ChartArea::setX(double least, double most, double room) {
    widen(left, right, least, most, room);
}
void ChartArea::setY(double least, double most, double room) {
    widen(bottom, top, least, most, room);
}

std::vector<double> roundTicks(double low, double high, int count) {
    std::vector<double> out;
    if (!(high > low) || count < 1) return out;
    const double rough = (high - low) / count, power = std::pow(10, std::floor(std::log10(rough)));
    double step = power;
    for (const double m : {1.0, 2.0, 5.0, 10.0})
        if (m * power >= rough * 0.999) {
            step = m * power;
            break;
        }
    const double first = std::ceil(low / step - 1e-9), last = std::floor(high / step + 1e-9);
    for (int i = 0; first + i <= last; ++i) out.push_back((first + i) * step);
    return out;
}

QString tickText(double value, double step) {
    constexpr double kLeastFixed = 1e-6;
    QString text = "0";
    if (step >= kLeastFixed) {
        text =
            QString::number(value, 'f', std::max(0, static_cast<int>(std::ceil(-std::log10(step) - 1e-9))));
    } else if (value != 0) {
        const double orders = std::floor(std::log10(std::abs(value))) - std::floor(std::log10(step));
        text = QString::number(value, 'e', std::clamp(static_cast<int>(orders), 0, 15));
    }
    return text.replace('-', QChar(0x2212));
}

void drawInstead(QPainter& p, const Theme& theme, const QRect& all, const QString& words) {
    p.setPen(theme.second);
    p.drawText(all.adjusted(40, 40, -40, -40), Qt::AlignCenter | Qt::TextWordWrap, words);
}

double drawWordsOnPlot(QPainter& p, const Theme& theme, const QRectF& line, const QString& words) {
    const double wide = p.fontMetrics().horizontalAdvance(words);
    p.fillRect(QRectF(line.left() - 2, line.top(), wide + 4, line.height()), faded(theme.plot, 0.82));
    p.drawText(line, Qt::AlignLeft | Qt::AlignVCenter, words);
    return wide;
}

QFont smallFont(int pixels) {
    QFont f = uiFont();
    f.setPixelSize(pixels);
    return f;
}

namespace {

std::vector<double> leftTicks(const ChartArea& area) {
    return roundTicks(area.bottom, area.top, std::max(2, static_cast<int>(area.rect.height() / 44)));
}

constexpr double kBesideTicks = 6;

}  // namespace

void ChartArea::fitLeft() {
    const QFontMetricsF metrics(smallFont());
    const auto ticks = leftTicks(*this);
    double wide = 0;
    for (const double t : ticks)
        wide = std::max(wide,
                        metrics.horizontalAdvance(tickText(t, ticks.size() > 1 ? ticks[1] - ticks[0] : 1)));
    rect.setLeft(std::max(rect.left(), wide + kBesideTicks + 2));
}

void drawAxes(QPainter& p, const Theme& theme, const ChartArea& area, Axes which,
              const QString& bottomTitle) {
    p.save();
    p.setRenderHint(QPainter::Antialiasing, false);
    p.fillRect(area.rect, theme.plot);
    p.setFont(smallFont());
    if (which != Axes::Left) {
        const auto ticks =
            roundTicks(area.left, area.right, std::max(2, static_cast<int>(area.rect.width() / 56)));
        for (const double t : ticks) {
            const double x = area.x(t);
            p.setPen(faded(theme.hairline, 0.55));
            p.drawLine(QPointF(x, area.rect.top()), QPointF(x, area.rect.bottom()));
            p.setPen(theme.second);
            p.drawText(QRectF(x - 40, area.rect.bottom() + 3, 80, 14), Qt::AlignHCenter | Qt::AlignTop,
                       tickText(t, ticks.size() > 1 ? ticks[1] - ticks[0] : 1));
        }
        p.setPen(theme.second);
        p.drawText(QRectF(area.rect.left(), area.rect.bottom() + 17, area.rect.width(), 14), Qt::AlignRight,
                   bottomTitle);
    }
    if (which != Axes::Bottom) {
        const auto ticks = leftTicks(area);
        for (const double t : ticks) {
            const double y = area.y(t);
            p.setPen(faded(theme.hairline, 0.55));
            p.drawLine(QPointF(area.rect.left(), y), QPointF(area.rect.right(), y));
            p.setPen(theme.second);
            const double top = std::max(y - 8, -1.0);  // not cut off at the edge of the widget
            p.drawText(QRectF(area.rect.left() - kBesideTicks - 90, top, 90, 16),
                       Qt::AlignRight | Qt::AlignVCenter,
                       tickText(t, ticks.size() > 1 ? ticks[1] - ticks[0] : 1));
        }
    }
    p.setPen(theme.hairline);
    p.drawRect(area.rect);
    p.restore();
}

QPolygonF stepsThrough(const std::vector<QPointF>& points) {
    QPolygonF out;
    for (const QPointF& p : points) {
        if (!out.isEmpty()) out << QPointF(p.x(), out.last().y());
        out << p;
    }
    return out;
}

QColor heatColour(const Theme& theme, double share) {
    static constexpr std::array<std::array<int, 3>, 6> kRamp{
        {{246, 240, 222}, {205, 222, 178}, {137, 190, 160}, {72, 146, 152}, {41, 95, 133}, {30, 44, 92}}};
    double s = std::clamp(share, 0.0, 1.0);
    if (theme.dark) s = 1 - s;
    const double place = s * static_cast<double>(kRamp.size() - 1);
    const auto i = std::min<std::size_t>(static_cast<std::size_t>(place), kRamp.size() - 2);
    const double part = place - static_cast<double>(i);
    const auto mix = [&](std::size_t c) {
        return static_cast<int>(std::lround(kRamp[i][c] + part * (kRamp[i + 1][c] - kRamp[i][c])));
    };
    return QColor(mix(0), mix(1), mix(2));
}

void drawHeatScale(QPainter& p, const Theme& theme, const QRectF& at, double low, double high,
                   const QString& unit) {
    p.save();
    p.setRenderHint(QPainter::Antialiasing, false);
    for (int x = 0; x < static_cast<int>(at.width()); ++x)
        p.fillRect(QRectF(at.left() + x, at.top(), 1, 8), heatColour(theme, x / at.width()));
    p.setPen(theme.hairline);
    p.drawRect(QRectF(at.left(), at.top(), at.width(), 8));
    p.setFont(smallFont());
    p.setPen(theme.second);
    const auto text = [&](double v) { return high > low ? tickText(v, (high - low) / 20) : valueText(v); };
    const QRectF words(at.left() - 70, at.top() - 4, 64, 16);
    p.drawText(words, Qt::AlignRight | Qt::AlignVCenter, text(low));
    p.drawText(QRectF(at.right() + 6, at.top() - 4, 110, 16), Qt::AlignLeft | Qt::AlignVCenter,
               text(high) + (unit.isEmpty() ? QString() : " " + unit));
    p.restore();
}

}  // namespace jacinth::app
