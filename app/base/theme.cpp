#include "app/base/theme.h"

#include <QApplication>
#include <QFile>
#include <QFontDatabase>
#include <QLocale>
#include <QPainter>
#include <QPalette>
#include <QStyleFactory>
#include <QSvgRenderer>
#include <cmath>

#include "app/base/tables.h"

// The drawings live in a static library: without this call the linker would leave them out.
static void loadDrawings() {
    Q_INIT_RESOURCE(icons);
}

namespace jacinth::app {

Theme lightTheme() {
    Theme t;
    t.window = "#F4F1EC", t.panel = "#FBFAF7", t.plot = "#FFFFFF";
    t.ink = "#23262D", t.second = "#6B6F76", t.hairline = "#D9D4CB";
    t.accent = "#B93A14", t.softAccent = "#F6DDD2", t.goldFill = "#F2C14E", t.goldEdge = "#A87B08",
    t.good = "#0E7A67";
    t.traces = {QColor("#1F5FA8"), QColor("#0E8A76"), QColor("#8A4FA3"),
                QColor("#B07A00"), QColor("#4A5A6A"), QColor("#C4427A")};
    return t;
}

Theme darkTheme() {
    Theme t;
    t.dark = true;
    t.window = "#1D1C1A", t.panel = "#262421", t.plot = "#191816";
    t.ink = "#ECE8E1", t.second = "#A39E95", t.hairline = "#3A3733";
    t.accent = "#E5663B", t.softAccent = "#47281C", t.goldFill = "#B58A1E", t.goldEdge = "#E3B546",
    t.good = "#4FC0A8";
    t.traces = {QColor("#6FA8E8"), QColor("#46BFA9"), QColor("#C08FD6"),
                QColor("#DBAA3C"), QColor("#9DB0C2"), QColor("#E883AE")};
    return t;
}

QFont uiFont() {
    // Asked for with every title drawn: looking a family up costs milliseconds.
    static const bool inter = QFontDatabase::hasFamily("Inter");
    QFont font = QApplication::font();
    if (inter) font.setFamily("Inter");
    font.setPixelSize(12);
    return font;
}

namespace {
QString styleSheet(const Theme& t) {
    QFile file(":/style/application.qss");
    QString css = file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()) : QString();
    const QColor onAccent = t.dark ? QColor("#1D1C1A") : QColor("#FFFFFF");
    const std::array<std::pair<const char*, QColor>, 11> roles{{{"$window", t.window},
                                                                {"$panel", t.panel},
                                                                {"$plot", t.plot},
                                                                {"$ink", t.ink},
                                                                {"$second", t.second},
                                                                {"$hairline", t.hairline},
                                                                {"$accent", t.accent},
                                                                {"$soft", t.softAccent},
                                                                {"$good", t.good},
                                                                {"$onaccent", onAccent},
                                                                {"$gold", t.goldEdge}}};
    for (const auto& [name, colour] : roles) css.replace(name, colour.name());
    return css;
}
}  // namespace

void applyTheme(const Theme& t) {
    loadDrawings();
    QApplication::setStyle(QStyleFactory::create("Fusion"));
    QPalette p;
    p.setColor(QPalette::Window, t.window);
    p.setColor(QPalette::Base, t.plot);
    p.setColor(QPalette::AlternateBase, t.panel);
    p.setColor(QPalette::Button, t.panel);
    for (const auto role :
         {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText})
        p.setColor(role, t.ink);
    p.setColor(QPalette::ToolTipBase, t.panel);
    p.setColor(QPalette::PlaceholderText, t.second);
    p.setColor(QPalette::Highlight, t.softAccent);
    p.setColor(QPalette::HighlightedText, t.ink);
    p.setColor(QPalette::Link, t.accent);
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
        p.setColor(QPalette::Disabled, role, t.second);
    QApplication::setPalette(p);
    QApplication::setFont(uiFont());
    qApp->setStyleSheet(styleSheet(t));
}

QIcon drawnIcon(const QString& name, const QColor& ink, const QColor& accent) {
    QFile file(":/icons/" + name + ".svg");
    if (!file.open(QIODevice::ReadOnly)) return {};
    QByteArray svg = file.readAll();
    svg.replace("#ink", ink.name().toUtf8());
    svg.replace("#accent", accent.name().toUtf8());
    QSvgRenderer renderer(svg);
    QIcon icon;
    for (const int size : {24, 48, 96}) {
        QPixmap pixmap(size, size);
        pixmap.fill(Qt::transparent);
        QPainter painter(&pixmap);
        renderer.render(&painter);
        painter.end();
        icon.addPixmap(pixmap);
    }
    return icon;
}

QString fullNumber(double value) {
    return std::isfinite(value) ? QString::number(value, 'g', QLocale::FloatingPointShortest) : QString();
}

QColor quietTrace(const Theme& theme) {
    return theme.dark ? QColor("#76716A") : QColor("#B4ADA3");
}

QString valueText(double v, const QString& unit, bool sign) {
    if (!std::isfinite(v)) return "–";
    const double a = std::abs(v);
    const int decimals = a >= 1000 ? 0 : a >= 100 ? 1 : a >= 1 ? 2 : a == 0 ? 1 : 3;
    QString text = QString::number(a, 'f', decimals);
    if (v < 0 && text.toDouble() != 0)
        text.prepend("−");
    else if (sign)
        text.prepend("+");
    return unit.isEmpty() ? text : text + " " + unit;
}

}  // namespace jacinth::app
