#include "app/screen/runs_page.h"

#include <QPainter>
#include <QStackedWidget>
#include <QStyledItemDelegate>
#include <nlohmann/json.hpp>

#include "app/base/asset_choice.h"
#include "app/base/examples.h"
#include "app/base/file_dialogs.h"
#include "app/base/gem.h"
#include "app/base/tables.h"
#include "app/plot/chart.h"
#include "app/plot/plot_overlay.h"
#include "app/screen/run_preview.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "store/write_file.h"
#include "work/base/asset_groups.h"
#include "work/limits/screening.h"
#include "work/runs/edit_runs.h"

namespace jacinth::app {
namespace {

/// A golden bar before a golden run, a gem in the column of the worst excursion.
class RunDelegate : public QStyledItemDelegate {
  public:
    RunDelegate(Session& session, QObject* parent) : QStyledItemDelegate(parent), session_(session) {}
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        QStyledItemDelegate::paint(p, option, index);
        const Theme& theme = session_.theme();
        p->save();
        p->setRenderHint(QPainter::Antialiasing);
        const QRectF cell = option.rect;
        if (index.column() == 0 && index.data(Qt::UserRole).toBool()) {
            p->setPen(QPen(theme.goldEdge, 1));
            p->setBrush(theme.goldFill);
            p->drawRect(QRectF(cell.left() + 1.5, cell.top() + 4.5, 4, cell.height() - 9));
        }
        const int grade = index.column() == 2 ? index.data(Qt::UserRole).toInt() : 0;
        if (grade > 0)
            drawGem(p, {cell.left() + 14, cell.center().y()}, 6, grade, theme.accent, theme.accent,
                    theme.plot);
        p->restore();
    }
    void initStyleOption(QStyleOptionViewItem* option, const QModelIndex& index) const override {
        QStyledItemDelegate::initStyleOption(option, index);
        if (index.column() == 0) option->text = "  " + option->text;
    }

  private:
    Session& session_;
};

}  // namespace

RunsPage::RunsPage(Session& session, ScreenState& state) : BenchPage(session, false), screen_(state) {
    buildMiddle();
    buildInspector();
    connectAll();
    refreshSoon();
}

void RunsPage::buildMiddle() {
    model_ = new RunTableModel(session_, this);
    table_ = new QTableView;
    table_->setObjectName("runTable");
    table_->setAccessibleName("Runs and their figures");
    header_ = new HistogramHeader(session_, model_, table_);
    table_->setHorizontalHeader(header_);
    table_->setModel(model_);
    giveTableCommands(table_);
    table_->setItemDelegate(new RunDelegate(session_, table_));
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(24);
    table_->setShowGrid(false);
    table_->setWordWrap(false);
    table_->setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
    filter_ = new ExpressionEditor(session_, ExpressionEditor::Lines::One);
    filter_->setObjectName("runsFilter");
    filter_->setAccessibleName("Only runs where");
    filter_->setPlaceholderText("only where … duration < 23h and mean(@" + exampleRole(session_) + ") > 0");
    filterSays_ = makeLabel("", "second");
    filterSays_->setObjectName("runsFilterSays");
    fleet_ = makeChoice("runsFleet", "Runs of", {"the whole fleet", "this asset"});
    column_ = new ExpressionEditor(session_, ExpressionEditor::Lines::One);
    column_->setObjectName("columnText");
    column_->setAccessibleName("A column more");
    column_->setPlaceholderText("a column more … max(@" + exampleRole(session_) + ")");
    columnName_ = makeField("columnName", "Name of the column");
    columnName_->setPlaceholderText("name");
    columnName_->setFixedWidth(110);
    const auto about = [this] {
        return namesAboutRuns(session_.study(), session_.view().asset(),
                              session_.study().tracks().spans(screen_.trackId()));
    };
    filter_->setNames(about);
    column_->setNames(about);
    auto* top = new QHBoxLayout;
    top->addWidget(filter_, 1);
    top->addWidget(fleet_);
    auto* add = makeButton("Add", "addColumn");
    auto* save = makeButton("Save as CSV…", "exportRuns");
    auto* bottom = new QHBoxLayout;
    bottom->addWidget(column_, 1);
    bottom->addWidget(new RunPreview(session_, column_, [this] { return screen_.trackId(); }));
    bottom->addWidget(columnName_);
    bottom->addWidget(add);
    bottom->addSpacing(12);
    bottom->addWidget(save);
    stack_ = new QStackedWidget;
    auto* empty =
        makeLabel(QString("No runs yet.\n\nSay on the right when a run lasts, for example while %1,\n"
                          "and press Find runs. Every run then stands here with its figures.")
                      .arg(exampleCondition(session_)),
                  "second");
    empty->setAlignment(Qt::AlignCenter);
    stack_->addWidget(empty);
    filterSays_->hide();
    stack_->addWidget(table_);
    auto* reading = makeLabel("Reading the runs…", "second");
    reading->setObjectName("runsReading");
    reading->setAlignment(Qt::AlignCenter);
    stack_->addWidget(reading);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 4);
    column->setSpacing(6);
    column->addLayout(top);
    auto* says = new QHBoxLayout;
    says->addWidget(new RunPreview(session_, filter_, [this] { return screen_.trackId(); }));
    says->addWidget(filterSays_, 1);
    column->addLayout(says);
    column->addWidget(stack_, 1);
    column->addLayout(bottom);
    connect(add, &QPushButton::clicked, this, &RunsPage::addColumn);
    connect(column_, &ExpressionEditor::accepted, this, &RunsPage::addColumn);
    connect(save, &QPushButton::clicked, this, &RunsPage::exportTable);
}

void RunsPage::buildInspector() {
    side_->setSpacing(4);
    side_->addWidget(makeLabel("Find runs", "section"));
    form_ = new RunSearchForm(session_, screen_);
    side_->addWidget(form_);
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("Golden runs", "section"));
    goldenSays_ = makeLabel("", "second");
    goldenSays_->setWordWrap(true);
    side_->addWidget(goldenSays_);
    why_ = makeField("goldenWhy", "Why these are golden");
    why_->setPlaceholderText("why these are golden");
    side_->addWidget(why_);
    auto* some = makeButton("Selected are golden", "goldenSelected");
    auto* all = makeButton("All shown are golden", "goldenShown");
    auto* none = makeButton("Selected are not", "goldenNot");
    auto* row = new QHBoxLayout;
    row->addWidget(some);
    row->addWidget(none);
    side_->addLayout(row);
    all->setToolTip("Those the table shows now, and no others");
    side_->addWidget(all);
    connect(some, &QPushButton::clicked, this, [this] { setGolden(true, false); });
    connect(all, &QPushButton::clicked, this, [this] { setGolden(true, true); });
    connect(none, &QPushButton::clicked, this, [this] { setGolden(false, false); });
    for (QPushButton* b : {some, none}) addRowCommand(table_, b);
    side_->addWidget(makeRule());
    buildEditing();
    side_->addStretch();
}

void RunsPage::buildEditing() {
    side_->addWidget(makeLabel("Correct a run", "section"));
    start_ = new MomentField(session_, "runStart", "Start of the run");
    end_ = new MomentField(session_, "runEnd", "End of the run");
    addRow(side_, "Starts", start_);
    addRow(side_, "Ends", end_);
    editWhy_ = makeField("runEditWhy", "Why");
    editWhy_->setPlaceholderText("why");
    side_->addWidget(editWhy_);
    move_ = makeButton("Move edges", "runMove");
    split_ = makeButton("Split at cursor", "runSplit");
    merge_ = makeButton("Merge", "runMerge");
    leaveOut_ = makeButton("Leave out", "runLeaveOut");
    for (QPushButton* b : {merge_, leaveOut_}) addRowCommand(table_, b);
    auto* one = new QHBoxLayout;
    one->addWidget(move_);
    one->addWidget(split_);
    auto* two = new QHBoxLayout;
    two->addWidget(merge_);
    two->addWidget(leaveOut_);
    side_->addLayout(one);
    side_->addLayout(two);
    connect(move_, &QPushButton::clicked, this, [this] {
        const auto from = start_->moment(), to = end_->moment();
        markWrong(start_, !from, "a time like 5 Apr 2026 06:00");
        markWrong(end_, !to, "a time like 5 Apr 2026 06:00");
        if (!from || !to) return;
        edit([&](const std::string& why) {
            return moveRunEdges(session_.study(), session_.view().run(), {*from, *to}, why);
        });
    });
    connect(split_, &QPushButton::clicked, this, [this] {
        const auto at = session_.view().cursor(0);
        if (!at) return emit session_.failed("Put a cursor inside the run first: C in Survey");
        edit([&](const std::string& why) {
            return splitRun(session_.study(), session_.view().run(), *at, why);
        });
    });
    connect(merge_, &QPushButton::clicked, this, [this] {
        edit([&](const std::string& why) { return mergeRuns(session_.study(), selectedRuns(), why); });
    });
    connect(leaveOut_, &QPushButton::clicked, this, [this] {
        edit([&](const std::string& why) { return leaveOutRuns(session_.study(), selectedRuns(), why); });
    });
}

void RunsPage::connectAll() {
    connect(filter_, &ExpressionEditor::accepted, this, [this] {
        applied_ = filter_->text().toStdString();
        refresh();
    });
    connect(filter_, &QPlainTextEdit::textChanged, this, [this] {
        const auto e = filter_->checked();
        const QString words = !e ? QString()
                              : e->type != ValueType::Condition
                                  ? QString("this is a %1; a condition would fit").arg(typeName(e->type))
                                  : QString("Enter cuts the table");
        filterSays_->setText(words);
        filterSays_->setVisible(!words.isEmpty());
        setRole(filterSays_, e && e->type == ValueType::Condition ? "second" : "bad");
    });
    connect(fleet_, &QComboBox::currentIndexChanged, this, &RunsPage::refresh);
    connect(&session_.view(), &ViewState::groupingChanged, this, &RunsPage::refreshSoon);
    connect(&screen_, &ScreenState::trackChanged, this, &RunsPage::refreshSoon);
    connect(model_, &RunTableModel::rowsChanged, this, &RunsPage::showState);
    connect(header_, &HistogramHeader::removeAsked, this, &RunsPage::removeColumn);
    connect(header_, &QHeaderView::sortIndicatorChanged, model_, &RunTableModel::sort);
    connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
        const auto runs = selectedRuns();
        // The current row is the one clicked last; after a refill there is none.
        const int current = table_->currentIndex().row();
        if (!runs.empty()) session_.view().selectRun(current >= 0 ? model_->runAt(current).id : runs.front());
        showRunInHand();
    });
    connect(table_, &QTableView::doubleClicked, this, [this](const QModelIndex& at) {
        const Span run = model_->runAt(at.row());
        session_.view().select(run.asset, {});
        emit runAsked(run.id);
    });
}

QString RunsPage::title() const {
    const auto track = screen_.track();
    return track ? QString::fromStdString(track->name) : QString("Runs");
}

void RunsPage::entered() {
    BenchPage::entered();
    form_->follow();
}

void RunsPage::refresh() {
    form_->follow();
    nameFleet(fleet_, 0, session_);
    const auto track = screen_.track();
    if (!track) {
        stack_->setCurrentIndex(0);
        model_->setTable({}, {}, {});
        return;
    }
    if (stack_->currentIndex() == 0) stack_->setCurrentIndex(2);
    const std::string where = applied_;
    const AssetId asset = fleet_->currentIndex() == 1 ? session_.view().asset() : AssetId();
    const Which which = session_.view().which();
    session_.runJob(
        this, "run table", "Figures of runs",
        [this, track = *track, where, asset, grouping = session_.view().grouping(),
         which](JobContext& job) -> std::function<void()> {
            std::vector<Span> runs = job.study.tracks().spans(track.id);
            std::erase_if(runs, [&](const Span& s) {
                return asset ? s.asset != asset : !isIn(job.study, grouping, s.asset);
            });
            Result<std::vector<SpanId>> fit = std::vector<SpanId>{};
            if (!where.empty()) {
                fit = runsWhere(job.study, track.id, where, which);
                if (fit) {
                    const std::set<SpanId> kept(fit->begin(), fit->end());
                    std::erase_if(runs, [&](const Span& s) { return !kept.contains(s.id); });
                }
            }
            auto table = runFigures(job.study, runs, columnsOf(job.study, track), which, job.progress);
            return [this, fit = std::move(fit), table = std::move(table)]() mutable {
                if (!fit) {
                    filter_->showError(fit.error());
                    filterSays_->setText(QString::fromStdString(fit.error().message));
                    filterSays_->show();
                    setRole(filterSays_, "bad");
                }
                if (table) showTable(std::move(*table));
            };
        },
        false,
        [this] {
            // Stopped: what was there before stays.
            QTimer::singleShot(0, this, [this] {
                if (stack_->currentIndex() == 2) stack_->setCurrentIndex(1);
            });
        });
}

void RunsPage::showTable(RunTable made) {
    const auto keep = selectedRuns();
    std::map<SpanId, int> worst;
    for (const KeptExcursion& e : excursionsOf(session_.study()))
        if (e.dismissed.empty()) worst[e.run] = std::max(worst[e.run], e.severity);
    const int before = model_->columnCount();
    model_->setTable(std::move(made), goldenReasons(session_.study(), screen_.trackId()), std::move(worst));
    if (model_->columnCount() != before || header_->sectionSize(1) < 80) {
        table_->setColumnWidth(0, 92);
        table_->setColumnWidth(1, 108);
        table_->setColumnWidth(2, 52);
        for (int c = RunTableModel::kFixed; c < model_->columnCount(); ++c)
            table_->setColumnWidth(
                c, std::clamp(table_->fontMetrics().horizontalAdvance(model_->columnName(c)) + 34, 92, 190));
    }
    stack_->setCurrentIndex(1);
    for (const SpanId run : keep)
        if (const int row = model_->rowOf(run); row >= 0)
            table_->selectionModel()->select(model_->index(row, 0),
                                             QItemSelectionModel::Select | QItemSelectionModel::Rows);
    showState();
    showRunInHand();
}

void RunsPage::showState() {
    const auto golden = session_.study().judgement().goldenRuns(screen_.trackId());
    words_ = QString("%1 of %2 runs shown · %3 golden")
                 .arg(model_->rowCount())
                 .arg(screen_.trackId() ? session_.study().tracks().spans(screen_.trackId()).size() : 0)
                 .arg(golden.size());
    if (fleet_->currentIndex() == 0 && session_.view().grouping().only)
        words_ += " · only " + fleetWords(session_);
    goldenSays_->setText(golden.empty()
                             ? "None yet. Select rows, or cut the table by figures, and say so here."
                             : QString("%1 golden runs").arg(golden.size()));
    if (!why_->hasFocus() && !why_->isModified()) {
        QStringList why;
        if (!applied_.empty()) why << QString::fromStdString(applied_);
        if (!model_->brushWords().isEmpty()) why << model_->brushWords();
        why_->setText(why.join(" · "));
        why_->setModified(false);
    }
    emit titleChanged();
}

std::vector<SpanId> RunsPage::selectedRuns() const {
    std::vector<SpanId> out;
    for (const QModelIndex& i : table_->selectionModel()->selectedRows())
        out.push_back(model_->runAt(i.row()).id);
    return out;
}

void RunsPage::showRunInHand() {
    const auto runs = selectedRuns();
    const auto run = runs.size() == 1 ? session_.study().tracks().span(runs.front()) : std::nullopt;
    for (MomentField* f : {start_, end_}) {
        f->setEnabled(run.has_value());
        if (!run) f->clear();
    }
    if (run) {
        start_->setMoment(run->start);
        end_->setMoment(run->end);
    }
    move_->setEnabled(run.has_value());
    split_->setEnabled(run.has_value());
    merge_->setEnabled(runs.size() > 1);
    leaveOut_->setEnabled(!runs.empty());
}

void RunsPage::edit(const std::function<Status(const std::string& why)>& work) {
    session_.tryChange([&] { session_.report(work(editWhy_->text().trimmed().toStdString())); });
}

void RunsPage::addColumn() {
    const auto track = screen_.track();
    const auto expression = column_->checked();
    if (!track) return;
    if (!expression) {
        if (!column_->text().isEmpty()) emit session_.failed(column_->toolTip());
        return;
    }
    std::vector<RunColumn> columns = columnsOf(session_.study(), *track);
    columns.push_back({columnName_->text().trimmed().toStdString(), column_->text().toStdString()});
    session_.tryChange([&] { keepColumns(session_.study(), track->id, columns); });
    column_->clear();
    columnName_->clear();
}

void RunsPage::removeColumn(int column) {
    const auto track = screen_.track();
    if (!track) return;
    std::vector<RunColumn> columns = columnsOf(session_.study(), *track);
    const auto i = static_cast<std::size_t>(column - RunTableModel::kFixed);
    if (i >= columns.size()) return;
    columns.erase(columns.begin() + static_cast<std::ptrdiff_t>(i));
    session_.tryChange([&] { keepColumns(session_.study(), track->id, columns); });
}

void RunsPage::setGolden(bool golden, bool allShown) {
    const TrackId track = screen_.trackId();
    std::vector<SpanId> runs = selectedRuns();
    if (allShown) {
        runs.clear();
        for (int row = 0; row < model_->rowCount(); ++row) runs.push_back(model_->runAt(row).id);
    }
    if (!track || runs.empty()) return emit session_.failed("Select runs in the table first");
    const Golden how = !golden ? Golden::NoLonger : allShown ? Golden::Only : Golden::Also;
    session_.tryChange([&] {
        session_.report(markGolden(session_.study(), track, runs, how, why_->text().trimmed().toStdString()));
    });
    why_->setModified(false);
}

void RunsPage::exportTable() {
    const QString path = askFileToSave(this, {"Save the table", " runs.csv", "CSV (*.csv)"});
    if (path.isEmpty()) return;
    RunTable shown;
    shown.columns = model_->table().columns;
    for (int row = 0; row < model_->rowCount(); ++row)
        for (const RunTable::Row& r : model_->table().rows)
            if (r.run.id == model_->runAt(row).id) shown.rows.push_back(r);
    if (session_.report(writeWhole(path.toStdString(), runTableCsv(session_.study(), shown))))
        emit session_.notified(QString("%1 runs written to %2").arg(shown.rows.size()).arg(path));
}

}  // namespace jacinth::app
