#include "app/prove/rule_trades.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <cmath>

#include "app/base/ui.h"
#include "app/prove/proof_words.h"

namespace jacinth::app {

RuleTrades::RuleTrades(Session& session) : session_(session) {
    setObjectName("ruleTrades");
    setAccessibleName("Failures caught against false alarms, rule by rule");
    setFixedHeight(190);
    setMouseTracking(true);
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void RuleTrades::show(std::vector<RuleTrade> rules) {
    rules_ = std::move(rules);
    // As far as the rules themselves; a curve may go on for long beyond what anybody would put up with.
    most_ = 0.5;
    for (const RuleTrade& r : rules_) most_ = std::max(most_, 1.3 * r.proof.falsePerAssetMonth);
    update();
}

void RuleTrades::say(const QString& instead) {
    instead_ = instead;
    show({});
}

ChartArea RuleTrades::area() const {
    ChartArea out;
    out.rect = QRectF(rect()).adjusted(34, 20, -10, -34);
    out.left = -0.03;
    out.right = 1;
    out.setY(0, 100, 0.04);
    return out;
}

/// By the square root: what is worth having lies near zero, and the rest is to be seen as well.
double RuleTrades::shareOf(double falsePerAssetMonth) const {
    return std::sqrt(falsePerAssetMonth / most_);
}

QPointF RuleTrades::placeOf(double falsePerAssetMonth, double catchRate) const {
    const ChartArea a = area();
    return {a.x(shareOf(falsePerAssetMonth)), a.y(100 * catchRate)};
}

void RuleTrades::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& theme = session_.theme();
    if (rules_.empty()) return drawInstead(p, theme, rect(), instead_);
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(smallFont());
    const ChartArea a = area();
    drawAxes(p, theme, a, Axes::Left);
    paintTicks(p);
    p.setPen(theme.second);
    p.drawText(QPointF(a.rect.left(), a.rect.top() - 6), "failures caught, %");
    p.setClipRect(a.rect.adjusted(-6, -6, 6, 6));
    for (std::size_t r = 0; r < rules_.size(); ++r) paintCurve(p, r);
    for (std::size_t r = 0; r < rules_.size(); ++r) paintRule(p, r);
}

void RuleTrades::paintTicks(QPainter& p) const {
    const Theme& theme = session_.theme();
    const ChartArea a = area();
    double last = -100;
    for (const double v : {0.0, 0.1, 0.3, 1.0, 3.0, 10.0, 30.0, 100.0, 300.0, 1000.0}) {
        const double x = a.x(shareOf(v));
        if (x - last < 26 || x > a.rect.right()) continue;
        last = x;
        p.setPen(faded(theme.hairline, 0.55));
        p.drawLine(QPointF(x, a.rect.top()), QPointF(x, a.rect.bottom()));
        p.setPen(theme.second);
        p.drawText(QRectF(x - 40, a.rect.bottom() + 3, 80, 14), Qt::AlignHCenter | Qt::AlignTop,
                   QString::number(v));
    }
    p.drawText(QRectF(a.rect.left(), a.rect.bottom() + 17, a.rect.width(), 14), Qt::AlignRight,
               "false alarms an asset-month");
}

/// In steps: between two points it catches what the one on the left does.
void RuleTrades::paintCurve(QPainter& p, std::size_t rule) const {
    const RuleTrade& r = rules_[rule];
    if (!r.curve || r.curve->points.empty()) return;
    std::vector<QPointF> points;
    for (const TradePoint& point : r.curve->points) points.push_back(placeOf(point.tally));
    QPolygonF line = stepsThrough(points);
    line << QPointF(std::max(line.last().x(), area().rect.right()), line.last().y());
    // Beside each other where they would lie on one another.
    line.translate(0, 2 * (static_cast<double>(rule) - static_cast<double>(rules_.size() - 1) / 2));
    p.setPen(QPen(faded(inkOfRule(rule, session_.theme()), 0.75), 1.6));
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(line);
}

/// As it stands, with the range that so few failures leave.
void RuleTrades::paintRule(QPainter& p, std::size_t rule) const {
    const Proof& proof = rules_[rule].proof;
    const QColor ink = inkOfRule(rule, session_.theme());
    const QPointF at = placeOf(proof);
    const ChartArea a = area();
    p.setPen(QPen(faded(ink, 0.6), 1));
    p.drawLine(QPointF(at.x(), a.y(100 * proof.catchRate.low)),
               QPointF(at.x(), a.y(100 * proof.catchRate.high)));
    // Larger where another one lies on it, which is drawn later.
    double radius = 4.5;
    for (std::size_t r = rule + 1; r < rules_.size(); ++r)
        if (const QPointF other = placeOf(rules_[r].proof) - at; std::hypot(other.x(), other.y()) < 4)
            radius += 2.5;
    p.setPen(QPen(session_.theme().plot, 1));
    p.setBrush(ink);
    p.drawEllipse(at, radius, radius);
}

std::optional<RuleTrades::Found> RuleTrades::at(const QPointF& pos) const {
    std::optional<Found> best;
    double nearest = 9;
    const auto look = [&](const QPointF& place, Found found) {
        const double away = std::hypot(place.x() - pos.x(), place.y() - pos.y());
        if (away < nearest) nearest = away, best = found;
    };
    for (std::size_t r = 0; r < rules_.size(); ++r) {
        look(placeOf(rules_[r].proof), {r, {}});
        if (!rules_[r].curve) continue;
        const auto& points = rules_[r].curve->points;
        for (std::size_t i = 0; i < points.size(); ++i) look(placeOf(points[i].tally), {r, i});
    }
    return best;
}

void RuleTrades::mouseDoubleClickEvent(QMouseEvent* e) {
    const auto found = at(e->position());
    if (found && found->point)
        emit opened(found->rule, rules_[found->rule].curve->points[*found->point].limit);
}

bool RuleTrades::event(QEvent* e) {
    if (e->type() != QEvent::ToolTip) return QWidget::event(e);
    auto* help = static_cast<QHelpEvent*>(e);
    const auto found = at(help->pos());
    if (!found) {
        QToolTip::hideText();
        return true;
    }
    const RuleTrade& r = rules_[found->rule];
    QString words = r.name;
    int caught = r.proof.caught, of = caught + r.proof.missed;
    double rate = r.proof.falsePerAssetMonth;
    if (found->point) {
        const TradePoint& point = r.curve->points[*found->point];
        words +=
            QString(" with %1 = %2").arg(QString::fromStdString(r.curve->limit)).arg(point.limit, 0, 'g', 5);
        caught = point.tally.caught, of = caught + point.tally.missed;
        rate = point.tally.falsePerAssetMonth;
    }
    words +=
        QString(": %1 of %2 caught, %3 false alarms an asset-month").arg(caught).arg(of).arg(rate, 0, 'f', 2);
    if (found->point)
        words += "\nDouble-click to make it the current rule.";
    else if (r.curveIsKnown && !r.curve)
        words += "\nIt compares with no number that could be another: it has no curve.";
    QToolTip::showText(help->globalPos(), plainTip(words), this);
    return true;
}

}  // namespace jacinth::app
