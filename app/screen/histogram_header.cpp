#include "app/screen/histogram_header.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>

#include "app/base/tables.h"
#include "app/plot/chart.h"

namespace jacinth::app {
namespace {
constexpr int kName = 22, kBars = 34, kBins = 24;
}

HistogramHeader::HistogramHeader(Session& session, RunTableModel* model, QWidget* parent)
    : QHeaderView(Qt::Horizontal, parent), session_(session), model_(model) {
    setObjectName("runHistograms");
    setSectionsClickable(true);
    setSortIndicatorShown(true);
    setSortIndicator(1, Qt::AscendingOrder);
    setMinimumSectionSize(56);
    connect(model, &RunTableModel::rowsChanged, this, [this] { viewport()->update(); });
}

QSize HistogramHeader::sizeHint() const {
    return {QHeaderView::sizeHint().width(), kName + kBars + 4};
}

QRect HistogramHeader::barsRect(int section) const {
    return {sectionViewportPosition(section) + 4, kName, sectionSize(section) - 8, kBars};
}

HistogramHeader::Bars HistogramHeader::barsOf(int section) const {
    Bars out;
    const std::vector<double> all = model_->figures(section, false);
    if (all.size() < 2) return out;
    const auto [low, high] = std::minmax_element(all.begin(), all.end());
    out.low = *low;
    out.high = *high;
    if (!(out.high > out.low)) return out;
    const auto bin = [&](double v) {
        return static_cast<std::size_t>(
            std::clamp(static_cast<int>((v - out.low) / (out.high - out.low) * kBins), 0, kBins - 1));
    };
    out.all.assign(kBins, 0);
    out.shown.assign(kBins, 0);
    for (const double v : all) ++out.all[bin(v)];
    for (const double v : model_->figures(section, true)) ++out.shown[bin(v)];
    return out;
}

void HistogramHeader::paintSection(QPainter* p, const QRect& rect, int section) const {
    const Theme& theme = session_.theme();
    p->save();
    p->fillRect(rect, theme.window);
    p->setFont(smallFont(11));
    const bool sorted = sortIndicatorSection() == section;
    p->setPen(sorted ? theme.ink : theme.second);
    const QString name = model_->headerData(section, Qt::Horizontal, Qt::DisplayRole).toString();
    const QString arrow = !sorted ? "" : sortIndicatorOrder() == Qt::AscendingOrder ? " ↑" : " ↓";
    const QRect words(rect.left() + 4, rect.top(), rect.width() - 8, kName);
    const Bars bars = barsOf(section);
    const bool numbers = section >= RunTableModel::kFixed && !model_->figures(section, false).empty();
    p->drawText(words, (numbers ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter,
                p->fontMetrics().elidedText(name, Qt::ElideMiddle,
                                            words.width() - p->fontMetrics().horizontalAdvance(arrow)) +
                    arrow);
    if (!bars.all.empty()) {
        const QRectF area(rect.left() + 4, rect.top() + kName, rect.width() - 8, kBars);
        const double wide = area.width() / kBins;
        const int most = *std::max_element(bars.all.begin(), bars.all.end());
        for (int i = 0; i < kBins; ++i) {
            const auto k = static_cast<std::size_t>(i);
            const double whole = area.height() * bars.all[k] / most,
                         part = area.height() * bars.shown[k] / most;
            const double x = area.left() + i * wide;
            p->fillRect(QRectF(x, area.bottom() - whole, wide - 1, whole), faded(theme.second, 0.25));
            p->fillRect(QRectF(x, area.bottom() - part, wide - 1, part), theme.traces[0]);
        }
        if (const auto brush = model_->brush(section)) {
            const auto x = [&](double v) {
                return area.left() + (v - bars.low) / (bars.high - bars.low) * area.width();
            };
            const QRectF cut(QPointF(x(brush->first), area.top()), QPointF(x(brush->second), area.bottom()));
            p->fillRect(cut, faded(theme.accent, 0.16));
            p->setPen(QPen(theme.accent, 1.5));
            p->drawLine(cut.topLeft(), cut.bottomLeft());
            p->drawLine(cut.topRight(), cut.bottomRight());
        }
    }
    p->fillRect(QRectF(rect.left(), rect.bottom(), rect.width(), 1), theme.hairline);
    p->restore();
}

double HistogramHeader::valueAt(int section, int x) const {
    const Bars bars = barsOf(section);
    const QRect area = barsRect(section);
    const double share =
        std::clamp(static_cast<double>(x - area.left()) / std::max(1, area.width()), 0.0, 1.0);
    return bars.low + share * (bars.high - bars.low);
}

void HistogramHeader::mousePressEvent(QMouseEvent* e) {
    const int section = logicalIndexAt(e->pos());
    const bool overBars = section >= 0 && e->pos().y() >= kName && !barsOf(section).all.empty() &&
                          barsRect(section).adjusted(-1, 0, 1, 0).contains(e->pos());
    if (e->button() != Qt::LeftButton || !overBars) return QHeaderView::mousePressEvent(e);
    brushing_ = section;
    from_ = valueAt(section, e->pos().x());
}

void HistogramHeader::mouseMoveEvent(QMouseEvent* e) {
    if (brushing_ < 0) return QHeaderView::mouseMoveEvent(e);
    const double to = valueAt(brushing_, e->pos().x());
    model_->setBrush(brushing_, std::pair(std::min(from_, to), std::max(from_, to)));
}

void HistogramHeader::mouseReleaseEvent(QMouseEvent* e) {
    if (brushing_ < 0) return QHeaderView::mouseReleaseEvent(e);
    // A click without a drag removes the cut.
    if (valueAt(brushing_, e->pos().x()) == from_) model_->setBrush(brushing_, {});
    brushing_ = -1;
}

void HistogramHeader::contextMenuEvent(QContextMenuEvent* e) {
    const int section = logicalIndexAt(e->pos());
    if (section < RunTableModel::kFixed) return;
    QMenu menu(this);
    menu.addAction("Remove column", this, [this, section] { emit removeAsked(section); });
    if (model_->brush(section))
        menu.addAction("Remove the cut", this, [this, section] { model_->setBrush(section, {}); });
    menu.exec(e->globalPos());
}

}  // namespace jacinth::app
