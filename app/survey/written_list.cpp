#include "app/survey/written_list.h"

#include <QMessageBox>

#include "app/base/asset_choice.h"
#include "app/base/id_variant.h"
#include "app/base/label_menu.h"
#include "app/base/tables.h"
#include "app/survey/written_dialog.h"
#include "app/survey/written_kinds.h"
#include "store/tracks.h"
#include "work/base/asset_groups.h"
#include "work/label/written.h"

namespace jacinth::app {

WrittenList::WrittenList(Session& session) : session_(session), later_(new QTimer(this)) {
    setObjectName("writtenList");
    model_ = new RowsModel({"kind", "when", "asset", "what was written", "by"}, this);
    table_ = makeTable(model_, "writtenTable", {100, 96, 84, 0, 80});
    table_->horizontalHeader()->hide();
    table_->setFixedHeight(126);
    QStringList kinds{"everything"};
    for (const WrittenKind& k : kWrittenKinds) kinds << QString(k.words).toLower();
    kind_ = makeChoice("writtenKind", "Kind", kinds);
    asset_ = makeChoice("writtenAsset", "Asset", {});
    words_ = makeField("writtenWords", "Words");
    words_->setPlaceholderText("words");
    words_->setClearButtonEnabled(true);
    state_ = makeLabel("", "second");
    state_->setObjectName("writtenState");
    auto* add = makeButton("Add…", "addWritten");
    edit_ = makeButton("Edit…", "editWritten");
    remove_ = makeButton("Remove", "removeWritten");
    for (QWidget* w : std::initializer_list<QWidget*>{kind_, asset_, words_}) w->setFixedHeight(24);
    for (QPushButton* b : {add, edit_, remove_}) b->setFixedHeight(24);
    kind_->setFixedWidth(104);
    asset_->setFixedWidth(92);
    words_->setMinimumWidth(60);

    auto* head = new QHBoxLayout;
    head->setSpacing(6);
    head->addWidget(makeLabel("Written down", "section"));
    head->addWidget(state_, 1);
    for (QWidget* w : std::initializer_list<QWidget*>{kind_, asset_, words_, add, edit_, remove_})
        head->addWidget(w);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    column->addLayout(head);
    column->addWidget(table_);

    later_->setSingleShot(true);
    later_->setInterval(120);
    connect(later_, &QTimer::timeout, this, &WrittenList::update_);
    connect(&session.view(), &ViewState::viewChanged, later_, qOverload<>(&QTimer::start));
    connect(&session.view(), &ViewState::selectionChanged, later_, qOverload<>(&QTimer::start));
    const auto again = [this] {
        fillAssets();
        update_();
    };
    connect(&session, &Session::studyChanged, this, again);
    connect(&session.view(), &ViewState::groupingChanged, this, again);
    connect(kind_, &QComboBox::currentIndexChanged, this, &WrittenList::update_);
    connect(asset_, &QComboBox::currentIndexChanged, this, &WrittenList::update_);
    connect(words_, &QLineEdit::textChanged, later_, qOverload<>(&QTimer::start));
    connect(table_, &QTableView::clicked, this, &WrittenList::goTo);
    connect(table_, &QTableView::activated, this, &WrittenList::goTo);
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this] {
        edit_->setEnabled(bool(currentId<SpanId>(table_)));
        remove_->setEnabled(bool(currentId<SpanId>(table_)));
    });
    connect(add, &QPushButton::clicked, this, &WrittenList::add);
    connect(edit_, &QPushButton::clicked, this, &WrittenList::edit);
    connect(remove_, &QPushButton::clicked, this, &WrittenList::remove);
    for (QPushButton* b : {edit_, remove_}) addRowCommand(table_, b);
    addLabelCommand(
        table_, "Label it as…", session_, [this] { return spansOf({currentId<SpanId>(table_)}); },
        "What was written down");
    addLabelCommand(
        table_, "Label all in the list as…", session_,
        [this] {
            std::vector<SpanId> ids;
            for (const RowsModel::Row& row : model_->rows()) ids.emplace_back(row.key.number);
            return spansOf(ids);
        },
        "What was written down");
    fillAssets();
    update_();
}

std::vector<Span> WrittenList::spansOf(const std::vector<SpanId>& ids) const {
    std::vector<Span> out;
    for (const SpanId id : ids)
        if (const auto span = session_.study().tracks().span(id)) out.push_back(*span);
    return out;
}

void WrittenList::fillAssets() {
    if (asset_->count() == 0) {
        const QSignalBlocker quiet(asset_);
        asset_->addItem("all assets", QVariant());
        asset_->addItem("the plant", QVariant::fromValue<qlonglong>(0));
    }
    nameFleet(asset_, 0, session_, "all assets");
    fillAssetChoice(asset_, session_, 2);
}

void WrittenList::update_() {
    const TimeRange view = session_.view().view();
    const Study& study = session_.study();
    const QVariant only = asset_->currentData();  // none for all assets
    const QString words = words_->text().trimmed();
    std::vector<std::pair<Instant, RowsModel::Row>> found;
    for (std::size_t k = 0; k < kWrittenKinds.size(); ++k) {
        const WrittenKind& kind = kWrittenKinds[k];
        if (kind_->currentIndex() > 0 && kind_->currentIndex() != static_cast<int>(k) + 1) continue;
        for (const Span& s : study.tracks().spansOf(kind.track)) {
            if (s.start >= view.to || s.end < view.from ||
                (only.isValid() ? s.asset != idFrom<AssetId>(only)
                                : s.asset && !isIn(study, session_.view().grouping(), s.asset)))
                continue;
            const Asset* asset = study.catalog().asset(s.asset);
            const QString text = writtenText(session_, kind, s);
            const std::string by =
                factText(s.facts, "by").empty() ? factText(s.facts, "author") : factText(s.facts, "by");
            RowsModel::Row row{
                s.id,
                {(kind.track == std::string(track_kind::kFailures) ? "▼ " : "") + QString(kind.words),
                 QString::fromStdString(session_.zone().shortText(s.start)),
                 asset ? QString::fromStdString(asset->name) : "plant", text, QString::fromStdString(by)}};
            if (!words.isEmpty() && !row.cells.join(' ').contains(words, Qt::CaseInsensitive)) continue;
            row.sortBy(1, s.start);
            if (s.asset != session_.view().asset()) row.ink = session_.theme().second;
            found.emplace_back(s.start, std::move(row));
        }
    }
    std::sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    const auto chosen = currentId<SpanId>(table_);
    std::vector<RowsModel::Row> rows;
    for (auto& [t, row] : found) rows.push_back(std::move(row));
    state_->setText(rows.empty() ? "nothing in view" : QString("%1 in view").arg(rows.size()));
    model_->setRows(std::move(rows));
    if (const int row = model_->rowOf(chosen); row >= 0) table_->selectRow(row);
    edit_->setEnabled(bool(currentId<SpanId>(table_)));
    remove_->setEnabled(bool(currentId<SpanId>(table_)));
}

void WrittenList::goTo(const QModelIndex& index) {
    const auto span = session_.study().tracks().span(idFrom<SpanId>(index.data(Qt::UserRole)));
    if (!span) return;
    if (span->asset) session_.lookAt(span->asset, span->tag);  // that asset's tags come with it
    session_.view().goTo(span->start, span->end);
    session_.view().setCursor(0, span->start);
}

void WrittenList::add() {
    Span span;
    span.asset = session_.view().asset();
    const TimeRange view = session_.view().view();
    span.start = span.end = std::chrono::floor<std::chrono::minutes>(
        session_.view().cursor(0).value_or(view.from + view.length() / 2));
    WrittenDialog dialog(session_, span, kind_->currentIndex() > 0 ? kind_->currentIndex() - 1 : 4, this);
    dialog.exec();
}

void WrittenList::edit() {
    const auto span = session_.study().tracks().span(currentId<SpanId>(table_));
    if (!span) return;
    for (std::size_t k = 0; k < kWrittenKinds.size(); ++k)
        for (const Span& s : session_.study().tracks().spansOf(kWrittenKinds[k].track))
            if (s.id == span->id) {
                WrittenDialog dialog(session_, *span, static_cast<int>(k), this);
                dialog.exec();
                return;
            }
}

void WrittenList::remove() {
    const auto id = currentId<SpanId>(table_);
    bool removed = false;
    if (!id || !session_.tryChange([&] { removed = session_.report(removeWritten(session_.study(), id)); }))
        return;
    if (!removed) return;
    emit session_.notified("Removed. Ctrl+Z brings it back.");
}

}  // namespace jacinth::app
