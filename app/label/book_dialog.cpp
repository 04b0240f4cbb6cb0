#include "app/label/book_dialog.h"

#include <QDialogButtonBox>
#include <QInputDialog>
#include <QMessageBox>

#include "app/base/file_dialogs.h"
#include "app/base/swatch.h"
#include "app/base/ui.h"
#include "store/judgement.h"
#include "store/write_file.h"
#include "work/label/kinds.h"

namespace jacinth::app {
namespace {

constexpr const char* kNoParent = "none";

QString text(const std::string& s) {
    return QString::fromStdString(s);
}

/// Kinds below the one they belong to, with how deep they stand.
void inOrder(const LabelBook& book, const std::string& parent, int depth,
             std::vector<std::pair<const LabelKind*, int>>& out) {
    for (const LabelKind& k : book)
        if (k.parent == parent) {
            out.emplace_back(&k, depth);
            inOrder(book, k.name, depth + 1, out);
        }
}

}  // namespace

BookDialog::BookDialog(Session& session, QWidget* parent) : QDialog(parent), session_(session) {
    setObjectName("bookDialog");
    setWindowTitle("Label book");
    resize(780, 460);
    build();
    connect(&session, &Session::studyChanged, this, &BookDialog::fill);
    fill();
}

void BookDialog::build() {
    model_ = new RowsModel({"kind", "key", "", "meaning", "marks"}, this);
    table_ = makePlainTable(model_, "bookTable", {150, 34, 62, 0, 52});
    connect(table_->selectionModel(), &QItemSelectionModel::currentRowChanged, this,
            [this](const QModelIndex& i) {
                if (showing_ || !i.isValid()) return;
                chosen_ = book_[static_cast<std::size_t>(i.data(Qt::UserRole).toLongLong() - 1)].name;
                showKind();
            });
    auto* middle = new QHBoxLayout;
    middle->setSpacing(16);
    middle->addWidget(table_, 1);
    middle->addWidget(buildFields());
    trouble_ = makeLabel("", "bad");
    trouble_->setObjectName("bookTrouble");
    trouble_->setWordWrap(true);
    auto* buttons = new QHBoxLayout;
    const auto button = [&](const QString& words, const QString& name, void (BookDialog::*run)()) {
        QPushButton* made = makeButton(words, name);
        made->setAutoDefault(false);
        connect(made, &QPushButton::clicked, this, run);
        buttons->addWidget(made);
        return made;
    };
    button("Add a kind…", "bookAdd", &BookDialog::add);
    merge_ = button("Merge into…", "bookMerge", &BookDialog::merge);
    remove_ = button("Remove…", "bookRemove", &BookDialog::remove);
    buttons->addStretch();
    button("Import…", "bookImport", &BookDialog::importBook);
    button("Export…", "bookExport", &BookDialog::exportBook);
    button("Keep for this site", "bookSite", &BookDialog::keepForSite)
        ->setToolTip("New studies on this machine begin with this book");
    auto* close = new QDialogButtonBox(QDialogButtonBox::Close);
    connect(close, &QDialogButtonBox::rejected, this, &QDialog::accept);
    buttons->addWidget(close);
    auto* column = new QVBoxLayout(this);
    column->setSpacing(8);
    column->addLayout(middle, 1);
    column->addWidget(trouble_);
    column->addLayout(buttons);
}

QWidget* BookDialog::buildFields() {
    auto* fields = new QWidget;
    fields->setFixedWidth(290);
    auto* column = new QVBoxLayout(fields);
    column->setContentsMargins(0, 0, 0, 0);
    name_ = makeField("kindName", "Name of the kind");
    meaning_ = makeField("kindMeaning", "What it means");
    key_ = makeField("kindKey", "Key");
    key_->setMaxLength(1);
    key_->setPlaceholderText("none");
    colour_ = makeChoice("kindColour", "Colour", {});
    for (const NamedColour& c : labelColours())
        colour_->addItem(swatchIcon(QColor(c.colour)), c.name, c.colour);
    parent_ = makeChoice("kindParent", "Belongs to", {});
    normal_ = new QCheckBox("an example of nothing being wrong");
    normal_->setObjectName("kindNormal");
    addRow(column, "Name", name_);
    addRow(column, "Meaning", meaning_);
    addRow(column, "Key", key_);
    addRow(column, "Colour", colour_);
    addRow(column, "Belongs to", parent_);
    column->addWidget(normal_);
    auto* hint = makeLabel(
        "Marks of a kind follow its new name. The colours are ones that colour-blind people can tell.",
        "second");
    hint->setWordWrap(true);
    column->addWidget(hint);
    column->addStretch();
    for (QLineEdit* f : {name_, meaning_, key_})
        connect(f, &QLineEdit::editingFinished, this, &BookDialog::change);
    for (QComboBox* c : {colour_, parent_}) connect(c, &QComboBox::activated, this, &BookDialog::change);
    connect(normal_, &QCheckBox::clicked, this, &BookDialog::change);
    return fields;
}

const LabelKind* BookDialog::current() const {
    return findKind(book_, chosen_);
}

void BookDialog::fill() {
    book_ = session_.study().judgement().labelBook();
    if (!current()) chosen_ = book_.empty() ? std::string() : book_.front().name;
    std::vector<std::pair<const LabelKind*, int>> ordered;
    inOrder(book_, {}, 0, ordered);
    std::vector<RowsModel::Row> rows;
    for (const auto& [kind, depth] : ordered) {
        RowsModel::Row row{kind - book_.data() + 1,
                           {QString(4 * depth, ' ') + text(kind->name),
                            kind->key ? QString(QChar(kind->key)) : "", kind->normal ? "normal" : "",
                            text(kind->meaning), QString::number(marksOfKind(session_.study(), kind->name))}};
        row.swatch = QColor(text(kind->colour));
        rows.push_back(std::move(row));
    }
    showing_ = true;
    model_->setRows(std::move(rows));
    if (const LabelKind* kind = current()) table_->selectRow(model_->rowOf(kind - book_.data() + 1));
    showing_ = false;
    showKind();
}

void BookDialog::showKind() {
    const LabelKind* kind = current();
    trouble_->clear();
    for (QWidget* w :
         std::initializer_list<QWidget*>{name_, meaning_, key_, colour_, parent_, normal_, merge_, remove_})
        w->setEnabled(kind != nullptr);
    if (!kind) return;
    showing_ = true;
    name_->setText(text(kind->name));
    meaning_->setText(text(kind->meaning));
    meaning_->setCursorPosition(0);
    key_->setText(kind->key ? QString(QChar(kind->key)) : QString());
    int colour = colour_->findData(text(kind->colour).toUpper());
    if (colour < 0) {  // one from a file, or of before
        while (colour_->count() > static_cast<int>(labelColours().size()))
            colour_->removeItem(colour_->count() - 1);
        colour_->addItem(swatchIcon(QColor(text(kind->colour))), text(kind->colour),
                         text(kind->colour).toUpper());
        colour = colour_->count() - 1;
    }
    colour_->setCurrentIndex(colour);
    parent_->clear();
    parent_->addItem(kNoParent);
    for (const LabelKind& k : book_)
        if (!isKindOf(book_, k.name, kind->name)) parent_->addItem(text(k.name));
    parent_->setCurrentText(kind->parent.empty() ? kNoParent : text(kind->parent));
    normal_->setChecked(kind->normal);
    merge_->setEnabled(book_.size() > 1);
    showing_ = false;
}

bool BookDialog::tell(const Status& status) {
    trouble_->setText(status ? QString() : text(status.error().message));
    return static_cast<bool>(status);
}

void BookDialog::change() {
    const LabelKind* kind = current();
    if (showing_ || !kind) return;
    LabelKind to = *kind;
    to.name = name_->text().trimmed().toStdString();
    to.meaning = meaning_->text().toStdString();
    to.key = key_->text().isEmpty() ? '\0' : key_->text().at(0).toLatin1();
    const std::string colour = colour_->currentData().toString().toStdString();
    if (text(to.colour).toUpper().toStdString() != colour) to.colour = colour;
    to.parent = parent_->currentIndex() <= 0 ? std::string() : parent_->currentText().toStdString();
    to.normal = normal_->isChecked();
    const bool same = to.name == kind->name && to.meaning == kind->meaning && to.key == kind->key &&
                      to.colour == kind->colour && to.parent == kind->parent && to.normal == kind->normal;
    if (same) return;
    const std::string before = chosen_;
    Status done = Done{};
    chosen_ = to.name;
    session_.tryChange([&] { done = changeLabelKind(session_.study(), before, to); });
    if (done) return;
    chosen_ = before;
    fill();
    tell(done);
}

void BookDialog::add() {
    bool good = false;
    const QString name =
        QInputDialog::getText(this, "Add a kind", "What it is called", QLineEdit::Normal, {}, &good)
            .trimmed();
    if (!good || name.isEmpty()) return;
    const LabelKind kind{
        name.toStdString(), {}, freeColour(book_), freeKey(book_, name.toStdString()), false, {}};
    Status done = Done{};
    const std::string before = std::exchange(chosen_, kind.name);
    session_.tryChange([&] { done = addLabelKind(session_.study(), kind); });
    if (tell(done)) return meaning_->setFocus();
    chosen_ = before;
}

void BookDialog::merge() {
    const LabelKind* kind = current();
    if (!kind) return;
    QStringList others;
    for (const LabelKind& k : book_)
        if (k.name != kind->name) others << text(k.name);
    bool good = false;
    const QString into = QInputDialog::getItem(this, "Merge",
                                               QString("The %1 marks of %2 become")
                                                   .arg(marksOfKind(session_.study(), kind->name))
                                                   .arg(text(kind->name)),
                                               others, 0, false, &good);
    if (!good) return;
    Status done = Done{};
    const std::string from = std::exchange(chosen_, into.toStdString());
    session_.tryChange([&] { done = mergeLabelKinds(session_.study(), from, into.toStdString()); });
    tell(done);
}

void BookDialog::remove() {
    const LabelKind* kind = current();
    if (!kind) return;
    const std::size_t marks = marksOfKind(session_.study(), kind->name);
    MarksOfKind what = MarksOfKind::Unnamed;
    if (marks > 0) {
        QMessageBox box(QMessageBox::Question, "Remove a kind",
                        QString("%1 has %2 %3. What becomes of them?")
                            .arg(text(kind->name))
                            .arg(marks)
                            .arg(marks == 1 ? "mark" : "marks"),
                        QMessageBox::Cancel, this);
        box.setObjectName("removeKindBox");
        box.setTextFormat(Qt::PlainText);
        box.addButton("They lose their name", QMessageBox::AcceptRole);
        const QAbstractButton* gone = box.addButton("They are removed too", QMessageBox::DestructiveRole);
        box.exec();
        if (!box.clickedButton() || box.standardButton(box.clickedButton()) == QMessageBox::Cancel) return;
        if (box.clickedButton() == gone) what = MarksOfKind::Removed;
    }
    Status done = Done{};
    session_.tryChange([&] { done = removeLabelKind(session_.study(), kind->name, what); });
    tell(done);
}

void BookDialog::importBook() {
    const QString path = askFileToOpen(this, "Import a label book", "JSON (*.json);;All files (*)");
    if (path.isEmpty()) return;
    const auto file = readWhole(path.toStdString());
    if (!file) return trouble_->setText(text(file.error().message));
    const auto book = readBook(*file);
    if (!book) return trouble_->setText(text(book.error().message));
    Status done = Done{};
    session_.tryChange([&] { done = takeBook(session_.study(), *book); });
    tell(done);
}

void BookDialog::exportBook() {
    const QString path = askFileToSave(this, {"Export the label book", " label book.json", "JSON (*.json)"});
    if (path.isEmpty()) return;
    if (tell(writeWhole(path.toStdString(), bookText(book_))))
        emit session_.notified("Label book written to " + path);
}

void BookDialog::keepForSite() {
    if (tell(keepAsSiteBook(book_)))
        emit session_.notified("New studies on this machine begin with this label book.");
}

}  // namespace jacinth::app
