#include "app/label/contact_sheet.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollArea>
#include <cmath>

#include "app/plot/chart.h"

namespace jacinth::app {
namespace {

constexpr int kLeastWide = 176;
constexpr int kHigh = 116;
constexpr int kCellGap = 8;

}  // namespace

ContactSheet::ContactSheet(Session& session) : session_(session) {
    setObjectName("contactSheet");
    setAccessibleName("Contact sheet");
    setFocusPolicy(Qt::StrongFocus);
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void ContactSheet::show(std::vector<std::vector<double>> example, std::vector<Cell> cells) {
    const auto before = current_ >= 0 && current_ < std::ssize(cells_)
                            ? std::optional(cells_[static_cast<std::size_t>(current_)])
                            : std::nullopt;
    example_ = std::move(example);
    cells_ = std::move(cells);
    current_ = cells_.empty() ? -1 : 0;
    for (std::size_t i = 0; before && i < cells_.size(); ++i)
        if (cells_[i].asset == before->asset && cells_[i].range == before->range)
            current_ = static_cast<int>(i);
    layOut();
}

void ContactSheet::say(const QString& instead) {
    instead_ = instead;
    cells_.clear();
    current_ = -1;
    layOut();
}

int ContactSheet::columns() const {
    return std::max(1, (width() + kCellGap) / (kLeastWide + kCellGap));
}

void ContactSheet::layOut() {
    const int rows = (static_cast<int>(cells_.size()) + columns() - 1) / columns();
    setMinimumHeight(std::max(200, rows * (kHigh + kCellGap) + 2));
    update();
}

QRect ContactSheet::cellRect(int cell) const {
    const int n = columns(), wide = (width() - (n - 1) * kCellGap - 2) / n;
    return {1 + (cell % n) * (wide + kCellGap), 1 + (cell / n) * (kHigh + kCellGap), wide, kHigh};
}

int ContactSheet::cellAt(const QPoint& at) const {
    for (int i = 0; i < static_cast<int>(cells_.size()); ++i)
        if (cellRect(i).contains(at)) return i;
    return -1;
}

void ContactSheet::setCurrent(int cell) {
    if (cell < 0 || cell >= static_cast<int>(cells_.size())) return;
    current_ = cell;
    for (QWidget* w = parentWidget(); w; w = w->parentWidget())
        if (auto* area = qobject_cast<QScrollArea*>(w)) {
            const QRect at = cellRect(cell);
            area->ensureVisible(at.center().x(), at.center().y(), 0, kHigh);
            break;
        }
    update();
    emit currentChanged(cell);
}

void ContactSheet::mousePressEvent(QMouseEvent* e) {
    setFocus();
    setCurrent(cellAt(e->pos()));
}

void ContactSheet::mouseDoubleClickEvent(QMouseEvent* e) {
    if (const int cell = cellAt(e->pos()); cell >= 0) emit opened(cell);
}

/// Whoever listens goes on to the next one.
void ContactSheet::judge(HitVerdict verdict) {
    if (current_ >= 0) emit judged(current_, verdict);
}

void ContactSheet::keyPressEvent(QKeyEvent* e) {
    const int last = static_cast<int>(cells_.size()) - 1;
    switch (e->key()) {
        case Qt::Key_Right:
            return setCurrent(current_ + 1);
        case Qt::Key_Left:
            return setCurrent(current_ - 1);
        case Qt::Key_Down:
            return setCurrent(std::min(last, current_ + columns()));
        case Qt::Key_Up:
            return setCurrent(std::max(0, current_ - columns()));
        case Qt::Key_Home:
            return setCurrent(0);
        case Qt::Key_End:
            return setCurrent(last);
        case Qt::Key_A:
        case Qt::Key_Return:
        case Qt::Key_Enter:
            return judge(HitVerdict::Accepted);
        case Qt::Key_R:
        case Qt::Key_Backspace:
        case Qt::Key_Delete:
            return judge(HitVerdict::Rejected);
        case Qt::Key_U:
            return judge(HitVerdict::Open);
        case Qt::Key_Space:
            if (current_ >= 0) emit opened(current_);
            return;
        case Qt::Key_Escape:
            return emit stopped();
        default:
            QWidget::keyPressEvent(e);
    }
}

void ContactSheet::paintEvent(QPaintEvent* e) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    if (cells_.empty()) return drawInstead(p, session_.theme(), rect(), instead_);
    for (int i = 0; i < static_cast<int>(cells_.size()); ++i)
        if (cellRect(i).adjusted(-3, -3, 3, 3).intersects(e->rect())) drawCell(p, i);
}

void ContactSheet::drawCell(QPainter& p, int index) const {
    const Theme& theme = session_.theme();
    const Cell& cell = cells_[static_cast<std::size_t>(index)];
    const QRectF box = cellRect(index);
    const bool rejected = cell.verdict == HitVerdict::Rejected,
               accepted = cell.verdict == HitVerdict::Accepted;
    p.fillRect(box, theme.plot);
    p.setPen(QPen(index == current_ ? theme.accent : theme.hairline, index == current_ ? 2 : 1));
    p.setBrush(Qt::NoBrush);
    p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
    p.setOpacity(rejected ? 0.4 : 1);
    drawValues(p, box.adjusted(6, 22, -6, -24), cell);
    p.setFont(smallFont());
    const Asset* asset = session_.study().catalog().asset(cell.asset);
    p.setPen(theme.ink);
    const QString where = (asset ? QString::fromStdString(asset->name) + " · " : QString()) +
                          QString::fromStdString(session_.zone().shortText(cell.range.from));
    p.drawText(box.adjusted(7, 4, -50, 0), Qt::AlignLeft | Qt::AlignTop, where);
    p.setPen(theme.second);
    p.drawText(box.adjusted(7, 4, -7, 0), Qt::AlignRight | Qt::AlignTop, QString("%1").arg(index + 1));
    p.drawText(box.adjusted(7, 0, -7, -5), Qt::AlignLeft | Qt::AlignBottom,
               QString::fromStdString(sayDuration(cell.range.length())));
    p.drawText(box.adjusted(7, 0, -7, -5), Qt::AlignRight | Qt::AlignBottom,
               QString("distance %1").arg(cell.distance, 0, 'f', 2));
    p.setOpacity(1);
    if (!accepted && !rejected) return;
    QFont bold = smallFont();
    bold.setWeight(QFont::DemiBold);
    p.setFont(bold);
    p.setPen(accepted ? theme.accent : theme.second);
    p.drawText(box.adjusted(0, 0, 0, -5), Qt::AlignHCenter | Qt::AlignBottom,
               rejected     ? "✗ rejected"
               : cell.known ? "✓ known"
                            : "✓ accepted");
}

/// The example in the second ink, the stretch in the colours of traces; each tag in a strip of its own.
void ContactSheet::drawValues(QPainter& p, const QRectF& box, const Cell& cell) const {
    const Theme& theme = session_.theme();
    const double strip = box.height() / static_cast<double>(std::max<std::size_t>(1, cell.values.size()));
    for (std::size_t t = 0; t < cell.values.size(); ++t) {
        ChartArea area;
        area.rect = QRectF(box.left(), box.top() + strip * static_cast<double>(t), box.width(), strip - 2);
        double low = std::numeric_limits<double>::infinity(), high = -low;
        const auto look = [&](const std::vector<double>& values) {
            for (const double v : values)
                if (std::isfinite(v)) low = std::min(low, v), high = std::max(high, v);
        };
        look(cell.values[t]);
        if (t < example_.size()) look(example_[t]);
        if (low > high) continue;
        area.setX(0, 1, 0);
        area.setY(low, high);
        const auto draw = [&](const std::vector<double>& values, const QPen& pen) {
            p.setPen(pen);
            QPolygonF line;
            const double most = static_cast<double>(std::max<std::size_t>(2, values.size())) - 1;
            for (std::size_t i = 0; i < values.size(); ++i) {
                if (std::isfinite(values[i])) {
                    line << QPointF(area.x(static_cast<double>(i) / most), area.y(values[i]));
                    continue;
                }
                p.drawPolyline(line);
                line.clear();
            }
            p.drawPolyline(line);
        };
        if (t < example_.size()) draw(example_[t], QPen(faded(theme.second, 0.8), 1, Qt::DashLine));
        draw(cell.values[t], QPen(theme.traces[t % theme.traces.size()], 1.5));
    }
}

}  // namespace jacinth::app
