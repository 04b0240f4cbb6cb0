#include "app/prove/lead_up_plot.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/base/names.h"
#include "app/base/save_picture.h"

namespace jacinth::app {
namespace {

constexpr Duration kAfter = 8 * kHour;
constexpr int kBins = 480, kPixels = 960;
constexpr int kScale = 54, kRoomRight = 10, kTimeAxis = 22, kGap = 4;
constexpr unsigned kSeed = 1;
constexpr std::size_t kManyLines = 40;

/// The paint of `colour` over `ground` with an opacity, as one that is opaque.
QColor over(const QColor& ground, const QColor& colour, double opacity) {
    const auto part = [&](float a, float b) { return static_cast<float>(a + (b - a) * opacity); };
    return QColor::fromRgbF(part(ground.redF(), colour.redF()), part(ground.greenF(), colour.greenF()),
                            part(ground.blueF(), colour.blueF()));
}

}  // namespace

LeadUpPlot::LeadUpPlot(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("leadUpPlot");
    givePictureMenu(this);
    setAccessibleName("The days before each failure");
    setMinimumHeight(150);
    setMouseTracking(true);
    setFocusPolicy(Qt::ClickFocus);
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void LeadUpPlot::show(Asked asked, bool again) {
    asked.failures = spreadOver(std::move(asked.failures), kMostLinedUp);
    if (!again && asked == asked_) return;
    asked_ = std::move(asked);
    quiet_ = asked_.quiet ? quietStretches(session_.view().record(), asked_.failures, asked_.before,
                                           asked_.spec.most, kSeed)
                          : std::vector<LeadUpStretch>();
    const bool known =
        part_ && std::find(asked_.names.begin(), asked_.names.end(), part_->name) != asked_.names.end();
    if (!known) part_.reset();
    if (-left_ > toHours(asked_.before)) left_ = right_ = 0;
    update();
    read();
}

void LeadUpPlot::setAlarms(std::vector<AlarmVerdict> alarms) {
    alarms_ = std::move(alarms);
    update();
}

void LeadUpPlot::setStrong(AssetId asset, Instant failure) {
    strong_ = {asset, failure};
    update();
}

void LeadUpPlot::clearPart() {
    part_.reset();
    update();
    emit partMarked();
}

/// Beside the interface; drawn when all of it is there.
void LeadUpPlot::read() {
    if (asked_.failures.empty() || asked_.names.empty()) {
        drawn_.clear();
        return;
    }
    const auto work = [this, asked = asked_, quiet = quiet_,
                       which = session_.view().which()](Study& study) -> BackgroundReader::Deliver {
        auto panes = std::make_shared<std::map<std::string, Pane>>();
        const auto lines = [&](const std::vector<LeadUpStretch>& stretches, const std::string& name) {
            std::vector<LeadUpLine> out;
            for (const LeadUpStretch& s : stretches) {
                const Tag* tag = study.catalog().tagNamed(s.asset, name);
                const TimeRange range{s.zero - asked.before, s.zero + kAfter};
                out.push_back(tag && tag->kind != TagKind::State
                                  ? leadUpLine(study.columns(*tag, range, kPixels, which), range, kBins)
                                  : leadUpLine({}, range, kBins));
            }
            return out;
        };
        for (const std::string& name : asked.names) {
            Pane& pane = (*panes)[name];
            pane.failures = lines(asked.failures, name);
            pane.quiet = lines(quiet, name);
            pane.failureBand = leadUpBand(pane.failures);
            pane.quietBand = leadUpBand(pane.quiet);
        }
        return [this, panes] {
            drawn_ = std::move(*panes);
            for (auto& [name, pane] : drawn_) nameWith(pane, name);
            update();
        };
    };
    session_.reader().ask(this, "lead-up", work);
}

/// One name and colour a pane: those of the first failed asset that has the tag.
void LeadUpPlot::nameWith(Pane& pane, const std::string& name) const {
    pane.name = QString::fromStdString(name);
    pane.colour = session_.theme().traces[0];
    for (const LeadUpStretch& f : asked_.failures)
        if (const Tag* tag = session_.study().catalog().tagNamed(f.asset, name)) {
            pane.name = QString::fromStdString(tag->name);
            pane.unit = QString::fromStdString(tag->unit);
            pane.colour = session_.tagColour(tag->id);
            return;
        }
}

int LeadUpPlot::linesDrawn() const {
    if (asked_.band) return 0;
    int out = 0;
    for (const std::string& name : asked_.names)
        for (const LeadUpStretch& f : asked_.failures) {
            const Tag* tag = session_.study().catalog().tagNamed(f.asset, name);
            out += tag && tag->kind != TagKind::State;
        }
    return out;
}

QRectF LeadUpPlot::paneRect(int pane) const {
    const int n = std::max(1, panes());
    const double high = (height() - kTimeAxis - 2.0 - kGap * (n - 1)) / n;
    return {static_cast<double>(kScale), 2 + pane * (high + kGap),
            static_cast<double>(width() - kScale - kRoomRight), high};
}

ChartArea LeadUpPlot::areaOf(int pane) const {
    ChartArea out;
    out.rect = paneRect(pane);
    out.left = left_ < right_ ? left_ : -toHours(asked_.before);
    out.right = left_ < right_ ? right_ : toHours(kAfter);
    const auto found =
        pane < panes() ? drawn_.find(asked_.names[static_cast<std::size_t>(pane)]) : drawn_.end();
    double low = std::numeric_limits<double>::infinity(), high = -low;
    const auto look = [&](const std::vector<LeadUpLine>& lines) {
        for (const LeadUpLine& line : lines)
            for (std::size_t b = 0; b < line.mean.size(); ++b) {
                const double x = binX(out, b);
                if (!std::isfinite(line.mean[b]) || x < out.rect.left() || x > out.rect.right()) continue;
                // A line is drawn by its means; its least and greatest are in sight in a band.
                low = std::min(low, asked_.band ? line.least[b] : line.mean[b]);
                high = std::max(high, asked_.band ? line.greatest[b] : line.mean[b]);
            }
    };
    if (found != drawn_.end()) look(found->second.failures), look(found->second.quiet);
    if (low > high) low = 0, high = 1;
    out.setY(low, high, 0.1);
    return out;
}

double LeadUpPlot::xOf(Duration before) const {
    return areaOf(0).x(-toHours(before));
}

Duration LeadUpPlot::timeAtX(double x) const {
    ChartArea area;
    area.rect = paneRect(0);
    area.left = left_ < right_ ? left_ : -toHours(asked_.before);
    area.right = left_ < right_ ? right_ : toHours(kAfter);
    return fromNanoseconds(-area.valueAtX(x) * toNanoseconds(kHour));
}

double LeadUpPlot::binX(const ChartArea& area, std::size_t bin) const {
    const double whole = toHours(asked_.before + kAfter);
    return area.x(-toHours(asked_.before) + (static_cast<double>(bin) + 0.5) / kBins * whole);
}

void LeadUpPlot::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    if (asked_.failures.empty())
        return drawInstead(p, session_.theme(), rect(),
                           "No failures on record. Write them down under Failures, or import them with "
                           "File › Import.");
    if (asked_.names.empty())
        return drawInstead(p, session_.theme(), rect(),
                           asked_.isWritten ? "No asset that failed has a tag of this rule with numbers."
                                            : "Write a rule: the tags it uses are lined up here.");
    p.setFont(smallFont());
    for (int pane = 0; pane < panes(); ++pane) paintPane(p, pane);
}

/// Of a line among others. Many of them are thin and without what shines through, which is drawn ten times as
/// quickly.
QPen LeadUpPlot::linePen(const Pane& pane) const {
    const double share = strong_.first ? 0.35 : 0.7;
    if (pane.failures.size() <= kManyLines) return {faded(pane.colour, share), 1.1};
    return {over(session_.theme().plot, pane.colour, share), 1};
}

void LeadUpPlot::paintPane(QPainter& p, int index) {
    const Theme& theme = session_.theme();
    const ChartArea area = areaOf(index);
    drawAxes(p, theme, area, Axes::Left);
    p.save();
    p.setClipRect(area.rect);
    const double most = area.x(-toHours(asked_.spec.most)), least = area.x(-toHours(asked_.spec.least));
    p.fillRect(QRectF(most, area.rect.top(), least - most, area.rect.height()), faded(theme.goldFill, 0.16));
    const auto found = drawn_.find(asked_.names[static_cast<std::size_t>(index)]);
    if (found != drawn_.end()) {
        const Pane& pane = found->second;
        if (asked_.quiet) paintBand(p, area, pane.quietBand, theme.second, false);
        if (asked_.band)
            paintBand(p, area, pane.failureBand, pane.colour, true);
        else
            for (std::size_t i = 0; i < pane.failures.size() && i < asked_.failures.size(); ++i) {
                const LeadUpStretch& f = asked_.failures[i];
                const bool strong = strong_.first && strong_ == std::pair(f.asset, f.zero);
                paintLine(p, area, pane.failures[i], strong ? QPen(theme.ink, 1.8) : linePen(pane),
                          strong ? 0.14 : 0.0);
            }
    }
    if (part_ && part_->name == asked_.names[static_cast<std::size_t>(index)]) {
        const QRectF box(area.x(-toHours(part_->from)), area.rect.top(),
                         area.x(-toHours(part_->to)) - area.x(-toHours(part_->from)), area.rect.height());
        p.fillRect(box, faded(theme.accent, 0.14));
        p.setPen(QPen(theme.accent, 1.4));
        p.drawLine(box.topLeft(), box.bottomLeft());
        p.drawLine(box.topRight(), box.bottomRight());
    }
    p.setPen(QPen(theme.ink, 1.6));
    p.drawLine(QPointF(area.x(0), area.rect.top()), QPointF(area.x(0), area.rect.bottom()));
    if (index + 1 == panes()) paintAlarms(p, area);
    p.restore();
    paintWords(p, index, area);
    if (index + 1 == panes()) paintAxis(p, area);
}

namespace {

/// Calls `piece` with each run of bins that have a value in both.
template <typename Piece>
void forEachPiece(const std::vector<double>& a, const std::vector<double>& b, Piece piece) {
    std::size_t from = 0;
    while (from < a.size()) {
        while (from < a.size() && !(std::isfinite(a[from]) && std::isfinite(b[from]))) ++from;
        std::size_t to = from;
        while (to < a.size() && std::isfinite(a[to]) && std::isfinite(b[to])) ++to;
        if (to > from) piece(from, to);
        from = to;
    }
}

}  // namespace

/// From 10 to 90 %, the middle half darker, the median as a line; thin lines where it truly went.
void LeadUpPlot::paintBand(QPainter& p, const ChartArea& area, const LeadUpBand& band, const QColor& ink,
                           bool inner) {
    const auto fill = [&](const std::vector<double>& low, const std::vector<double>& high, double share) {
        forEachPiece(low, high, [&](std::size_t from, std::size_t to) {
            QPolygonF shape;
            for (std::size_t b = from; b < to; ++b) shape << QPointF(binX(area, b), area.y(high[b]));
            for (std::size_t b = to; b > from; --b) shape << QPointF(binX(area, b - 1), area.y(low[b - 1]));
            p.setPen(Qt::NoPen);
            p.setBrush(faded(ink, share));
            p.drawPolygon(shape);
        });
    };
    const auto line = [&](const std::vector<double>& values, const QPen& pen) {
        forEachPiece(values, values, [&](std::size_t from, std::size_t to) {
            QPolygonF shape;
            for (std::size_t b = from; b < to; ++b) shape << QPointF(binX(area, b), area.y(values[b]));
            p.setBrush(Qt::NoBrush);
            p.setPen(pen);
            p.drawPolyline(shape);
        });
    };
    fill(band.low, band.high, 0.16);
    if (inner) fill(band.lowMiddle, band.highMiddle, 0.2);
    line(band.median,
         QPen(faded(ink, inner ? 1 : 0.7), inner ? 1.8 : 1, inner ? Qt::SolidLine : Qt::DashLine));
    if (!inner) return;
    line(band.least, QPen(faded(ink, 0.5), 0.8, Qt::DotLine));
    line(band.greatest, QPen(faded(ink, 0.5), 0.8, Qt::DotLine));
}

void LeadUpPlot::paintLine(QPainter& p, const ChartArea& area, const LeadUpLine& line, const QPen& pen,
                           double shade) {
    if (shade > 0)
        forEachPiece(line.least, line.greatest, [&](std::size_t from, std::size_t to) {
            QPolygonF shape;
            for (std::size_t b = from; b < to; ++b) shape << QPointF(binX(area, b), area.y(line.greatest[b]));
            for (std::size_t b = to; b > from; --b)
                shape << QPointF(binX(area, b - 1), area.y(line.least[b - 1]));
            p.setPen(Qt::NoPen);
            p.setBrush(faded(pen.color(), shade));
            p.drawPolygon(shape);
        });
    p.setBrush(Qt::NoBrush);
    p.setPen(pen);
    forEachPiece(line.mean, line.mean, [&](std::size_t from, std::size_t to) {
        QPolygonF shape;
        for (std::size_t b = from; b < to; ++b) shape << QPointF(binX(area, b), area.y(line.mean[b]));
        p.drawPolyline(shape);
    });
}

void LeadUpPlot::paintWords(QPainter& p, int index, const ChartArea& area) {
    const Theme& theme = session_.theme();
    const auto found = drawn_.find(asked_.names[static_cast<std::size_t>(index)]);
    QFont bold = smallFont(12);
    bold.setWeight(QFont::DemiBold);
    p.setFont(bold);
    const QRectF line(area.rect.left() + 6, area.rect.top() + 3, area.rect.width() - 12, 16);
    const QString name =
        found == drawn_.end()
            ? QString::fromStdString(asked_.names[static_cast<std::size_t>(index)])
            : found->second.name + (found->second.unit.isEmpty() ? QString() : ", " + found->second.unit);
    p.setPen(found == drawn_.end() ? theme.second : found->second.colour);
    double after = drawWordsOnPlot(p, theme, line, name) + 14;
    p.setFont(smallFont());
    if (index == 0 && asked_.quiet) {
        p.setPen(theme.second);
        const QString words = quiet_.empty() ? "no stretch without failure is long enough"
                                             : "grey: as many stretches without failure";
        after += drawWordsOnPlot(p, theme, line.adjusted(after, 0, 0, 0), words) + 14;
    }
    if (index != 0) return;
    const QString useful = QString("useful warning: %1 to %2 before")
                               .arg(QString::fromStdString(sayDuration(asked_.spec.most)),
                                    QString::fromStdString(sayDuration(asked_.spec.least)));
    const double wide = p.fontMetrics().horizontalAdvance(useful);
    const double middle = area.x(-toHours(asked_.spec.most + asked_.spec.least) / 2) - wide / 2;
    const double at = std::min(std::max(middle, line.left() + after), area.rect.right() - wide - 6);
    p.setPen(theme.goldEdge);
    if (at >= line.left() + after)
        drawWordsOnPlot(p, theme, {at, line.top(), area.rect.right() - at, line.height()}, useful);
}

/// Where the rule spoke before each failure: a lozenge, filled where it came true.
void LeadUpPlot::paintAlarms(QPainter& p, const ChartArea& area) {
    const Theme& theme = session_.theme();
    for (const LeadUpStretch& f : asked_.failures)
        for (const AlarmVerdict& a : alarms_) {
            if (a.asset != f.asset || a.range.from > f.zero || f.zero - a.range.from > asked_.before)
                continue;
            const QPointF at(area.x(-toHours(f.zero - a.range.from)), area.rect.bottom() - 9);
            const std::array<QPointF, 4> gem{at + QPointF(0, -5), at + QPointF(5, 0), at + QPointF(0, 5),
                                             at + QPointF(-5, 0)};
            const bool good = a.verdict == Verdict::True;
            p.setPen(QPen(good ? theme.good : theme.accent, 1.4));
            p.setBrush(good ? QBrush(theme.good) : QBrush(theme.plot));
            p.drawPolygon(gem.data(), 4);
        }
}

void LeadUpPlot::paintAxis(QPainter& p, const ChartArea& area) {
    const Theme& theme = session_.theme();
    p.setFont(smallFont());
    p.setPen(theme.second);
    const double hours = area.right - area.left;
    const int step = hours > 20 * 24 ? 7 * 24 : hours > 60 ? 24 : hours > 24 ? 12 : hours > 8 ? 6 : 1;
    for (int h = static_cast<int>(std::ceil(area.left / step)) * step; h <= area.right; h += step) {
        const QString words = h == 0                      ? QString("failure")
                              : step >= 24 || h % 24 == 0 ? QString("%1 d").arg(h / 24)
                                                          : QString("%1 h").arg(h);
        const double x = area.x(h);
        p.drawText(QRectF(x - 40, area.rect.bottom() + 4, 80, 16), Qt::AlignHCenter,
                   QString(words).replace('-', "−"));
        p.fillRect(QRectF(x, area.rect.bottom(), 1, 3), theme.hairline);
    }
}

int LeadUpPlot::paneAt(const QPointF& at) const {
    for (int i = 0; i < panes(); ++i)
        if (paneRect(i).adjusted(0, -2, 0, 2).contains(at)) return i;
    return -1;
}

/// The failure whose line is nearest; −1 where none is within a few pixels.
int LeadUpPlot::lineAt(const QPointF& at) const {
    const int pane = paneAt(at);
    if (pane < 0) return -1;
    const auto found = drawn_.find(asked_.names[static_cast<std::size_t>(pane)]);
    if (found == drawn_.end()) return -1;
    const ChartArea area = areaOf(pane);
    const double share = (area.valueAtX(at.x()) + toHours(asked_.before)) / toHours(asked_.before + kAfter);
    const auto middle = static_cast<int>(share * kBins);
    int best = -1;
    double nearest = 9;
    for (std::size_t i = 0; i < found->second.failures.size(); ++i)
        for (int b = std::max(0, middle - 4); b <= std::min(kBins - 1, middle + 4); ++b) {
            const auto bin = static_cast<std::size_t>(b);
            const double v = found->second.failures[i].mean[bin];
            if (!std::isfinite(v)) continue;
            const double away = std::hypot(binX(area, bin) - at.x(), area.y(v) - at.y());
            if (away < nearest) nearest = away, best = static_cast<int>(i);
        }
    return best;
}

void LeadUpPlot::point(const QPointF& at) {
    const int pane = paneAt(at);
    QString words;
    if (pane >= 0) {
        const Duration before = timeAtX(at.x());
        words = before >= Duration::zero()
                    ? QString::fromStdString(sayDuration(before)) + " before the failure"
                    : QString::fromStdString(sayDuration(-before)) + " after the failure";
        const auto found = drawn_.find(asked_.names[static_cast<std::size_t>(pane)]);
        if (found != drawn_.end())
            words +=
                QString(" · %1 %2").arg(areaOf(pane).valueAtY(at.y()), 0, 'g', 4).arg(found->second.unit);
        if (const int line = lineAt(at); line >= 0 && !asked_.band) {
            const LeadUpStretch& f = asked_.failures[static_cast<std::size_t>(line)];
            words += " · " + assetName(session_.study(), f.asset) + ", " +
                     QString::fromStdString(session_.zone().shortText(f.zero));
        }
    }
    if (words == pointed_) return;
    pointed_ = words;
    emit pointerMoved();
}

void LeadUpPlot::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || paneAt(e->position()) < 0) return;
    pressed_ = e->position();
    dragging_ = false;
}

void LeadUpPlot::mouseMoveEvent(QMouseEvent* e) {
    point(e->position());
    if (!pressed_) return;
    if (!dragging_ && std::abs(e->position().x() - pressed_->x()) < 5) return;
    dragging_ = true;
    const int pane = paneAt(*pressed_);
    if (pane < 0) return;
    const auto hour = [](Duration d) {
        return std::max<Duration>(std::chrono::round<std::chrono::hours>(d), Duration::zero());
    };
    const Duration a = hour(timeAtX(pressed_->x())), b = hour(timeAtX(e->position().x()));
    part_ = Part{asked_.names[static_cast<std::size_t>(pane)], std::min(std::max(a, b), asked_.before),
                 std::min(a, b)};
    update();
}

void LeadUpPlot::mouseReleaseEvent(QMouseEvent* e) {
    if (!pressed_) return;
    pressed_.reset();
    if (dragging_) {
        if (part_ && part_->from <= part_->to) part_.reset();
        update();
        return emit partMarked();
    }
    const int line = asked_.band ? -1 : lineAt(e->position());
    if (line < 0) return emit chosen({}, {});
    const LeadUpStretch& f = asked_.failures[static_cast<std::size_t>(line)];
    emit chosen(f.asset, f.zero);
}

void LeadUpPlot::mouseDoubleClickEvent(QMouseEvent* e) {
    if (const int line = asked_.band ? -1 : lineAt(e->position()); line >= 0) {
        const LeadUpStretch& f = asked_.failures[static_cast<std::size_t>(line)];
        return emit opened(f.asset, f.zero);
    }
    left_ = right_ = 0;  // all of it again
    update();
}

void LeadUpPlot::wheelEvent(QWheelEvent* e) {
    const ChartArea area = areaOf(0);
    const double by = std::pow(0.8, e->angleDelta().y() / 120.0), at = area.valueAtX(e->position().x());
    const double left = std::max(at - (at - area.left) * by, -toHours(asked_.before)),
                 right = std::min(at + (area.right - at) * by, toHours(kAfter));
    e->accept();
    if (right - left < 2) return;
    left_ = left, right_ = right;
    update();
}

void LeadUpPlot::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape && part_) return clearPart();
    QWidget::keyPressEvent(e);
}

void LeadUpPlot::leaveEvent(QEvent*) {
    if (pointed_.isEmpty()) return;
    pointed_.clear();
    emit pointerMoved();
}

}  // namespace jacinth::app
