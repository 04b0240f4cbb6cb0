#include "app/prove/failure_matrix.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/base/names.h"
#include "app/base/ui.h"
#include "app/plot/chart.h"
#include "app/prove/proof_words.h"

namespace jacinth::app {
namespace {

constexpr int kNames = 170, kHead = 34, kRowHigh = 24, kFooters = 4;
constexpr double kMostWide = 130;

}  // namespace

FailureMatrix::FailureMatrix(Session& session) : session_(session) {
    setObjectName("failureMatrix");
    setAccessibleName("Failure by failure, rule by rule");
    setMouseTracking(true);
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void FailureMatrix::show(std::vector<QString> names, std::optional<ComparedRules> found) {
    names_ = std::move(names);
    found_ = std::move(found);
    setMinimumHeight(found_ ? sizeHint().height() : 0);
    updateGeometry();
    update();
}

void FailureMatrix::say(const QString& instead) {
    instead_ = instead;
    show({}, {});
}

QSize FailureMatrix::sizeHint() const {
    const int rows = found_ ? static_cast<int>(found_->failures.size()) + kFooters : 4;
    return {kNames + 300, kHead + rows * kRowHigh + 8};
}

double FailureMatrix::columnWidth() const {
    return names_.empty() ? 0
                          : std::min(kMostWide, static_cast<double>(width() - kNames) /
                                                    static_cast<double>(names_.size()));
}

double FailureMatrix::rowTop(std::size_t row) const {
    return kHead + static_cast<double>(row) * kRowHigh;
}

QRectF FailureMatrix::cellOf(std::size_t failure, std::size_t rule) const {
    const double wide = columnWidth();
    return QRectF(kNames + static_cast<double>(rule) * wide, rowTop(failure), wide, kRowHigh)
        .adjusted(4, 2, -4, -2);
}

const FailureVerdict* FailureMatrix::verdictOf(std::size_t failure, std::size_t rule) const {
    const ComparedFailure& f = found_->failures[failure];
    for (const FailureVerdict& v : found_->proofs[rule].failures)
        if (v.asset == f.asset && v.time == f.time) return &v;
    return nullptr;
}

void FailureMatrix::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& theme = session_.theme();
    if (!found_) return drawInstead(p, theme, rect(), instead_);
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(smallFont(12));
    for (std::size_t r = 0; r < names_.size(); ++r) {
        const QRectF head(cellOf(0, r).left(), 0, columnWidth() - 8, kHead - 4);
        p.setPen(theme.second);
        const QString shown =
            p.fontMetrics().elidedText(names_[r], Qt::ElideRight, static_cast<int>(2 * head.width() - 20));
        p.drawText(head, Qt::AlignHCenter | Qt::AlignBottom | Qt::TextWordWrap, shown);
        // The colour in which the rule is drawn beside.
        p.fillRect(QRectF(head.center().x() - 12, head.bottom() + 1, 24, 3), inkOfRule(r, theme));
    }
    for (std::size_t f = 0; f < found_->failures.size(); ++f) {
        const double top = rowTop(f);
        const std::array<QPointF, 3> wedge{QPointF(0, top + 8), QPointF(10, top + 8), QPointF(5, top + 16)};
        p.setPen(Qt::NoPen);
        p.setBrush(theme.ink);
        p.drawPolygon(wedge.data(), 3);
        p.setPen(theme.ink);
        p.drawText(QRectF(16, top, kNames - 20, kRowHigh), Qt::AlignVCenter,
                   onAsset(session_.study(), found_->failures[f].asset,
                           QString::fromStdString(session_.zone().shortText(found_->failures[f].time))));
        for (std::size_t r = 0; r < names_.size(); ++r) paintCell(p, f, r);
    }
    paintFooters(p);
}

/// Caught is filled and says how long before; missed is a dashed frame; untestable a dash.
void FailureMatrix::paintCell(QPainter& p, std::size_t failure, std::size_t rule) const {
    const Theme& theme = session_.theme();
    const QRectF cell = cellOf(failure, rule);
    const FailureVerdict* v = verdictOf(failure, rule);
    if (!v || !v->testable) {
        p.setPen(theme.second);
        return p.drawText(cell, Qt::AlignCenter, "–");
    }
    if (v->caught) {
        p.setPen(Qt::NoPen);
        p.setBrush(faded(theme.good, 0.16));
        p.drawRoundedRect(cell, 3, 3);
        p.setPen(theme.good);
        QFont bold = smallFont(12);
        bold.setWeight(QFont::DemiBold);
        p.setFont(bold);
        p.drawText(cell, Qt::AlignCenter, QString("%1 h").arg(toHours(v->warning), 0, 'f', 0));
        return p.setFont(smallFont(12));
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme.second, 1, Qt::DashLine));
    p.drawRoundedRect(cell.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
    p.setPen(theme.second);
    p.drawText(cell, Qt::AlignCenter, v->late ? "late" : "missed");
}

void FailureMatrix::paintFooters(QPainter& p) const {
    const Theme& theme = session_.theme();
    const std::array<QString, kFooters> names{"failures caught", "by it alone", "false alarms a month",
                                              "alarms came true"};
    const std::size_t first = found_->failures.size();
    p.fillRect(QRectF(0, rowTop(first) + 1, kNames + columnWidth() * static_cast<double>(names_.size()), 1),
               theme.hairline);
    for (std::size_t i = 0; i < kFooters; ++i) {
        p.setPen(theme.second);
        p.drawText(QRectF(16, rowTop(first + i) + 2, kNames - 20, kRowHigh), Qt::AlignVCenter, names[i]);
        for (std::size_t r = 0; r < names_.size(); ++r) {
            const Proof& proof = found_->proofs[r];
            const std::array<QString, kFooters> figures{
                QString("%1 of %2").arg(proof.caught).arg(proof.caught + proof.missed),
                QString::number(found_->alone[r]), QString::number(proof.falsePerAssetMonth, 'f', 2),
                QString("%1 of %2").arg(proof.cameTrue).arg(proof.cameTrue + proof.falseAlarms)};
            p.setPen(theme.ink);
            p.drawText(cellOf(first + i, r).translated(0, 2), Qt::AlignCenter, figures[i]);
        }
    }
}

void FailureMatrix::mouseDoubleClickEvent(QMouseEvent* e) {
    if (!found_ || e->position().y() < kHead) return;
    const auto row = static_cast<std::size_t>((e->position().y() - kHead) / kRowHigh);
    if (row < found_->failures.size()) emit opened(found_->failures[row].asset, found_->failures[row].time);
}

bool FailureMatrix::event(QEvent* e) {
    if (e->type() != QEvent::ToolTip || !found_) return QWidget::event(e);
    auto* help = static_cast<QHelpEvent*>(e);
    for (std::size_t f = 0; f < found_->failures.size(); ++f)
        for (std::size_t r = 0; r < names_.size(); ++r) {
            if (!cellOf(f, r).contains(help->pos())) continue;
            const FailureVerdict* v = verdictOf(f, r);
            const QString words =
                names_[r] + ": " + (v ? failureWord(*v) : QString("not asked about this failure")) +
                (v && v->caught ? ", warned " + QString::fromStdString(sayDuration(v->warning)) + " before"
                                : QString());
            QToolTip::showText(help->globalPos(), plainTip(words), this);
            return true;
        }
    QToolTip::hideText();
    return true;
}

}  // namespace jacinth::app
