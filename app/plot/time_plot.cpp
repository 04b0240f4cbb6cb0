#include "app/plot/time_plot.h"

#include <QDropEvent>
#include <QElapsedTimer>
#include <QMenu>
#include <QMetaMethod>
#include <QMimeData>

#include "app/base/examples.h"
#include "app/base/save_picture.h"
#include "app/plot/bracket_lanes.h"
#include "app/plot/laid_over.h"
#include "app/plot/plot_measures.h"
#include "app/plot/plot_overlay.h"
#include "store/tracks.h"

namespace jacinth::app {
namespace {

/// The states of a tag in a range. Where samples are many more than pixels, from columns: a column with more
/// than one state has the code −1.
std::vector<BandPlottable::Band> bandsOf(Study& study, TagId id, TimeRange range, int pixels,
                                         TimeRange record) {
    std::vector<BandPlottable::Band> bands;
    const Tag* tag = study.catalog().tag(id);
    if (!tag) return bands;
    const Duration longest = tag->bridging().longestGap;
    const auto add = [&](Instant from, Instant last, Instant next, double code) {
        Instant to = next;
        if (longest != kWithoutEnd) to = std::min(to, last + longest);
        const int state = std::isfinite(code) ? static_cast<int>(code) : -1;
        if (!bands.empty() && bands.back().code == state && bands.back().range.to >= from)
            bands.back().range.to = to;
        else
            bands.push_back({{from, to}, state});
    };
    const auto columns = study.columns(*tag, range, pixels, Which::AsLogged);
    std::int64_t count = 0;
    for (const Summary& c : columns) count += c.count;
    const Instant end = std::min(range.to, record.to);
    if (count > 4LL * pixels) {
        for (std::size_t i = 0; i < columns.size(); ++i) {
            const Summary& c = columns[i];
            const Instant next = i + 1 < columns.size() ? columns[i + 1].firstTime : end;
            if (c.usable > 0 && c.least != c.greatest) add(c.firstTime, c.lastTime, c.lastTime, std::nan(""));
            add(c.usable > 0 && c.least != c.greatest ? c.lastTime : c.firstTime, c.lastTime, next, c.last);
        }
        return bands;
    }
    const Series s = study.read(*tag, range, Which::AsLogged);
    for (std::size_t i = 0; i < s.size(); ++i)
        add(s.times[i], s.times[i], i + 1 < s.size() ? s.times[i + 1] : end, s.values[i]);
    return bands;
}
std::vector<TimeRange> readBars(const Study& study, TrackId track, AssetId asset, TimeRange range) {
    std::vector<TimeRange> bars;
    for (const Span& s : study.tracks().spans(track))
        if (s.asset == asset && s.end >= range.from && s.start <= range.to) bars.push_back(s.range());
    return bars;
}
}  // namespace

TimePlot::TimePlot(Session& session, QWidget* parent)
    : QCustomPlot(parent), session_(session), reload_(new QTimer(this)) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setNoAntialiasingOnDrag(true);
    setMinimumHeight(120);
    reload_->setSingleShot(true);
    reload_->setInterval(0);
    connect(reload_, &QTimer::timeout, this, &TimePlot::reloadNow);
    ViewState& view = session.view();
    connect(&view, &ViewState::viewChanged, this, &TimePlot::reloadSoon);
    connect(&view, &ViewState::whichChanged, this, &TimePlot::reloadSoon);
    connect(&view, &ViewState::cursorChanged, this, [this] {
        if (isVisible()) replot(rpQueuedReplot);
    });
    connect(&session, &Session::themeChanged, this, [this] {
        applyTheme();
        reloadSoon();
    });
    connect(&view, &ViewState::laidOverChanged, this, &TimePlot::layOver);
    connect(&view, &ViewState::whichChanged, this, &TimePlot::layOver);
    // Which tags have fixes may have changed.
    connect(&session, &Session::studyChanged, this, [this] {
        if (session_.view().laidOver() != ViewState::LaidOver{}) layOver();
    });
    setAcceptDrops(true);
    addLayer("over", layer("main"), limAbove);
    new PlotOverlay(*this);
    applyTheme();
}

void TimePlot::setPanes(std::vector<PaneSpec> specs) {
    asked_ = std::move(specs);
    panes_.clear();
    for (PaneSpec& s : laysOver_ ? withLaidOver(session_, asked_) : asked_) panes_.emplace_back().spec = s;
    ++built_;
    build();
    reloadSoon();
}

void TimePlot::layOver() {
    if (!laysOver_ || asked_.empty()) return;
    std::vector<std::vector<PointMark>> points;
    for (Pane& pane : panes_) points.push_back(std::move(pane.points));
    setPanes(std::move(asked_));
    for (std::size_t i = 0; i < std::min(points.size(), panes_.size()); ++i)
        panes_[i].points = std::move(points[i]);
}

void TimePlot::build() {
    clearPlottables();
    plotLayout()->clear();
    plotLayout()->setRowSpacing(0);
    origin_ = session_.view().record().from;
    ticker_ = QSharedPointer<TimeTicker>::create(session_.zone(), origin_);
    for (std::size_t i = 0; i < panes_.size(); ++i) {
        Pane& pane = panes_[i];
        pane.rect = new QCPAxisRect(this);
        pane.rect->setAutoMargins(QCP::msNone);
        plotLayout()->addElement(static_cast<int>(i), 0, pane.rect);
        pane.rect->setupFullAxesBox(false);
        pane.rect->axis(QCPAxis::atBottom)->setTicker(ticker_);
        if (pane.spec.states)
            pane.bands = new BandPlottable(pane.rect->axis(QCPAxis::atBottom),
                                           pane.rect->axis(QCPAxis::atLeft), origin_);
        else if (!pane.spec.folded && !pane.spec.lane)
            buildTraces(pane);
    }
    applyTheme();
    layOut();
}

/// A scale for each unit: the first on the left, the others on the right.
void TimePlot::buildTraces(Pane& pane) {
    std::vector<QString> units;
    for (const TraceSpec& t : pane.spec.traces) {
        auto unit = std::find(units.begin(), units.end(), t.unit);
        if (unit == units.end()) {
            QCPAxis* scale = units.empty()       ? pane.rect->axis(QCPAxis::atLeft)
                             : units.size() == 1 ? pane.rect->axis(QCPAxis::atRight)
                                                 : pane.rect->addAxis(QCPAxis::atRight);
            scale->setVisible(true);
            pane.scales.push_back(scale);
            units.push_back(t.unit);
            unit = units.end() - 1;
        }
        pane.scaleOf.push_back(static_cast<std::size_t>(unit - units.begin()));
    }
    pane.traces.resize(pane.spec.traces.size());
    for (const bool under : {true, false})  // what is made first is drawn beneath
        for (std::size_t i = 0; i < pane.traces.size(); ++i) {
            const TraceSpec& t = pane.spec.traces[i];
            if (t.under != under) continue;
            pane.traces[i] =
                new TracePlottable(pane.rect->axis(QCPAxis::atBottom), pane.scales[pane.scaleOf[i]], origin_);
            pane.traces[i]->setBridging(t.bridging);
            pane.traces[i]->setEnds(t.ends);
        }
}

void TimePlot::applyTheme() {
    const Theme& theme = session_.theme();
    setBackground(theme.window);
    const QFont small = [] {
        QFont f = uiFont();
        f.setPixelSize(11);
        return f;
    }();
    for (Pane& pane : panes_) {
        pane.rect->setBackground(pane.low() ? QBrush(theme.window) : QBrush(theme.plot));
        const bool last = &pane == &panes_.back();
        for (QCPAxis* axis : pane.rect->axes()) {
            const bool bottom = axis->axisType() == QCPAxis::atBottom,
                       left = axis->axisType() == QCPAxis::atLeft;
            axis->setBasePen(QPen(pane.low() ? Qt::transparent : theme.hairline));
            axis->setTickPen(Qt::NoPen);
            axis->setSubTicks(false);
            const bool second =
                std::find(pane.scales.begin() + std::min<std::ptrdiff_t>(1, std::ssize(pane.scales)),
                          pane.scales.end(), axis) != pane.scales.end();
            const bool plain = !pane.low() && !pane.spec.folded;
            axis->setTicks((bottom || left || second) && plain);
            axis->setTickLabels((bottom && last) || ((left || second) && plain));
            if (second) {
                // Its numbers in the colour of the first trace that is read on it.
                const auto scale = static_cast<std::size_t>(
                    std::find(pane.scales.begin(), pane.scales.end(), axis) - pane.scales.begin());
                const auto t =
                    std::find(pane.scaleOf.begin(), pane.scaleOf.end(), scale) - pane.scaleOf.begin();
                axis->setTickLabelColor(pane.spec.traces[static_cast<std::size_t>(t)].colour);
                // Each further scale stands beside the one before.
                axis->setOffset(static_cast<int>(scale - 1) * kWideRight);
            }
            if (bottom && last) axis->setTicks(true);
            if (!second) axis->setTickLabelColor(theme.second);
            axis->setTickLabelFont(small);
            axis->grid()->setPen(QPen(faded(theme.hairline, 0.55), 1));
            axis->grid()->setZeroLinePen(pane.spec.zeroLine && left ? QPen(theme.second, 1)
                                                                    : QPen(faded(theme.hairline, 0.55), 1));
            axis->grid()->setVisible(left && plain);
        }
        QSharedPointer<QCPAxisTicker> ticker(new QCPAxisTicker);
        ticker->setTickCount(4);
        ticker->setTickStepStrategy(QCPAxisTicker::tssReadability);
        for (QCPAxis* scale : pane.rect->axes(QCPAxis::atLeft | QCPAxis::atRight)) {
            scale->setTicker(ticker);
            scale->setNumberFormat("gb");
            scale->setNumberPrecision(5);
        }
        for (std::size_t i = 0; i < pane.traces.size(); ++i)
            pane.traces[i]->setPen(
                QPen(pane.spec.traces[i].colour, pane.spec.traces[i].width, pane.spec.traces[i].style));
    }
}

void TimePlot::layOut() {
    if (panes_.empty()) return;
    double stretch = 0;
    int fixed = 0;
    for (const Pane& p : panes_)
        p.low()         ? void(fixed += kBandHeight + kPaneGap)
        : p.spec.folded ? void(fixed += kFoldedHeight + kPaneGap)
                        : void(stretch += p.spec.stretch);
    const int above = topMargin();
    const int free = std::max(0, height() - fixed - kAxisHeight - above);
    for (std::size_t i = 0; i < panes_.size(); ++i) {
        Pane& p = panes_[i];
        const bool last = i + 1 == panes_.size();
        const int top = i == 0 ? above : 0;
        const int tall = p.low()         ? kBandHeight + kPaneGap
                         : p.spec.folded ? kFoldedHeight + kPaneGap
                                         : static_cast<int>(free * p.spec.stretch / std::max(0.01, stretch));
        p.rect->setMargins(QMargins(kPlotLeft, top, rightMargin(), last ? kAxisHeight : kPaneGap));
        p.height = tall - kPaneGap;
        for (QCPAxis* scale : p.scales) scale->ticker()->setTickCount(std::clamp(p.height / 20, 1, 4));
        p.rect->setMinimumSize(100, std::max(10, tall - kPaneGap));
        p.rect->setMaximumSize(QWIDGETSIZE_MAX, tall + top + (last ? kAxisHeight : 0));
        plotLayout()->setRowStretchFactor(static_cast<int>(i),
                                          std::max(0.01, static_cast<double>(tall + top)));
    }
    ticker_->setTickCount(std::max(2, (width() - kPlotLeft - rightMargin()) / 96));
}

void TimePlot::reloadSoon() {
    if (isVisible()) reload_->start();
}

/// What is read for one view: columns a trace, bands a state pane, in the order of the panes.
struct TimePlot::Read {
    std::uint64_t built = 0;
    QElapsedTimer since;
    std::chrono::microseconds took{};  ///< from asking to having read
    struct PaneRead {
        std::vector<Reading> readings;
        std::vector<std::vector<Summary>> columns;
        TagId states;
        std::vector<BandPlottable::Band> bands;
        TrackId lane;
        AssetId laneOf;
        std::vector<TimeRange> bars;
    };
    std::vector<PaneRead> panes;
};

void TimePlot::reloadNow() {
    reload_->stop();
    const std::uint64_t reading = ask();
    // Drawn once where the columns come at once, as they do from memory.
    if (lastReading_ < kWorthWaitingFor && session_.reader().deliverWithin(reading, kWorthWaitingFor)) return;
    redraw();
}

void TimePlot::redraw() {
    QElapsedTimer timer;
    timer.start();
    const TimeRange view = session_.view().view();
    for (Pane& pane : panes_) {
        pane.rect->axis(QCPAxis::atBottom)
            ->setRange(toSeconds(view.from - origin_), toSeconds(view.to - origin_));
        fitPane(pane);
    }
    replot(rpImmediateRefresh);
    frameMs_ = static_cast<double>(timer.nsecsElapsed()) * 1e-6;
}

std::uint64_t TimePlot::ask() {
    auto read = std::make_shared<Read>();
    read->built = built_;
    read->since.start();
    for (const Pane& pane : panes_) {
        Read::PaneRead& p = read->panes.emplace_back();
        p.states = pane.spec.states;
        p.lane = pane.spec.lane;
        p.laneOf = pane.spec.laneOf;
        if (pane.spec.folded) continue;
        for (const TraceSpec& t : pane.spec.traces) p.readings.push_back(t.reading());
    }
    // Half a view more on either side: what a drag brings in is there already.
    const TimeRange view = session_.view().view(), record = session_.view().record();
    const TimeRange wide{view.from - view.length() / 2, view.to + view.length() / 2};
    const int pixels = 2 * std::max(50, width() - kPlotLeft - rightMargin());
    return session_.reader().ask(this, "plot", [this, read, wide, pixels, record](Study& study) {
        for (Read::PaneRead& pane : read->panes) {
            if (pane.states) pane.bands = bandsOf(study, pane.states, wide, pixels, record);
            if (pane.lane) pane.bars = readBars(study, pane.lane, pane.laneOf, wide);
            for (const Reading& reading : pane.readings)
                pane.columns.push_back(reading ? reading(study, wide, pixels) : std::vector<Summary>());
        }
        read->took = std::chrono::microseconds(read->since.nsecsElapsed() / 1000);
        return [this, read] { deliver(*read); };
    });
}

void TimePlot::deliver(Read& read) {
    lastReading_ = read.took;
    if (read.built != built_) return;
    for (std::size_t i = 0; i < panes_.size(); ++i) {
        Pane& pane = panes_[i];
        if (pane.bands) setBands(pane, std::move(read.panes[i].bands));
        pane.bars = std::move(read.panes[i].bars);
        for (std::size_t k = 0; k < pane.traces.size(); ++k)
            pane.traces[k]->setColumns(std::move(read.panes[i].columns[k]));
    }
    redraw();
    readingMs_ = static_cast<double>(read.since.nsecsElapsed()) * 1e-6;
    emit framed();
}

void TimePlot::setBands(Pane& pane, std::vector<BandPlottable::Band> bands) {
    const Tag* tag = session_.tag(pane.spec.states);
    if (!tag) return;
    std::vector<QString> names;
    std::vector<QColor> colours;
    const Theme& theme = session_.theme();
    const std::vector<std::string> resting = restStatesOf(*tag);
    for (std::size_t i = 0; i < tag->states.size(); ++i) {
        names.push_back(QString::fromStdString(tag->states[i]));
        const bool rest = std::find(resting.begin(), resting.end(), tag->states[i]) != resting.end();
        colours.push_back(rest ? faded(theme.second, 0.10)
                               : faded(theme.traces[i % theme.traces.size()], theme.dark ? 0.42 : 0.24));
    }
    // Where states change faster than pixels go by there is no one state to name.
    names.emplace_back();
    colours.push_back(faded(theme.second, 0.30));
    for (BandPlottable::Band& b : bands)
        if (b.code < 0 || b.code + 1 >= static_cast<int>(names.size()))
            b.code = static_cast<int>(names.size()) - 1;
    pane.bands->setBands(std::move(bands), std::move(names), std::move(colours), theme.ink);
}

void TimePlot::fitPane(Pane& pane) {
    // While a handle is dragged the scale stays: what moves under the pointer must not run away from it.
    if (pane.low() || drag_ == Drag::Handle) return;
    for (std::size_t i = 0; i < pane.scales.size(); ++i) fitScale(pane, i);
}

void TimePlot::fitScale(Pane& pane, std::size_t scale) {
    QCPAxis* axis = pane.scales[scale];
    if (const auto fixed = pane.fixed.find(scale); fixed != pane.fixed.end())
        return axis->setRange(fixed->second);
    std::optional<QCPRange> found;
    if (pane.spec.zeroLine) found = QCPRange(0, 0);
    for (std::size_t i = 0; i < pane.traces.size(); ++i) {
        const auto values = pane.scaleOf[i] == scale ? pane.traces[i]->values(session_.view().view())
                                                     : std::optional<QCPRange>();
        if (!values) continue;
        if (found)
            found->expand(*values);
        else
            found = values;
    }
    QCPRange all = found.value_or(QCPRange(0, 1));
    // Nothing but zero: a scale of its own making, not one of rounding errors.
    if (pane.spec.zeroLine && std::abs(all.upper) < 1e-9 && std::abs(all.lower) < 1e-9) all = QCPRange(-1, 1);
    const double size = std::max(all.upper - all.lower, std::max(1e-9, std::abs(all.upper) * 0.01));
    const double middle = (all.lower + all.upper) / 2;
    // Room at the top for the pane's title, however small the pane.
    const double tall = std::max(40, pane.height);
    const double above = std::clamp(22.0 / (tall - 22.0), 0.06, 0.5);
    axis->setRange(middle - size * 0.55, middle + size * (0.5 + above));
}

int TimePlot::topMargin() const {
    return brackets_ ? brackets_->height() : 0;
}

BracketLanes* TimePlot::brackets() {
    if (!brackets_) brackets_ = new BracketLanes(*this);
    return brackets_;
}

void TimePlot::layOutAgain() {
    if (ticker_) layOut();
    reloadSoon();
}

int TimePlot::rightMargin() const {
    std::size_t most = 1;
    for (const Pane& p : panes_) most = std::max(most, p.scales.size());
    return most == 1 ? kNarrowRight : kWideRight * static_cast<int>(most - 1);
}

void TimePlot::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasFormat(kTagMime)) e->acceptProposedAction();
}

void TimePlot::dropEvent(QDropEvent* e) {
    const TagId tag(e->mimeData()->data(kTagMime).toLongLong());
    if (tag) emit tagDropped(tag, paneAt(e->position().toPoint()));
    e->acceptProposedAction();
}

void TimePlot::contextMenuEvent(QContextMenuEvent* e) {
    const int pane = paneAt(e->pos());
    if (pane >= 0 && isSignalConnected(QMetaMethod::fromSignal(&TimePlot::paneMenuAsked)))
        return emit paneMenuAsked(pane, e->globalPos());
    QMenu menu(this);
    menu.setObjectName("pictureMenu");
    addPictureCommands(&menu, this);
    menu.exec(e->globalPos());
}

void TimePlot::fitValues() {
    for (Pane& p : panes_) p.fixed.clear();
    reloadSoon();
}

void TimePlot::setHandles(std::vector<Handle> handles) {
    handles_ = std::move(handles);
    replot(rpQueuedReplot);
}

void TimePlot::setMarks(std::vector<SpanMark> marks) {
    marks_ = std::move(marks);
    replot(rpQueuedReplot);
}

void TimePlot::setPoints(int pane, std::vector<PointMark> points) {
    if (pane < paneCount()) panes_[static_cast<std::size_t>(pane)].points = std::move(points);
    replot(rpQueuedReplot);
}

void TimePlot::setShade(std::optional<TimeRange> shade) {
    shade_ = shade;
    replot(rpQueuedReplot);
}

double TimePlot::xOf(Instant t) const {
    const TimeRange view = session_.view().view();
    return kPlotLeft + toNanoseconds(t - view.from) / toNanoseconds(view.length()) *
                           (width() - kPlotLeft - rightMargin());
}

Instant TimePlot::timeAt(double x) const {
    const TimeRange view = session_.view().view();
    return view.from + fromNanoseconds((x - kPlotLeft) / (width() - kPlotLeft - rightMargin()) *
                                       toNanoseconds(view.length()));
}

int TimePlot::paneAt(const QPoint& p) const {
    for (std::size_t i = 0; i < panes_.size(); ++i)
        if (panes_[i].rect->rect().adjusted(0, -3, 0, 3).contains(p)) return static_cast<int>(i);
    return -1;
}

QRect TimePlot::paneRect(int pane) const {
    return panes_[static_cast<std::size_t>(pane)].rect->rect();
}
double TimePlot::valueAt(int pane, double y) const {
    return panes_[static_cast<std::size_t>(pane)].rect->axis(QCPAxis::atLeft)->pixelToCoord(y);
}
double TimePlot::yOf(int pane, double v) const {
    return panes_[static_cast<std::size_t>(pane)].rect->axis(QCPAxis::atLeft)->coordToPixel(v);
}
const std::vector<Summary>& TimePlot::columnsOf(int pane, int trace) const {
    return panes_[static_cast<std::size_t>(pane)].traces[static_cast<std::size_t>(trace)]->columns();
}

void TimePlot::resizeEvent(QResizeEvent* e) {
    QCustomPlot::resizeEvent(e);
    if (!ticker_) return;
    layOut();
    reloadSoon();
}

void TimePlot::showEvent(QShowEvent* e) {
    QCustomPlot::showEvent(e);
    if (ticker_) layOut();
    reloadSoon();
}

}  // namespace jacinth::app
