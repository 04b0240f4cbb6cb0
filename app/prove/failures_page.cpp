#include "app/prove/failures_page.h"

#include "app/base/asset_choice.h"
#include "app/base/id_variant.h"
#include "app/base/names.h"
#include "app/prove/proof_words.h"
#include "store/tracks.h"
#include "work/base/asset_groups.h"
#include "work/prove/failures.h"

namespace jacinth::app {
namespace {

QString fact(const Span& s, const char* name) {
    return QString::fromStdString(factText(s.facts, name));
}

}  // namespace

FailuresPage::FailuresPage(Session& session, ProveState& state) : BenchPage(session, false), prove_(state) {
    buildMiddle();
    buildInspector();
    connect(&state, &ProveState::proved, this, &FailuresPage::fillTable);
    connect(&session.view(), &ViewState::groupingChanged, this, &FailuresPage::refreshSoon);
    fillChoices();
    fillTable();
    showFailure();
}

void FailuresPage::buildMiddle() {
    model_ = new RowsModel(
        {"counts", "asset", "when", "kind", "what failed", "why not counted", "current rule"}, this);
    table_ = makeTable(model_, "failuresTable", {46, 52, 126, 84, 0, 112, 114});
    table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    empty_ = makeLabel(
        "No failure is on record. Write one down on the right, take them from work orders or labels, or "
        "import a list with File › Import.",
        "second");
    empty_->setWordWrap(true);
    empty_->setAlignment(Qt::AlignCenter);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(table_, 1);
    column->addWidget(empty_, 1);
    connect(model_, &RowsModel::tickToggled, this, &FailuresPage::count);
    connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this,
            &FailuresPage::showFailure);
    connect(table_, &QTableView::doubleClicked, this, [this] { see_->click(); });
}

void FailuresPage::buildInspector() {
    side_->addWidget(makeLabel("Failure", "section"));
    asset_ = makeChoice("failureAsset", "Asset", {});
    moment_ = new MomentField(session_, "failureMoment", "Moment of the failure");
    kind_ = makeChoice("failureKind", "Kind of failure", {});
    kind_->setEditable(true);
    note_ = makeField("failureNote", "What failed");
    why_ = makeField("failureWhy", "Not counted because");
    why_->setPlaceholderText("why it does not count");
    addRow(side_, "Asset", asset_);
    addRow(side_, "When", moment_);
    addRow(side_, "Kind", kind_);
    addRow(side_, "What failed", note_);
    addRow(side_, "Not counted", why_);
    add_ = makeButton("Add", "failureAdd");
    change_ = makeButton("Change", "failureChange", true);
    remove_ = makeButton("Remove", "failureRemove");
    see_ = makeButton("See it in Survey", "failureSee");
    auto* row = new QHBoxLayout;
    row->addWidget(change_, 1);
    row->addWidget(add_);
    row->addWidget(remove_);
    side_->addLayout(row);
    side_->addWidget(see_);
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("Failures from what is on record", "section"));
    labels_ = makeChoice("failureLabels", "Labels of kind", {});
    fromLabels_ = makeButton("Take labels", "failuresFromLabels");
    orders_ = makeField("failureOrders", "Work orders with the words");
    orders_->setPlaceholderText("words, like bearing");
    fromOrders_ = makeButton("Take orders", "failuresFromOrders");
    for (const auto& [field, button] :
         {std::pair<QWidget*, QPushButton*>{labels_, fromLabels_}, {orders_, fromOrders_}}) {
        auto* line = new QHBoxLayout;
        line->addWidget(field, 1);
        line->addWidget(button);
        side_->addLayout(line);
    }
    side_->addStretch();
    connect(add_, &QPushButton::clicked, this, [this] { keep(true); });
    connect(change_, &QPushButton::clicked, this, [this] { keep(false); });
    connect(remove_, &QPushButton::clicked, this, &FailuresPage::remove);
    connect(see_, &QPushButton::clicked, this, [this] {
        if (const auto span = session_.study().tracks().span(currentId<SpanId>(table_)))
            emit asked(prove_.pointAtFailure(span->asset, span->start));
    });
    connect(fromLabels_, &QPushButton::clicked, this, [this] { takeFrom(true); });
    connect(fromOrders_, &QPushButton::clicked, this, [this] { takeFrom(false); });
    for (QPushButton* b : {see_, remove_}) addRowCommand(table_, b);
}

void FailuresPage::refresh() {
    fillChoices();
    fillTable();
}

void FailuresPage::fillChoices() {
    fillAssetChoice(asset_, session_);
    const QString kind = kind_->currentText();
    kind_->clear();
    for (const std::string& k : failureKinds(session_.study())) kind_->addItem(QString::fromStdString(k));
    kind_->setEditText(kind);
    const QString label = labels_->currentText();
    labels_->clear();
    for (const LabelKind& k : session_.study().judgement().labelBook())
        labels_->addItem(QString::fromStdString(k.name));
    labels_->setCurrentIndex(std::max(0, labels_->findText(label)));
}

void FailuresPage::fillTable() {
    std::vector<RowsModel::Row> rows;
    std::size_t counted = 0;
    std::vector<Span> all = session_.study().tracks().spansOf(track_kind::kFailures);
    const std::size_t onRecord = all.size();
    const Grouping& grouping = session_.view().grouping();
    std::erase_if(all, [&](const Span& f) { return !isIn(session_.study(), grouping, f.asset); });
    for (const Span& f : all) {
        RowsModel::Row row{
            f.id,
            {"", assetName(session_.study(), f.asset), QString::fromStdString(session_.zone().text(f.start)),
             fact(f, kFailureKind), fact(f, kFailureNote), fact(f, kNotCountedWhy), ""}};
        row.ticked = isCounted(f);
        row.sortBy(2, f.start);
        counted += isCounted(f);
        if (!isCounted(f)) row.ink = session_.theme().second;
        if (prove_.proof())
            for (const FailureVerdict& v : prove_.proof()->failures)
                if (v.asset == f.asset && v.time == f.start) {
                    row.cells[6] = failureWord(v);
                    if (v.caught) row.cells[6] += QString(", %1 h").arg(toHours(v.warning), 0, 'f', 0);
                }
        rows.push_back(std::move(row));
    }
    model_->setRows(std::move(rows));
    table_->setVisible(onRecord > 0);
    empty_->setVisible(onRecord == 0);
    words_ = onRecord == 0 ? QString() : QString("%1 of %2 count").arg(counted).arg(all.size());
    if (grouping.only) words_ += QString(" · only %1, %2 on record").arg(fleetWords(session_)).arg(onRecord);
    emit titleChanged();
}

std::vector<SpanId> FailuresPage::chosen() const {
    std::vector<SpanId> out;
    for (const QModelIndex& row : table_->selectionModel()->selectedRows())
        out.push_back(idFrom<SpanId>(row.data(Qt::UserRole)));
    return out;
}

void FailuresPage::showFailure() {
    const bool writable = !session_.study().readOnly();
    const auto ids = chosen();
    const auto span = ids.size() == 1 ? session_.study().tracks().span(ids.front()) : std::nullopt;
    add_->setEnabled(writable);
    change_->setEnabled(writable && span);
    remove_->setEnabled(writable && !ids.empty());
    see_->setEnabled(span.has_value());
    fromLabels_->setEnabled(writable && labels_->count() > 0);
    fromOrders_->setEnabled(writable);
    if (!span) return;
    asset_->setCurrentIndex(asset_->findText(assetName(session_.study(), span->asset)));
    moment_->setMoment(span->start);
    kind_->setEditText(fact(*span, kFailureKind));
    note_->setText(fact(*span, kFailureNote));
    note_->setCursorPosition(0);
    why_->setText(fact(*span, kNotCountedWhy));
}

/// What stands in the fields, as a new failure or as the chosen one.
void FailuresPage::keep(bool asNew) {
    const auto t = moment_->moment();
    if (!t) return;
    const auto ids = chosen();
    Span failure;
    if (!asNew) {
        const auto known = ids.size() == 1 ? session_.study().tracks().span(ids.front()) : std::nullopt;
        if (!known) return;
        failure = *known;
    }
    failure.asset = idFrom<AssetId>(asset_->currentData());
    failure.start = failure.end = *t;
    const auto set = [&](const char* name, const QString& text) {
        failure.facts.erase(name);
        if (!text.trimmed().isEmpty()) failure.facts[name] = text.trimmed().toStdString();
    };
    set(kFailureKind, kind_->currentText());
    set(kFailureNote, note_->text());
    if (!isCounted(failure)) set(kNotCountedWhy, why_->text());
    session_.tryChange([&] { session_.report(keepFailure(session_.study(), failure)); });
}

void FailuresPage::remove() {
    const auto ids = chosen();
    if (ids.empty()) return;
    session_.tryChange([&] {
        if (session_.report(removeFailures(session_.study(), ids)))
            emit session_.notified("Removed. Ctrl+Z brings it back.");
    });
}

void FailuresPage::count(std::int64_t key, bool on) {
    // A tick on one of several chosen ones is meant for all of them.
    std::vector<SpanId> ids = chosen();
    if (std::find(ids.begin(), ids.end(), SpanId(key)) == ids.end()) ids = {SpanId(key)};
    session_.tryChange([&] {
        session_.report(setCounted(session_.study(), ids, on, why_->text().trimmed().toStdString()));
    });
}

void FailuresPage::takeFrom(bool labels) {
    session_.tryChange([&] {
        const std::string kind = kind_->currentText().trimmed().toStdString();
        const auto done =
            labels ? failuresFromLabels(session_.study(), labels_->currentText().toStdString(), kind)
                   : failuresFromWorkOrders(session_.study(), orders_->text().toStdString(), kind);
        if (session_.report(done))
            emit session_.notified(
                QString("%1 failures added, %2 were on record").arg(done->added).arg(done->known));
    });
}

}  // namespace jacinth::app
