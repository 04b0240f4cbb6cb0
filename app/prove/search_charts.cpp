#include "app/prove/search_charts.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/base/ui.h"

namespace jacinth::app {

SearchChart::SearchChart(Session& session, const QString& name) : session_(session) {
    setObjectName(name);
    setAccessibleName("What the search found");
    setMinimumHeight(170);
    setMouseTracking(true);
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void SearchChart::show(std::shared_ptr<const ShownSearch> search) {
    search_ = std::move(search);
    picked_.reset();
    update();
}

void SearchChart::setPicked(std::optional<std::size_t> setting) {
    picked_ = setting;
    update();
}

void SearchChart::paintEvent(QPaintEvent*) {
    QPainter p(this);
    if (!search_ || search_->found.settings.empty()) return;
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(smallFont());
    paint(p);
}

void SearchChart::mousePressEvent(QMouseEvent* e) {
    if (!search_) return;
    if (const auto at = settingAt(e->position()); at && e->button() == Qt::LeftButton) emit picked(*at);
}

QString SearchChart::wordsFor(std::size_t setting) const {
    QStringList numbers;
    for (const Vary& v : search_->vary)
        numbers << QString::fromStdString(v.name) + " " +
                       QString::number(search_->found.settings[setting].at(v.name), 'g', 5);
    const Tally& t = tally(setting);
    QString words = QString("%1\n%2 of %3 caught, %4 false alarms an asset-month, %5 of %6 alarms came true")
                        .arg(numbers.join(", "))
                        .arg(t.caught)
                        .arg(t.caught + t.missed)
                        .arg(t.falsePerAssetMonth, 0, 'f', 2)
                        .arg(t.cameTrue)
                        .arg(t.cameTrue + t.falseAlarms);
    if (!std::isfinite(score(setting)))
        words +=
            t.alarmedShare > search_->aim.alarmedAtMost
                ? QString("\nin alarm for %1 % of the time: not allowed").arg(t.alarmedShare * 100, 0, 'f', 0)
                : QString("\nmore false alarms than the aim allows");
    return words;
}

bool SearchChart::event(QEvent* e) {
    if (e->type() != QEvent::ToolTip || !search_) return QWidget::event(e);
    auto* help = static_cast<QHelpEvent*>(e);
    if (const auto at = settingAt(help->pos()))
        QToolTip::showText(help->globalPos(), plainTip(wordsFor(*at)), this);
    else
        QToolTip::hideText();
    return true;
}

namespace {

/// A line over the whole height with words below the axis.
void paintMark(QPainter& p, const ChartArea& area, double value, const QPen& pen, const QString& words,
               double below) {
    if (value < area.left || value > area.right) return;
    const double x = area.x(value);
    p.setPen(pen);
    p.drawLine(QPointF(x, area.rect.top()), QPointF(x, area.rect.bottom()));
    const double wide = p.fontMetrics().horizontalAdvance(words);
    const double left = std::clamp(x - wide / 2, area.rect.left() - 20, area.rect.right() - wide);
    p.drawText(QPointF(left, area.rect.bottom() + below), words);
}

QString shortNumber(double v) {
    return QString::number(v, 'g', 4);
}

}  // namespace

ChartArea SearchCurve::area() const {
    ChartArea out;
    out.rect = QRectF(rect()).adjusted(38, 20, -10, -50);
    const Vary& v = search_->vary.front();
    out.setX(v.low, v.high, 0);
    out.setY(0, 100, 0.02);
    return out;
}

std::optional<std::size_t> SearchCurve::settingAt(const QPointF& at) const {
    if (!search_ || search_->vary.size() != 1) return {};
    const ChartArea a = area();
    if (at.x() < a.rect.left() - 6 || at.x() > a.rect.right() + 6) return {};
    const Vary& v = search_->vary.front();
    const double step = (a.valueAtX(at.x()) - v.low) / (v.high - v.low) * (v.steps - 1);
    return static_cast<std::size_t>(std::clamp<long>(std::lround(step), 0, v.steps - 1));
}

void SearchCurve::paintShare(QPainter& p, const ChartArea& area, bool caught) {
    const Theme& theme = session_.theme();
    const QColor ink = theme.traces[caught ? 0 : 5];
    QPolygonF line, low, high;
    for (std::size_t i = 0; i < search_->found.settings.size(); ++i) {
        const Tally& t = tally(i);
        const Proportion share = caught ? t.caughtShare() : t.cameTrueProportion();
        if (!std::isfinite(share.value)) continue;
        const double x = area.x(search_->vary.front().at(static_cast<int>(i)));
        line << QPointF(x, area.y(100 * share.value));
        low << QPointF(x, area.y(100 * share.low));
        high << QPointF(x, area.y(100 * share.high));
    }
    QPolygonF band = high;
    for (auto i = low.rbegin(); i != low.rend(); ++i) band << *i;
    p.setPen(Qt::NoPen);
    p.setBrush(faded(ink, 0.12));
    p.drawPolygon(band);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(ink, 2, caught ? Qt::SolidLine : Qt::DashLine));
    p.drawPolyline(line);
}

void SearchCurve::paint(QPainter& p) {
    const Theme& theme = session_.theme();
    const ChartArea a = area();
    drawAxes(p, theme, a, Axes::Both);
    p.save();
    p.setClipRect(a.rect);
    // What the aim does not allow.
    const double half = a.rect.width() / std::max(1, search_->vary.front().steps - 1) / 2;
    for (std::size_t i = 0; i < search_->found.settings.size(); ++i)
        if (!std::isfinite(score(i))) {
            const double x = a.x(search_->vary.front().at(static_cast<int>(i)));
            p.fillRect(QRectF(x - half, a.rect.top(), 2 * half, a.rect.height()), faded(theme.second, 0.16));
        }
    paintShare(p, a, false);
    paintShare(p, a, true);
    p.restore();
    const auto yours = search_->yours.find(search_->vary.front().name);
    const double best = search_->found.settings[search_->found.result.best].at(search_->vary.front().name);
    if (yours != search_->yours.end())
        paintMark(p, a, yours->second, QPen(theme.second, 1.2, Qt::DashLine),
                  "yours " + shortNumber(yours->second), 30);
    if (std::isfinite(score(search_->found.result.best)))
        paintMark(p, a, best, QPen(theme.accent, 1.8), "best " + shortNumber(best), 44);
    if (picked_)
        paintMark(p, a, search_->found.settings[*picked_].at(search_->vary.front().name),
                  QPen(theme.ink, 1.2), "", 30);
    p.setPen(theme.traces[0]);
    const QString caught = "— failures caught, %";
    p.drawText(QPointF(a.rect.left(), a.rect.top() - 6), caught);
    p.setPen(theme.traces[5]);
    p.drawText(QPointF(a.rect.left() + p.fontMetrics().horizontalAdvance(caught) + 16, a.rect.top() - 6),
               "– – alarms that came true, %");
}

ChartArea SearchMap::area() const {
    ChartArea out;
    out.rect = QRectF(rect()).adjusted(52, 20, -10, -50);
    const Vary &x = search_->vary[1], &y = search_->vary[0];
    const double halfX = (x.high - x.low) / (x.steps - 1) / 2, halfY = (y.high - y.low) / (y.steps - 1) / 2;
    out.setX(x.low - halfX, x.high + halfX, 0);
    out.setY(y.low - halfY, y.high + halfY, 0);
    out.fitLeft();
    return out;
}

QRectF SearchMap::cellOf(std::size_t setting) const {
    const ChartArea a = area();
    const Vary &x = search_->vary[1], &y = search_->vary[0];
    const double wide = a.rect.width() / x.steps, high = a.rect.height() / y.steps;
    const Settings& s = search_->found.settings[setting];
    return {a.x(s.at(x.name)) - wide / 2, a.y(s.at(y.name)) - high / 2, wide, high};
}

std::optional<std::size_t> SearchMap::settingAt(const QPointF& at) const {
    if (!search_ || search_->vary.size() != 2) return {};
    const ChartArea a = area();
    if (!a.rect.contains(at)) return {};
    const int steps = search_->vary[1].steps;
    const auto column = static_cast<std::size_t>((at.x() - a.rect.left()) / a.rect.width() * steps);
    const auto row =
        static_cast<std::size_t>((a.rect.bottom() - at.y()) / a.rect.height() * search_->vary[0].steps);
    const std::size_t setting = row * static_cast<std::size_t>(steps) + column;
    if (setting >= search_->found.settings.size()) return {};
    return setting;
}

std::pair<double, double> SearchMap::scoreRange() const {
    double least = 0, most = 0;
    bool any = false;
    for (const double s : search_->found.result.scores) {
        if (!std::isfinite(s)) continue;
        least = any ? std::min(least, s) : s;
        most = any ? std::max(most, s) : s;
        any = true;
    }
    return {least, most};
}

/// 0 for the worst that is allowed, 1 for the best.
double SearchMap::shade(std::size_t setting) const {
    const auto [least, most] = scoreRange();
    return most > least ? (score(setting) - least) / (most - least) : 0.5;
}

void SearchMap::paint(QPainter& p) {
    const Theme& theme = session_.theme();
    const ChartArea a = area();
    drawAxes(p, theme, a, Axes::Both, QString::fromStdString(search_->vary[1].name));
    p.setRenderHint(QPainter::Antialiasing, false);
    for (std::size_t i = 0; i < search_->found.settings.size(); ++i) {
        const QRectF cell = cellOf(i);
        if (std::isfinite(score(i)))
            p.fillRect(cell.adjusted(0, 0, 0.5, 0.5), heatColour(theme, shade(i)));
        else
            p.fillRect(cell.adjusted(0, 0, 0.5, 0.5), QBrush(faded(theme.second, 0.5), Qt::BDiagPattern));
    }
    p.setRenderHint(QPainter::Antialiasing);
    const auto ring = [&](std::size_t setting, const QPen& pen) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme.plot, pen.widthF() + 2));
        p.drawRoundedRect(cellOf(setting).adjusted(-2, -2, 2, 2), 2, 2);
        p.setPen(pen);
        p.drawRoundedRect(cellOf(setting).adjusted(-2, -2, 2, 2), 2, 2);
    };
    if (const auto yours = nearestSetting(search_->vary, search_->found.settings, search_->yours))
        ring(*yours, QPen(theme.ink, 1.6, Qt::DashLine));
    if (std::isfinite(score(search_->found.result.best)))
        ring(search_->found.result.best, QPen(theme.accent, 2));
    if (picked_) ring(*picked_, QPen(theme.ink, 1.6));
    p.setPen(theme.second);
    p.save();
    p.translate(12, a.rect.center().y());
    p.rotate(-90);
    p.drawText(QRectF(-100, -8, 200, 16), Qt::AlignCenter, QString::fromStdString(search_->vary[0].name));
    p.restore();
    p.drawText(QPointF(a.rect.left(), height() - 4.0), "dashed: yours · red: best · hatched: not allowed");
    const auto [least, most] = scoreRange();
    const double times = search_->aim.kind == AimKind::Cost ? -1 : 100;  // a score is the cost with a minus
    const std::array<const char*, 3> units{"% caught", "% F", "cost"};
    drawHeatScale(p, theme, {a.rect.left(), 4, std::min(150.0, a.rect.width()), 8}, times * least,
                  times * most, units[static_cast<std::size_t>(search_->aim.kind)]);
}

void TradeOff::show(std::shared_ptr<const ShownSearch> search) {
    SearchChart::show(std::move(search));
    most_ = 1e-6;
    if (!search_) return;
    // As far as the front goes; where the aim allows so many, what lies far beyond is of no use to anybody.
    for (const std::size_t i : search_->found.result.front)
        most_ = std::max(most_, tally(i).falsePerAssetMonth);
    if (search_->aim.kind == AimKind::Catch)
        most_ = std::max(std::min(most_, 5 * search_->aim.falseAtMost), 2 * search_->aim.falseAtMost);
    most_ = std::max(most_ * 1.05, 0.1);
}

ChartArea TradeOff::area() const {
    ChartArea out;
    out.rect = QRectF(rect()).adjusted(38, 20, -10, -50);
    out.setX(0, most_, 0);
    out.left = -0.02 * most_;
    out.setY(0, 100, 0.03);
    return out;
}

QPointF TradeOff::placeOf(std::size_t setting) const {
    const ChartArea a = area();
    return {a.x(tally(setting).falsePerAssetMonth), a.y(100 * tally(setting).catchRate())};
}

std::optional<std::size_t> TradeOff::settingAt(const QPointF& at) const {
    if (!search_) return {};
    std::optional<std::size_t> best;
    double nearest = 9;
    for (std::size_t i = 0; i < search_->found.settings.size(); ++i) {
        const QPointF away = placeOf(i) - at;
        const double d = std::hypot(away.x(), away.y());
        if (d < nearest || (d == nearest && best && score(i) > score(*best))) nearest = d, best = i;
    }
    return best;
}

/// The ranges that so few failures and alarms leave.
void TradeOff::paintRange(QPainter& p, std::size_t setting) {
    const ChartArea a = area();
    const Tally& t = tally(setting);
    const Proportion share = t.caughtShare();
    const QPointF at = placeOf(setting);
    p.drawLine(QPointF(at.x(), a.y(100 * share.low)), QPointF(at.x(), a.y(100 * share.high)));
}

void TradeOff::paint(QPainter& p) {
    const Theme& theme = session_.theme();
    const ChartArea a = area();
    drawAxes(p, theme, a, Axes::Both, "false alarms an asset-month");
    p.save();
    p.setClipRect(a.rect.adjusted(-4, -4, 4, 4));
    if (search_->aim.kind == AimKind::Catch)
        p.fillRect(QRectF(QPointF(a.x(search_->aim.falseAtMost), a.rect.top()), a.rect.bottomRight()),
                   faded(theme.second, 0.16));
    p.setPen(Qt::NoPen);
    p.setBrush(faded(theme.second, 0.45));
    for (std::size_t i = 0; i < search_->found.settings.size(); ++i) p.drawEllipse(placeOf(i), 2.4, 2.4);
    std::vector<QPointF> front;
    for (const std::size_t i : search_->found.result.front) front.push_back(placeOf(i));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme.traces[0], 1.6));
    p.drawPolyline(stepsThrough(front));
    const auto mark = [&](std::size_t setting, const QColor& ink, double wide, bool filled) {
        p.setPen(QPen(ink, wide));
        paintRange(p, setting);
        p.setBrush(filled ? QBrush(ink) : QBrush(theme.plot));
        p.drawEllipse(placeOf(setting), 4.5, 4.5);
    };
    if (const auto yours = nearestSetting(search_->vary, search_->found.settings, search_->yours))
        mark(*yours, theme.ink, 1.2, false);
    if (std::isfinite(score(search_->found.result.best)))
        mark(search_->found.result.best, theme.accent, 1.6, true);
    if (picked_) mark(*picked_, theme.ink, 1.4, true);
    p.restore();
    p.setPen(theme.second);
    p.drawText(QPointF(a.rect.left(), a.rect.top() - 6), "failures caught, %");
    p.drawText(QPointF(a.rect.left(), height() - 4.0), "line: the front · ring: yours · red: best");
}

}  // namespace jacinth::app
