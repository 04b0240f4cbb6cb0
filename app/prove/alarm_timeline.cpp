#include "app/prove/alarm_timeline.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>
#include <set>

#include "app/base/names.h"
#include "app/base/ui.h"
#include "app/plot/chart.h"
#include "app/plot/time_ticker.h"
#include "app/prove/proof_words.h"

namespace jacinth::app {
namespace {

constexpr int kLeft = 90, kRight = 14, kLane = 24, kTop = 22, kAxis = 20, kRest = 18;
constexpr double kBar = 11;
constexpr std::size_t kMostLanes = 8;  ///< shown at once
constexpr std::size_t kMany = 24;      ///< of more assets, those without alarm or failure are left out

}  // namespace

AlarmTimeline::AlarmTimeline(Session& session)
    : session_(session), rows_(this), range_(session.view().record()) {
    setObjectName("alarmTimeline");
    setAccessibleName("Alarms over the record, by asset");
    setMouseTracking(true);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void AlarmTimeline::show(const std::optional<Proof>& proof) {
    proof_ = proof;
    takeLanes();
    if (current_ >= (proof_ ? static_cast<int>(proof_->alarms.size()) : 0)) current_ = -1;
    if (!session_.view().record().contains(range_.from)) range_ = session_.view().record();
    lay();
    updateGeometry();
    update();
}

void AlarmTimeline::takeLanes() {
    lanes_.clear();
    quiet_ = 0;
    if (!proof_) return;
    const Grouping& grouping = session_.view().grouping();
    std::set<AssetId> known, busy;
    const auto take = [&](AssetId asset) {
        if (asset && isIn(session_.study(), grouping, asset) && known.insert(asset).second)
            lanes_.push_back(asset);
    };
    for (const auto& [asset, counting] : proof_->counting) take(asset);
    for (const FailureVerdict& f : proof_->failures) take(f.asset), busy.insert(f.asset);
    for (const AlarmVerdict& a : proof_->alarms) busy.insert(a.asset);
    if (lanes_.size() > kMany) {
        quiet_ = static_cast<int>(lanes_.size());
        std::erase_if(lanes_, [&](AssetId asset) { return !busy.contains(asset); });
        quiet_ -= static_cast<int>(lanes_.size());
    }
    const AssetGroups groups(session_.study(), grouping.fact);
    std::stable_sort(lanes_.begin(), lanes_.end(),
                     [&](AssetId a, AssetId b) { return groups.isBefore(a, b); });
}

void AlarmTimeline::lay() {
    const int lanes = static_cast<int>(lanes_.size());
    const int room = std::max(1, height() - top() - kAxis);
    rows_.lay(lanes, std::max(1, room / kLane), QRect(0, top(), width(), room));
}

void AlarmTimeline::setCurrent(int alarm) {
    current_ = alarm;
    // Zoomed in, it moves to where the alarm is.
    if (proof_ && alarm >= 0 && alarm < static_cast<int>(proof_->alarms.size())) {
        if (const int lane = laneOf(proof_->alarms[static_cast<std::size_t>(alarm)].asset); lane >= 0)
            rows_.show(lane);
        const Instant at = proof_->alarms[static_cast<std::size_t>(alarm)].range.from;
        if (!range_.contains(at)) {
            const Duration half = range_.length() / 2;
            range_ = {at - half, at + half};
        }
    }
    update();
}

/// What of many assets is not in sight; empty where all are.
QString AlarmTimeline::restWords() const {
    QStringList rest;
    if (!rows_.all()) rest << "assets " + rows_.words();
    if (quiet_ > 0) rest << QString("%1 assets without alarm or failure left out").arg(quiet_);
    return rest.join(" · ");
}

int AlarmTimeline::top() const {
    return kTop + (lanes_.size() > kMostLanes || quiet_ > 0 ? kRest : 0);
}

QSize AlarmTimeline::sizeHint() const {
    const int lanes = static_cast<int>(std::clamp<std::size_t>(lanes_.size(), 1, kMostLanes));
    return {400, top() + lanes * kLane + kAxis};
}

int AlarmTimeline::laneOf(AssetId asset) const {
    const auto found = std::find(lanes_.begin(), lanes_.end(), asset);
    return found == lanes_.end() ? -1 : static_cast<int>(found - lanes_.begin());
}

double AlarmTimeline::laneTop(int lane) const {
    return top() + static_cast<double>(lane - rows_.first()) * kLane;
}

double AlarmTimeline::xOf(Instant t) const {
    return kLeft +
           toNanoseconds(t - range_.from) / toNanoseconds(range_.length()) * (width() - kLeft - kRight);
}

Instant AlarmTimeline::timeAt(double x) const {
    return range_.from +
           fromNanoseconds((x - kLeft) / (width() - kLeft - kRight) * toNanoseconds(range_.length()));
}

QRectF AlarmTimeline::shapeOf(int alarm) const {
    if (!proof_ || alarm < 0 || alarm >= static_cast<int>(proof_->alarms.size())) return {};
    const AlarmVerdict& a = proof_->alarms[static_cast<std::size_t>(alarm)];
    const int lane = laneOf(a.asset);
    if (!isShown(lane)) return {};
    const double left = xOf(a.range.from), right = std::max(left + 4, xOf(a.range.to));
    return {left, laneTop(lane) + kLane - kBar - 2, right - left, kBar};
}

/// Came true is filled, false is a frame, a near miss is filled half way up, what counts for nothing is a
/// line.
void AlarmTimeline::drawAlarm(QPainter& p, const Theme& theme, const QRectF& box, Verdict verdict) {
    const QColor ink = inkOf(verdict, theme);
    const QRectF frame = box.adjusted(0.5, 0.5, -0.5, -0.5);
    p.setBrush(Qt::NoBrush);
    switch (verdict) {
        case Verdict::True:
            return p.fillRect(box, ink);
        case Verdict::NearMiss:
            p.fillRect(QRectF(box.left(), box.center().y(), box.width(), box.height() / 2), theme.ink);
            p.setPen(QPen(theme.ink, 1));
            return p.drawRect(frame);
        case Verdict::False:
            p.setPen(QPen(ink, 1.6));
            return p.drawRect(frame);
        case Verdict::Late:
        case Verdict::Open:
            p.setPen(QPen(ink, 1.2, Qt::DotLine));
            return p.drawRect(frame);
        case Verdict::Masked:
            p.fillRect(QRectF(box.left(), box.bottom() - 3, box.width(), 2), faded(ink, 0.6));
    }
}

void AlarmTimeline::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    if (!proof_)
        return drawInstead(p, session_.theme(), rect(),
                           "Write a rule: its alarms are shown here as soon as it is proved.");
    p.setFont(smallFont());
    paintLegend(p);
    for (int lane = rows_.first(); lane < rows_.end(); ++lane) paintLane(p, lane);
    paintAxis(p);
}

void AlarmTimeline::paintLane(QPainter& p, int lane) const {
    const Theme& theme = session_.theme();
    const AssetId asset = lanes_[static_cast<std::size_t>(lane)];
    const double top = laneTop(lane);
    const QRectF whole(kLeft, top + 2, width() - kLeft - kRight, kLane - 3);
    p.setPen(theme.second);
    p.drawText(QRectF(0, top, kLeft - 8, kLane), Qt::AlignRight | Qt::AlignVCenter,
               p.fontMetrics().elidedText(assetName(session_.study(), asset), Qt::ElideMiddle, kLeft - 8));
    p.fillRect(whole, faded(theme.hairline, 0.55));
    p.save();
    p.setClipRect(whole.adjusted(0, -2, 0, 2));
    for (const auto& [id, counting] : proof_->counting)
        if (id == asset)
            for (const TimeRange& r : counting)
                p.fillRect(QRectF(xOf(r.from), whole.top(), xOf(r.to) - xOf(r.from), whole.height()),
                           theme.plot);
    for (const FailureVerdict& f : proof_->failures) {
        if (f.asset != asset) continue;
        const double x = xOf(f.time);
        const std::array<QPointF, 3> wedge{QPointF(x - 5, top + 2), QPointF(x + 5, top + 2),
                                           QPointF(x, top + 10)};
        p.setPen(QPen(theme.ink, 1));
        p.setBrush(f.testable ? QBrush(theme.ink) : QBrush(Qt::NoBrush));
        p.drawPolygon(wedge.data(), 3);
        p.drawLine(QPointF(x, top + 10), QPointF(x, top + kLane - 2));
    }
    for (int i = 0; i < static_cast<int>(proof_->alarms.size()); ++i) {
        const AlarmVerdict& a = proof_->alarms[static_cast<std::size_t>(i)];
        if (a.asset != asset) continue;
        const QRectF box = shapeOf(i);
        if (box.right() < kLeft || box.left() > width()) continue;
        drawAlarm(p, theme, box, a.verdict);
        if (i != current_) continue;
        p.setPen(QPen(theme.accent, 1.5));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(box.adjusted(-3, -3, 3, 3), 3, 3);
    }
    p.restore();
}

void AlarmTimeline::paintAxis(QPainter& p) const {
    const Theme& theme = session_.theme();
    TimeTicker ticker(session_.zone(), {});
    const int wide = width() - kLeft - kRight;
    const Duration step = roundStep(range_.length(), wide / 90);
    const double floor = laneTop(rows_.end());
    for (const Instant t : ticker.moments(range_, wide, 90)) {
        const double x = xOf(t);
        p.fillRect(QRectF(x, floor, 1, 4), theme.hairline);
        p.setPen(theme.second);
        if (x < width() - 44) p.drawText(QPointF(x + 4, floor + 13), ticker.label(t, step));
    }
}

void AlarmTimeline::paintLegend(QPainter& p) const {
    const Theme& theme = session_.theme();
    double x = kLeft;
    for (const Verdict v :
         {Verdict::True, Verdict::False, Verdict::NearMiss, Verdict::Late, Verdict::Masked}) {
        drawAlarm(p, theme, {x, 4, 16, kBar}, v);
        p.setPen(theme.second);
        const QString words = v == Verdict::Late ? QString("late or open") : alarmWord(v);
        p.drawText(QPointF(x + 21, 13.5), words);
        x += 21 + p.fontMetrics().horizontalAdvance(words) + 18;
    }
    p.fillRect(QRectF(x, 4, 16, kBar), faded(theme.hairline, 0.55));
    p.setPen(theme.second);
    p.drawText(QPointF(x + 21, 13.5), "does not count");
    p.drawText(QRectF(kLeft, top() - kRest, width() - kLeft - kRight, kRest - 2),
               Qt::AlignLeft | Qt::AlignVCenter, restWords());
}

int AlarmTimeline::alarmAt(const QPointF& at) const {
    if (!proof_) return -1;
    int best = -1;
    double nearest = 8;  // pixels
    for (int i = 0; i < static_cast<int>(proof_->alarms.size()); ++i) {
        const QRectF box = shapeOf(i);
        if (box.isEmpty() || std::abs(at.y() - box.center().y()) > kLane / 2.0) continue;
        const double away = std::max({box.left() - at.x(), at.x() - box.right(), 0.0});
        if (away < nearest) nearest = away, best = i;
    }
    return best;
}

void AlarmTimeline::mousePressEvent(QMouseEvent* e) {
    if (const int alarm = alarmAt(e->position()); alarm >= 0 && e->button() == Qt::LeftButton)
        emit chosen(alarm);
}

void AlarmTimeline::mouseDoubleClickEvent(QMouseEvent* e) {
    if (const int alarm = alarmAt(e->position()); alarm >= 0) emit opened(alarm);
}

void AlarmTimeline::wheelEvent(QWheelEvent* e) {
    const TimeRange record = session_.view().record();
    const double by = std::pow(0.8, e->angleDelta().y() / 120.0);
    const Instant t = timeAt(e->position().x());
    const Duration least = 6 * kHour;
    TimeRange to{t - fromNanoseconds(toNanoseconds(t - range_.from) * by),
                 t + fromNanoseconds(toNanoseconds(range_.to - t) * by)};
    if (to.length() < least) return e->accept();
    to.from = std::max(to.from, record.from);
    to.to = std::min(to.to, record.to);
    range_ = to;
    update();
    e->accept();
}

QString AlarmTimeline::wordsFor(int alarm) const {
    const AlarmVerdict& a = proof_->alarms[static_cast<std::size_t>(alarm)];
    return QString("%1, for %2: %3")
        .arg(QString::fromStdString(session_.zone().text(a.range.from)),
             QString::fromStdString(sayDuration(a.range.length())), alarmWord(a.verdict));
}

bool AlarmTimeline::event(QEvent* e) {
    if (e->type() != QEvent::ToolTip) return QWidget::event(e);
    auto* help = static_cast<QHelpEvent*>(e);
    const int alarm = alarmAt(help->pos());
    if (alarm < 0)
        QToolTip::hideText();
    else
        QToolTip::showText(help->globalPos(), plainTip(wordsFor(alarm)), this);
    return true;
}

}  // namespace jacinth::app
