#include "app/mend/sample_list.h"

#include <QClipboard>
#include <QGuiApplication>
#include <QHeaderView>

#include "app/base/tables.h"
#include "app/base/ui.h"
#include "core/series/quality.h"
#include "work/mend/mending.h"

namespace jacinth::app {
namespace {

/// 2026-03-29 03:00:10.25, on the plant's clock.
QString sortableTime(const Session& session, Instant t) {
    const auto wall = session.zone().wall(t);
    QString out = QString("%1-%2-%3 %4:%5:%6")
                      .arg(wall.year, 4, 10, QChar('0'))
                      .arg(wall.month, 2, 10, QChar('0'))
                      .arg(wall.day, 2, 10, QChar('0'))
                      .arg(wall.hour, 2, 10, QChar('0'))
                      .arg(wall.minute, 2, 10, QChar('0'))
                      .arg(wall.second, 2, 10, QChar('0'));
    const auto part = toNanoseconds(t - std::chrono::floor<std::chrono::seconds>(t));
    if (part > 0) out += QString::number(part / 1e9, 'g', 9).mid(1);
    return out;
}

}  // namespace

void SampleModel::setRows(SampleRows rows, QString unit) {
    beginResetModel();
    rows_ = std::move(rows);
    unit_ = std::move(unit);
    endResetModel();
}

QString SampleModel::text(const SampleRow& row, int column) const {
    switch (column) {
        case kTime:
            return sortableTime(session_, row.time);
        case kLogged:
            return fullNumber(row.logged);
        case kMended:
            return fullNumber(row.mended);
        case kChange:
            // Ten digits: the last ones of a difference are made by the subtraction.
            return row.logged == row.mended || !std::isfinite(row.mended - row.logged)
                       ? QString()
                       : QString::number(row.mended - row.logged, 'g', 10);
        case kQuality: {
            const QString logged = row.isLogged ? qualityName(row.loggedQuality) : "not logged",
                          mended = row.isMended ? qualityName(row.mendedQuality) : "gone";
            return logged == mended ? logged : logged + " → " + mended;
        }
        default: {
            QStringList names;
            for (const FixId id : row.fixes)
                if (const auto fix = fixOf(session_.study(), id))
                    names << QString("%1 (%2)").arg(fixKindName(fix->kind())).arg(id.number);
            return names.join(", ");
        }
    }
}

QVariant SampleModel::data(const QModelIndex& index, int role) const {
    const SampleRow& row = rows_.rows[static_cast<std::size_t>(index.row())];
    if (role == Qt::DisplayRole) return text(row, index.column());
    if (role == RowsModel::kExactRole && index.column() == kTime)
        return QString::fromStdString(toIso(row.time));
    const bool touched = !row.fixes.empty() || row.isLogged != row.isMended;
    if (role == Qt::ForegroundRole && !touched) return session_.theme().second;
    return {};
}

QVariant SampleModel::headerData(int section, Qt::Orientation orientation, int role) const {
    static const QStringList names{"time", "as logged", "mended", "change", "quality", "fixes that act"};
    if (orientation != Qt::Horizontal) return {};
    if (role == Qt::TextAlignmentRole) return int(Qt::AlignLeft | Qt::AlignVCenter);
    if (role != Qt::DisplayRole) return {};
    const bool number = section >= kLogged && section <= kChange;
    return number && !unit_.isEmpty() ? names[section] + ", " + unit_ : names[section];
}

SampleList::SampleList(Session& session) : ListUnderPlot(session) {
    model_ = new SampleModel(session, this);
    table_ = makePlainTable(model_, "sampleList", {178, 88, 88, 88, 104, 0});
    table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    status_ = makeStatus("sampleStatus");
    auto* copy = makeButton("Copy", "copySamples");
    copy->setToolTip("The chosen rows, or those in view, as text that a spreadsheet takes");
    headRow_->addWidget(copy);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(table_);
    later_ = new QTimer(this);
    later_->setSingleShot(true);
    later_->setInterval(120);
    connect(later_, &QTimer::timeout, this, &SampleList::fill);
    connect(&session.view(), &ViewState::viewChanged, this, [this] {
        if (isVisible()) later_->start();
    });
    connect(&session.view(), &ViewState::cursorChanged, this, &SampleList::follow);
    connect(copy, &QPushButton::clicked, this, &SampleList::copyView);
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this,
            [this](const QModelIndex& now) {
                if (!following_ && now.isValid()) rowChosen(now.row());
            });
}

/// A view's length more on both sides, so that keys lead on out of the view.
void SampleList::fill() {
    if (!isVisible()) return;
    const Tag* tag = session_.tag(session_.view().tag());
    if (!tag) {
        model_->setRows({}, {});
        return status_->setText("Choose a tag in the plant panel to see its samples.");
    }
    const TimeRange view = session_.view().view();
    const auto cursor = session_.view().cursor(0);
    const Instant middle = cursor && view.contains(*cursor) ? *cursor : view.from + view.length() / 2;
    const TimeRange wide{view.from - view.length(), view.to + view.length()};
    following_ = true;
    try {
        model_->setRows(samplesIn(session_.study(), *tag, wide, middle), QString::fromStdString(tag->unit));
    } catch (const StoreError& e) {  // damaged there
        model_->setRows({}, {});
        following_ = false;
        return status_->setText(QString::fromUtf8(e.what()));
    }
    following_ = false;
    const TimeRange held = model_->samples().range;
    const bool all = held.from <= view.from && held.to >= view.to;
    status_->setText(
        QString(all ? "%1 samples in view and beside it" : "%1 about the cursor: the view holds more")
            .arg(model_->rowCount()));
    table_->doItemsLayout();  // before that it cannot be scrolled
    follow();
}

void SampleList::follow() {
    if (!isVisible() || following_) return;
    const auto& rows = model_->samples().rows;
    const TimeRange view = session_.view().view();
    auto cursor = session_.view().cursor(0);
    if (cursor && !view.contains(*cursor)) cursor.reset();
    const Instant t = cursor.value_or(view.from);
    if (cursor && !model_->samples().range.contains(t))
        return later_->start();  // beyond what is held of a long view
    const auto at = std::lower_bound(rows.begin(), rows.end(), t,
                                     [](const SampleRow& row, Instant when) { return row.time < when; });
    if (at == rows.end()) return;
    const int row = static_cast<int>(at - rows.begin());
    following_ = true;
    if (cursor && table_->currentIndex().row() != row) table_->selectRow(row);
    table_->scrollTo(model_->index(row, 0),
                     cursor ? QAbstractItemView::EnsureVisible : QAbstractItemView::PositionAtTop);
    following_ = false;
}

void SampleList::rowChosen(int row) {
    const Instant t = model_->samples().rows[static_cast<std::size_t>(row)].time;
    const TimeRange view = session_.view().view();
    following_ = true;
    session_.view().setCursor(0, t);
    if (!view.contains(t)) {
        const Duration half = view.length() / 2;
        session_.view().setView({t - half, t - half + view.length()}, false);
    }
    following_ = false;
}

void SampleList::copyView() {
    std::vector<int> rows;
    const auto chosen = table_->selectionModel()->selectedRows();
    if (chosen.size() > 1) {
        for (const QModelIndex& index : chosen) rows.push_back(index.row());
        std::sort(rows.begin(), rows.end());
    } else {
        const TimeRange view = session_.view().view();
        for (int row = 0; row < model_->rowCount(); ++row)
            if (view.contains(model_->samples().rows[static_cast<std::size_t>(row)].time))
                rows.push_back(row);
    }
    QGuiApplication::clipboard()->setText(tableText(table_, rows, TableForm::Tabs));
    emit session_.notified(QString("%1 samples copied: paste into a table").arg(rows.size()));
}

}  // namespace jacinth::app
