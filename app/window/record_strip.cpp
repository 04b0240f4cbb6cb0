#include "app/window/record_strip.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

#include "app/base/swatch.h"
#include "app/base/ui.h"
#include "app/plot/time_ticker.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/limits/screening.h"
#include "work/mend/mending.h"

namespace jacinth::app {
namespace {
constexpr int kLeft = 76, kRight = 14, kRowHeight = 8;
const std::array<const char*, 5> kRows{"Runs", "Excursions", "Labels", "Failures", "Fixes"};
}  // namespace

RecordStrip::RecordStrip(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("recordStrip");
    setAccessibleName("Record strip");
    setFixedHeight(84);
    setMouseTracking(true);
    connect(&session, &Session::studyChanged, this, &RecordStrip::collect);
    connect(&session, &Session::themeChanged, this, &RecordStrip::collect);
    connect(&session.view(), &ViewState::viewChanged, this, qOverload<>(&QWidget::update));
    connect(&session.view(), &ViewState::selectionChanged, this, &RecordStrip::collect);
    collect();
}

double RecordStrip::xOf(Instant t) const {
    const TimeRange r = session_.view().record();
    return kLeft + toNanoseconds(t - r.from) / toNanoseconds(r.length()) * (width() - kLeft - kRight);
}

Instant RecordStrip::timeAt(double x) const {
    const TimeRange r = session_.view().record();
    return r.from +
           fromNanoseconds((x - kLeft) / std::max(1, width() - kLeft - kRight) * toNanoseconds(r.length()));
}

void RecordStrip::collect() {
    items_.clear();
    const Study& study = session_.study();
    const Theme& theme = session_.theme();
    const auto assetName = [&](AssetId id) {
        const Asset* a = study.catalog().asset(id);
        return a ? QString::fromStdString(a->name) : QString();
    };
    const auto when = [&](Instant t) { return QString::fromStdString(session_.zone().shortText(t)); };
    // Runs are those of the current asset; what is rare is shown of all assets.
    for (const Span& s : study.tracks().spansOf(track_kind::kRuns))
        if (s.asset == session_.view().asset())
            items_.push_back({0,
                              s.range(),
                              s.id,
                              s.asset,
                              {},
                              0,
                              theme.second,
                              QString("%1 run %2, %3")
                                  .arg(assetName(s.asset), QString::number(factNumber(s.facts, "number")),
                                       when(s.start))});
    for (const KeptExcursion& e : excursionsOf(study)) {
        // Of other assets only what is grave: a row that is full says nothing.
        if (e.span.asset != session_.view().asset() && e.severity < 4) continue;
        const Tag* tag = study.catalog().tag(e.span.tag);
        items_.push_back(
            {1, e.span.range(), e.span.id, e.span.asset, e.span.tag, e.severity, theme.accent,
             QString("%1 outside for %2, %3")
                 .arg(tag ? QString::fromStdString(tag->path()) : "",
                      QString::fromStdString(sayDuration(e.span.end - e.span.start)), when(e.span.start))});
    }
    const LabelBook book = study.judgement().labelBook();
    for (const Span& s : study.tracks().spansOf(track_kind::kLabels)) {
        const LabelKind* kind = findKind(book, factText(s.facts, "kind"));
        items_.push_back(
            {2, s.range(), s.id, s.asset, s.tag, 0,
             kind ? onGround(theme, QColor(QString::fromStdString(kind->colour))) : theme.second,
             QString("%1 %2, %3")
                 .arg(assetName(s.asset), QString::fromStdString(factText(s.facts, "kind")), when(s.start))});
    }
    for (const Span& s : study.tracks().spansOf(track_kind::kFailures))
        items_.push_back(
            {3,
             s.range(),
             s.id,
             s.asset,
             {},
             0,
             theme.ink,
             QString("%1 failed, %2: %3")
                 .arg(assetName(s.asset), when(s.start), QString::fromStdString(factText(s.facts, "kind")))});
    for (const Fix& f : study.judgement().allFixes())
        items_.push_back({4,
                          {f.from, f.to},
                          f.id,
                          {},
                          f.tag,
                          f.on,
                          theme.traces[4],
                          QString::fromStdString(fixName(study, f)) + ", " + when(f.from)});
    update();
}

QRectF RecordStrip::shapeOf(const Item& i) const {
    const double left = xOf(i.range.from), right = std::max(left + (i.row == 1 ? 2.5 : 1.5), xOf(i.range.to));
    if (i.row == 3) return {left - 5, rowY(3) + 0.0, 10, kRowHeight + 1.0};
    return {left, rowY(i.row) + 0.0, right - left, static_cast<double>(kRowHeight)};
}

void RecordStrip::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& theme = session_.theme();
    p.fillRect(rect(), theme.panel);
    p.setRenderHint(QPainter::Antialiasing);
    QFont small = uiFont();
    small.setPixelSize(10);
    p.setFont(small);
    for (int row = 0; row < 5; ++row) {
        p.setPen(theme.second);
        p.drawText(QRect(0, rowY(row) - 3, kLeft - 8, kRowHeight + 6), Qt::AlignRight | Qt::AlignVCenter,
                   kRows[static_cast<std::size_t>(row)]);
        p.fillRect(QRectF(kLeft, rowY(row) + kRowHeight + 1.5, width() - kLeft - kRight, 0.5),
                   theme.hairline);
    }
    paintItems(p);
    paintAxis(p);
    paintBracket(p);
    p.fillRect(QRectF(0, height() - 1, width(), 1), theme.hairline);
}

void RecordStrip::paintItems(QPainter& p) {
    const Theme& theme = session_.theme();
    for (const Item& i : items_) {
        const QRectF r = shapeOf(i);
        if (i.row == 3) {
            const bool own = i.asset == session_.view().asset();
            const std::array<QPointF, 3> wedge{r.topLeft(), r.topRight(),
                                               QPointF(r.center().x(), r.bottom())};
            p.setPen(Qt::NoPen);
            p.setBrush(own ? theme.ink : faded(theme.ink, 0.4));
            p.drawPolygon(wedge.data(), 3);
        } else if (i.row == 0) {
            p.fillRect(r.adjusted(0, 0, -std::min(1.5, r.width() / 4), 0), faded(theme.second, 0.38));
        } else if (i.row == 1) {
            p.fillRect(r,
                       faded(theme.accent, i.asset == session_.view().asset() ? 0.2 + 0.2 * i.grade : 0.25));
        } else {
            p.fillRect(r, faded(i.colour, i.row == 4 && !i.grade ? 0.25 : 0.8));
        }
    }
}

void RecordStrip::paintAxis(QPainter& p) {
    const Theme& theme = session_.theme();
    TimeTicker ticker(session_.zone(), {});
    const TimeRange record = session_.view().record();
    const int wide = width() - kLeft - kRight;
    const Duration step = roundStep(record.length(), wide / 90);
    for (const Instant t : ticker.moments(record, wide, 90)) {
        const double x = xOf(t);
        p.fillRect(QRectF(x, rowY(5) - 2, 1, 6), theme.hairline);
        p.setPen(theme.second);
        if (x < width() - 50) p.drawText(QPointF(x + 4, height() - 8), ticker.label(t, step));
    }
}

void RecordStrip::paintBracket(QPainter& p) {
    const Theme& theme = session_.theme();
    const TimeRange v = session_.view().view();
    double left = std::max(kLeft - 4.0, xOf(v.from)), right = std::min(width() - kRight + 4.0, xOf(v.to));
    if (right - left < 4) {
        const double middle = (left + right) / 2;
        left = middle - 2, right = middle + 2;
    }
    const QRectF box(left, 3.5, right - left, rowY(5) - 5.0);
    p.fillRect(QRectF(kLeft, 4, box.left() - kLeft, box.height()), faded(theme.panel, 0.45));
    p.fillRect(QRectF(box.right(), 4, width() - kRight - box.right(), box.height()),
               faded(theme.panel, 0.45));
    p.setPen(QPen(theme.accent, 1.6));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(box, 4, 4);
    p.setPen(Qt::NoPen);
    p.setBrush(theme.accent);
    for (const double x : {box.left(), box.right()})
        p.drawRoundedRect(QRectF(x - 2.5, box.center().y() - 8, 5, 16), 2, 2);
}

RecordStrip::Grip RecordStrip::gripAt(const QPoint& p) const {
    const TimeRange v = session_.view().view();
    const double left = xOf(v.from), right = xOf(v.to);
    if (std::abs(p.x() - left) < 5 && right - left > 12) return Grip::Left;
    if (std::abs(p.x() - right) < 5) return Grip::Right;
    return p.x() > left && p.x() < right ? Grip::Move : Grip::None;
}

const RecordStrip::Item* RecordStrip::itemAt(const QPoint& p) const {
    const Item* best = nullptr;
    for (const Item& i : items_)
        if (shapeOf(i).adjusted(-2, -2, 2, 3).contains(p) && (!best || i.grade >= best->grade)) best = &i;
    return best;
}

void RecordStrip::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    pressed_ = e->pos();
    grip_ = gripAt(e->pos());
    const TimeRange v = session_.view().view();
    if (grip_ == Grip::None && e->pos().x() >= kLeft) {
        const Instant t = timeAt(e->pos().x());
        session_.view().setView({t - v.length() / 2, t + v.length() / 2});
        grip_ = Grip::Move;
    }
    pressedView_ = session_.view().view();
}

void RecordStrip::mouseMoveEvent(QMouseEvent* e) {
    if (grip_ == Grip::None) {
        const Grip g = gripAt(e->pos());
        setCursor(g == Grip::Left || g == Grip::Right ? Qt::SizeHorCursor : Qt::ArrowCursor);
        return;
    }
    const Duration by = timeAt(e->pos().x()) - timeAt(pressed_.x());
    TimeRange v = pressedView_;
    if (grip_ != Grip::Right) v.from += by;
    if (grip_ != Grip::Left) v.to += by;
    if (v.from > v.to) std::swap(v.from, v.to);
    session_.view().setView(v);
}

void RecordStrip::mouseDoubleClickEvent(QMouseEvent* e) {
    if (const Item* i = itemAt(e->pos())) emit itemOpened(i->row, i->id);
}

bool RecordStrip::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(e);
        if (const Item* i = itemAt(help->pos()))
            QToolTip::showText(help->globalPos(), plainTip(i->text), this);
        else
            QToolTip::hideText();
        return true;
    }
    return QWidget::event(e);
}

}  // namespace jacinth::app
