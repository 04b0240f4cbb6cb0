#include "app/shell/tags_dialog.h"

#include <nlohmann/json.hpp>

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

TagsDialog::TagsDialog(Session& session, std::int64_t tag, QWidget* parent)
    : QDialog(parent), session_(session) {
    setObjectName("tagsDialog");
    setWindowTitle("Assets and tags");
    resize(980, 600);
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
    kind_ = makeChoice("tagKind", "Between samples", {"as it is", "continuous", "stepped"});
    gap_ = makeField("tagGap", "Longest gap");
    gap_->setPlaceholderText("like 20m; auto");
    factName_ = makeField("factName", "Name of the fact");
    factValue_ = makeField("factValue", "Value of the fact");
    apply_ = makeButton("Apply", "applyTag", true);
    set_ = makeButton("Set the fact", "setFact");
    unset_ = makeButton("Take it away", "unsetFact");
    trouble_ = makeLabel("", "bad");
    trouble_->setObjectName("tagsTrouble");
    trouble_->setWordWrap(true);

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

void TagsDialog::showChosen() {
    const auto ids = chosen();
    chosenSays_->setText(ids.empty() ? "Choose one or several" : QString("%1 chosen").arg(ids.size()));
    settings_->setVisible(!ofAssets());
    for (QWidget* w : std::initializer_list<QWidget*>{apply_, set_, unset_}) w->setEnabled(!ids.empty());
    if (ofAssets()) return;
    std::vector<QString> roles, units, gaps;
    for (const std::int64_t id : ids)
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
}

Result<std::vector<Tag>> TagsDialog::changedTags() const {
    std::vector<Tag> out;
    const QString role = role_->text().trimmed().remove('@');
    for (const std::int64_t id : chosen()) {
        Tag t = *session_.tag(id);
        if (role_->isModified() && !role.isEmpty()) {
            t.role = roleFromName(role.toStdString());
            const Tag* other = session_.study().catalog().tagInRole(t.asset, t.role);
            const bool twice =
                std::any_of(out.begin(), out.end(), [&](const Tag& o) { return o.asset == t.asset; });
            if ((other && other->id != t.id) || twice)
                return Error{"one asset has a role once: " + (other ? other->path() : t.assetName) +
                             " would share `" + t.role + "`"};
        }
        if (unit_->isModified()) t.unit = unit_->text().trimmed().toStdString();
        if (kind_->currentIndex() > 0) {
            if (t.kind == TagKind::State) return Error{t.path() + " holds states and cannot become numbers"};
            t.kind = kind_->currentIndex() == 1 ? TagKind::Continuous : TagKind::Stepped;
        }
        if (gap_->isModified()) {
            const std::string text = gap_->text().trimmed().toStdString();
            if (text.empty() || text == "auto") {
                t.longestGap.reset();
            } else {
                const auto d = parseDuration(text);
                if (!d || *d <= 0) return Error{"the longest gap is a length like 20m, or auto"};
                t.longestGap = *d;
            }
        }
        out.push_back(std::move(t));
    }
    return out;
}

void TagsDialog::takeSettings() {
    const auto tags = changedTags();
    trouble_->setText(tags ? QString() : QString::fromStdString(tags.error().message));
    if (!tags || tags->empty()) return;
    nlohmann::json detail = nlohmann::json::array();
    for (const Tag& t : *tags)
        detail.push_back(
            {{"tag", t.path()}, {"role", t.role}, {"unit", t.unit}, {"kind", tagKindName(t.kind)}});
    const std::string name = tags->size() == 1 ? "settings of " + tags->front().path()
                                               : "settings of " + std::to_string(tags->size()) + " tags";
    session_.tryChange([&] {
        session_.study().change(name, "", detail, [&] {
            for (const Tag& t : *tags) session_.study().catalog().updateTag(t);
        });
    });
}

void TagsDialog::takeFact(bool remove) {
    const std::string name = factName_->text().trimmed().toStdString(),
                      value = factValue_->text().trimmed().toStdString();
    trouble_->setText(name.empty()               ? "A fact has a name."
                      : value.empty() && !remove ? "A fact has a value."
                                                 : "");
    const auto ids = chosen();
    if (!trouble_->text().isEmpty() || ids.empty()) return;
    bool isNumber = false;
    const double number = factValue_->text().trimmed().replace(',', '.').toDouble(&isNumber);
    const auto changed = [&](Facts facts) {
        facts.erase(name);
        if (!remove) facts[name] = isNumber ? Fact(number) : Fact(value);
        return facts;
    };
    Study& study = session_.study();
    session_.tryChange([&] {
        study.change((remove ? "take away fact " : "fact ") + name + " of " + std::to_string(ids.size()) +
                         (ofAssets() ? " assets" : " tags"),
                     "", {{"fact", name}, {"value", value}}, [&] {
                         for (const std::int64_t id : ids) {
                             if (ofAssets()) {
                                 study.setAssetFacts(id, changed(study.catalog().asset(id)->facts));
                             } else {
                                 Tag t = *study.catalog().tag(id);
                                 t.facts = changed(t.facts);
                                 study.catalog().updateTag(t);
                             }
                         }
                     });
    });
}

}  // namespace jacinth::app
