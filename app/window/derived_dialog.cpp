#include "app/window/derived_dialog.h"

#include <QPointer>
#include <algorithm>

#include "app/base/tables.h"
#include "work/derived/derived_expressions.h"
#include "work/survey/kept_tags.h"

namespace jacinth::app {
namespace {

QString text(const std::string& s) {
    return QString::fromStdString(s);
}

QString stateOf(const DerivedExpression& d, const Zone& zone) {
    if (!d.trouble.empty()) return "no samples: " + text(d.trouble);
    if (d.stale) return "being calculated";
    return "calculated " + text(zone.text(d.at));
}

QString stateOf(const KeptTag& k, const Zone& zone) {
    if (k.behind) return text(k.from) + " has changed since";
    return k.at == kNoInstant ? QString("as it was kept") : "as of " + text(zone.text(k.at));
}

}  // namespace

DerivedDialog::DerivedDialog(Session& session, TagId tag, QWidget* parent)
    : QDialog(parent), session_(session) {
    setObjectName("derivedDialog");
    setWindowTitle("Derived tags");
    resize(940, 620);
    build();
    wire();
    fill();
    clear();
    if (const int at = model_->rowOf(tag); at >= 0) table_->selectRow(at);
    name_->setFocus();
}

void DerivedDialog::build() {
    model_ = new RowsModel({"tag", "unit", "expression", ""}, this);
    table_ = makeTable(model_, "derivedTable", {190, 60, 0, 230});
    name_ = makeField("derivedName", "Name");
    unit_ = makeField("derivedUnit", "Unit");
    unit_->setPlaceholderText("as the expression has");
    where_ = makeChoice("derivedWhere", "Where", {});
    text_ = new ExpressionEditor(session_);
    text_->setObjectName("derivedText");
    text_->setAccessibleName("Expression");
    text_->setFixedHeight(74);
    preview_ = new ExpressionPreview(session_);
    help_ = makeLabel("", "second");
    help_->setWordWrap(true);
    trouble_ = makeLabel("", "bad");
    trouble_->setObjectName("derivedTrouble");
    trouble_->setWordWrap(true);
    new_ = makeButton("New", "derivedNew");
    again_ = makeButton("Recalculate", "derivedAgain");
    again_->hide();
    remove_ = makeButton("Remove", "derivedRemove");
    keep_ = makeButton("Make", "derivedKeep", true);
    for (QPushButton* b : {new_, again_, remove_, keep_}) b->setAutoDefault(false);

    auto* says = makeLabel(
        "A derived tag is given by an expression and used like any other. It is recalculated by itself when "
        "the "
        "samples, fixes, tracks or limits it is made from change. A condition becomes a state tag, false or "
        "true. "
        "Parts and tags by periods that were kept in Survey stay as they are until they are recalculated "
        "here.",
        "second");
    says->setWordWrap(true);
    auto* list = new QHBoxLayout;
    title_ = makeLabel("", "section");
    list->addWidget(title_, 1);
    list->addWidget(new_);
    list->addWidget(again_);
    list->addWidget(remove_);
    auto* fields = new QHBoxLayout;
    fields->setSpacing(8);
    const auto add = [&](const QString& words, QWidget* w, int width) {
        fields->addWidget(makeLabel(words, "second"));
        w->setFixedWidth(width);
        fields->addWidget(w);
        fields->addSpacing(10);
    };
    add("Name", name_, 190);
    add("Unit", unit_, 160);
    add("On", where_, 250);
    fields->addStretch();
    auto* bottom = new QHBoxLayout;
    bottom->addWidget(trouble_, 1);
    bottom->addWidget(keep_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 14);
    column->setSpacing(8);
    column->addWidget(says);
    column->addLayout(list);
    column->addWidget(table_, 1);
    column->addWidget(makeRule());
    column->addLayout(fields);
    column->addWidget(text_);
    column->addWidget(help_);
    column->addWidget(preview_);
    column->addLayout(bottom);
}

void DerivedDialog::wire() {
    connect(table_->selectionModel(), &QItemSelectionModel::currentRowChanged, this, &DerivedDialog::load);
    connect(new_, &QPushButton::clicked, this, [this] {
        table_->clearSelection();
        table_->setCurrentIndex({});
        clear();
        name_->setFocus();
    });
    connect(again_, &QPushButton::clicked, this, &DerivedDialog::makeAgain);
    connect(remove_, &QPushButton::clicked, this, &DerivedDialog::removeChosen);
    for (QPushButton* b : {again_, remove_}) addRowCommand(table_, b);
    connect(keep_, &QPushButton::clicked, this, &DerivedDialog::keep);
    connect(name_, &QLineEdit::textChanged, this, &DerivedDialog::check);
    connect(text_, &QPlainTextEdit::textChanged, this, &DerivedDialog::check);
    connect(text_, &ExpressionEditor::helpChanged, help_, &QLabel::setText);
    connect(&session_, &Session::studyChanged, this, &DerivedDialog::fill);
}

void DerivedDialog::fill() {
    const auto before = currentId<TagId>(table_);
    std::vector<RowsModel::Row> rows;
    for (const DerivedExpression& d : derivedExpressions(session_.study())) {
        RowsModel::Row row{
            d.tag.id,
            {text(d.tag.path()), text(d.tag.unit), text(d.text).simplified(), stateOf(d, session_.zone())}};
        if (!d.trouble.empty()) row.ink = session_.theme().accent;
        rows.push_back(std::move(row));
    }
    for (const KeptTag& k : keptTags(session_.study())) {
        RowsModel::Row row{k.tag.id,
                           {text(k.tag.path()), text(k.tag.unit),
                            "kept: " + text(k.how) + " of " + text(k.from), stateOf(k, session_.zone())}};
        if (k.behind) row.ink = session_.theme().accent;
        rows.push_back(std::move(row));
    }
    const QSignalBlocker quiet(table_->selectionModel());
    model_->setRows(std::move(rows));
    if (const int at = model_->rowOf(before); at >= 0) table_->selectRow(at);
    remove_->setEnabled(bool(currentId<TagId>(table_)));
    title_->setText(model_->rows().empty() ? "No derived tags yet: name the first one below"
                                           : "Derived tags of this study");
}

void DerivedDialog::clear() {
    const Asset* asset = session_.study().catalog().asset(session_.view().asset());
    showKept(nullptr);
    where_->clear();
    if (asset) where_->addItem(text(asset->name), text(asset->name));
    where_->addItem("every asset that has the tags", "");
    name_->clear();
    name_->setReadOnly(false);
    unit_->clear();
    text_->clear();
    keep_->setText("Make");
    remove_->setEnabled(false);
    check();
}

void DerivedDialog::load() {
    const auto id = currentId<TagId>(table_);
    const Tag* tag = session_.tag(id);
    if (!tag) return;
    if (session_.view().asset() != tag->asset) session_.view().select(tag->asset, id);
    where_->clear();
    where_->addItem(text(tag->assetName), text(tag->assetName));
    where_->addItem("every asset that has the tags", "");
    name_->setText(text(tag->name));
    name_->setReadOnly(true);
    unit_->setText(text(tag->unit));
    text_->setPlainText(text(derivedText(session_.study(), id)));
    keep_->setText("Change");
    remove_->setEnabled(true);
    const auto kept = keptTags(session_.study());
    const auto of = std::find_if(kept.begin(), kept.end(), [&](const KeptTag& k) { return k.tag.id == id; });
    showKept(of == kept.end() ? nullptr : &*of);
    check();
}

/// A kept tag has no expression: the form is for the others.
void DerivedDialog::showKept(const KeptTag* kept) {
    kept_ = kept != nullptr;
    again_->setVisible(kept_);
    again_->setEnabled(kept && kept->cannotBeMade.empty());
    again_->setToolTip(!kept ? QString()
                       : kept->cannotBeMade.empty()
                           ? "From the samples and fixes of now; can be undone"
                           : plainTip("It cannot be recalculated: " + text(kept->cannotBeMade)));
    for (QWidget* w : std::initializer_list<QWidget*>{name_, unit_, where_, text_, keep_})
        w->setEnabled(!kept_);
}

void DerivedDialog::check() {
    if (kept_) {
        preview_->setText({});
        trouble_->clear();
        return;
    }
    const bool fits = text_->checked().has_value();
    preview_->setText(text_->text());
    trouble_->setText(fits || text_->text().isEmpty() ? QString() : text_->toolTip());
    keep_->setEnabled(fits && !name_->text().trimmed().isEmpty());
}

void DerivedDialog::keep() {
    const DerivedSpec spec{name_->text().trimmed().toStdString(), unit_->text().trimmed().toStdString(),
                           text_->text().toStdString(), where_->currentData().toString().toStdString()};
    std::vector<TagId> made;
    const bool done = session_.tryChange([&] {
        const auto ids = defineDerived(session_.study(), spec);
        trouble_->setText(ids ? QString() : text(ids.error().message));
        if (ids) made = *ids;
    });
    if (!done || made.empty()) return;
    session_.showToo(made);
    for (const TagId id : made)
        if (const int at = model_->rowOf(id); at >= 0 && session_.tag(id)->asset == session_.view().asset())
            table_->selectRow(at);
}

void DerivedDialog::makeAgain() {
    const auto id = currentId<TagId>(table_);
    const Tag* tag = session_.tag(id);
    if (!tag || !kept_) return;
    again_->setEnabled(false);
    // The window may be closed before it is done.
    const QPointer<DerivedDialog> self(this);
    Session& session = session_;
    session.runJob(
        &session, "kept again", "Calculating " + text(tag->path()),
        [&session, self, id](JobContext& job) -> std::function<void()> {
            auto made =
                std::make_shared<Result<SamplesToKeep>>(jacinth::makeAgain(job.study, id, job.progress));
            return [&session, self, made, id] {
                if (!session.report(*made)) return;
                Result<std::vector<TagId>> kept = Error{""};
                if (!session.tryChange([&] { kept = keepDerived(session.study(), **made); })) return;
                if (session.report(kept))
                    emit session.notified(QString("%1 tags recalculated").arg(kept->size()));
                if (self && currentId<TagId>(self->table_) == id) self->load();
            };
        },
        false,
        [self, id] {
            if (self && currentId<TagId>(self->table_) == id) self->again_->setEnabled(true);
        });
}

void DerivedDialog::removeChosen() {
    const auto id = currentId<TagId>(table_);
    if (!id) return;
    QString no;
    session_.tryChange([&] {
        const Status done = removeDerived(session_.study(), id);
        if (!done) no = text(done.error().message);
    });
    if (no.isEmpty()) clear();
    trouble_->setText(no);
}

}  // namespace jacinth::app
