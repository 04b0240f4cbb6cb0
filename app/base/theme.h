// The look: warm paper and ink, one accent, light or dark.
#pragma once

#include <QColor>
#include <QFont>
#include <QIcon>
#include <QString>
#include <array>

namespace jacinth::app {

struct Theme {
    bool dark = false;
    QColor window, panel, plot, ink, second, hairline, accent, softAccent, goldFill, goldEdge, good;
    std::array<QColor, 6> traces;
};
Theme lightTheme();
Theme darkTheme();

/// Palette and style sheet of the whole application.
void applyTheme(const Theme& theme);
/// Inter where present, with figures that line up.
QFont uiFont();

/// One of our drawings, by name, in ink with one part in the accent.
QIcon drawnIcon(const QString& name, const QColor& ink, const QColor& accent);

/// A colour with another opacity.
inline QColor faded(QColor colour, double alpha) {
    colour.setAlphaF(static_cast<float>(alpha));
    return colour;
}

/// Of a trace that stands back: as logged beneath mended.
QColor quietTrace(const Theme& theme);
/// “+3.42 °C”: a value with its unit in sensible digits; missing as –.
QString valueText(double value, const QString& unit = {}, bool sign = false);
/// For the clipboard and files: the shortest text that reads back as the same number; empty where there is
/// none.
QString fullNumber(double value);

}  // namespace jacinth::app
