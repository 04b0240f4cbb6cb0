#include "app/screen/multiples_view.h"

#include <QMouseEvent>
#include <cmath>

#include "app/base/save_picture.h"
#include "app/plot/chart.h"
#include "core/stats/stats.h"

namespace jacinth::app {

MultiplesView::MultiplesView(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("multiplesView");
    givePictureMenu(this);
    setAccessibleName("Runs side by side");
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void MultiplesView::show(Picture picture) {
    picture_ = std::move(picture);
    std::vector<double> values;
    if (picture_.all)
        for (const AlignedRun& r : *picture_.all)
            for (std::size_t i = 0; i < r.values.size(); i += 9)
                if (std::isfinite(r.values[i])) values.push_back(r.values[i]);
    std::sort(values.begin(), values.end());
    if (values.empty()) values = {0, 1};
    low_ = quantileOfSorted(values, 0.003);
    high_ = quantileOfSorted(values, 0.997);
    update();
}

int MultiplesView::columns() const {
    const auto n = static_cast<int>(picture_.panels.size());
    return std::clamp(static_cast<int>(std::ceil(std::sqrt(n * width() / (1.9 * std::max(1, height()))))), 1,
                      std::max(1, n));
}

QRectF MultiplesView::panelRect(int panel) const {
    const int across = columns();
    const int down = (static_cast<int>(picture_.panels.size()) + across - 1) / across;
    const double w = static_cast<double>(width()) / across,
                 h = static_cast<double>(height()) / std::max(1, down);
    const int row = panel / across, column = panel % across;
    return QRectF(column * w, row * h, w, h).adjusted(2, 2, -6, -4);
}

void MultiplesView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    if (picture_.panels.empty())
        return drawInstead(p, session_.theme(), rect(),
                           "Build limits first: runs are lined up on their scale.");
    for (std::size_t i = 0; i < picture_.panels.size(); ++i)
        paintPanel(p, picture_.panels[i], panelRect(static_cast<int>(i)));
}

void MultiplesView::paintPanel(QPainter& p, const Panel& panel, const QRectF& at) const {
    const Theme& theme = session_.theme();
    ChartArea area;
    area.rect = at.adjusted(38, 18, 0, -16);
    const GoldenLimits& limits = picture_.limits;
    const bool indicator = limits.spec.lineUp == LineUp::Indicator;
    const auto across = [&](Duration v) { return indicator ? indicatorUnits(v) : toHours(v); };
    if (limits.slices.empty()) return;
    area.setX(across(limits.slices.front().offset.time_since_epoch()),
              across(limits.slices.back().offset.time_since_epoch()), 0);
    area.setY(low_, high_);
    drawAxes(p, theme, area);
    p.setPen(theme.ink);
    p.setFont(uiFont());
    p.drawText(QRectF(at.left() + 38, at.top(), area.rect.width(), 17), Qt::AlignLeft | Qt::AlignVCenter,
               panel.name);
    p.setPen(panel.flagged > 0 ? theme.accent : theme.second);
    p.setFont(smallFont());
    p.drawText(QRectF(at.left() + 38, at.top(), area.rect.width(), 17), Qt::AlignRight | Qt::AlignVCenter,
               QString("%1 of %2 outside").arg(panel.flagged).arg(panel.runs.size()));
    p.save();
    p.setClipRect(area.rect);
    QPolygonF corridor, lower;
    for (const LimitSlice& s : limits.slices) {
        if (!std::isfinite(s.low)) continue;
        corridor << QPointF(area.x(across(s.offset.time_since_epoch())), area.y(s.high));
        lower << QPointF(area.x(across(s.offset.time_since_epoch())), area.y(s.low));
    }
    std::reverse(lower.begin(), lower.end());
    p.setPen(QPen(theme.goldEdge, 0.8));
    p.setBrush(faded(theme.goldFill, 0.33));
    p.drawPolygon(corridor + lower);
    p.setBrush(Qt::NoBrush);
    const double every = across(limits.spec.every);
    const double alpha =
        std::clamp(8.0 / static_cast<double>(std::max<std::size_t>(1, panel.runs.size())), 0.12, 0.6);
    const auto stride = std::max<std::size_t>(1, limits.slices.size() / 160);
    for (const bool strong : {false, true})
        for (const AlignedRun* r : panel.runs) {
            if ((r->run == picture_.run) != strong) continue;
            const bool out = picture_.outside.contains(r->run);
            p.setPen(strong ? QPen(theme.ink, 1.8)
                            : QPen(faded(out ? theme.accent : theme.traces[0], out ? 0.55 : alpha), 1));
            QPolygonF line;
            for (std::size_t i = 0; i < r->values.size(); i += stride) {
                if (!std::isfinite(r->values[i])) continue;
                line << QPointF(area.x(static_cast<double>(r->first + static_cast<std::int64_t>(i)) * every),
                                area.y(r->values[i]));
            }
            p.drawPolyline(line);
        }
    p.restore();
}

void MultiplesView::mousePressEvent(QMouseEvent* e) {
    for (std::size_t i = 0; i < picture_.panels.size(); ++i)
        if (panelRect(static_cast<int>(i)).contains(e->pos())) emit panelChosen(static_cast<int>(i));
}

}  // namespace jacinth::app
