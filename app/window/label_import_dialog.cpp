#include "app/window/label_import_dialog.h"

#include <QDialogButtonBox>

#include "app/base/ui.h"
#include "store/judgement.h"

namespace jacinth::app {
namespace {

constexpr const char* kAside = "keep aside";
constexpr const char* kUnnamed = "not named yet";
constexpr const char* kNew = "a new kind";
constexpr int kFixedChoices = 3;

}  // namespace

LabelImportDialog::LabelImportDialog(Session& session, const QString& name, std::string text, QWidget* parent)
    : QDialog(parent), session_(session), text_(std::move(text)) {
    setObjectName("labelImportDialog");
    setWindowTitle("Import labels");
    resize(680, 560);
    build(name);
    fillColumns();
    fillKinds();
}

void LabelImportDialog::build(const QString& name) {
    auto* column = new QVBoxLayout(this);
    column->setSpacing(8);
    column->addWidget(makeLabel(name, "section"));
    columnsForm_ = new QFormLayout;
    kindsForm_ = new QFormLayout;
    auto* inside = new QWidget;
    auto* forms = new QVBoxLayout(inside);
    forms->setContentsMargins(0, 0, 0, 0);
    forms->addLayout(columnsForm_);
    forms->addWidget(makeLabel("Its kinds are, in this label book", "section"));
    forms->addLayout(kindsForm_);
    forms->addStretch();
    column->addWidget(makeScrolled(inside), 1);
    by_ = makeField("labelImportBy", "Who made labels that do not say so");
    by_->setText(QString::fromStdString(session_.study().who()));
    times_ = makeField("labelImportTimes", "How times are written");
    times_->setPlaceholderText("found out: else day-first, month-first, or a pattern");
    addRow(column, "Made by", by_);
    addRow(column, "Times", times_);
    said_ = makeLabel("");
    said_->setObjectName("labelImportSaid");
    said_->setWordWrap(true);
    column->addWidget(said_);
    asideModel_ = new RowsModel({"line", "why", "row"}, this);
    aside_ = makeTable(asideModel_, "labelAside", {46, 330, 0});
    aside_->setMinimumHeight(130);
    aside_->hide();
    column->addWidget(aside_);
    take_ = makeButton("Import", "labelImportTake", true);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    buttons->addButton(take_, QDialogButtonBox::ActionRole);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::accept);
    connect(take_, &QPushButton::clicked, this, &LabelImportDialog::take);
    column->addWidget(buttons);
}

std::map<std::string, std::string> LabelImportDialog::columns() const {
    std::map<std::string, std::string> out;
    for (const auto& [ours, box] : columnOf_)
        if (box->currentIndex() > 0) out[box->currentText().toStdString()] = ours;
    return out;
}

void LabelImportDialog::fillColumns() {
    const auto look = lookAtLabels(text_, {});
    if (!look) {
        said_->setText(QString::fromStdString(look.error().message));
        take_->setEnabled(false);
        return;
    }
    if (look->columns.empty()) return;
    for (const char* ours : {"asset", "start", "end", "kind", "note"}) {
        QStringList items{"none"};
        for (const std::string& c : look->columns) items << QString::fromStdString(c);
        QComboBox* box = makeChoice(QString("column_") + ours, QString("Column of ") + ours, items);
        for (int i = 1; i < items.size(); ++i)
            if (items[i].compare(ours, Qt::CaseInsensitive) == 0) box->setCurrentIndex(i);
        connect(box, &QComboBox::activated, this, &LabelImportDialog::fillKinds);
        columnsForm_->addRow(QString("Column of the ") + ours, box);
        columnOf_[ours] = box;
    }
}

void LabelImportDialog::fillKinds() {
    const auto look = lookAtLabels(text_, columns());
    if (!look) return;
    while (kindsForm_->rowCount() > 0) kindsForm_->removeRow(0);
    kindOf_.clear();
    const LabelBook book = session_.study().judgement().labelBook();
    for (const auto& [theirs, count] : look->kinds) {
        QComboBox* box =
            makeChoice("kind_" + QString::fromStdString(theirs), "What it is here", {kAside, kUnnamed, kNew});
        for (const LabelKind& k : book) box->addItem(QString::fromStdString(k.name));
        const int known = box->findText(QString::fromStdString(theirs));
        box->setCurrentIndex(theirs.empty() ? 1 : known >= kFixedChoices ? known : 0);
        kindsForm_->addRow(QString("%1 (%2)")
                               .arg(theirs.empty() ? "without a kind" : QString::fromStdString(theirs))
                               .arg(count),
                           box);
        kindOf_[theirs] = box;
    }
    alignRowLabels(this);
    QStringList missing;
    for (const char* needed : {"asset", "start", "end"})
        if (const auto box = columnOf_.find(needed);
            box != columnOf_.end() && box->second->currentIndex() == 0)
            missing << needed;
    take_->setEnabled(missing.isEmpty());
    said_->setText(
        QString("%1 labels in the file.").arg(look->labels) +
        (missing.isEmpty() ? QString() : " Say in which column it has: " + missing.join(", ") + "."));
}

void LabelImportDialog::take() {
    LabelImportSpec spec;
    spec.columns = columns();
    spec.by = by_->text().trimmed().toStdString();
    spec.timeFormat = times_->text().trimmed().toStdString();
    for (const auto& [theirs, box] : kindOf_) {
        if (box->currentText() == kUnnamed) spec.kinds[theirs] = "";
        if (box->currentText() == kNew) spec.newKinds.insert(theirs);
        if (box->currentIndex() >= kFixedChoices) spec.kinds[theirs] = box->currentText().toStdString();
    }
    constexpr std::size_t kLong = 500'000;
    if (text_.size() < kLong) {
        Result<LabelImport> done = Error{"nothing was imported"};
        if (session_.tryChange([&] { done = importLabels(session_.study(), text_, spec); })) showTaken(done);
        return;
    }
    take_->setEnabled(false);
    said_->setText("Importing…");
    session_.runJob(
        this, "import labels", "Importing labels",
        [this, text = text_, spec](JobContext& job) -> std::function<void()> {
            return [this, done = importLabels(job.study, text, spec)] {
                session_.study().refresh();
                session_.announceChange();
                showTaken(done);
            };
        },
        true, [this] { take_->setEnabled(true); });
}

void LabelImportDialog::showTaken(const Result<LabelImport>& done) {
    if (!done) return said_->setText(QString::fromStdString(done.error().message));
    said_->setText(QString("%1 labels added, %2 stood there already, %3 kept aside.")
                       .arg(done->added)
                       .arg(done->known)
                       .arg(done->aside.size()));
    std::vector<RowsModel::Row> rows;
    for (const AsideLabel& a : done->aside) {
        RowsModel::Row row{
            static_cast<std::int64_t>(rows.size()) + 1,
            {QString::number(a.line), QString::fromStdString(a.why), QString::fromStdString(a.text)}};
        row.sortBy(0, a.line);
        rows.push_back(std::move(row));
    }
    aside_->setVisible(!rows.empty());
    asideModel_->setRows(std::move(rows));
}

}  // namespace jacinth::app
