#include "app/window/facts_dialog.h"

#include <QDialogButtonBox>
#include <QHeaderView>
#include <QShortcut>

#include "app/base/tables.h"
#include "app/base/ui.h"
#include "store/judgement.h"

namespace jacinth::app {
namespace {

constexpr const char* kNewKind = "a new kind";

QString asText(const std::string& s) {
    return QString::fromStdString(s);
}

}  // namespace

FactsDialog::FactsDialog(Session& session, QWidget* parent) : QDialog(parent), session_(session) {
    setObjectName("factsDialog");
    setWindowTitle("Facts");
    resize(940, 560);
    build();
    connect(&session, &Session::studyChanged, this, [this] {
        fill();
        fillKinds();
    });
    fill();
    fillKinds();
}

void FactsDialog::build() {
    model_ = new FactsModel(session_, this);
    proxy_ = new QSortFilterProxyModel(this);
    proxy_->setSourceModel(model_);
    proxy_->setSortRole(FactsModel::kSortRole);
    proxy_->setFilterKeyColumn(-1);
    proxy_->setFilterCaseSensitivity(Qt::CaseInsensitive);
    table_ = makePlainTable(proxy_, "factsTable", {210});
    table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    table_->setSelectionBehavior(QAbstractItemView::SelectItems);
    table_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed |
                            QAbstractItemView::AnyKeyPressed);
    table_->setSortingEnabled(true);
    table_->sortByColumn(-1, Qt::AscendingOrder);
    of_ = makeChoice("factsOf", "Facts of", {"assets", "tags", "runs", "labels", "failures"});
    filter_ = makeField("factsFilter", "Filter");
    filter_->setPlaceholderText("Filter by any text");
    fillDown_ = makeButton("Fill down", "factsFillDown");
    fillDown_->setToolTip("The uppermost chosen value goes into the chosen cells below it (Ctrl+D)");
    auto* clear = makeButton("Remove", "factsClear");
    clear->setToolTip("The chosen facts are removed (Delete)");
    auto* head = new QHBoxLayout;
    for (QWidget* w : std::initializer_list<QWidget*>{of_, filter_, fillDown_, clear}) head->addWidget(w);
    trouble_ = makeLabel("", "bad");
    trouble_->setObjectName("factsTrouble");
    trouble_->setWordWrap(true);
    auto* left = new QVBoxLayout;
    left->addLayout(head);
    left->addWidget(table_, 1);
    left->addWidget(trouble_);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(16);
    middle->addLayout(left, 1);
    middle->addWidget(buildKinds());
    auto* column = new QVBoxLayout(this);
    column->addLayout(middle, 1);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    column->addWidget(buttons);
    for (QPushButton* b : {fillDown_, clear}) b->setAutoDefault(false);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::accept);
    connect(of_, &QComboBox::currentIndexChanged, this, &FactsDialog::fill);
    connect(filter_, &QLineEdit::textChanged, proxy_, &QSortFilterProxyModel::setFilterFixedString);
    connect(fillDown_, &QPushButton::clicked, this, &FactsDialog::fillDown);
    connect(clear, &QPushButton::clicked, this, &FactsDialog::clearCells);
    connect(model_, &FactsModel::wrong, trouble_, &QLabel::setText);
    connect(new QShortcut(QKeySequence("Ctrl+D"), this), &QShortcut::activated, this, &FactsDialog::fillDown);
    connect(new QShortcut(QKeySequence::Delete, table_, nullptr, nullptr, Qt::WidgetShortcut),
            &QShortcut::activated, this, &FactsDialog::clearCells);
}

QWidget* FactsDialog::buildKinds() {
    auto* fields = new QWidget;
    fields->setFixedWidth(270);
    auto* column = new QVBoxLayout(fields);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(makeLabel("Kinds of fact", "section"));
    kind_ = makeChoice("factKind", "Kind of fact", {});
    name_ = makeField("factKindName", "Name");
    QStringList types;
    for (int i = 0; i < kFactTypes; ++i) types << factTypeName(static_cast<FactType>(i));
    type_ = makeChoice("factKindType", "Type", types);
    unit_ = makeField("factKindUnit", "Unit");
    choices_ = makeField("factKindChoices", "Choices");
    choices_->setPlaceholderText("one; another");
    meaning_ = makeField("factKindMeaning", "Meaning");
    auto* keep = makeButton("Keep this kind", "factKindKeep");
    removeKind_ = makeButton("Remove this kind", "factKindRemove");
    for (QPushButton* b : {keep, removeKind_}) b->setAutoDefault(false);
    addRow(column, "Kind", kind_);
    addRow(column, "Name", name_);
    addRow(column, "Type", type_);
    addRow(column, "Unit", unit_);
    addRow(column, "Choices", choices_);
    addRow(column, "Meaning", meaning_);
    column->addWidget(keep);
    column->addWidget(removeKind_);
    auto* hint = makeLabel(
        "A fact with a kind takes only what the kind says; without one it is any text or number. What stood "
        "there "
        "before is kept in the ledger.",
        "second");
    hint->setWordWrap(true);
    column->addWidget(hint);
    column->addStretch();
    connect(kind_, &QComboBox::currentIndexChanged, this, &FactsDialog::showKind);
    const auto follow = [this] {
        unit_->setEnabled(type_->currentIndex() == static_cast<int>(FactType::Number));
        choices_->setEnabled(type_->currentIndex() == static_cast<int>(FactType::Choice));
    };
    connect(type_, &QComboBox::currentIndexChanged, this, follow);
    connect(keep, &QPushButton::clicked, this, &FactsDialog::keepKind);
    connect(removeKind_, &QPushButton::clicked, this, &FactsDialog::removeKind);
    follow();
    return fields;
}

void FactsDialog::fill() {
    trouble_->clear();
    model_->show(static_cast<FactsOf>(of_->currentIndex()));
    table_->setColumnWidth(0, 240);
}

void FactsDialog::fillKinds() {
    const QString before = kind_->currentText();
    const QSignalBlocker quiet(kind_);
    kind_->clear();
    kind_->addItem(kNewKind);
    for (const FactKind& k : session_.study().judgement().factKinds()) kind_->addItem(asText(k.name));
    const int at = kind_->findText(before);
    kind_->setCurrentIndex(at > 0 ? at : 0);
    if (at > 0 || before.isEmpty()) showKind();
}

void FactsDialog::showKind() {
    const FactKinds kinds = session_.study().judgement().factKinds();
    const FactKind* kind = findFactKind(kinds, kind_->currentText().toStdString());
    const FactKind shown = kind && kind_->currentIndex() > 0 ? *kind : FactKind{};
    removeKind_->setEnabled(kind_->currentIndex() > 0);
    name_->setText(asText(shown.name));
    type_->setCurrentIndex(static_cast<int>(shown.type));
    unit_->setText(asText(shown.unit));
    QStringList choices;
    for (const std::string& c : shown.choices) choices << asText(c);
    choices_->setText(choices.join("; "));
    meaning_->setText(asText(shown.meaning));
}

void FactsDialog::keepKind() {
    FactKind kind{name_->text().trimmed().toStdString(),
                  static_cast<FactType>(type_->currentIndex()),
                  {},
                  {},
                  meaning_->text().trimmed().toStdString()};
    if (kind.type == FactType::Number) kind.unit = unit_->text().trimmed().toStdString();
    if (kind.type == FactType::Choice)
        for (const QString& c : choices_->text().split(';', Qt::SkipEmptyParts))
            if (!c.trimmed().isEmpty()) kind.choices.push_back(c.trimmed().toStdString());
    Status done = Done{};
    if (!session_.tryChange([&] { done = keepFactKind(session_.study(), kind); })) return;
    trouble_->setText(done ? QString() : asText(done.error().message));
    if (done) kind_->setCurrentIndex(std::max(0, kind_->findText(asText(kind.name))));
}

void FactsDialog::removeKind() {
    if (kind_->currentIndex() <= 0) return;
    session_.tryChange(
        [&] { session_.report(removeFactKind(session_.study(), kind_->currentText().toStdString())); });
}

QModelIndexList FactsDialog::chosenCells() const {
    QModelIndexList shown = table_->selectionModel()->selectedIndexes();
    std::sort(shown.begin(), shown.end(),
              [](const QModelIndex& a, const QModelIndex& b) { return a.row() < b.row(); });
    const int column = table_->currentIndex().column();
    QModelIndexList out;
    for (const QModelIndex& i : shown)
        if (i.column() == column && column > 0) out << proxy_->mapToSource(i);
    return out;
}

void FactsDialog::fillDown() {
    const QModelIndexList cells = chosenCells();
    trouble_->setText(cells.size() < 2 ? "Choose cells of one fact, the one to copy uppermost." : QString());
    if (cells.size() >= 2) model_->setMany(cells, cells.front().data(Qt::EditRole).toString());
}

void FactsDialog::clearCells() {
    const QModelIndexList cells = chosenCells();
    if (!cells.isEmpty()) model_->setMany(cells, {});
}

}  // namespace jacinth::app
