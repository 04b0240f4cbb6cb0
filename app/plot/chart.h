// What charts that are not over time share: an area with two straight axes, their ticks, a colour map for
// heat.
#pragma once

#include <QPainter>
#include <functional>

#include "app/base/theme.h"

namespace jacinth::app {

/// A rectangle on screen and the values at its edges.
struct ChartArea {
    QRectF rect;
    double left = 0, right = 1, bottom = 0, top = 1;  ///< values
    double x(double v) const { return rect.left() + (v - left) / (right - left) * rect.width(); }
    double y(double v) const { return rect.bottom() - (v - bottom) / (top - bottom) * rect.height(); }
    double valueAtX(double px) const { return left + (px - rect.left()) / rect.width() * (right - left); }
    double valueAtY(double py) const {
        return bottom + (rect.bottom() - py) / rect.height() * (top - bottom);
    }
    /// Widens an empty range so that there is something to divide by, and leaves room at both ends.
    void setX(double least, double most, double room = 0.02);
    void setY(double least, double most, double room = 0.05);
    /// Moves the left edge so that the longest number beside it has room from the left end of the widget.
    void fitLeft();
};

/// Round values in [low, high], about `count`.
std::vector<double> roundTicks(double low, double high, int count);
/// As few digits as distinguish neighbours of one step.
QString tickText(double value, double step);

enum class Axes { Both, Bottom, Left };
/// Background, hairline grid, tick labels outside: below, and on the left. Titles in the second ink.
void drawAxes(QPainter& p, const Theme& theme, const ChartArea& area, Axes which = Axes::Both,
              const QString& bottomTitle = {});

/// Light to dark with steadily falling lightness, paper over green to deep blue (dark theme: the other way),
/// so that it reads the same to people who do not see red and green apart. `share` from 0 to 1.
QColor heatColour(const Theme& theme, double share);
/// The colours with their values, in a row of 8 px height.
void drawHeatScale(QPainter& p, const Theme& theme, const QRectF& at, double low, double high,
                   const QString& unit);

/// From each point on at its height until the next.
QPolygonF stepsThrough(const std::vector<QPointF>& points);

/// What belongs here and how to get it, where there is nothing to draw.
void drawInstead(QPainter& p, const Theme& theme, const QRect& all, const QString& words);

/// Words with the plot's colour behind them, so that lines do not run through the letters. From the left, on
/// `line`; returns how far they reach.
double drawWordsOnPlot(QPainter& p, const Theme& theme, const QRectF& line, const QString& words);

/// A small font for ticks and notes.
QFont smallFont(int pixels = 11);

}  // namespace jacinth::app
