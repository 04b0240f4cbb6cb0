#include "app/screen/overlay_plot.h"

namespace jacinth::app {

OverlayPlot::OverlayPlot(Session& session, QWidget* parent) : QCustomPlot(parent), session_(session) {
    setObjectName("overlayPlot");
    setAccessibleName("Lined-up runs");
    setMouseTracking(true);
    setMinimumHeight(180);
    axisRect()->setAutoMargins(QCP::msNone);
    axisRect()->setMargins({54, 4, 10, 26});
    connect(&session, &Session::themeChanged, this, &OverlayPlot::draw);
}

void OverlayPlot::show(Picture picture) {
    picture_ = std::move(picture);
    draw();
}

double OverlayPlot::hoursOf(Instant t) const {
    return picture_.limits.spec.lineUp == LineUp::Start ? toHours(t - picture_.runSpan.start)
                                                        : toHours(t - picture_.runSpan.end);
}

void OverlayPlot::draw() {
    const Theme& theme = session_.theme();
    clearGraphs();
    clearItems();
    setBackground(theme.window);
    axisRect()->setBackground(theme.plot);
    QFont small = uiFont();
    small.setPixelSize(11);
    for (QCPAxis* axis : {xAxis, yAxis}) {
        axis->setBasePen(QPen(theme.hairline));
        axis->setTickPen(Qt::NoPen);
        axis->setSubTicks(false);
        axis->setTickLabelColor(theme.second);
        axis->setTickLabelFont(small);
        axis->setNumberFormat("gb");
        axis->grid()->setPen(QPen(faded(theme.hairline, 0.55), 1));
        axis->grid()->setZeroLinePen(Qt::NoPen);
    }
    const bool nothing = picture_.runSpan.id == 0;
    axisRect()->setBackground(nothing ? theme.window : theme.plot);
    for (QCPAxis* axis : {xAxis, yAxis}) axis->setVisible(!nothing);
    if (nothing) {
        auto* words = new QCPItemText(this);
        words->position->setType(QCPItemPosition::ptAxisRectRatio);
        words->position->setCoords(0.5, 0.4);
        words->setText("The runs of one tag appear here, lined up, with the corridor of the golden ones.");
        words->setColor(theme.second);
        words->setFont(uiFont());
        replot(rpQueuedReplot);
        return;
    }
    xAxis->grid()->setVisible(false);
    const double sign = picture_.limits.spec.lineUp == LineUp::Start ? 1 : -1;
    const auto line = [&](const QPen& pen) {
        QCPGraph* g = addGraph();
        g->setPen(pen);
        return g;
    };
    QCPGraph* low = line(QPen(theme.goldEdge, 1.1));
    QCPGraph* high = line(QPen(theme.goldEdge, 1.1));
    double hours = 1;
    for (const LimitSlice& s : picture_.limits.slices) {
        hours = std::max(hours, toHours(s.offset));
        low->addData(sign * toHours(s.offset), s.low);
        high->addData(sign * toHours(s.offset), s.high);
    }
    high->setBrush(faded(theme.goldFill, 0.33));
    high->setChannelFillGraph(low);
    for (const AlignedRun& r : picture_.golden) {
        QCPGraph* g = line(QPen(faded(theme.goldEdge, 0.35), 1));
        for (std::size_t i = 0; i < r.values.size(); ++i)
            g->addData(sign * toHours(static_cast<Duration>(i) * picture_.limits.spec.every), r.values[i]);
    }
    QCPGraph* run = line(QPen(theme.ink, 1.8));
    QCPGraph* outside = line(QPen(theme.accent, 2.4));
    Instant before = kNoInstant;
    for (std::size_t i = 0; i < picture_.run.size(); ++i) {
        const Instant t = picture_.run.times[i];
        if (!picture_.run.view().usable(i) || t < picture_.runSpan.start || t > picture_.runSpan.end)
            continue;
        const bool gap = before != kNoInstant && t - before > picture_.bridging.longestGap;
        if (gap) run->addData(hoursOf(before), qQNaN());
        run->addData(hoursOf(t), picture_.run.values[i]);
        const bool out = std::any_of(picture_.excursions.begin(), picture_.excursions.end(),
                                     [&](const Excursion& e) { return t >= e.start && t <= e.end; });
        outside->addData(hoursOf(t), out && !gap ? picture_.run.values[i] : qQNaN());
        before = t;
    }
    const double length = std::max(hours, toHours(picture_.runSpan.end - picture_.runSpan.start));
    xAxis->setRange(sign > 0 ? 0 : -length, sign > 0 ? length : 0);
    // By what runs did: a corridor that is wide where runs end at different times would flatten the rest.
    bool any = false, found = false;
    QCPRange values;
    for (int i = 2; i < graphCount(); ++i) {
        const QCPRange r = graph(i)->getValueRange(found);
        if (!found) continue;
        if (any)
            values.expand(r);
        else
            values = r;
        any = true;
    }
    if (any)
        yAxis->setRange(values);
    else
        yAxis->rescale();
    yAxis->scaleRange(1.24);
    for (const Excursion& e : picture_.excursions) {
        auto* bar = new QCPItemRect(this);
        bar->topLeft->setTypeY(QCPItemPosition::ptAxisRectRatio);
        bar->bottomRight->setTypeY(QCPItemPosition::ptAxisRectRatio);
        bar->topLeft->setCoords(hoursOf(e.start), 0.975);
        bar->bottomRight->setCoords(hoursOf(e.end), 1.0);
        bar->setPen(Qt::NoPen);
        bar->setBrush(theme.accent);
        auto* words = new QCPItemText(this);
        words->setText("outside " + QString::fromStdString(sayDuration(e.end - e.start)));
        words->setColor(theme.accent);
        QFont bold = uiFont();
        bold.setWeight(QFont::DemiBold);
        words->setFont(bold);
        words->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
        words->position->setCoords((hoursOf(e.start) + hoursOf(e.end)) / 2, 0.945);
        if (xAxis->coordToPixel(hoursOf(e.end)) - xAxis->coordToPixel(hoursOf(e.start)) < 60 &&
            picture_.excursions.size() > 2)
            words->setVisible(false);
    }
    replot(rpQueuedReplot);
}

void OverlayPlot::mouseMoveEvent(QMouseEvent* e) {
    if (picture_.runSpan.id == 0 || !axisRect()->rect().contains(e->pos())) {
        pointer_.reset();
    } else {
        const auto offset =
            static_cast<Duration>(xAxis->pixelToCoord(e->pos().x()) * static_cast<double>(kHour));
        pointer_ =
            (picture_.limits.spec.lineUp == LineUp::Start ? picture_.runSpan.start : picture_.runSpan.end) +
            offset;
    }
    emit pointed();
}

void OverlayPlot::mouseDoubleClickEvent(QMouseEvent* e) {
    mouseMoveEvent(e);
    if (pointer_) emit momentChosen(*pointer_);
}

void OverlayPlot::leaveEvent(QEvent*) {
    pointer_.reset();
    emit pointed();
}

}  // namespace jacinth::app
