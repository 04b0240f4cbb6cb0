#include "app/screen/overlay_plot.h"

#include <QApplication>
#include <QPainter>

#include "app/base/save_picture.h"
#include "app/plot/chart.h"
#include "core/stats/stats.h"

namespace jacinth::app {

OverlayPlot::OverlayPlot(Session& session, QWidget* parent) : QCustomPlot(parent), session_(session) {
    setObjectName("overlayPlot");
    givePictureMenu(this);
    setAccessibleName("Lined-up runs");
    setMouseTracking(true);
    setMinimumHeight(180);
    axisRect()->setAutoMargins(QCP::msNone);
    axisRect()->setMargins({54, 4, 10, 26});
    connect(&session, &Session::themeChanged, this, &OverlayPlot::rebuild);
    connect(&session.view(), &ViewState::laidOverChanged, this, &OverlayPlot::rebuild);
}

void OverlayPlot::show(Picture picture) {
    marked_.clear();
    picture_ = std::move(picture);
    rebuild();
}

double OverlayPlot::onAxis(Duration distance) const {
    return picture_.limits.spec.lineUp == LineUp::Indicator ? indicatorUnits(distance) : toHours(distance);
}

QCPGraph* OverlayPlot::line(const QPen& pen) {
    QCPGraph* g = addGraph();
    g->setPen(pen);
    return g;
}

void OverlayPlot::prepareAxes(bool nothing) {
    const Theme& theme = session_.theme();
    setBackground(theme.window);
    axisRect()->setBackground(nothing ? theme.window : theme.plot);
    for (QCPAxis* axis : {xAxis, yAxis}) {
        axis->setBasePen(QPen(theme.hairline));
        axis->setTickPen(Qt::NoPen);
        axis->setSubTicks(false);
        axis->setTickLabelColor(theme.second);
        axis->setTickLabelFont(smallFont());
        axis->setNumberFormat("gb");
        axis->grid()->setPen(QPen(faded(theme.hairline, 0.55), 1));
        axis->grid()->setZeroLinePen(Qt::NoPen);
        axis->setVisible(!nothing);
    }
    xAxis->grid()->setVisible(false);
    if (!nothing) return;
    auto* words = new QCPItemText(this);
    words->position->setType(QCPItemPosition::ptAxisRectRatio);
    words->position->setCoords(0.5, 0.4);
    words->setText("The runs of one tag appear here, lined up, with the corridor of the golden ones.");
    words->setColor(theme.second);
    words->setFont(uiFont());
}

void OverlayPlot::rebuild() {
    clearGraphs();
    clearItems();
    clearPlottables();
    const bool nothing = !picture_.runSpan.id && picture_.limits.slices.empty();
    prepareAxes(nothing);
    if (!nothing) {
        setRanges();
        drawDensity();
        drawCorridor(picture_.limits, false);
        if (picture_.other) drawCorridor(*picture_.other, true);
        drawGolden();
        drawMarked();
        drawOtherData();
        drawRun();
        drawPhases();
        drawExcursions();
    }
    replot(rpQueuedReplot);
}

/// By what runs did: a corridor that is wide where few runs stand behind it would flatten the rest.
QCPRange OverlayPlot::valuesInSight() const {
    double low = std::numeric_limits<double>::infinity(), high = -low;
    const auto take = [&](double v) {
        if (std::isfinite(v)) low = std::min(low, v), high = std::max(high, v);
    };
    if (picture_.golden)
        for (const AlignedRun& r : *picture_.golden)
            for (const double v : r.values) take(v);
    for (std::size_t i = 0; i < picture_.run.size(); ++i)
        if (picture_.run.view().usable(i)) take(picture_.run.values[i]);
    if (picture_.all) {  // a few wild ones of thousands shall not press the others flat
        std::vector<double> sample;
        for (const AlignedRun& r : *picture_.all)
            for (std::size_t i = 0; i < r.values.size(); i += 7)
                if (std::isfinite(r.values[i])) sample.push_back(r.values[i]);
        std::sort(sample.begin(), sample.end());
        for (const double q : {0.002, 0.998}) take(quantileOfSorted(sample, q));
    }
    if (low > high)
        for (const LimitSlice& s : picture_.limits.slices) take(s.low), take(s.high);
    if (low > high) return {0, 1};
    const double room = high > low ? (high - low) * 0.12 : std::max(1.0, std::abs(high) * 0.1);
    return {low - room, high + room};
}

void OverlayPlot::setRanges() {
    double least = 0, most = 0;
    bool any = false;
    const auto take = [&](Place p) {
        const double v = onAxis(p);
        least = any ? std::min(least, v) : v;
        most = any ? std::max(most, v) : v;
        any = true;
    };
    if (!picture_.limits.slices.empty()) {
        take(picture_.limits.slices.front().offset);
        take(picture_.limits.slices.back().offset);
    }
    if (!picture_.scale.empty() && picture_.run.size() > 0) {
        take(picture_.scale.firstPlace());
        take(picture_.scale.lastPlace());
    }
    xAxis->setRange(least, most > least ? most : least + 1);
    yAxis->setRange(valuesInSight());
}

/// How many runs pass each place: every run counts once in a column of places.
void OverlayPlot::drawDensity() {
    if (!picture_.all || picture_.all->empty()) return;
    constexpr int kAcross = 320, kUp = 140;
    const double every = onAxis(picture_.limits.spec.every);
    auto* map = new QCPColorMap(xAxis, yAxis);
    map->data()->setSize(kAcross, kUp);
    map->data()->setRange(xAxis->range(), yAxis->range());
    std::vector<float> counts(static_cast<std::size_t>(kAcross) * kUp, 0);
    float most = 1;
    for (const AlignedRun& r : *picture_.all) {
        int before = -1;
        for (std::size_t i = 0; i < r.values.size(); ++i) {
            if (!std::isfinite(r.values[i])) continue;
            int across = 0, up = 0;
            map->data()->coordToCell(static_cast<double>(r.first + static_cast<std::int64_t>(i)) * every,
                                     r.values[i], &across, &up);
            if (across == before || across < 0 || across >= kAcross || up < 0 || up >= kUp) continue;
            before = across;
            float& n = counts[static_cast<std::size_t>(across) * kUp + static_cast<std::size_t>(up)];
            most = std::max(most, ++n);
        }
    }
    for (int x = 0; x < kAcross; ++x)
        for (int y = 0; y < kUp; ++y)
            map->data()->setCell(
                x, y,
                std::sqrt(counts[static_cast<std::size_t>(x) * kUp + static_cast<std::size_t>(y)] / most));
    QCPColorGradient colours;
    const Theme& theme = session_.theme();
    colours.clearColorStops();
    colours.setColorStopAt(0, faded(theme.traces[0], 0));
    colours.setColorStopAt(0.12, faded(theme.traces[0], 0.16));
    colours.setColorStopAt(1, faded(theme.traces[0], 0.9));
    map->setGradient(colours);
    map->setDataRange({0, 1});
    map->setInterpolate(true);
}

void OverlayPlot::drawCorridor(const GoldenLimits& limits, bool other) {
    const Theme& theme = session_.theme();
    QPen pen(other ? theme.traces[0] : theme.goldEdge, other ? 1.5 : 1.1);
    if (other) pen.setStyle(Qt::DashLine);
    QCPGraph* low = line(pen);
    QCPGraph* high = line(pen);
    for (const LimitSlice& s : limits.slices) {
        low->addData(onAxis(s.offset), s.low);
        high->addData(onAxis(s.offset), s.high);
    }
    if (other) return;
    high->setBrush(faded(theme.goldFill, picture_.all ? 0.2 : 0.33));
    high->setChannelFillGraph(low);
}

void OverlayPlot::drawGolden() {
    if (!picture_.golden || picture_.all) return;
    constexpr std::size_t kMost = 40;  // thin lines; more would be a grey block
    const double every = onAxis(picture_.limits.spec.every);
    const std::size_t step = picture_.golden->size() / kMost + 1;
    const double alpha = std::clamp(4.0 / static_cast<double>(picture_.golden->size()), 0.12, 0.35);
    for (std::size_t k = 0; k < picture_.golden->size(); k += step) {
        const AlignedRun& r = (*picture_.golden)[k];
        QCPGraph* g = line(QPen(faded(session_.theme().goldEdge, alpha), 1));
        for (std::size_t i = 0; i < r.values.size(); ++i)
            g->addData(static_cast<double>(r.first + static_cast<std::int64_t>(i)) * every, r.values[i]);
    }
}

/// The runs that stand there as lines or as a density.
const std::vector<AlignedRun>* OverlayPlot::linesDrawn() const {
    return picture_.all ? picture_.all.get() : picture_.golden.get();
}

void OverlayPlot::drawMarked() {
    const auto* lines = linesDrawn();
    if (!lines || marked_.empty()) return;
    const double every = onAxis(picture_.limits.spec.every);
    for (const AlignedRun& r : *lines) {
        if (!marked_.contains(r.run)) continue;
        QCPGraph* g = line(QPen(session_.theme().traces[0], 1.2));
        for (std::size_t i = 0; i < r.values.size(); ++i)
            g->addData(static_cast<double>(r.first + static_cast<std::int64_t>(i)) * every, r.values[i]);
    }
}

void OverlayPlot::setMarked(std::vector<SpanId> runs) {
    marked_ = {runs.begin(), runs.end()};
    rebuild();
}

std::vector<SpanId> OverlayPlot::runsIn(const QRect& box) const {
    std::vector<SpanId> out;
    const auto* lines = linesDrawn();
    if (!lines) return out;
    const double every = onAxis(picture_.limits.spec.every);
    const double from = xAxis->pixelToCoord(box.left()), to = xAxis->pixelToCoord(box.right() + 1),
                 low = yAxis->pixelToCoord(box.bottom() + 1), high = yAxis->pixelToCoord(box.top());
    for (const AlignedRun& r : *lines) {
        bool passes = false;
        double before = std::nan("");
        for (std::size_t i = 0; i < r.values.size() && !passes; ++i) {
            const double x = static_cast<double>(r.first + static_cast<std::int64_t>(i)) * every;
            const double v = r.values[i];
            // The line into the box counts too: slices may be wider apart than the box.
            const double least = std::isfinite(before) ? std::min(v, before) : v,
                         most = std::isfinite(before) ? std::max(v, before) : v;
            passes = std::isfinite(v) && x >= from && x - every <= to && most >= low && least <= high;
            before = v;
        }
        if (passes) out.push_back(r.run);
    }
    return out;
}

QString OverlayPlot::boxWords(const QRect& box) const {
    const auto place = [&](int x) { return QString::number(xAxis->pixelToCoord(x), 'f', 1); };
    return QString("%1 to %2 at %3 to %4%5")
        .arg(valueText(yAxis->pixelToCoord(box.bottom())),
             valueText(yAxis->pixelToCoord(box.top()), QString::fromStdString(picture_.unit)),
             place(box.left()), place(box.right()),
             picture_.limits.spec.lineUp == LineUp::Indicator
                 ? " " + QString::fromStdString(picture_.limits.spec.indicator)
                 : QString(" h"));
}

QRect OverlayPlot::box() const {
    if (!pressed_ || (at_ - *pressed_).manhattanLength() < QApplication::startDragDistance()) return {};
    return QRect(*pressed_, at_).normalized() & axisRect()->rect();
}

void OverlayPlot::drawOtherData() {
    if (!session_.view().laidOver().other) return;
    QCPGraph* run = line(QPen(session_.theme().second, 1.2, Qt::DashLine));
    const Series& other = picture_.otherData;
    Instant before = kNoInstant;
    for (std::size_t i = 0; i < other.size(); ++i) {
        const auto place = picture_.scale.placeOf(other.times[i]);
        if (!other.view().usable(i) || !place) continue;
        if (before != kNoInstant && other.times[i] - before > picture_.bridging.longestGap)
            run->addData(onAxis(*place), qQNaN());
        run->addData(onAxis(*place), other.values[i]);
        before = other.times[i];
    }
}

void OverlayPlot::drawRun() {
    const Theme& theme = session_.theme();
    QCPGraph* run = line(QPen(theme.ink, 1.8));
    QCPGraph* outside = line(QPen(theme.accent, 2.4));
    Instant before = kNoInstant;
    double last = 0;
    for (std::size_t i = 0; i < picture_.run.size(); ++i) {
        const Instant t = picture_.run.times[i];
        const auto place = picture_.scale.placeOf(t);
        if (!picture_.run.view().usable(i) || !place) continue;
        const double x = onAxis(*place);
        const bool gap = before != kNoInstant && t - before > picture_.bridging.longestGap;
        if (gap) run->addData(x, qQNaN());
        run->addData(x, picture_.run.values[i]);
        const bool out = std::any_of(picture_.excursions.begin(), picture_.excursions.end(),
                                     [&](const Excursion& e) { return t >= e.start && t <= e.end; });
        outside->addData(x, out && !gap ? picture_.run.values[i] : qQNaN());
        before = t;
        last = x;
    }
    if (before == kNoInstant || !picture_.runSpan.facts.contains("unfinished")) return;
    auto* edge = new QCPItemStraightLine(this);
    edge->point1->setCoords(last, 0);
    edge->point2->setCoords(last, 1);
    QPen pen(theme.ink, 1, Qt::DotLine);
    edge->setPen(pen);
    auto* words = new QCPItemText(this);
    words->setText(" so far");
    words->setColor(theme.second);
    words->setFont(smallFont());
    words->setPositionAlignment(Qt::AlignLeft | Qt::AlignTop);
    words->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
    words->position->setCoords(last, 0.075);  // under the names of the phases
}

void OverlayPlot::drawPhases() {
    const Theme& theme = session_.theme();
    Place at;
    double free = -1e300;
    for (const PhaseSlot& slot : picture_.limits.phases) {
        if (at > Place()) {
            auto* parting = new QCPItemStraightLine(this);
            parting->point1->setCoords(onAxis(at), 0);
            parting->point2->setCoords(onAxis(at), 1);
            QPen pen(faded(theme.goldEdge, 0.6), 1, Qt::DashLine);
            parting->setPen(pen);
        }
        const double left = xAxis->coordToPixel(onAxis(at)) + 5;
        const QString name = QString::fromStdString(slot.name);
        const double wide = QFontMetricsF(smallFont()).horizontalAdvance(name);
        const double room = xAxis->coordToPixel(onAxis(at + slot.length)) - left;
        if (left >= free && wide < room - 4) {
            auto* words = new QCPItemText(this);
            words->setText(name);
            words->setColor(theme.second);
            words->setFont(smallFont());
            words->setPadding({});
            words->setPositionAlignment(Qt::AlignLeft | Qt::AlignTop);
            words->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
            words->position->setCoords(onAxis(at), 0.015);
            words->setPadding({5, 0, 0, 0});
            free = left + wide;
        }
        at += slot.length;
    }
}

void OverlayPlot::drawExcursions() {
    const Theme& theme = session_.theme();
    double free = -1e9;  // words stand side by side or not at all; the bar shows the others
    for (const Excursion& e : picture_.excursions) {
        const auto from = picture_.scale.placeOf(e.start), to = picture_.scale.placeOf(e.end);
        if (!from || !to) continue;
        auto* bar = new QCPItemRect(this);
        bar->topLeft->setTypeY(QCPItemPosition::ptAxisRectRatio);
        bar->bottomRight->setTypeY(QCPItemPosition::ptAxisRectRatio);
        bar->topLeft->setCoords(onAxis(*from), 0.975);
        bar->bottomRight->setCoords(onAxis(*to), 1.0);
        bar->setPen(Qt::NoPen);
        bar->setBrush(theme.accent);
        const double wide = xAxis->coordToPixel(onAxis(*to)) - xAxis->coordToPixel(onAxis(*from));
        if (wide < 60 && picture_.excursions.size() > 2) continue;
        auto* words = new QCPItemText(this);
        words->setText("outside " + QString::fromStdString(sayDuration(e.end - e.start)));
        words->setColor(theme.accent);
        QFont bold = uiFont();
        bold.setWeight(QFont::DemiBold);
        words->setFont(bold);
        words->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
        const double half = QFontMetricsF(bold).horizontalAdvance(words->text()) / 2 + 6;
        const double middle = xAxis->coordToPixel((onAxis(*from) + onAxis(*to)) / 2);
        const QRect rect = axisRect()->rect();
        const double at = std::clamp(std::max(middle, free + half), rect.left() + half, rect.right() - half);
        words->position->setCoords(xAxis->pixelToCoord(at), 0.935);
        words->setVisible(at - half >= free && std::abs(at - middle) < wide / 2 + half);
        if (words->visible()) free = at + half;
    }
}

QString OverlayPlot::countWords() const {
    int least = std::numeric_limits<int>::max(), most = 0, without = 0;
    for (const LimitSlice& s : picture_.limits.slices) {
        least = std::min(least, s.n);
        most = std::max(most, s.n);
        without += !std::isfinite(s.low);
    }
    if (picture_.limits.slices.empty()) return {};
    QString out = least == most ? QString("n = %1 golden runs in every slice").arg(most)
                                : QString("n = %1 to %2 golden runs a slice").arg(least).arg(most);
    if (without > 0) out += QString(" · %1 slices without limits").arg(without);
    if (picture_.flagged.of > 0)
        out += " · flags " + QString::fromStdString(flaggedWords(picture_.flagged, picture_.limits.widened))
                                 .replace(" golden runs", "");
    return out;
}

QString OverlayPlot::axisWords() const {
    switch (picture_.limits.spec.lineUp) {
        case LineUp::Start:
            return "hours since the start of the run";
        case LineUp::End:
            return "hours from the end of the run";
        case LineUp::Phases:
            return "hours, each phase as long as in the golden runs";
        case LineUp::Indicator:
            break;
    }
    return QString::fromStdString(picture_.limits.spec.indicator) +
           (picture_.indicatorUnit.empty() ? "" : ", " + QString::fromStdString(picture_.indicatorUnit));
}

QString OverlayPlot::pointerWords(double value) const {
    if (!place_) return {};
    QString out;
    if (pointer_) out += "+" + QString::fromStdString(sayDuration(*pointer_ - picture_.runSpan.start));
    Place at;
    for (const PhaseSlot& slot : picture_.limits.phases) {
        if (*place_ >= at && *place_ < at + slot.length) out += " · " + QString::fromStdString(slot.name);
        at += slot.length;
    }
    const LimitsAt limits = limitsAt(picture_.limits, *place_);
    if (std::isfinite(limits.low))
        out += QString(" · limits %1 – %2")
                   .arg(valueText(limits.low), valueText(limits.high, QString::fromStdString(picture_.unit)));
    const Duration every = picture_.limits.spec.every;
    if (picture_.stack && every > Duration::zero() && std::isfinite(value)) {
        const Duration from = place_->time_since_epoch();
        const std::int64_t slice = (from + (from >= Duration::zero() ? every / 2 : -every / 2)) / every;
        const double below = picture_.stack->shareBelow(slice, value);
        if (std::isfinite(below))
            out += QString(" · above %1 % of the golden runs").arg(std::lround(below * 100));
    }
    return out;
}

void OverlayPlot::mousePressEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton && axisRect()->rect().contains(e->pos()) && linesDrawn())
        pressed_ = at_ = e->pos();
}

void OverlayPlot::mouseReleaseEvent(QMouseEvent* e) {
    at_ = e->pos();
    const QRect dragged = box();
    pressed_.reset();
    update();
    if (!dragged.isEmpty()) emit boxed(dragged);
}

void OverlayPlot::paintEvent(QPaintEvent* e) {
    QCustomPlot::paintEvent(e);
    const QRect dragged = box();
    if (dragged.isEmpty()) return;
    QPainter p(this);
    p.setPen(QPen(session_.theme().accent, 1));
    p.setBrush(faded(session_.theme().accent, 0.12));
    p.drawRect(dragged.adjusted(0, 0, -1, -1));
}

void OverlayPlot::mouseMoveEvent(QMouseEvent* e) {
    at_ = e->pos();
    if (pressed_) update();
    pointer_.reset();
    place_.reset();
    if (!picture_.limits.slices.empty() || picture_.runSpan.id)
        if (axisRect()->rect().contains(e->pos())) {
            const Duration unit = picture_.limits.spec.lineUp == LineUp::Indicator ? indicatorStep(1) : kHour;
            place_ = Place(Duration(std::llround(xAxis->pixelToCoord(e->pos().x()) * toNanoseconds(unit))));
            pointer_ = picture_.scale.timeOf(*place_);
        }
    emit pointed();
}

void OverlayPlot::mouseDoubleClickEvent(QMouseEvent* e) {
    mouseMoveEvent(e);
    if (pointer_) emit momentChosen(*pointer_);
}

void OverlayPlot::leaveEvent(QEvent*) {
    pointer_.reset();
    place_.reset();
    emit pointed();
}

}  // namespace jacinth::app
