#include "app/prove/warning_curve.h"

#include <QHelpEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>

#include "app/base/ui.h"
#include "app/plot/chart.h"

namespace jacinth::app {
namespace {

constexpr int kSteps = 49;

ChartArea areaOf(const QWidget& on, const ProveSpec& spec, int most) {
    ChartArea area;
    area.rect = QRectF(on.rect()).adjusted(24, 6, -8, -32);
    area.setX(0, toHours(spec.most), 0);
    area.setY(0, std::max(1, most), 0.08);
    area.fitLeft();
    return area;
}

}  // namespace

WarningCurve::WarningCurve(Session& session) : session_(session) {
    setObjectName("warningCurve");
    setAccessibleName("Failures caught by the shortest useful warning");
    setFixedHeight(132);
    setMouseTracking(true);
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void WarningCurve::show(const std::optional<Proof>& proof, const ProveSpec& spec) {
    spec_ = spec;
    steps_ = proof ? caughtByLeast(*proof, spec, kSteps) : std::vector<std::pair<Duration, int>>();
    testable_ = proof ? proof->caught + proof->missed : 0;
    update();
}

void WarningCurve::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& theme = session_.theme();
    if (steps_.empty() || testable_ == 0)
        return drawInstead(p, theme, rect(), "No failure that could be tested.");
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(smallFont());
    const ChartArea area = areaOf(*this, spec_, testable_);
    drawAxes(p, theme, area, Axes::Both, "if warned at least, h before");
    std::vector<QPointF> points;
    for (const auto& [least, caught] : steps_) points.emplace_back(area.x(toHours(least)), area.y(caught));
    p.setPen(QPen(theme.traces[0], 1.8));
    p.drawPolyline(stepsThrough(points));
    const double now = area.x(toHours(spec_.least));
    p.setPen(QPen(theme.accent, 1.4));
    p.drawLine(QPointF(now, area.rect.top()), QPointF(now, area.rect.bottom()));
}

bool WarningCurve::event(QEvent* e) {
    if (e->type() != QEvent::ToolTip || steps_.empty()) return QWidget::event(e);
    auto* help = static_cast<QHelpEvent*>(e);
    const ChartArea area = areaOf(*this, spec_, testable_);
    const double share = std::clamp(area.valueAtX(help->pos().x()) / toHours(spec_.most), 0.0, 1.0);
    const auto& [least, caught] =
        steps_[static_cast<std::size_t>(std::lround(share * (static_cast<double>(steps_.size()) - 1)))];
    QToolTip::showText(help->globalPos(),
                       plainTip(QString("warned at least %1 before: %2 of %3 caught")
                                    .arg(QString::fromStdString(sayDuration(least)))
                                    .arg(caught)
                                    .arg(testable_)),
                       this);
    return true;
}

}  // namespace jacinth::app
