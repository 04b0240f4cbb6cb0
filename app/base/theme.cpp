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
    QString css = R"(
* { font-size: 12px; }
QMainWindow, QDialog { background: $window; }
QMenuBar { background: $panel; border-bottom: 1px solid $hairline; padding: 2px 6px; }
QMenuBar::item { padding: 6px 9px; margin-top: 2px; background: transparent; border-radius: 4px; }
QMenuBar::item:selected { background: $soft; }
QMenu { background: $panel; border: 1px solid $hairline; padding: 4px; }
QMenu::item { padding: 4px 22px 4px 18px; border-radius: 4px; }
QMenu::item:selected { background: $soft; color: $ink; }
QMenu::item:disabled { color: $second; }
QMenu::separator { height: 1px; background: $hairline; margin: 4px 6px; }
QStatusBar { background: $panel; border-top: 1px solid $hairline; color: $second; }
QStatusBar::item { border: none; }
QStatusBar QLabel { color: $second; }
QLineEdit, QComboBox, QPlainTextEdit, QSpinBox { background: $plot; border: 1px solid $hairline; border-radius: 4px; padding: 2px 6px; min-height: 20px; selection-background-color: $accent; selection-color: $plot; }
QLineEdit:focus, QComboBox:focus, QPlainTextEdit:focus, QSpinBox:focus { border: 1px solid $accent; }
QAbstractScrollArea::corner { background: transparent; border: none; }
QPlainTextEdit[oneLine="true"] { padding: 0 4px; }
QLineEdit[wrong="true"] { border: 1px solid $accent; background: $soft; }
QLineEdit:disabled, QComboBox:disabled { color: $second; background: $panel; }
QComboBox::drop-down { border: none; width: 18px; }
QComboBox::down-arrow { image: url(:/icons/down.svg); width: 11px; height: 11px; }
QTableView::indicator { width: 10px; height: 10px; border: 1.5px solid $second; border-radius: 6px; background: $plot; }
QTableView::indicator:checked { background: $accent; border-color: $accent; }
QCheckBox { spacing: 6px; }
QCheckBox::indicator { width: 11px; height: 11px; border: 1.5px solid $second; border-radius: 3px; background: $plot; }
QCheckBox::indicator:checked { background: $accent; border-color: $accent; }
QCheckBox::indicator:focus { border-color: $accent; }
QComboBox QAbstractItemView { background: $panel; border: 1px solid $hairline; selection-background-color: $soft; selection-color: $ink; }
QPushButton { background: $plot; border: 1px solid $hairline; border-radius: 4px; padding: 3px 10px; min-height: 20px; }
QPushButton:hover { border-color: $second; }
QPushButton:focus { border: 1px solid $accent; }
QPushButton:disabled { color: $second; background: $panel; }
QPushButton:checked { background: $soft; border-color: $accent; color: $accent; }
QPushButton[primary="true"] { background: $accent; border-color: $accent; color: $onaccent; font-weight: 600; }
QPushButton[primary="true"]:disabled { background: $hairline; border-color: $hairline; color: $second; }
QPushButton[pill="true"] { background: transparent; border: 1px solid transparent; border-radius: 12px; color: $second; padding: 1px 10px; min-height: 18px; }
QPushButton[pill="true"]:hover { color: $ink; } QPushButton[pill="true"]:focus { border-color: $accent; }
QPushButton[pill="true"]:checked { background: $soft; border-color: transparent; color: $accent; font-weight: 600; }
QPushButton[link="true"] { background: transparent; border: none; color: $accent; padding: 0; min-height: 16px; text-align: left; }
QLabel[role="title"] { font-size: 14px; font-weight: 600; }
QLabel[role="section"] { font-size: 13px; font-weight: 600; }
QLabel[role="second"] { color: $second; }
QLabel[role="good"] { color: $good; }
QLabel[role="bad"] { color: $accent; }
QLabel[role="figure"] { font-size: 20px; font-weight: 600; }
QTableView, QTreeView, QListView { background: transparent; alternate-background-color: transparent; border: none; outline: none; selection-background-color: $soft; selection-color: $ink; }
QTableView::item, QListView::item { padding: 0 4px; border: none; }
QTableView::item:selected, QListView::item:selected, QTreeView::item:selected { background: $soft; color: $ink; }
QHeaderView { background: transparent; }
QHeaderView::section { background: transparent; color: $second; border: none; border-bottom: 1px solid $hairline; padding: 2px 4px; font-weight: normal; }
QTableCornerButton::section { background: transparent; border: none; }
QScrollBar:vertical { background: transparent; width: 9px; } QScrollBar:horizontal { background: transparent; height: 9px; }
QScrollBar::handle { background: $hairline; border-radius: 4px; min-height: 24px; min-width: 24px; }
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page { background: none; border: none; width: 0; height: 0; }
QScrollArea { background: transparent; border: none; }
QSplitter::handle { background: transparent; }
QToolTip { background: $panel; color: $ink; border: 1px solid $hairline; padding: 3px 5px; }
QProgressBar { border: 1px solid $hairline; border-radius: 3px; background: $plot; max-height: 10px; text-align: center; }
QProgressBar::chunk { background: $accent; }
#scrolled, #scrolled > QWidget > QWidget { background: transparent; }
#side { background: $panel; } #inspector { background: $panel; border-left: 1px solid $hairline; }
#plant { background: $window; border-right: 1px solid $hairline; }
#rail { background: $panel; border-right: 1px solid $hairline; }
#bench { background: $window; }
#goTo { border-radius: 12px; padding-left: 12px; }
)";
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
