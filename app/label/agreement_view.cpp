#include "app/label/agreement_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>
#include <set>

#include "app/label/label_list.h"
#include "app/plot/chart.h"
#include "store/judgement.h"
#include "work/label/labels.h"

namespace jacinth::app {
namespace {

constexpr double kNames = 132;  // for the names
constexpr double kAbove = 6, kRowHigh = 18, kAssetGap = 12, kAxisHigh = 24;
constexpr int kRows = 3;  // one, two, where they differ

}  // namespace

AgreementView::AgreementView(Session& session) : session_(session) {
    setObjectName("agreementView");
    setAccessibleName("Two people's labels");
    setMinimumHeight(220);
    connect(&session.view(), &ViewState::viewChanged, this, qOverload<>(&QWidget::update));
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void AgreementView::show(const QString& one, const QString& two, std::vector<Span> ofOne,
                         std::vector<Span> ofTwo, std::vector<Difference> differences) {
    one_ = one;
    two_ = two;
    ofOne_ = std::move(ofOne);
    ofTwo_ = std::move(ofTwo);
    differences_ = std::move(differences);
    std::set<AssetId> assets;
    for (const auto* side : {&ofOne_, &ofTwo_})
        for (const Span& s : *side) assets.insert(s.asset);
    assets_.assign(assets.begin(), assets.end());
    chosen_ = std::min(chosen_, static_cast<int>(differences_.size()) - 1);
    setMinimumHeight(static_cast<int>(std::max(
        160.0, kAbove + kAxisHigh + static_cast<double>(assets_.size()) * (kRows * kRowHigh + kAssetGap))));
    update();
}

void AgreementView::say(const QString& instead) {
    instead_ = instead;
    assets_.clear();
    update();
}

void AgreementView::choose(int difference) {
    chosen_ = difference;
    update();
}

double AgreementView::xOf(Instant t) const {
    const TimeRange view = session_.view().view();
    return kNames + toNanoseconds(t - view.from) / toNanoseconds(view.length()) * (width() - kNames - 8);
}

QRectF AgreementView::rowRect(std::size_t asset, int row) const {
    return {kNames, kAbove + static_cast<double>(asset) * (kRows * kRowHigh + kAssetGap) + row * kRowHigh,
            width() - kNames - 8, kRowHigh - 2};
}

QRectF AgreementView::differenceRect(int difference) const {
    const Difference& d = differences_[static_cast<std::size_t>(difference)];
    const auto asset = std::find(assets_.begin(), assets_.end(), d.asset);
    if (asset == assets_.end()) return {};
    const QRectF row = rowRect(static_cast<std::size_t>(asset - assets_.begin()), 2);
    const double left = std::max(row.left(), xOf(d.range.from)),
                 right = std::min(row.right(), xOf(d.range.to));
    if (right < row.left() || left > row.right()) return {};
    return {left, row.top(), std::max(3.0, right - left), row.height()};
}

void AgreementView::drawLabels(QPainter& p, const QRectF& row, const std::vector<Span>& labels,
                               AssetId asset) const {
    const LabelBook book = session_.study().judgement().labelBook();
    for (const Span& s : labels) {
        if (s.asset != asset) continue;
        const double left = std::max(row.left(), xOf(s.start)),
                     right = std::min(row.right(), std::max(xOf(s.start) + 2, xOf(s.end)));
        if (right < row.left() || left > row.right()) continue;
        const QColor colour = labelColour(session_, book, factText(s.facts, label_fact::kKind));
        const QRectF bar(left, row.top() + 2, right - left, row.height() - 4);
        p.fillRect(bar, faded(colour, 0.35));
        p.fillRect(QRectF(bar.left(), bar.bottom() - 2, bar.width(), 2), colour);
        if (bar.width() > 30) {
            p.setPen(session_.theme().ink);
            p.drawText(
                bar.adjusted(4, 0, -2, 0), Qt::AlignLeft | Qt::AlignVCenter,
                p.fontMetrics().elidedText(labelName(s), Qt::ElideRight, static_cast<int>(bar.width() - 6)));
        }
    }
}

void AgreementView::drawAsset(QPainter& p, std::size_t at) const {
    const Theme& theme = session_.theme();
    const Asset* asset = session_.study().catalog().asset(assets_[at]);
    const QRectF first = rowRect(at, 0);
    p.fillRect(QRectF(first.left(), first.top(), first.width(), kRows * kRowHigh - 2), theme.plot);
    p.setPen(theme.ink);
    if (asset)
        p.drawText(QRectF(0, first.top(), 54, kRowHigh), Qt::AlignLeft | Qt::AlignVCenter,
                   QString::fromStdString(asset->name));
    p.setPen(theme.second);
    const std::array<QString, kRows> names{one_, two_, "differ"};
    for (int row = 0; row < kRows; ++row)
        p.drawText(QRectF(56, rowRect(at, row).top(), kNames - 62, kRowHigh),
                   Qt::AlignRight | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(names[static_cast<std::size_t>(row)], Qt::ElideRight,
                                              static_cast<int>(kNames - 62)));
    drawLabels(p, rowRect(at, 0), ofOne_, assets_[at]);
    drawLabels(p, rowRect(at, 1), ofTwo_, assets_[at]);
}

void AgreementView::drawTimes(QPainter& p) const {
    const Theme& theme = session_.theme();
    const TimeRange view = session_.view().view();
    const double y = kAbove + static_cast<double>(assets_.size()) * (kRows * kRowHigh + kAssetGap);
    p.setPen(theme.second);
    const int count = std::max(2, (width() - static_cast<int>(kNames)) / 150);
    for (int i = 0; i < count; ++i) {
        const Instant t = view.from + view.length() / count * i;
        p.drawText(QRectF(xOf(t), y, 150, kAxisHigh - 4), Qt::AlignLeft | Qt::AlignTop,
                   QString::fromStdString(session_.zone().shortText(t)));
    }
}

void AgreementView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& theme = session_.theme();
    if (assets_.empty()) return drawInstead(p, theme, rect(), instead_);
    p.setFont(smallFont());
    for (std::size_t i = 0; i < assets_.size(); ++i) drawAsset(p, i);
    for (int i = 0; i < static_cast<int>(differences_.size()); ++i) {
        const QRectF at = differenceRect(i);
        if (at.isEmpty()) continue;
        p.fillRect(at.adjusted(0, 4, 0, -4), i == chosen_ ? theme.accent : theme.second);
        if (i != chosen_) continue;
        p.setPen(QPen(theme.accent, 1.2));
        p.drawLine(QPointF(at.left(), at.top() - 2 * kRowHigh), at.topLeft());
        p.drawLine(QPointF(at.right(), at.top() - 2 * kRowHigh), at.topRight());
    }
    drawTimes(p);
}

void AgreementView::mousePressEvent(QMouseEvent* e) {
    for (int i = 0; i < static_cast<int>(differences_.size()); ++i)
        if (differenceRect(i).adjusted(-3, -2 * kRowHigh, 3, 2).contains(e->position()))
            return emit chosen(i);
}

void AgreementView::wheelEvent(QWheelEvent* e) {
    const double factor = std::pow(0.8, e->angleDelta().y() / 120.0);
    const TimeRange view = session_.view().view();
    const double share =
        std::clamp((e->position().x() - kNames) / std::max(1.0, width() - kNames - 8), 0.0, 1.0);
    const Instant at = view.from + scaled(view.length(), share);
    session_.view().setView({at - scaled(at - view.from, factor), at + scaled(view.to - at, factor)});
}

}  // namespace jacinth::app
