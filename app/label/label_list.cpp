#include "app/label/label_list.h"

#include <QItemSelectionModel>
#include <set>

#include "app/base/asset_choice.h"
#include "app/base/swatch.h"
#include "app/base/ui.h"
#include "store/judgement.h"
#include "work/base/asset_groups.h"
#include "work/label/labels.h"

namespace jacinth::app {
namespace {

constexpr const char* kUnnamed = "not named yet";

}  // namespace

QColor labelColour(const Session& session, const LabelBook& book, const std::string& kind) {
    const LabelKind* known = findKind(book, kind);
    return known ? onGround(session.theme(), QColor(QString::fromStdString(known->colour)))
                 : session.theme().second;
}

QString labelName(const Span& label) {
    const std::string kind = factText(label.facts, label_fact::kKind);
    if (kind.empty()) return kUnnamed;
    return QString::fromStdString(kind) + (certaintyOf(label) == kCertainties[0] ? "" : "?");
}

LabelList::LabelList(Session& session) : session_(session) {
    model_ = new RowsModel(
        {"kind", "asset", "about", "from", "length", "certainty", "note", "by", "made from"}, this);
    table_ = makeTable(model_, "labelTable", {112, 76, 80, 90, 68, 58, 0, 56, 84});
    table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    words_ = makeField("labelFilter", "Filter labels");
    words_->setPlaceholderText("Filter by any word");
    words_->setMinimumWidth(80);
    words_->setMaximumWidth(120);
    kind_ = makeChoice("labelFilterKind", "Only this kind", {"all kinds"});
    who_ = makeChoice("labelFilterWho", "Only by", {"by anyone"});
    certainty_ = makeChoice("labelFilterCertainty", "Only this certainty", {"sure or not"});
    state_ = makeLabel("", "second");
    state_->setObjectName("labelState");
    // Words that grow must not make the window wider.
    state_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    state_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    for (QComboBox* box : {kind_, who_, certainty_}) {
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(8);
    }
    auto* head = new QHBoxLayout;
    head->setSpacing(6);
    head->addWidget(makeLabel("Labels", "section"));
    for (QWidget* w : {static_cast<QWidget*>(words_), static_cast<QWidget*>(kind_),
                       static_cast<QWidget*>(who_), static_cast<QWidget*>(certainty_)})
        head->addWidget(w);
    head->addWidget(state_, 1);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    column->addLayout(head);
    column->addWidget(table_);
    connect(words_, &QLineEdit::textChanged, this, &LabelList::refilter);
    for (QComboBox* box : {kind_, who_, certainty_})
        connect(box, &QComboBox::currentIndexChanged, this, &LabelList::refilter);
    connect(&session_.view(), &ViewState::groupingChanged, this, &LabelList::refilter);
    connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
        if (filling_) return;
        std::vector<SpanId> ids;
        for (const QModelIndex& i : table_->selectionModel()->selectedRows())
            ids.emplace_back(i.data(Qt::UserRole).toLongLong());
        emit chosen(ids);
    });
    connect(table_, &QTableView::clicked, this, [this](const QModelIndex& i) {
        if (table_->selectionModel()->selectedRows().size() == 1)
            emit opened(SpanId(i.data(Qt::UserRole).toLongLong()));
    });
}

void LabelList::fill(const std::vector<Span>& labels) {
    labels_ = labels;
    QStringList kinds, people, sure;
    std::set<std::string> who;
    for (const LabelKind& k : session_.study().judgement().labelBook())
        kinds << QString::fromStdString(k.name);
    for (const Span& s : labels) who.insert(factText(s.facts, label_fact::kBy));
    for (const std::string& name : who)
        if (!name.empty()) people << QString::fromStdString(name);
    for (const char* c : kCertainties) sure << c;
    kinds << kUnnamed;
    refillChoice(kind_, "all kinds", kinds);
    refillChoice(who_, "by anyone", people);
    refillChoice(certainty_, "sure or not", sure);
    refilter();
}

bool LabelList::passes(const Span& label) const {
    if (!isIn(session_.study(), session_.view().grouping(), label.asset)) return false;
    const std::string kind = factText(label.facts, label_fact::kKind);
    if (kind_->currentIndex() > 0) {
        const std::string wanted = kind_->currentText().toStdString();
        if (wanted == kUnnamed ? !kind.empty()
                               : !isKindOf(session_.study().judgement().labelBook(), kind, wanted))
            return false;
    }
    if (who_->currentIndex() > 0 &&
        factText(label.facts, label_fact::kBy) != who_->currentText().toStdString())
        return false;
    return certainty_->currentIndex() <= 0 || certaintyOf(label) == certainty_->currentText().toStdString();
}

RowsModel::Row LabelList::rowOf(const LabelBook& book, const Span& s) const {
    const Asset* asset = session_.study().catalog().asset(s.asset);
    QStringList about;
    for (const TagId id : tagsOf(s))
        if (const Tag* tag = session_.tag(id)) about << QString::fromStdString(tag->name);
    const auto fact = [&](const char* name) { return QString::fromStdString(factText(s.facts, name)); };
    RowsModel::Row row{
        s.id,
        {labelName(s), asset ? QString::fromStdString(asset->name) : "",
         about.isEmpty() ? "all" : about.join(", "),
         QString::fromStdString(session_.zone().shortText(s.start)),
         QString::fromStdString(sayDuration(s.end - s.start)), QString::fromStdString(certaintyOf(s)),
         fact(label_fact::kNote), fact(label_fact::kBy), fact(label_fact::kFrom)}};
    row.swatch = labelColour(session_, book, factText(s.facts, label_fact::kKind));
    row.sortBy(3, s.start);
    row.sortBy(4, s.end - s.start);
    return row;
}

void LabelList::refilter() {
    const LabelBook book = session_.study().judgement().labelBook();
    const QStringList wanted = words_->text().split(' ', Qt::SkipEmptyParts);
    std::vector<RowsModel::Row> rows;
    int unnamed = 0;
    for (const Span& s : labels_) {
        unnamed += factText(s.facts, label_fact::kKind).empty();
        if (!passes(s)) continue;
        RowsModel::Row row = rowOf(book, s);
        const QString all = row.cells.join(' ');
        if (std::all_of(wanted.begin(), wanted.end(),
                        [&](const QString& w) { return all.contains(w, Qt::CaseInsensitive); }))
            rows.push_back(std::move(row));
    }
    QString said = labels_.empty()
                       ? "none yet: drag over the traces"
                       : QString("%1 %2").arg(labels_.size()).arg(labels_.size() == 1 ? "mark" : "marks");
    if (rows.size() != labels_.size()) said = QString("%1 of %2").arg(rows.size()).arg(said);
    // There is room for one of the two.
    if (session_.view().grouping().only)
        said += " · " + fleetWords(session_);
    else if (unnamed)
        said += QString(", %1 not named yet").arg(unnamed);
    state_->setText(said);
    filling_ = true;
    model_->setRows(std::move(rows));
    filling_ = false;
}

void LabelList::showChosen(const std::vector<SpanId>& ids) {
    std::vector<int> rows;
    for (const SpanId id : ids)
        if (const int row = model_->rowOf(id); row >= 0) rows.push_back(row);
    const QModelIndex last = rows.empty() ? QModelIndex() : model_->index(rows.back(), 0);
    std::sort(rows.begin(), rows.end());
    QItemSelection selection;  // of few ranges: each costs
    for (std::size_t i = 0, j = 0; i < rows.size(); i = j) {
        for (j = i + 1; j < rows.size() && rows[j] == rows[j - 1] + 1;) ++j;
        selection.append(QItemSelectionRange(model_->index(rows[i], 0), model_->index(rows[j - 1], 0)));
    }
    filling_ = true;
    table_->selectionModel()->select(selection,
                                     QItemSelectionModel::ClearAndSelect | QItemSelectionModel::Rows);
    if (last.isValid()) {
        table_->selectionModel()->setCurrentIndex(last, QItemSelectionModel::NoUpdate);
        table_->scrollTo(last);
    }
    filling_ = false;
}

std::vector<SpanId> LabelList::shown() const {
    std::vector<SpanId> out;
    for (const RowsModel::Row& row : model_->rows()) out.emplace_back(row.key.number);
    return out;
}

SpanId LabelList::next(SpanId from, int by, bool unnamedOnly) const {
    const auto& rows = model_->rows();
    const int here = from ? model_->rowOf(from) : -1;
    for (int row = here < 0 ? (by > 0 ? 0 : static_cast<int>(rows.size()) - 1) : here + by;
         row >= 0 && row < static_cast<int>(rows.size()); row += by) {
        const RowsModel::Row& r = rows[static_cast<std::size_t>(row)];
        if (!unnamedOnly || r.cells[0] == kUnnamed) return SpanId(r.key.number);
    }
    return {};
}

}  // namespace jacinth::app
