#include "app/window/tags_dialog.h"

#include "app/base/tables.h"

namespace jacinth::app {
namespace {

QString factsText(const Facts& facts) {
    QStringList out;
    for (const auto& [name, value] : facts) out << QString::fromStdString(name + ": " + factText(value));
    return out.join(", ");
}

/// One text for all where they agree; empty where they differ.
QString common(const std::vector<QString>& texts) {
    for (const QString& t : texts)
        if (t != texts.front()) return {};
    return texts.empty() ? QString() : texts.front();
}

}  // namespace

TagsDialog::TagsDialog(Session& session, TagId tag, QWidget* parent) : QDialog(parent), session_(session) {
    setObjectName("tagsDialog");
    setWindowTitle("Assets and tags");
    resize(980, 600);
    makeFields();
    arrange();
    connect(what_, &QComboBox::currentIndexChanged, this, &TagsDialog::fill);
    connect(filter_, &QLineEdit::textChanged, this, &TagsDialog::fill);
    connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, &TagsDialog::showChosen);
    connect(apply_, &QPushButton::clicked, this, &TagsDialog::takeSettings);
    connect(set_, &QPushButton::clicked, this, [this] { takeFact(false); });
    connect(unset_, &QPushButton::clicked, this, [this] { takeFact(true); });
    connect(&session, &Session::studyChanged, this, &TagsDialog::fill);
    fill();
    if (const int at = model_->rowOf(tag); at >= 0) table_->selectRow(at);
    showChosen();
}

void TagsDialog::makeFields() {
    what_ = makeChoice("tagsWhat", "Show", {"tags", "assets"});
    filter_ = makeField("tagsFilter", "Filter");
    filter_->setPlaceholderText("filter");
    filter_->setClearButtonEnabled(true);
    model_ = new RowsModel({"asset", "tag", "role", "unit", "kind", "longest gap", "facts"}, this);
    table_ = makeTable(model_, "tagsTable", {92, 120, 140, 60, 84, 90, 0});
    table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    chosenSays_ = makeLabel("", "section");
    chosenSays_->setObjectName("tagsChosen");
    role_ = makeField("tagRole", "Role");
    unit_ = makeField("tagUnit", "Unit");
    kind_ = makeChoice("tagKind", "Kind", {"as it is", "continuous", "stepped", "state"});
    kind_->setToolTip(
        "Numbers become names of states, and back; what was read is kept. Held between samples: stepped, "
        "state");
    states_ = makeField("tagStates", "States it can have");
    states_->setPlaceholderText("more states: Mash, Kiln");
    states_->setToolTip("States that rules can name before they have occurred, separated by commas");
    gap_ = makeField("tagGap", "Longest gap");
    gap_->setPlaceholderText("like 20m; auto");
    factName_ = makeField("factName", "Name of the fact");
    factValue_ = makeField("factValue", "Value of the fact");
    apply_ = makeButton("Apply", "applyTag", true);
    set_ = makeButton("Set the fact", "setFact");
    unset_ = makeButton("Remove the fact", "unsetFact");
    trouble_ = makeLabel("", "bad");
    trouble_->setObjectName("tagsTrouble");
    trouble_->setWordWrap(true);
}

void TagsDialog::arrange() {
    auto* top = new QHBoxLayout;
    what_->setFixedWidth(110);
    top->addWidget(what_);
    top->addWidget(filter_, 1);
    settings_ = new QWidget;
    auto* side = new QVBoxLayout(settings_);
    side->setContentsMargins(0, 0, 0, 0);
    side->setSpacing(6);
    addRow(side, "role", role_);
    addRow(side, "unit", unit_);
    addRow(side, "kind", kind_);
    addRow(side, "longest gap", gap_);
    addRow(side, "states", states_);
    side->addWidget(apply_);
    auto* inspector = new QVBoxLayout;
    inspector->setSpacing(6);
    inspector->addWidget(chosenSays_);
    inspector->addWidget(settings_);
    inspector->addWidget(makeRule());
    inspector->addWidget(makeLabel("A fact, on all that are chosen", "section"));
    addRow(inspector, "fact", factName_);
    addRow(inspector, "is", factValue_);
    auto* facts = new QHBoxLayout;
    facts->addWidget(set_);
    facts->addWidget(unset_);
    inspector->addLayout(facts);
    inspector->addWidget(trouble_);
    inspector->addStretch();
    auto* right = new QWidget;
    right->setFixedWidth(270);
    right->setLayout(inspector);
    auto* left = new QVBoxLayout;
    left->addLayout(top);
    left->addWidget(table_, 1);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(16, 14, 16, 14);
    row->setSpacing(14);
    row->addLayout(left, 1);
    row->addWidget(right);
}

void TagsDialog::fill() {
    const auto before = chosen();
    const QString words = filter_->text().trimmed();
    std::vector<RowsModel::Row> rows;
    const Catalog& catalog = session_.study().catalog();
    if (ofAssets())
        for (const Asset& a : catalog.assets())
            rows.push_back({a.id,
                            {QString::fromStdString(a.name), "", "", "", QString::fromStdString(a.kind), "",
                             factsText(a.facts)}});
    else
        for (const Tag& t : catalog.tags())
            rows.push_back(
                {t.id,
                 {QString::fromStdString(t.assetName), QString::fromStdString(t.name),
                  "@" + QString::fromStdString(t.role), QString::fromStdString(t.unit), tagKindName(t.kind),
                  t.longestGap ? QString::fromStdString(formatDuration(*t.longestGap)) : "auto",
                  factsText(t.facts)}});
    if (!words.isEmpty())
        std::erase_if(rows, [&](const RowsModel::Row& r) {
            return !r.cells.join(' ').contains(words, Qt::CaseInsensitive);
        });
    model_->setRows(std::move(rows));
    for (const std::int64_t id : before)
        if (const int at = model_->rowOf(id); at >= 0)
            table_->selectionModel()->select(model_->index(at, 0),
                                             QItemSelectionModel::Select | QItemSelectionModel::Rows);
    showChosen();
}

std::vector<std::int64_t> TagsDialog::chosen() const {
    std::vector<std::int64_t> out;
    for (const QModelIndex& i : table_->selectionModel()->selectedRows())
        out.push_back(i.data(Qt::UserRole).toLongLong());
    return out;
}

std::vector<TagId> TagsDialog::chosenTags() const {
    std::vector<TagId> out;
    if (!ofAssets())
        for (const std::int64_t key : chosen()) out.emplace_back(key);
    return out;
}

/// The states of the chosen tag, as a hint: what is typed comes to them.
QString TagsDialog::statesOf(const std::vector<TagId>& tags) const {
    const Tag* tag = tags.size() == 1 ? session_.tag(tags.front()) : nullptr;
    QStringList names;
    if (tag && tag->kind == TagKind::State)
        for (const std::string& state : tag->states)
            if (!state.empty()) names << QString::fromStdString(state);
    return names.isEmpty() ? "names, with commas" : "more than " + names.join(", ");
}

void TagsDialog::showChosen() {
    const auto ids = chosen();
    chosenSays_->setText(ids.empty() ? "Choose one or several" : QString("%1 chosen").arg(ids.size()));
    settings_->setVisible(!ofAssets());
    for (QWidget* w : std::initializer_list<QWidget*>{apply_, set_, unset_}) w->setEnabled(!ids.empty());
    if (ofAssets()) return;
    const std::vector<TagId> tags = chosenTags();
    std::vector<QString> roles, units, gaps;
    for (const TagId id : tags)
        if (const Tag* t = session_.tag(id)) {
            roles.push_back(QString::fromStdString(t->role));
            units.push_back(QString::fromStdString(t->unit));
            gaps.push_back(t->longestGap ? QString::fromStdString(formatDuration(*t->longestGap)) : "auto");
        }
    const auto show = [](QLineEdit* f, const std::vector<QString>& texts) {
        f->setText(common(texts));
        f->setPlaceholderText(texts.size() > 1 && common(texts).isEmpty() ? "as they are" : "");
        f->setModified(false);
    };
    show(role_, roles);
    show(unit_, units);
    show(gap_, gaps);
    kind_->setCurrentIndex(0);
    states_->clear();
    states_->setModified(false);
    states_->setPlaceholderText(statesOf(tags));
}

Result<TagSettings> TagsDialog::settingsSaid() const {
    TagSettings out;
    if (const QString role = role_->text().trimmed().remove('@'); role_->isModified() && !role.isEmpty())
        out.role = role.toStdString();
    if (unit_->isModified()) out.unit = unit_->text().trimmed().toStdString();
    if (kind_->currentIndex() > 0) {
        const auto kind = tagKindNamed(kind_->currentText().toStdString());
        if (!kind) return kind.error();
        out.kind = *kind;
    }
    if (gap_->isModified()) {
        const std::string text = gap_->text().trimmed().toStdString();
        out.longestGap.emplace();
        if (!text.empty() && text != "auto") {
            const auto length = parseDuration(text);
            if (!length) return Error{"the longest gap is a length like 20m, or auto"};
            *out.longestGap = *length;
        }
    }
    if (states_->isModified())
        for (const QString& state : states_->text().split(',', Qt::SkipEmptyParts))
            out.states.push_back(state.trimmed().toStdString());
    return out;
}

bool TagsDialog::take(const std::function<Status()>& change) {
    trouble_->clear();
    Status done = Done{};
    const bool written = session_.tryChange([&] { done = change(); });
    if (!done) trouble_->setText(QString::fromStdString(done.error().message));
    return written && done;
}

void TagsDialog::takeSettings() {
    const auto said = settingsSaid();
    if (!said) return trouble_->setText(QString::fromStdString(said.error().message));
    take([&] { return changeTags(session_.study(), chosenTags(), *said); });
}

void TagsDialog::takeFact(bool remove) {
    const QString value = factValue_->text().trimmed();
    if (!remove && value.isEmpty()) return trouble_->setText("A fact has a value.");
    const auto change =
        factChange(session_.study(), factName_->text().toStdString(), remove ? "" : value.toStdString());
    if (!change) return trouble_->setText(QString::fromStdString(change.error().message));
    std::vector<FactOwner> owners;
    for (const std::int64_t key : chosen())
        owners.push_back(ofAssets() ? FactOwner(AssetId(key)) : FactOwner(TagId(key)));
    take([&] { return changeFacts(session_.study(), owners, {*change}); });
}

}  // namespace jacinth::app
