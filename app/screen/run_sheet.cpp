#include "app/screen/run_sheet.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>

#include "app/base/gem.h"
#include "app/base/save_picture.h"
#include "app/base/ui.h"
#include "app/plot/chart.h"
#include "app/plot/plot_overlay.h"

namespace jacinth::app {
namespace {
constexpr int kLeft = 104, kRight = 10, kTop = 24, kBar = 8, kGem = 16;
constexpr double kNarrowest = 2, kWidest = 40;
}  // namespace

RunSheet::RunSheet(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), scroll_(new QScrollBar(Qt::Horizontal, this)) {
    setObjectName("runSheet");
    givePictureMenu(this);
    setAccessibleName("Run sheet");
    setFocusPolicy(Qt::StrongFocus);
    scroll_->setFixedHeight(kBar);
    connect(scroll_, &QScrollBar::valueChanged, this, qOverload<>(&QWidget::update));
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void RunSheet::setSheet(std::vector<Span> runs, std::vector<RowName> rows,
                        const std::vector<KeptExcursion>& excursions, std::map<SpanId, std::string> golden,
                        const std::vector<Span>& stops) {
    runs_ = std::move(runs);
    rows_ = std::move(rows);
    columnOf_.clear();
    for (std::size_t i = 0; i < runs_.size(); ++i) columnOf_[runs_[i].id] = static_cast<int>(i);
    golden_.assign(runs_.size(), false);
    reasons_ = std::move(golden);
    for (const auto& [id, why] : reasons_)
        if (const int c = columnOf(id); c >= 0) golden_[static_cast<std::size_t>(c)] = true;
    stopped_.assign(runs_.size(), false);
    for (std::size_t i = 0; i < runs_.size(); ++i)
        stopped_[i] = std::any_of(stops.begin(), stops.end(), [&](const Span& s) {
            return s.asset == runs_[i].asset && s.start < runs_[i].end && s.end > runs_[i].start;
        });
    grades_.assign(rows_.size(), std::vector<std::int8_t>(runs_.size(), 0));
    for (const KeptExcursion& e : excursions) {
        const int c = columnOf(e.run);
        for (std::size_t r = 0; c >= 0 && r < rows_.size(); ++r)
            if (rows_[r].role == e.role) {
                auto& grade = grades_[r][static_cast<std::size_t>(c)];
                grade = std::max(grade, static_cast<std::int8_t>(e.severity));
            }
    }
    setFixedHeight(kTop + kRowHeight * (std::max(rowCount(), 3) + 1) + 6 + kBar);
    follow();
    update();
}

void RunSheet::setCurrent(SpanId run, const std::string& role) {
    if (run == run_ && role == role_) return;
    run_ = run;
    role_ = role;
    if (const int c = columnOf(run); c >= 0) showColumn(c);
    update();
}

QRectF RunSheet::cells() const {
    return {kLeft, kTop, static_cast<double>(width() - kLeft - kRight),
            static_cast<double>(kRowHeight * (rowCount() + 1))};
}

double RunSheet::fittingWidth() const {
    return std::max(kNarrowest,
                    cells().width() / static_cast<double>(std::max<std::size_t>(1, runs_.size())));
}

void RunSheet::follow() {
    columnWidth_ = fittingWidth() * zoom_;
    const int beyond =
        static_cast<int>(std::ceil(columnWidth_ * static_cast<double>(runs_.size()) - cells().width()));
    scroll_->setRange(0, std::max(0, beyond));
    scroll_->setPageStep(static_cast<int>(cells().width()));
    scroll_->setSingleStep(std::max(1, static_cast<int>(columnWidth_)));
    scroll_->setGeometry(kLeft, height() - kBar, width() - kLeft - kRight, kBar);
    scroll_->setVisible(beyond > 1);
}

void RunSheet::resizeEvent(QResizeEvent*) {
    follow();
}

void RunSheet::setColumnWidth(double wide, double keepX) {
    const double column = (keepX - kLeft + scroll_->value()) / columnWidth_;
    zoom_ = std::clamp(wide / fittingWidth(), 1.0, std::max(1.0, kWidest / fittingWidth()));
    follow();
    scroll_->setValue(static_cast<int>(std::lround(column * columnWidth_ - (keepX - kLeft))));
    update();
}

void RunSheet::setMarked(std::set<std::pair<SpanId, std::string>> cells) {
    marked_ = std::move(cells);
    update();
}

void RunSheet::showColumn(int column) {
    const double left = column * columnWidth_ - scroll_->value();
    if (left < 0 || left + columnWidth_ > cells().width())
        scroll_->setValue(static_cast<int>(column * columnWidth_ - cells().width() / 2));
}

double RunSheet::columnX(int column) const {
    return kLeft + (column + 0.5) * columnWidth_ - scroll_->value();
}

std::pair<int, int> RunSheet::columnsInView() const {
    const int first = static_cast<int>(scroll_->value() / columnWidth_);
    const int last = static_cast<int>((scroll_->value() + cells().width()) / columnWidth_) + 1;
    return {std::max(0, first), std::min(static_cast<int>(runs_.size()), last)};
}

int RunSheet::columnOf(SpanId run) const {
    const auto found = columnOf_.find(run);
    return found == columnOf_.end() ? -1 : found->second;
}

QPoint RunSheet::cellCentre(SpanId run, int row) const {
    return {static_cast<int>(columnX(columnOf(run))), kTop + row * kRowHeight + kRowHeight / 2};
}

QPoint RunSheet::rowHead(int row) const {
    return {kLeft / 2, kTop + row * kRowHeight + kRowHeight / 2};
}

RunSheet::Place RunSheet::placeAt(const QPoint& p) const {
    if (runs_.empty()) return {};
    Place out;
    if (p.x() >= kLeft && p.x() < width() - kRight) {
        out.column = static_cast<int>((p.x() - kLeft + scroll_->value()) / columnWidth_);
        if (out.column >= static_cast<int>(runs_.size())) return {};
    }
    if (p.y() >= kTop) out.row = (p.y() - kTop) / kRowHeight;
    if (out.row > rowCount()) return {};
    return out;
}

void RunSheet::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& theme = session_.theme();
    p.setFont(uiFont());
    if (runs_.empty()) {
        drawInstead(p, theme, rect(), whyEmpty_);
        return;
    }
    const auto columns = columnsInView();
    makeGems();
    p.save();
    p.setClipRect(QRectF(kLeft, 0, cells().width(), height()));
    const int current = columnOf(run_);
    if (current >= 0 && pick_ != Pick::Tag)
        p.fillRect(QRectF(columnX(current) - columnWidth_ / 2 - 1, kTop - 4, std::max(4.0, columnWidth_ + 2),
                          kRowHeight * (rowCount() + 1) + 6),
                   theme.softAccent);
    paintHead(p, columns);
    p.restore();
    for (int row = 0; row < rowCount(); ++row) paintRow(p, row, columns);
    paintGolden(p, columns);
}

void RunSheet::makeGems() {
    const Theme& theme = session_.theme();
    const double radius = std::clamp(columnWidth_ / 2, 2.6, 6.0), ratio = devicePixelRatioF();
    for (std::size_t i = 0; i < gems_.size(); ++i) {
        gems_[i] = QPixmap(QSize(kGem, kGem) * ratio);
        gems_[i].setDevicePixelRatio(ratio);
        gems_[i].fill(Qt::transparent);
        QPainter p(&gems_[i]);
        p.setRenderHint(QPainter::Antialiasing);
        drawGem(&p, {kGem / 2.0, kGem / 2.0}, radius, static_cast<int>(i) + 1, theme.accent, theme.accent,
                theme.plot);
    }
}

void RunSheet::paintHead(QPainter& p, std::pair<int, int> columns) const {
    const Theme& theme = session_.theme();
    p.setFont(smallFont(10));
    double free = kLeft - 20;
    AssetId asset;
    const bool fleet = !runs_.empty() && runs_.front().asset != runs_.back().asset;
    for (int i = columns.first; i < columns.second; ++i) {
        const Span& run = runs_[static_cast<std::size_t>(i)];
        const double x = columnX(i);
        const bool parts = fleet && run.asset != asset;
        if (parts && asset)
            p.fillRect(QRectF(x - columnWidth_ / 2 - 0.5, 4, 1, kTop + kRowHeight * (rowCount() + 1)),
                       theme.second);
        if (parts || (x > free && !fleet)) {
            const Asset* a = session_.study().catalog().asset(run.asset);
            const QString text =
                QString::fromStdString(fleet ? (a ? a->name : "") : session_.zone().shortDate(run.start));
            p.setPen(theme.second);
            const double from = fleet ? x - columnWidth_ / 2 + 3 : std::max<double>(kLeft, x - 20);
            p.drawText(QRectF(from, 0, 70, kTop - 8), Qt::AlignLeft | Qt::AlignVCenter, text);
            free = x + 76;
        }
        asset = run.asset;
        if (!stopped_[static_cast<std::size_t>(i)]) continue;
        p.setPen(Qt::NoPen);
        p.setBrush(theme.ink);
        const std::array<QPointF, 3> wedge{QPointF(x - 3, kTop - 6), QPointF(x + 3, kTop - 6),
                                           QPointF(x, kTop - 1)};
        p.drawPolygon(wedge.data(), 3);
        p.setBrush(Qt::NoBrush);
    }
}

void RunSheet::paintRow(QPainter& p, int row, std::pair<int, int> columns) const {
    const Theme& theme = session_.theme();
    const double y = kTop + (row + 0.5) * kRowHeight;
    const RowName& name = rows_[static_cast<std::size_t>(row)];
    const bool chosen = name.role == role_;
    if (chosen && pick_ == Pick::Tag)
        p.fillRect(QRectF(2, y - kRowHeight / 2.0 + 1, width() - 4, kRowHeight - 2), theme.softAccent);
    p.setFont(uiFont());
    p.setPen(chosen ? theme.accent : theme.ink);
    p.drawText(QRectF(0, y - 9, kLeft - 8, 18), Qt::AlignRight | Qt::AlignVCenter,
               p.fontMetrics().elidedText(name.name, Qt::ElideRight, kLeft - 12));
    p.save();
    p.setClipRect(QRectF(kLeft, 0, cells().width(), height()));
    p.fillRect(QRectF(kLeft, y + kRowHeight / 2.0 - 0.5, cells().width(), 0.6), theme.hairline);
    const auto& grades = grades_[static_cast<std::size_t>(row)];
    for (int i = columns.first; i < columns.second; ++i) {
        const auto grade = int{grades[static_cast<std::size_t>(i)]};
        if (!marked_.empty() && marked_.contains({runs_[static_cast<std::size_t>(i)].id, name.role}))
            p.fillRect(QRectF(columnX(i) - columnWidth_ / 2, y - kRowHeight / 2.0 + 1,
                              std::max(4.0, columnWidth_), kRowHeight - 2),
                       theme.softAccent);
        if (grade == 0)
            p.fillRect(QRectF(columnX(i) - 1, y - 1, 2, 2), faded(theme.second, 0.45));
        else
            p.drawPixmap(QPointF(std::round(columnX(i)) - kGem / 2.0, y - kGem / 2.0),
                         gems_[static_cast<std::size_t>(grade - 1)]);
    }
    p.restore();
}

void RunSheet::paintGolden(QPainter& p, std::pair<int, int> columns) const {
    const Theme& theme = session_.theme();
    const double y = kTop + (rowCount() + 0.5) * kRowHeight;
    p.setFont(uiFont());
    p.setPen(theme.goldEdge);
    p.drawText(QRectF(0, y - 9, kLeft - 8, 18), Qt::AlignRight | Qt::AlignVCenter, "golden");
    p.setClipRect(QRectF(kLeft, 0, cells().width(), height()));
    const double half = std::max(1.5, columnWidth_ / 2 - 1.5);
    for (int i = columns.first; i < columns.second; ++i) {
        const double x = columnX(i);
        if (!golden_[static_cast<std::size_t>(i)]) {
            p.fillRect(QRectF(x - 1, y - 1, 2, 2), faded(theme.goldEdge, 0.5));
            continue;
        }
        p.fillRect(QRectF(x - half, y - 3, 2 * half, 6), theme.goldFill);
        p.setPen(QPen(theme.goldEdge, 1));
        p.drawRect(QRectF(x - half, y - 3, 2 * half, 6));
    }
}

void RunSheet::choose(Place place, Pick pick) {
    pick_ = pick;
    if (place.column < 0) place.column = std::max(0, columnOf(run_));
    const Span& run = runs_[static_cast<std::size_t>(place.column)];
    const std::string role =
        place.row >= 0 && place.row < rowCount() ? rows_[static_cast<std::size_t>(place.row)].role : role_;
    update();
    emit cellChosen(run.id, QString::fromStdString(role));
}

void RunSheet::mousePressEvent(QMouseEvent* e) {
    setFocus();
    const Place place = placeAt(e->pos());
    if (place.column < 0 && place.row < 0) return;
    if (place.row == rowCount() && place.column >= 0)
        emit goldenToggled(runs_[static_cast<std::size_t>(place.column)].id);
    else if (place.column < 0 && place.row < rowCount())
        choose(place, Pick::Tag);
    else if (place.column >= 0)
        choose(place, place.row < 0 ? Pick::Run : Pick::Cell);
}

void RunSheet::mouseDoubleClickEvent(QMouseEvent* e) {
    const Place place = placeAt(e->pos());
    if (place.column >= 0 && place.row >= 0 && place.row < rowCount())
        emit cellOpened(runs_[static_cast<std::size_t>(place.column)].id,
                        QString::fromStdString(rows_[static_cast<std::size_t>(place.row)].role));
}

void RunSheet::wheelEvent(QWheelEvent* e) {
    if (runs_.empty()) return;
    const int across = e->angleDelta().x() != 0 ? e->angleDelta().x() : 0;
    if (across != 0 || e->modifiers() & Qt::ShiftModifier)
        scroll_->setValue(scroll_->value() - (across != 0 ? across : e->angleDelta().y()));
    else
        setColumnWidth(columnWidth_ * std::pow(1.25, e->angleDelta().y() / 120.0), e->position().x());
    e->accept();
}

void RunSheet::keyPressEvent(QKeyEvent* e) {
    if (runs_.empty()) return QWidget::keyPressEvent(e);
    Place place{std::max(0, columnOf(run_)), 0};
    for (int i = 0; i < rowCount(); ++i)
        if (rows_[static_cast<std::size_t>(i)].role == role_) place.row = i;
    const int last = static_cast<int>(runs_.size()) - 1;
    switch (e->key()) {
        case Qt::Key_Left:
            place.column = std::max(0, place.column - 1);
            break;
        case Qt::Key_Right:
            place.column = std::min(last, place.column + 1);
            break;
        case Qt::Key_Home:
            place.column = 0;
            break;
        case Qt::Key_End:
            place.column = last;
            break;
        case Qt::Key_Up:
            place.row = std::max(0, place.row - 1);
            break;
        case Qt::Key_Down:
            place.row = std::min(rowCount() - 1, place.row + 1);
            break;
        case Qt::Key_Plus:
        case Qt::Key_Minus:
            return setColumnWidth(columnWidth_ * (e->key() == Qt::Key_Plus ? 1.5 : 1 / 1.5),
                                  std::clamp(columnX(place.column), cells().left(), cells().right()));
        case Qt::Key_G:
            if (run_) emit goldenToggled(run_);
            return;
        case Qt::Key_Return:
            if (run_) emit cellOpened(run_, QString::fromStdString(role_));
            return;
        default:
            return QWidget::keyPressEvent(e);
    }
    choose(place, pick_);
    showColumn(place.column);
}

bool RunSheet::event(QEvent* e) {
    if (e->type() != QEvent::ToolTip) return QWidget::event(e);
    auto* help = static_cast<QHelpEvent*>(e);
    const Place place = placeAt(help->pos());
    if (place.column < 0) {
        QToolTip::hideText();
        return true;
    }
    const Span& run = runs_[static_cast<std::size_t>(place.column)];
    const Asset* asset = session_.study().catalog().asset(run.asset);
    QString text = QString("%1 run %2 · %3 · %4")
                       .arg(QString::fromStdString(asset ? asset->name : ""),
                            QString::number(factNumber(run.facts, "number")),
                            QString::fromStdString(session_.zone().text(run.start)),
                            QString::fromStdString(sayDuration(run.end - run.start)));
    for (const auto& [name, fact] : run.facts)
        if (name != "number")
            text +=
                QString("\n%1: %2").arg(QString::fromStdString(name), QString::fromStdString(factText(fact)));
    if (golden_[static_cast<std::size_t>(place.column)])
        text += "\ngolden: " + QString::fromStdString(reasons_[run.id]);
    QToolTip::showText(help->globalPos(), plainTip(text), this);
    return true;
}

}  // namespace jacinth::app
