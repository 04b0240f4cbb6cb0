#include "app/window/imports_dialog.h"

#include "app/base/tables.h"
#include "store/imports.h"

namespace jacinth::app {

ImportsDialog::ImportsDialog(Session& session, QWidget* parent) : QDialog(parent), session_(session) {
    setObjectName("importsDialog");
    setWindowTitle("Imports");
    resize(900, 560);
    model_ = new RowsModel({"when", "file", "rows", "samples", "replaced", "bad rows", "bad cells", "state"},
                           this);
    table_ = makeTable(model_, "importsTable", {126, 0, 84, 100, 84, 72, 72, 140});
    detailModel_ = new RowsModel({"line", "cell", "reason", "row"}, this);
    detail_ = makeTable(detailModel_, "importBadRowsKept", {72, 130, 320, 0});
    detail_->setFixedHeight(140);
    detailTitle_ = makeLabel("", "section");
    remove_ = makeButton("Remove this import…", "removeImport");
    ask_ = new QWidget;
    question_ = makeLabel("");
    question_->setObjectName("removalQuestion");
    question_->setWordWrap(true);
    why_ = makeField("removalWhy", "Why");
    why_->setPlaceholderText("why, for the ledger");
    yes_ = makeButton("Remove it", "removeImportYes", true);
    no_ = makeButton("Keep it", "removeImportNo");
    auto* answer = new QHBoxLayout;
    answer->addWidget(why_, 1);
    answer->addWidget(no_);
    answer->addWidget(yes_);
    auto* asking = new QVBoxLayout(ask_);
    asking->setContentsMargins(0, 0, 0, 0);
    asking->addWidget(question_);
    asking->addLayout(answer);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 14);
    column->setSpacing(8);
    column->addWidget(
        makeLabel("Where two imports have a sample at the same instant the newer stands; the older is "
                  "kept, and comes back when the newer is removed.",
                  "second"));
    column->addWidget(table_, 1);
    column->addWidget(detailTitle_);
    column->addWidget(detail_);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(remove_);
    buttons->addStretch();
    column->addLayout(buttons);
    column->addWidget(ask_);
    ask_->hide();
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this, &ImportsDialog::showChosen);
    connect(remove_, &QPushButton::clicked, this, &ImportsDialog::askRemoval);
    addRowCommand(table_, remove_);
    connect(no_, &QPushButton::clicked, ask_, &QWidget::hide);
    connect(yes_, &QPushButton::clicked, this, &ImportsDialog::remove);
    connect(&session, &Session::studyChanged, this, &ImportsDialog::fill);
    fill();
}

void ImportsDialog::fill() {
    const auto before = currentId<ImportId>(table_);
    std::vector<RowsModel::Row> rows;
    for (const ImportRecord& r : session_.study().imports().all()) {
        const QString state = r.removedAt
                                  ? "removed " + QString::fromStdString(session_.zone().text(*r.removedAt))
                              : !r.complete ? "not complete"
                              : r.removable ? "on record"
                              : r.samples   ? "by an older version"
                                            : "brought nothing new";
        RowsModel::Row row{
            r.id,
            {QString::fromStdString(session_.zone().text(r.at)), QString::fromStdString(r.file),
             QString("%L1").arg(r.rows), QString("%L1").arg(r.samples), QString("%L1").arg(r.replaced),
             QString("%L1").arg(r.badRows), QString("%L1").arg(r.badCells), state}};
        if (r.removedAt) row.ink = session_.theme().second;
        row.sortBy(0, r.at);
        const std::array<std::int64_t, 5> counts{r.rows, r.samples, r.replaced, r.badRows, r.badCells};
        for (std::size_t i = 0; i < counts.size(); ++i) row.sortBy(static_cast<int>(i) + 2, counts[i]);
        rows.push_back(std::move(row));
    }
    std::reverse(rows.begin(), rows.end());
    model_->setRows(std::move(rows));
    const int row = model_->rowOf(before);
    if (row >= 0 || model_->rowCount() > 0) table_->selectRow(std::max(0, row));
    showChosen();
}

std::optional<ImportRecord> ImportsDialog::chosen() const {
    const auto id = currentId<ImportId>(table_);
    for (const ImportRecord& r : session_.study().imports().all())
        if (r.id == id) return r;
    return {};
}

void ImportsDialog::showChosen() {
    const auto record = chosen();
    ask_->hide();
    remove_->setEnabled(record && record->removable && !record->removedAt);
    std::vector<RowsModel::Row> rows;
    if (record)
        for (const BadRow& b : session_.study().imports().badRows(record->id))
            if (rows.size() < 5000)
                rows.push_back({b.line,
                                {QString::number(b.line), QString::fromStdString(b.cell),
                                 QString::fromStdString(b.reason), QString::fromStdString(b.text)}});
    detailTitle_->setText(
        !record        ? "Choose an import to see what it kept aside"
        : rows.empty() ? "Nothing was kept aside"
                       : QString("Kept aside: %L1 rows, %L2 cells%3")
                             .arg(record->badRows)
                             .arg(record->badCells)
                             .arg(record->badRows + record->badCells > static_cast<std::int64_t>(rows.size())
                                      ? QString("; the first %L1 are listed").arg(rows.size())
                                      : QString()));
    detailModel_->setRows(std::move(rows));
}

void ImportsDialog::askRemoval() {
    const auto record = chosen();
    if (!record) return;
    const bool events = record->kind != "long" && record->kind != "wide";
    question_->setText(
        events ? QString("Remove the %L1 recorded events that %2 brought? It can be undone.")
                     .arg(record->samples)
                     .arg(QString::fromStdString(record->file))
               : QString(
                     "Remove the %L1 samples that %2 brought? %3 Fixes, labels and limits stay. It cannot be "
                     "undone, but the file can be imported again.")
                     .arg(record->samples + record->replaced)
                     .arg(QString::fromStdString(record->file),
                          record->replaced
                              ? QString("The %L1 older samples it replaced come back.").arg(record->replaced)
                              : "It replaced no older ones."));
    ask_->show();
    why_->setFocus();
}

void ImportsDialog::remove() {
    const auto record = chosen();
    if (!record) return;
    ask_->hide();
    const std::string why = why_->text().trimmed().toStdString();
    session_.runJob(
        &session_, "remove import", "Removing " + QString::fromStdString(record->file),
        [session = &session_, id = record->id, why](JobContext& job) -> std::function<void()> {
            auto done = std::make_shared<Result<ImportRemoval>>(job.study.imports().remove(id, why));
            return [session, done] {
                session->study().refresh();
                session->announceChange();
                if (!session->report(*done)) return;
                if ((*done)->spans > 0)
                    return emit session->notified(QString("%L1 recorded events removed").arg((*done)->spans));
                emit session->notified(QString("%L1 samples removed, %L2 older ones back in their place")
                                           .arg((*done)->samples)
                                           .arg((*done)->restored));
            };
        },
        true);
}

}  // namespace jacinth::app
