#include "app/screen/run_sheet.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QPainter>
#include <QToolTip>

#include "app/plot/plot_overlay.h"

namespace jacinth::app {
namespace {
constexpr int kLeft = 104, kRight = 10, kTop = 22;
}

RunSheet::RunSheet(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("runSheet");
    setAccessibleName("Run sheet");
    setFocusPolicy(Qt::StrongFocus);
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void RunSheet::setSheet(std::vector<Span> runs, std::vector<RowName> rows,
                        const std::vector<KeptExcursion>& excursions, std::vector<std::int64_t> golden,
                        std::vector<Span> stops) {
    runs_ = std::move(runs);
    rows_ = std::move(rows);
    golden_ = std::move(golden);
    stops_ = std::move(stops);
    grades_.clear();
    for (const KeptExcursion& e : excursions) {
        int& grade = grades_[{e.run, e.role}];
        grade = std::max(grade, e.severity);
    }
    setFixedHeight(
        kTop +
        static_cast<int>(rowHeight() * static_cast<double>(std::max<std::size_t>(rows_.size(), 3) + 1)) + 6);
    update();
}

void RunSheet::setCurrent(std::int64_t run, const std::string& role) {
    run_ = run;
    role_ = role;
    update();
}

double RunSheet::columnWidth() const {
    return static_cast<double>(width() - kLeft - kRight) /
           static_cast<double>(std::max<std::size_t>(1, runs_.size()));
}
double RunSheet::columnX(int column) const {
    return kLeft + (column + 0.5) * columnWidth();
}

int RunSheet::columnOf(std::int64_t run) const {
    for (std::size_t i = 0; i < runs_.size(); ++i)
        if (runs_[i].id == run) return static_cast<int>(i);
    return -1;
}

QPoint RunSheet::cellCentre(std::int64_t run, int row) const {
    return {static_cast<int>(columnX(columnOf(run))), static_cast<int>(kTop + (row + 0.5) * rowHeight())};
}

RunSheet::Place RunSheet::placeAt(const QPoint& p) const {
    if (runs_.empty() || p.x() < kLeft || p.y() < kTop) return {};
    const int column = static_cast<int>((p.x() - kLeft) / columnWidth());
    const int row = static_cast<int>((p.y() - kTop) / rowHeight());
    if (column >= static_cast<int>(runs_.size()) || row > rowCount()) return {};
    return {column, row};
}

void RunSheet::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& theme = session_.theme();
    QFont font = uiFont(), small = font;
    small.setPixelSize(10);
    p.setFont(font);
    if (runs_.empty()) {
        p.setPen(theme.second);
        p.drawText(rect().adjusted(20, 10, -20, -10), Qt::AlignCenter | Qt::TextWordWrap,
                   "No runs of this asset yet. Say on the right when a run lasts, for example @kiln_step is "
                   "not \"Idle\", and press Find runs.");
        return;
    }
    const int current = columnOf(run_);
    if (current >= 0)
        p.fillRect(QRectF(kLeft + current * columnWidth() - 1, kTop - 4, std::max(4.0, columnWidth() + 2),
                          rowHeight() * (rowCount() + 1) + 6),
                   theme.softAccent);
    p.setFont(small);
    int lastLabel = -1000;
    for (std::size_t i = 0; i < runs_.size(); ++i) {
        const int x = static_cast<int>(columnX(static_cast<int>(i)));
        if (x - lastLabel < 76) continue;
        lastLabel = x;
        p.setPen(theme.second);
        p.drawText(QRect(x - 20, 0, 70, kTop - 6), Qt::AlignLeft | Qt::AlignVCenter,
                   QString::fromStdString(session_.zone().shortDate(runs_[i].start)));
    }
    p.setFont(font);
    const double radius = std::clamp(columnWidth() / 2, 3.2, 6.0);
    for (int row = 0; row < rowCount(); ++row) {
        const double y = kTop + (row + 0.5) * rowHeight();
        const RowName& name = rows_[static_cast<std::size_t>(row)];
        p.setPen(name.role == role_ ? theme.accent : theme.ink);
        p.drawText(QRectF(0, y - 9, kLeft - 8, 18), Qt::AlignRight | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(name.name, Qt::ElideRight, kLeft - 12));
        p.fillRect(QRectF(kLeft, y + rowHeight() / 2 - 0.5, width() - kLeft - kRight, 0.6), theme.hairline);
        for (std::size_t i = 0; i < runs_.size(); ++i) {
            const double x = columnX(static_cast<int>(i));
            const auto grade = grades_.find({runs_[i].id, name.role});
            if (grade == grades_.end()) {
                p.fillRect(QRectF(x - 1, y - 1, 2, 2), faded(theme.second, 0.45));
                continue;
            }
            drawGem(&p, {x, y}, radius, grade->second, theme.accent, theme.accent, theme.plot);
        }
    }
    const double y = kTop + (rowCount() + 0.5) * rowHeight();
    p.setPen(theme.goldEdge);
    p.drawText(QRectF(0, y - 9, kLeft - 8, 18), Qt::AlignRight | Qt::AlignVCenter, "golden");
    for (std::size_t i = 0; i < runs_.size(); ++i) {
        const double x = columnX(static_cast<int>(i)), half = std::max(2.0, columnWidth() / 2 - 1.5);
        const bool golden = std::find(golden_.begin(), golden_.end(), runs_[i].id) != golden_.end();
        if (golden)
            p.fillRect(QRectF(x - half, y - 3, 2 * half, 6), theme.goldFill);
        else
            p.fillRect(QRectF(x - 1, y - 1, 2, 2), faded(theme.goldEdge, 0.5));
        if (golden) {
            p.setPen(QPen(theme.goldEdge, 1));
            p.drawRect(QRectF(x - half, y - 3, 2 * half, 6));
        }
        for (const Span& s : stops_)
            if (s.start < runs_[i].end && s.end > runs_[i].start) {
                p.setPen(Qt::NoPen);
                p.setBrush(theme.ink);
                const std::array<QPointF, 3> wedge{QPointF(x - 3, kTop - 5), QPointF(x + 3, kTop - 5),
                                                   QPointF(x, kTop)};
                p.drawPolygon(wedge.data(), 3);
                p.setBrush(Qt::NoBrush);
                break;
            }
    }
}

void RunSheet::choose(Place place) {
    if (place.column < 0) return;
    const Span& run = runs_[static_cast<std::size_t>(place.column)];
    const std::string role =
        place.row >= 0 && place.row < rowCount() ? rows_[static_cast<std::size_t>(place.row)].role : role_;
    emit cellChosen(run.id, QString::fromStdString(role));
}

void RunSheet::mousePressEvent(QMouseEvent* e) {
    setFocus();
    const Place place = placeAt(e->pos());
    if (place.column < 0) return;
    if (place.row == rowCount())
        emit goldenToggled(runs_[static_cast<std::size_t>(place.column)].id);
    else
        choose(place);
}

void RunSheet::mouseDoubleClickEvent(QMouseEvent* e) {
    const Place place = placeAt(e->pos());
    if (place.column >= 0 && place.row < rowCount())
        emit cellOpened(runs_[static_cast<std::size_t>(place.column)].id,
                        QString::fromStdString(rows_[static_cast<std::size_t>(place.row)].role));
}

void RunSheet::keyPressEvent(QKeyEvent* e) {
    Place place{std::max(0, columnOf(run_)), 0};
    for (int i = 0; i < rowCount(); ++i)
        if (rows_[static_cast<std::size_t>(i)].role == role_) place.row = i;
    switch (e->key()) {
        case Qt::Key_Left:
            place.column = std::max(0, place.column - 1);
            break;
        case Qt::Key_Right:
            place.column = std::min(static_cast<int>(runs_.size()) - 1, place.column + 1);
            break;
        case Qt::Key_Up:
            place.row = std::max(0, place.row - 1);
            break;
        case Qt::Key_Down:
            place.row = std::min(rowCount() - 1, place.row + 1);
            break;
        case Qt::Key_G:
            if (run_) emit goldenToggled(run_);
            return;
        case Qt::Key_Return:
            if (run_) emit cellOpened(run_, QString::fromStdString(role_));
            return;
        default:
            return QWidget::keyPressEvent(e);
    }
    choose(place);
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
    QString text = QString("run %1 · %2 · %3")
                       .arg(factNumber(run.facts, "number"))
                       .arg(QString::fromStdString(session_.zone().text(run.start)),
                            QString::fromStdString(sayDuration(run.end - run.start)));
    for (const auto& [name, fact] : run.facts)
        if (name != "number")
            text +=
                QString("\n%1: %2").arg(QString::fromStdString(name), QString::fromStdString(factText(fact)));
    QToolTip::showText(help->globalPos(), text, this);
    return true;
}

}  // namespace jacinth::app
