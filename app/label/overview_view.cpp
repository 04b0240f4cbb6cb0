#include "app/label/overview_view.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>

#include "app/base/ui.h"
#include "app/plot/chart.h"

namespace jacinth::app {
namespace {

constexpr double kNameWidth = 84, kHeadHeight = 20, kRowHeight = 34, kRoom = 3;

QStringList listed(const std::set<std::string>& names) {
    QStringList out;
    for (const std::string& n : names) out << QString::fromStdString(n);
    return out;
}

}  // namespace

OverviewView::OverviewView(Session& session) : session_(session) {
    setObjectName("overviewView");
    setAccessibleName("How far the record is labelled");
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void OverviewView::show(LabelOverview overview) {
    overview_ = std::move(overview);
    setMinimumHeight(
        static_cast<int>(kHeadHeight + static_cast<double>(overview_.rows.size()) * kRowHeight + 4));
    update();
}

void OverviewView::say(const QString& instead) {
    instead_ = instead;
    overview_ = {};
    update();
}

std::size_t OverviewView::columns() const {
    std::size_t most = 1;
    for (const auto& row : overview_.rows) most = std::max(most, row.stretches.size());
    return most;
}

QRectF OverviewView::cellRect(std::size_t row, std::size_t stretch) const {
    const double wide = (width() - kNameWidth - 4) / static_cast<double>(columns());
    return {kNameWidth + static_cast<double>(stretch) * wide,
            kHeadHeight + static_cast<double>(row) * kRowHeight, std::max(2.0, wide - kRoom),
            kRowHeight - kRoom};
}

/// The ground as dark as much of the time is labelled; marks as a number; a bar below for those that wait.
void OverviewView::drawCell(QPainter& p, const QRectF& box, const LabelledStretch& s) const {
    const Theme& theme = session_.theme();
    const double share =
        s.range.length() > Duration::zero() ? toNanoseconds(s.covered) / toNanoseconds(s.range.length()) : 0;
    p.fillRect(box, theme.plot);
    if (share > 0) p.fillRect(box, faded(theme.traces[1], 0.15 + 0.65 * std::min(1.0, share)));
    p.setPen(QPen(theme.hairline, 1));
    p.drawRect(box);
    if (s.unnamed + s.unsure > 0)
        p.fillRect(QRectF(box.left(), box.bottom() - 3, box.width(), 3), theme.accent);
    if (box.width() < 20 || s.marks == 0) return;
    p.setPen(theme.ink);
    p.drawText(box, Qt::AlignCenter, QString::number(s.marks));
}

void OverviewView::paintEvent(QPaintEvent* e) {
    QPainter p(this);
    const Theme& theme = session_.theme();
    if (overview_.rows.empty()) return drawInstead(p, theme, rect(), instead_);
    p.setFont(smallFont());
    for (std::size_t r = 0; r < overview_.rows.size(); ++r) {
        const auto& row = overview_.rows[r];
        const double top = cellRect(r, 0).top();
        if (top > e->rect().bottom() || top + kRowHeight < e->rect().top()) continue;
        const Asset* asset = session_.study().catalog().asset(row.asset);
        p.setPen(row.asset == session_.view().asset() ? theme.accent : theme.ink);
        if (asset)
            p.drawText(QRectF(0, cellRect(r, 0).top(), kNameWidth - 8, kRowHeight - kRoom),
                       Qt::AlignLeft | Qt::AlignVCenter,
                       p.fontMetrics().elidedText(QString::fromStdString(asset->name), Qt::ElideMiddle,
                                                  static_cast<int>(kNameWidth - 8)));
        for (std::size_t s = 0; s < row.stretches.size(); ++s) drawCell(p, cellRect(r, s), row.stretches[s]);
    }
    p.setPen(theme.second);
    const auto& first = overview_.rows.front().stretches;
    double drawnTo = 0;
    for (std::size_t s = 0; s < first.size(); ++s) {
        const QRectF box = cellRect(0, s);
        const QString words = first[s].name.empty()
                                  ? QString::fromStdString(session_.zone().shortDate(first[s].range.from))
                                  : QString::fromStdString(first[s].name);
        const double wide = p.fontMetrics().horizontalAdvance(words) + 8;
        if (box.left() < drawnTo) continue;
        p.drawText(QRectF(box.left(), 0, wide, kHeadHeight - 4), Qt::AlignLeft | Qt::AlignBottom, words);
        drawnTo = box.left() + wide;
    }
}

const LabelledStretch* OverviewView::stretchAt(const QPoint& at, AssetId* asset) const {
    const auto under = static_cast<std::size_t>(std::max(0.0, (at.y() - kHeadHeight) / kRowHeight));
    for (std::size_t r = under; r < std::min(under + 1, overview_.rows.size()); ++r)
        for (std::size_t s = 0; s < overview_.rows[r].stretches.size(); ++s)
            if (cellRect(r, s).contains(at)) {
                if (asset) *asset = overview_.rows[r].asset;
                return &overview_.rows[r].stretches[s];
            }
    return nullptr;
}

void OverviewView::mousePressEvent(QMouseEvent* e) {
    AssetId asset;
    if (const LabelledStretch* s = stretchAt(e->pos(), &asset)) emit opened(asset, s->range);
}

bool OverviewView::event(QEvent* e) {
    if (e->type() != QEvent::ToolTip) return QWidget::event(e);
    const auto* help = static_cast<QHelpEvent*>(e);
    AssetId id;
    const LabelledStretch* s = stretchAt(help->pos(), &id);
    if (!s) {
        QToolTip::hideText();
        return true;
    }
    const Asset* asset = session_.study().catalog().asset(id);
    QStringList lines;
    lines << QString("%1, %2 to %3")
                 .arg(asset ? QString::fromStdString(asset->name) : "",
                      QString::fromStdString(session_.zone().shortText(s->range.from)),
                      QString::fromStdString(session_.zone().shortText(s->range.to)));
    lines << QString("%1 marks over %2").arg(s->marks).arg(QString::fromStdString(sayDuration(s->covered)));
    if (s->unnamed) lines << QString("%1 not named yet").arg(s->unnamed);
    if (s->unsure) lines << QString("%1 unsure").arg(s->unsure);
    if (!s->kinds.empty()) lines << listed(s->kinds).join(", ");
    if (!s->people.empty()) lines << "by " + listed(s->people).join(", ");
    QToolTip::showText(help->globalPos(), plainTip(lines.join("\n")), this);
    return true;
}

}  // namespace jacinth::app
