#include "app/label/label_fields.h"

#include <set>

#include "app/base/asset_choice.h"
#include "app/base/swatch.h"
#include "app/base/ui.h"
#include "app/label/label_list.h"
#include "store/judgement.h"
#include "work/label/labels.h"

namespace jacinth::app {
namespace {

constexpr const char* kSeveral = "several";  // what chosen marks differ in

/// What all of them say; none where they differ.
template <typename Of>
std::optional<std::string> common(const std::vector<Span>& labels, Of of) {
    std::optional<std::string> out;
    for (const Span& s : labels) {
        if (out && *out != of(s)) return {};
        out = of(s);
    }
    return out;
}

}  // namespace

LabelFields::LabelFields(Session& session, QVBoxLayout* side) : session_(session) {
    buildBook(side);
    side->addWidget(makeRule());
    buildChosen(side);
}

void LabelFields::buildBook(QVBoxLayout* side) {
    side->addWidget(makeLabel("Label book", "section"));
    auto* hint = makeLabel(
        "Drag over the traces to mark a stretch; with Alt it is about that pane's tags alone. A kind's key "
        "names "
        "the chosen marks.",
        "second");
    hint->setWordWrap(true);
    side->addWidget(hint);
    bookModel_ = new RowsModel({"kind", "key", "marks"}, this);
    book_ = makeTable(bookModel_, "labelBook", {0, 30, 48});
    side->addWidget(book_);
    auto* edit = makeButton("Edit the label book…", "editBook");
    side->addWidget(edit);
    assets_ = new CheckButton("markAssets", "Assets that a new mark goes to", "the asset in view");
    addRow(side, "Mark on", assets_);
    connect(edit, &QPushButton::clicked, this, &LabelFields::bookAsked);
    connect(book_, &QTableView::clicked, this, [this](const QModelIndex& i) {
        const auto row = static_cast<std::size_t>(i.data(Qt::UserRole).toLongLong()) - 1;
        if (row < kinds_.size()) emit named(kinds_[row]);
    });
}

void LabelFields::buildChosen(QVBoxLayout* side) {
    title_ = makeLabel("No mark chosen", "section");
    title_->setObjectName("chosenTitle");
    title_->setWordWrap(true);
    side->addWidget(title_);
    from_ = new MomentField(session_, "labelFrom", "From");
    to_ = new MomentField(session_, "labelTo", "To");
    tags_ = new CheckButton("labelTags", "Tags that the mark is about", "the whole asset");
    QStringList sure;
    for (const char* c : kCertainties) sure << c;
    sure << kSeveral;
    certainty_ = makeChoice("labelCertainty", "How sure", sure);
    note_ = makeField("labelNote", "Note");
    addRow(side, "From", from_);
    addRow(side, "To", to_);
    addRow(side, "About", tags_);
    addRow(side, "Certainty", certainty_);
    addRow(side, "Note", note_);
    made_ = makeLabel("", "second");
    made_->setObjectName("labelMade");
    made_->setWordWrap(true);
    side->addWidget(made_);
    facts_ = makeLabel("");
    facts_->setObjectName("labelFacts");
    facts_->setWordWrap(true);
    side->addWidget(facts_);
    alike_ = makeButton("More like this", "searchAlike");
    side->addWidget(alike_);
    remove_ = makeButton("Remove this mark", "removeLabel");
    side->addWidget(remove_);
    side->addStretch();
    connect(remove_, &QPushButton::clicked, this, &LabelFields::removeAsked);
    connect(alike_, &QPushButton::clicked, this, &LabelFields::alikeAsked);
    for (QLineEdit* f : {static_cast<QLineEdit*>(from_), static_cast<QLineEdit*>(to_)})
        connect(f, &QLineEdit::editingFinished, this, &LabelFields::readTimes);
    connect(note_, &QLineEdit::editingFinished, this, &LabelFields::readNote);
    connect(certainty_, &QComboBox::activated, this, &LabelFields::readCertainty);
    connect(tags_, &CheckButton::changed, this, &LabelFields::readTags);
}

void LabelFields::fillBook(const std::vector<Span>& labels) {
    std::map<std::string, int> count;
    for (const Span& s : labels) ++count[factText(s.facts, label_fact::kKind)];
    std::vector<RowsModel::Row> rows;
    kinds_.clear();
    for (const LabelKind& k : session_.study().judgement().labelBook()) {
        RowsModel::Row row{static_cast<std::int64_t>(rows.size()) + 1,
                           {QString::fromStdString(k.name) + (k.normal ? " (normal)" : ""),
                            k.key ? QString(QChar(k.key)) : QString(), QString::number(count[k.name])}};
        row.swatch = onGround(session_.theme(), QColor(QString::fromStdString(k.colour)));
        row.values[2] = count[k.name];
        rows.push_back(std::move(row));
        kinds_.push_back(k.name);
    }
    book_->setFixedHeight(24 + 21 * std::clamp<int>(static_cast<int>(rows.size()), 3, 8));
    bookModel_->setRows(std::move(rows));
    fillAssets();
}

void LabelFields::fillAssets() {
    std::vector<CheckButton::Choice> choices;
    for (const Asset& a : assetsInOrder(session_))
        choices.push_back({a.id.number, QString::fromStdString(a.name)});
    assets_->setChoices(choices, assets_->ticked());
}

std::vector<AssetId> LabelFields::assetsFor(AssetId current) const {
    std::vector<AssetId> out;
    for (const std::int64_t key : assets_->ticked()) out.emplace_back(key);
    if (out.empty()) out.push_back(current);
    return out;
}

void LabelFields::fillTags() {
    std::vector<CheckButton::Choice> choices;
    std::set<AssetId> assets;
    for (const Span& s : chosen_) assets.insert(s.asset);
    if (assets.size() == 1)
        for (const Tag& t : session_.study().catalog().tags())
            if (t.asset == *assets.begin()) choices.push_back({t.id.number, QString::fromStdString(t.name)});
    std::vector<std::int64_t> ticked;
    if (!chosen_.empty())
        for (const TagId id : tagsOf(chosen_.back())) ticked.push_back(id.number);
    tags_->setChoices(choices, ticked);
    tags_->setEnabled(!choices.empty());
}

QString LabelFields::factsOf(const Span& label) const {
    QStringList out;
    const FactKinds kinds = session_.study().judgement().factKinds();
    for (const auto& [name, value] : ownFacts(label))
        out << QString::fromStdString(name + ": " +
                                      sayFact(findFactKind(kinds, name), value, session_.zone()));
    return out.join("\n");
}

void LabelFields::show(const std::vector<Span>& chosen) {
    chosen_ = chosen;
    const bool one = chosen.size() == 1, any = !chosen.empty();
    for (QWidget* w :
         {static_cast<QWidget*>(certainty_), static_cast<QWidget*>(note_), static_cast<QWidget*>(remove_)})
        w->setEnabled(any);
    for (QWidget* w :
         {static_cast<QWidget*>(from_), static_cast<QWidget*>(to_), static_cast<QWidget*>(alike_)})
        w->setEnabled(one);
    remove_->setText(chosen.size() > 1 ? QString("Remove these %1 marks").arg(chosen.size())
                                       : "Remove this mark");
    fillTags();
    facts_->setText(one ? factsOf(chosen.front()) : QString());
    facts_->setVisible(!facts_->text().isEmpty());
    for (QLineEdit* f : {static_cast<QLineEdit*>(from_), static_cast<QLineEdit*>(to_)})
        if (!one) f->clear();
    if (!any) {
        title_->setText("No mark chosen");
        note_->clear();
        made_->clear();
        certainty_->setCurrentIndex(0);
        return;
    }
    const auto fact = [](const char* name) {
        return [name](const Span& s) { return factText(s.facts, name); };
    };
    const auto kind = common(chosen, fact(label_fact::kKind));
    const QString name = !kind           ? "of several kinds"
                         : kind->empty() ? QString("not named yet")
                                         : QString::fromStdString(*kind);
    title_->setText(one ? name + " · " + QString::fromStdString(sayDuration(chosen[0].end - chosen[0].start))
                        : QString("%1 marks · %2").arg(chosen.size()).arg(name));
    if (one) {
        from_->setMoment(chosen[0].start);
        to_->setMoment(chosen[0].end);
    }
    const auto note = common(chosen, fact(label_fact::kNote));
    if (!note_->hasFocus() || !note_->isModified())
        note_->setText(note ? QString::fromStdString(*note) : QString());
    note_->setPlaceholderText(note ? "" : kSeveral);
    const auto sure = common(chosen, [](const Span& s) { return certaintyOf(s); });
    certainty_->setCurrentText(sure ? QString::fromStdString(*sure) : kSeveral);
    const auto by = common(chosen, fact(label_fact::kBy)), origin = common(chosen, fact(label_fact::kFrom));
    QStringList made{"by " + (by ? QString::fromStdString(*by) : QString(kSeveral))};
    if (!origin || !origin->empty())
        made << "made from " + (origin ? QString::fromStdString(*origin) : QString(kSeveral));
    made_->setText(made.join(", "));
}

void LabelFields::readTimes() {
    if (chosen_.size() != 1) return;
    const auto from = from_->moment(), to = to_->moment();
    markWrong(from_, !from, "no time");
    markWrong(to_, !to || (from && *to <= *from), "the end lies before the start");
    if (!from || !to || *to <= *from) return;
    Span changed = chosen_.front();
    if (from_->isModified()) changed.start = *from;
    if (to_->isModified()) changed.end = *to;
    if (changed.range() != chosen_.front().range()) emit edited({changed}, "move label");
}

void LabelFields::readNote() {
    if (!note_->isModified() || chosen_.empty()) return;
    note_->setModified(false);
    std::vector<Span> changed = chosen_;
    for (Span& s : changed) {
        s.facts.erase(label_fact::kNote);
        if (!note_->text().isEmpty()) s.facts[label_fact::kNote] = note_->text().toStdString();
    }
    emit edited(changed,
                changed.size() == 1 ? "note on label" : QString("note on %1 labels").arg(changed.size()));
}

void LabelFields::readCertainty() {
    if (chosen_.empty() || certainty_->currentText() == kSeveral) return;
    std::vector<Span> changed = chosen_;
    for (Span& s : changed) {
        s.facts.erase(label_fact::kCertainty);
        if (certainty_->currentIndex() > 0)
            s.facts[label_fact::kCertainty] = certainty_->currentText().toStdString();
    }
    emit edited(changed, "certainty " + certainty_->currentText());
}

void LabelFields::readTags() {
    std::vector<TagId> tags;
    for (const std::int64_t key : tags_->ticked()) tags.emplace_back(key);
    std::vector<Span> changed = chosen_;
    for (Span& s : changed) setTags(s, tags);
    if (!changed.empty()) emit edited(changed, "what a label is about");
}

}  // namespace jacinth::app
