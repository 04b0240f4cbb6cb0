#include "app/survey/state_view.h"

#include <QMouseEvent>

#include "app/base/save_picture.h"
#include "core/stats/stats.h"

namespace jacinth::app {
namespace {
constexpr int kNames = 96, kFigures = 168, kTop = 24, kBottom = 36, kBins = 240;
}

StateView::StateView(Session& session) : session_(session) {
    setObjectName("stateView");
    givePictureMenu(this);
    setAccessibleName("Values by state");
    setMouseTracking(true);
}

void StateView::show(std::shared_ptr<const Picture> picture) {
    picture_ = std::move(picture);
    instead_.clear();
    double low = 1e300, high = -1e300;
    for (const StateValues& s : picture_->values)
        if (!s.sorted.empty()) low = std::min(low, s.sorted.front()), high = std::max(high, s.sorted.back());
    if (low > high) return say("No values lie in the time in view while a state was known.");
    area_.setX(low, high, 0.03);
    bins_.assign(picture_->values.size(), std::vector<double>(kBins, 0));
    double most = 0;
    for (std::size_t s = 0; s < bins_.size(); ++s) {
        for (const double v : picture_->values[s].sorted) {
            const double share = (v - area_.left) / (area_.right - area_.left);
            bins_[s][static_cast<std::size_t>(std::min(kBins - 1.0, share * kBins))] += 1;
        }
        for (double& b : bins_[s]) most = std::max(most, b = std::log1p(b));
    }
    for (auto& strip : bins_)
        for (double& b : strip) b /= std::max(most, 1e-9);
    layOut();
    update();
}

void StateView::say(const QString& instead) {
    picture_.reset();
    instead_ = instead;
    update();
}

void StateView::setCluster(std::optional<Cluster> cluster) {
    cluster_ = cluster;
    update();
}

void StateView::layOut() {
    area_.rect = QRectF(kNames, kTop, std::max(80, width() - kNames - kFigures - 8),
                        std::max(40, height() - kTop - kBottom));
}

double StateView::stripHeight() const {
    return area_.rect.height() /
           std::max<double>(1, picture_ ? static_cast<double>(picture_->states.size()) : 1);
}

double StateView::yOf(int state) const {
    return area_.rect.top() + (state + 0.5) * stripHeight();
}

int StateView::stateAt(double y) const {
    if (!picture_ || y < area_.rect.top() || y >= area_.rect.bottom()) return -1;
    return static_cast<int>((y - area_.rect.top()) / stripHeight());
}

void StateView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& theme = session_.theme();
    if (!picture_) {
        drawInstead(p, theme, rect(), instead_);
        return;
    }
    drawAxes(p, theme, area_, Axes::Bottom,
             picture_->tag + (picture_->unit.isEmpty() ? "" : ", " + picture_->unit));
    p.setRenderHint(QPainter::Antialiasing);
    drawHeads(p);
    for (std::size_t s = 0; s < picture_->states.size(); ++s) drawStrip(p, static_cast<int>(s));
    if (pressed_ && stateAt(pressed_->y()) >= 0) {
        const double y = yOf(stateAt(pressed_->y())) - stripHeight() / 2;
        p.setPen(QPen(theme.accent, 1));
        p.setBrush(faded(theme.accent, 0.15));
        p.drawRect(
            QRectF(QPointF(pressed_->x(), y + 1), QPointF(now_.x(), y + stripHeight() - 1)).normalized());
    }
}

void StateView::drawHeads(QPainter& p) const {
    const Theme& theme = session_.theme();
    p.setFont(smallFont());
    p.setPen(theme.second);
    p.drawText(QRectF(area_.rect.left(), 2, area_.rect.width(), kTop - 6), Qt::AlignLeft | Qt::AlignVCenter,
               "height: logarithm of how many samples; box: 5, 25, 50, 75, 95 %");
    p.drawText(QRectF(area_.rect.right() + 10, 2, kFigures, kTop - 6), Qt::AlignLeft | Qt::AlignVCenter,
               "time in state · samples");
}

void StateView::drawStrip(QPainter& p, int state) const {
    const Theme& theme = session_.theme();
    const auto s = static_cast<std::size_t>(state);
    const StateValues& v = picture_->values[s];
    const double tall = stripHeight(), base = area_.rect.top() + (state + 1) * tall, room = tall * 0.62;
    p.setPen(QPen(theme.hairline, 1));
    p.drawLine(QPointF(area_.rect.left(), base), QPointF(area_.rect.right(), base));
    p.setPen(theme.ink);
    p.setFont(uiFont());
    p.drawText(QRectF(0, base - tall, kNames - 10, tall), Qt::AlignRight | Qt::AlignVCenter,
               picture_->states[s]);
    p.setFont(smallFont(12));
    p.setPen(theme.second);
    p.drawText(
        QRectF(area_.rect.right() + 10, base - tall, kFigures - 10, tall), Qt::AlignLeft | Qt::AlignVCenter,
        QString("%1 · %2").arg(
            v.time > Duration::zero() ? QString::fromStdString(sayDuration(v.time / kMinute * kMinute)) : "–",
            QString::number(v.sorted.size())));
    if (v.sorted.empty()) return;
    const QColor ink = theme.traces[s % theme.traces.size()];
    const double wide = area_.rect.width() / kBins;
    const bool chosen = cluster_ && cluster_->state == state;
    p.setPen(Qt::NoPen);
    p.setRenderHint(QPainter::Antialiasing, false);
    for (int b = 0; b < kBins; ++b) {
        const double height = bins_[s][static_cast<std::size_t>(b)];
        if (height <= 0) continue;
        const double x = area_.rect.left() + b * wide, value = area_.valueAtX(x + wide / 2);
        const bool in = chosen && value >= cluster_->low && value <= cluster_->high;
        p.fillRect(QRectF(x, base - std::max(2.0, height * room), wide + 0.5, std::max(2.0, height * room)),
                   in ? theme.accent : faded(ink, 0.55));
    }
    p.setRenderHint(QPainter::Antialiasing);
    const double y = base - tall + (tall - room) * 0.55, half = std::min(5.0, tall * 0.09);
    const auto q = [&](double share) { return area_.x(quantileOfSorted(v.sorted, share)); };
    p.setPen(QPen(ink, 1.2));
    p.setBrush(theme.plot);
    p.drawLine(QPointF(q(0.05), y), QPointF(q(0.95), y));
    p.drawRect(QRectF(QPointF(q(0.25), y - half), QPointF(std::max(q(0.75), q(0.25) + 1), y + half)));
    p.setPen(QPen(ink, 2.2));
    p.drawLine(QPointF(q(0.5), y - half), QPointF(q(0.5), y + half));
}

void StateView::mousePressEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton && stateAt(e->pos().y()) >= 0) pressed_ = now_ = e->pos();
}

void StateView::mouseMoveEvent(QMouseEvent* e) {
    now_ = e->pos();
    pointerText_.clear();
    const int state = stateAt(e->pos().y());
    if (state >= 0 && area_.rect.contains(e->pos())) {
        const double v = area_.valueAtX(e->pos().x()), bin = (area_.right - area_.left) / kBins;
        const auto& sorted = picture_->values[static_cast<std::size_t>(state)].sorted;
        const auto count = std::upper_bound(sorted.begin(), sorted.end(), v + bin / 2) -
                           std::lower_bound(sorted.begin(), sorted.end(), v - bin / 2);
        pointerText_ =
            QString("%1 · %2 · %3 samples near it · drag over a cluster to see when it was")
                .arg(picture_->states[static_cast<std::size_t>(state)], valueText(v, picture_->unit))
                .arg(count);
    }
    emit pointed();
    if (pressed_) update();
}

void StateView::mouseReleaseEvent(QMouseEvent* e) {
    if (!pressed_) return;
    const QPoint from = *pressed_;
    pressed_.reset();
    update();
    const double a = area_.valueAtX(from.x()), b = area_.valueAtX(e->pos().x());
    if (std::abs(from.x() - e->pos().x()) > 2)
        emit picked({stateAt(from.y()), std::min(a, b), std::max(a, b)});
}

}  // namespace jacinth::app
