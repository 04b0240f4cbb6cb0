#include "app/survey/fleet_view.h"

#include <QKeyEvent>
#include <QMouseEvent>

#include "app/base/save_picture.h"
#include "app/plot/time_ticker.h"

namespace jacinth::app {
namespace {
constexpr int kNames = 96, kTop = 26, kAxis = 20, kBoxes = 190, kBetween = 14, kRight = 14;
constexpr double kLeastRow = 15;        ///< a name can be read
constexpr std::size_t kMostLines = 60;  ///< of profiles; of more assets most are a band
constexpr std::size_t kOddestLines = 5;
}  // namespace

FleetView::FleetView(Session& session) : session_(session), rows_(this) {
    setObjectName("fleetView");
    givePictureMenu(this);
    setAccessibleName("Fleet");
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
}

void FleetView::show(std::shared_ptr<const FleetPicture> picture, const std::vector<Heading>& headings) {
    picture_ = std::move(picture);
    headings_ = headings;
    lines_.clear();
    for (std::size_t r = 0, h = 0; r < picture_->rows.size(); ++r) {
        for (; h < headings_.size() && headings_[h].before <= r; ++h)
            lines_.push_back(-1 - static_cast<int>(h));
        lines_.push_back(static_cast<int>(r));
    }
    instead_.clear();
    low_ = 1e300, high_ = -1e300;
    for (const FleetRow& r : picture_->rows)
        for (const double v : r.cells)
            if (std::isfinite(v)) low_ = std::min(low_, v), high_ = std::max(high_, v);
    if (!(high_ > low_)) high_ = low_ + 1;
    takeLines();
    lay();
    update();
}

/// Lines of very many assets would only be a blot, and take long to draw: most of them are a band.
void FleetView::takeLines() {
    drawn_.clear();
    for (std::size_t i = 0; i < picture_->rows.size(); ++i) drawn_.push_back(i);
    if (!isBand()) return;
    // Rows may stand group by group.
    std::partial_sort(drawn_.begin(), drawn_.begin() + kOddestLines, drawn_.end(),
                      [&](std::size_t a, std::size_t b) {
                          return picture_->rows[a].odd.score > picture_->rows[b].odd.score;
                      });
    drawn_.resize(kOddestLines);
}

bool FleetView::isBand() const {
    return picture_->rows.size() > kMostLines;
}

/// Names, boxes and cells of a row stay readable: what does not fit is scrolled to.
void FleetView::lay() {
    const int rows = picture_ ? static_cast<int>(lines_.size()) : 0;
    const double room = height() * 0.56 - kTop - kAxis;
    const int fit = std::max(1, static_cast<int>(room / kLeastRow));
    rows_.lay(rows, fit, QRect(0, kTop, width(), static_cast<int>(room)));
}

void FleetView::showChosen() {
    if (!picture_) return;
    for (int line = 0; line < static_cast<int>(lines_.size()); ++line)
        if (const FleetRow* row = rowOn(line); row && row->asset == chosen_) rows_.show(line);
}

const FleetRow* FleetView::rowOn(int line) const {
    const int row = lines_[static_cast<std::size_t>(line)];
    return row >= 0 ? &picture_->rows[static_cast<std::size_t>(row)] : nullptr;
}

int FleetView::lineOf(int row) const {
    return static_cast<int>(std::find(lines_.begin(), lines_.end(), row) - lines_.begin());
}

void FleetView::wheelEvent(QWheelEvent* e) {
    if (!rows_.wheel(e)) QWidget::wheelEvent(e);
}

void FleetView::say(const QString& instead) {
    picture_.reset();
    lay();
    instead_ = instead;
    update();
}

void FleetView::choose(AssetId asset) {
    const bool other = asset != chosen_;
    chosen_ = asset;
    if (other) showChosen();
    update();
}

double FleetView::rowHeight() const {
    const int rows = std::max(1, rows_.end() - rows_.first());
    return std::clamp((height() * 0.56 - kTop - kAxis) / rows, kLeastRow, 44.0);
}

double FleetView::yOf(int line) const {
    return kTop + (line - rows_.first()) * rowHeight();
}

QRectF FleetView::heatRect() const {
    const double rows = rows_.end() - rows_.first();
    return {static_cast<double>(kNames), static_cast<double>(kTop),
            static_cast<double>(std::max(80, width() - kNames - kBoxes - kBetween - kRight)),
            rows * rowHeight()};
}

QRectF FleetView::boxRect() const {
    const QRectF heat = heatRect();
    return {heat.right() + kBetween, heat.top(), static_cast<double>(kBoxes), heat.height()};
}

QRect FleetView::rowRect(int row) const {
    const QRectF heat = heatRect();
    return QRectF(heat.left(), yOf(lineOf(row)), heat.width(), rowHeight()).toRect();
}

int FleetView::rowAt(const QPoint& at) const {
    if (!picture_) return -1;
    const int line = rows_.first() + static_cast<int>(std::floor((at.y() - kTop) / rowHeight()));
    return at.y() >= kTop && line < rows_.end() ? std::max(-1, lines_[static_cast<std::size_t>(line)]) : -1;
}

QString FleetView::nameOf(const FleetRow& row) const {
    const Asset* a = session_.study().catalog().asset(row.asset);
    return a ? QString::fromStdString(a->name) : QString();
}

QColor FleetView::heatAt(int row, double share) const {
    const auto& cells = picture_->rows[static_cast<std::size_t>(row)].cells;
    const auto i =
        std::min(cells.size() - 1, static_cast<std::size_t>(share * static_cast<double>(cells.size())));
    return std::isfinite(cells[i]) ? heatColour(session_.theme(), (cells[i] - low_) / (high_ - low_))
                                   : QColor();
}

void FleetView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& theme = session_.theme();
    if (!picture_) {
        drawInstead(p, theme, rect(), instead_);
        return;
    }
    p.setRenderHint(QPainter::Antialiasing);
    drawHeat(p);
    drawTimes(p);
    drawBoxes(p);
    drawProfiles(p);
}

void FleetView::drawHeat(QPainter& p) const {
    const Theme& theme = session_.theme();
    const QRectF heat = heatRect();
    p.setFont(smallFont());
    p.setPen(theme.second);
    p.drawText(QRectF(heat.left(), 0, 320, kTop - 6), Qt::AlignLeft | Qt::AlignVCenter, "mean over time");
    p.drawText(QRectF(0, 0, kNames - 8, kTop - 6), Qt::AlignRight | Qt::AlignVCenter, rowWords());
    drawHeatScale(p, theme, {heat.right() - 250, 8, 110, 8}, low_, high_,
                  QString::fromStdString(picture_->unit));
    p.save();
    p.setRenderHint(QPainter::Antialiasing, false);
    const double tall = rowHeight();
    for (int line = rows_.first(); line < rows_.end(); ++line) {
        if (!rowOn(line)) continue;
        const FleetRow& row = *rowOn(line);
        const double y = yOf(line);
        p.setPen(Qt::NoPen);
        const double wide = heat.width() / static_cast<double>(row.cells.size());
        for (std::size_t c = 0; c < row.cells.size(); ++c) {
            const QRectF cell(heat.left() + static_cast<double>(c) * wide, y + 1, wide + 0.7, tall - 2);
            if (std::isfinite(row.cells[c]))
                p.fillRect(cell, heatColour(theme, (row.cells[c] - low_) / (high_ - low_)));
        }
    }
    p.restore();
    for (int line = rows_.first(); line < rows_.end(); ++line)
        rowOn(line) ? drawRowName(p, *rowOn(line), yOf(line)) : drawHeading(p, line);
}

/// Which rows are in sight, without the headings between them; empty where all are.
QString FleetView::rowWords() const {
    if (rows_.all()) return {};
    const auto rowsBefore = [&](int line) {
        return std::count_if(lines_.begin(), lines_.begin() + line, [](int row) { return row >= 0; });
    };
    return RowWindow::words(static_cast<int>(rowsBefore(rows_.first())) + 1,
                            static_cast<int>(rowsBefore(rows_.end())),
                            static_cast<int>(picture_->rows.size()));
}

void FleetView::drawHeading(QPainter& p, int line) const {
    const Theme& theme = session_.theme();
    const Heading& heading = headings_[static_cast<std::size_t>(-1 - lines_[static_cast<std::size_t>(line)])];
    const QRectF box(0, yOf(line), boxRect().right(), rowHeight());
    p.setPen(theme.hairline);
    p.drawLine(QPointF(0, box.top() + 0.5), QPointF(box.right(), box.top() + 0.5));
    p.setFont(smallFont(12));
    p.setPen(theme.second);
    p.drawText(box.adjusted(4, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, heading.words);
}

void FleetView::drawRowName(QPainter& p, const FleetRow& row, double y) const {
    const Theme& theme = session_.theme();
    const QRectF heat = heatRect();
    const double tall = rowHeight();
    const bool on = row.asset == chosen_;
    if (on) {
        p.setPen(QPen(theme.accent, 2));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(heat.left() - 1, y, heat.width() + 2, tall));
    }
    QFont name = uiFont();
    name.setWeight(on ? QFont::DemiBold : QFont::Normal);
    p.setFont(name);
    p.setPen(on ? theme.accent : theme.ink);
    const bool two = tall >= 30;
    p.drawText(QRectF(0, y, kNames - 8, two ? tall / 2 + 2 : tall),
               Qt::AlignRight | (two ? Qt::AlignBottom : Qt::AlignVCenter),
               p.fontMetrics().elidedText(nameOf(row), Qt::ElideMiddle, kNames - 8));
    if (!two) return;
    p.setFont(smallFont());
    p.setPen(theme.second);
    p.drawText(QRectF(0, y + tall / 2, kNames - 8, tall / 2), Qt::AlignRight | Qt::AlignTop,
               std::isfinite(row.odd.score) ? QString("%1 × odd").arg(row.odd.score, 0, 'f', 1) : "–");
}

void FleetView::drawTimes(QPainter& p) const {
    const Theme& theme = session_.theme();
    const QRectF heat = heatRect();
    const TimeRange range = picture_->spec.range;
    const TimeTicker ticker(session_.zone(), range.from);
    const auto moments = ticker.moments(range, static_cast<int>(heat.width()));
    p.setFont(smallFont());
    p.setPen(theme.second);
    const Duration step = moments.size() > 1 ? moments[1] - moments[0] : kDay;
    for (const Instant t : moments) {
        const double x =
            heat.left() + toNanoseconds(t - range.from) / toNanoseconds(range.length()) * heat.width();
        if (x < heat.left() || x > heat.right()) continue;
        p.drawLine(QPointF(x, heat.bottom()), QPointF(x, heat.bottom() + 3));
        p.drawText(QRectF(x - 45, heat.bottom() + 4, 90, 14), Qt::AlignHCenter, ticker.label(t, step));
    }
}

void FleetView::drawBoxes(QPainter& p) const {
    const Theme& theme = session_.theme();
    ChartArea area;
    area.rect = boxRect();
    double low = 1e300, high = -1e300;
    for (const FleetRow& r : picture_->rows)
        if (std::isfinite(r.least)) low = std::min(low, r.least), high = std::max(high, r.greatest);
    if (!(low <= high)) return;
    area.setX(low, high, 0.03);
    drawAxes(p, theme, area, Axes::Bottom);
    p.setFont(smallFont());
    p.setPen(theme.second);
    p.drawText(QRectF(area.rect.left(), 0, area.rect.width(), kTop - 6), Qt::AlignLeft | Qt::AlignVCenter,
               "5, 25, 50, 75, 95 % and ends, " + QString::fromStdString(picture_->unit));
    const double tall = rowHeight();
    for (int line = rows_.first(); line < rows_.end(); ++line) {
        if (!rowOn(line) || !std::isfinite(rowOn(line)->middle)) continue;
        const FleetRow& r = *rowOn(line);
        const double y = yOf(line) + 0.5 * tall, half = std::min(8.0, tall * 0.3);
        const QColor ink = r.asset == chosen_ ? theme.accent : theme.traces[0];
        p.setPen(QPen(faded(ink, 0.5), 1));
        p.drawLine(QPointF(area.x(r.least), y), QPointF(area.x(r.greatest), y));
        p.setPen(QPen(ink, 1.4));
        p.drawLine(QPointF(area.x(r.low), y), QPointF(area.x(r.high), y));
        p.setBrush(theme.plot);
        p.drawRect(
            QRectF(QPointF(area.x(r.lowerQuartile), y - half), QPointF(area.x(r.upperQuartile), y + half)));
        p.setPen(QPen(ink, 2.4));
        p.drawLine(QPointF(area.x(r.middle), y - half), QPointF(area.x(r.middle), y + half));
    }
}

void FleetView::drawProfiles(QPainter& p) const {
    const Theme& theme = session_.theme();
    const QRectF heat = heatRect();
    ChartArea area;
    const double top = heat.bottom() + kAxis + 34;
    area.rect = QRectF(56, top, width() - 56.0 - kRight, height() - top - 34);
    if (area.rect.height() < 60 || picture_->hours.empty()) return;
    double low = 1e300, high = -1e300;
    for (const FleetRow& r : picture_->rows)
        for (const double v : r.profile)
            if (std::isfinite(v)) low = std::min(low, v), high = std::max(high, v);
    if (!(low <= high)) return;
    area.setX(picture_->spec.profile == ProfileBy::Time ? picture_->hours.front() : 0, picture_->hours.back(),
              0.0);
    area.setY(low, high);
    const char* words = picture_->spec.profile == ProfileBy::Run   ? "hours since the run began"
                        : picture_->spec.profile == ProfileBy::Day ? "hour of the plant's day"
                                                                   : "hours since the start of the view";
    drawAxes(p, theme, area, Axes::Both, words);
    QFont bold = uiFont();
    bold.setWeight(QFont::DemiBold);
    p.setFont(bold);
    p.setPen(theme.ink);
    p.drawText(QRectF(area.rect.left(), area.rect.top() - 22, area.rect.width(), 18),
               Qt::AlignLeft | Qt::AlignVCenter,
               picture_->spec.profile == ProfileBy::Run   ? "Profiles over a run"
               : picture_->spec.profile == ProfileBy::Day ? "Profiles over a day"
                                                          : "Profiles over the view");
    p.setClipRect(area.rect);
    const auto line = [&](const FleetRow& r, const QPen& pen) {
        p.setPen(pen);
        QPolygonF part;
        for (std::size_t i = 0; i <= r.profile.size(); ++i) {
            if (i < r.profile.size() && i < picture_->hours.size() && std::isfinite(r.profile[i])) {
                part << QPointF(area.x(picture_->hours[i]), area.y(r.profile[i]));
            } else {
                if (!part.isEmpty()) p.drawPolyline(part);
                part.clear();
            }
        }
    };
    if (isBand()) drawBand(p, area);
    for (std::size_t i = drawn_.size(); i-- > 0;)
        if (const FleetRow& r = picture_->rows[drawn_[i]]; r.asset != chosen_)
            line(r, QPen(faded(theme.second, 0.75), 1.2));
    for (const FleetRow& r : picture_->rows)
        if (r.asset == chosen_) line(r, QPen(theme.accent, 2.2));
    p.setClipping(false);
    // Names at the right end of the lines would overlap: the chosen one is named in the title's row.
    for (const FleetRow& r : picture_->rows)
        if (r.asset == chosen_) {
            p.setFont(smallFont(12));
            p.setPen(theme.accent);
            p.drawText(
                QRectF(area.rect.left(), area.rect.top() - 22, area.rect.width(), 18),
                Qt::AlignRight | Qt::AlignVCenter,
                nameOf(r) + (isBand() ? QString(", the %1 oddest, and 50 and 90 % of all").arg(kOddestLines)
                                      : QString(", and the others in grey")));
        }
}

/// From the 5 % to the 95 % quantile of all profiles, and darker from quarter to quarter.
void FleetView::drawBand(QPainter& p, const ChartArea& area) const {
    const QColor ink = session_.theme().second;
    for (const auto& [low, high, alpha] : {std::tuple(0, 3, 0.22), std::tuple(1, 2, 0.3)}) {
        QPolygonF part;
        std::vector<QPointF> back;
        const auto close = [&] {
            for (std::size_t i = back.size(); i-- > 0;) part << back[i];
            p.setPen(Qt::NoPen);
            p.setBrush(faded(ink, alpha));
            if (part.size() > 3) p.drawPolygon(part);
            part.clear();
            back.clear();
        };
        for (std::size_t i = 0; i < picture_->spread.size(); ++i) {
            if (!std::isfinite(picture_->spread[i][0])) {
                close();
                continue;
            }
            const double x = area.x(picture_->hours[i]);
            part << QPointF(x, area.y(picture_->spread[i][static_cast<std::size_t>(low)]));
            back.emplace_back(x, area.y(picture_->spread[i][static_cast<std::size_t>(high)]));
        }
        close();
    }
    p.setBrush(Qt::NoBrush);
}

void FleetView::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->pos();
    pointerText_.clear();
    const int row = rowAt(e->pos());
    const QRectF heat = heatRect();
    if (row >= 0) {
        const FleetRow& r = picture_->rows[static_cast<std::size_t>(row)];
        const QString unit = QString::fromStdString(picture_->unit);
        if (heat.contains(e->pos())) {
            const double share = (e->pos().x() - heat.left()) / heat.width();
            const auto c = std::min(r.cells.size() - 1,
                                    static_cast<std::size_t>(share * static_cast<double>(r.cells.size())));
            pointerText_ =
                QString("%1 · %2 · mean of %3 %4")
                    .arg(nameOf(r), QString::fromStdString(session_.zone().shortText(picture_->edges[c])),
                         QString::fromStdString(sayDuration(picture_->edges[c + 1] - picture_->edges[c])),
                         valueText(r.cells[c], unit));
        } else {
            pointerText_ =
                QString(
                    "%1 · oddness %2: mean distance from the others' median in %3 slices, in their "
                    "spread · 5 % %4, middle %5, 95 % %6")
                    .arg(nameOf(r), QString::number(r.odd.score, 'f', 1), QString::number(r.odd.slices),
                         valueText(r.low), valueText(r.middle), valueText(r.high, unit));
        }
    }
    emit pointed();
}

void FleetView::leaveEvent(QEvent*) {
    pointer_.reset();
    pointerText_.clear();
    emit pointed();
}

void FleetView::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (const int row = rowAt(e->pos()); row >= 0)
        emit chosen(picture_->rows[static_cast<std::size_t>(row)].asset);
}

void FleetView::mouseDoubleClickEvent(QMouseEvent* e) {
    const int row = rowAt(e->pos());
    if (row < 0) return;
    const QRectF heat = heatRect();
    const double share = std::clamp((e->pos().x() - heat.left()) / heat.width(), 0.0, 1.0);
    const TimeRange range = picture_->spec.range;
    emit opened(picture_->rows[static_cast<std::size_t>(row)].asset,
                range.from + fromNanoseconds(share * toNanoseconds(range.length())));
}

void FleetView::keyPressEvent(QKeyEvent* e) {
    if (!picture_ || picture_->rows.empty()) return QWidget::keyPressEvent(e);
    int row = -1;
    for (std::size_t i = 0; i < picture_->rows.size(); ++i)
        if (picture_->rows[i].asset == chosen_) row = static_cast<int>(i);
    if (e->key() == Qt::Key_Down || e->key() == Qt::Key_Up) {
        row = std::clamp(row + (e->key() == Qt::Key_Down ? 1 : -1), 0,
                         static_cast<int>(picture_->rows.size()) - 1);
        emit chosen(picture_->rows[static_cast<std::size_t>(row)].asset);
    } else if ((e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) && row >= 0) {
        emit opened(chosen_, picture_->spec.range.from + picture_->spec.range.length() / 2);
    } else {
        QWidget::keyPressEvent(e);
    }
}

}  // namespace jacinth::app
