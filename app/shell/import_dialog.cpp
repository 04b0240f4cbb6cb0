#include "app/shell/import_dialog.h"

#include <QFileInfo>
#include <QInputDialog>

#include "source/recipe.h"

namespace jacinth::app {
namespace {

QString sizeText(std::int64_t bytes) {
    if (bytes < 10'000) return QString("%1 B").arg(bytes);
    if (bytes < 10'000'000) return QString("%1 kB").arg(bytes / 1000);
    return QString("%1 MB").arg(bytes / 1'000'000);
}

QString separatorName(char c) {
    return c == ',' ? "comma" : c == ';' ? "semicolon" : "tab";
}

/// One file after the other; stops at the first that cannot be read, and says which.
Result<ImportResult> importAll(JobContext& job, const QStringList& paths, const LayoutHints& hints) {
    ImportResult total;
    for (qsizetype i = 0; i < paths.size(); ++i) {
        const auto file = MappedFile::open(paths[i].toStdString());
        if (!file) return file.error();
        const auto one = importSamples(
            job.study, {QFileInfo(paths[i]).fileName().toStdString(), file->text()}, hints,
            [&](double share) {
                return job.progress((static_cast<double>(i) + share) / static_cast<double>(paths.size()));
            });
        if (!one) return one.error();
        total.rows += one->rows;
        total.samples += one->samples;
        total.unchanged += one->unchanged;
        total.replaced += one->replaced;
        total.badRowCount += one->badRowCount;
        total.badRows.insert(total.badRows.end(), one->badRows.begin(), one->badRows.end());
        total.cancelled = one->cancelled;
        if (total.cancelled) break;
    }
    return total;
}

}  // namespace

ImportDialog::ImportDialog(Session& session, const QStringList& paths, QWidget* parent)
    : QDialog(parent), session_(session), paths_(paths), path_(paths.value(0)) {
    const QString& path = path_;
    setObjectName("importDialog");
    setWindowTitle("Import " + QFileInfo(path).fileName());
    resize(900, 620);
    build();
    auto file = MappedFile::open(path.toStdString());
    if (file)
        file_ = std::make_shared<MappedFile>(std::move(*file));
    else
        trouble_->setText(QString::fromStdString(file.error().message));
    // A file named like a kind of table most likely is one.
    const int known = kind_->findData(QFileInfo(path).completeBaseName());
    if (known > 0) kind_->setCurrentIndex(known);
    look();
}

void ImportDialog::build() {
    auto* title = makeLabel(
        paths_.size() > 1
            ? QString("%1 and %2 more files like it").arg(QFileInfo(path_).fileName()).arg(paths_.size() - 1)
            : QFileInfo(path_).fileName(),
        "title");
    title->setToolTip(paths_.join("\n"));
    recipes_ = makeChoice("importRecipe", "Recipe", {});
    saveRecipe_ = makeButton("Save as recipe…", "saveRecipe");
    facts_ = makeLabel("", "second");
    facts_->setObjectName("importFacts");
    facts_->setWordWrap(true);
    kind_ = makeChoice("importKind", "What the rows are", {"samples"});
    kind_->setItemData(0, "samples");
    for (const std::string& k : eventKinds())
        kind_->addItem(QString::fromStdString(k).replace('-', ' '), QString::fromStdString(k));
    form_ = makeChoice("importForm", "Form", {"as guessed", "wide: a column a tag", "long: a row a sample"});
    zone_ = makeField("importZone", "Zone");
    zone_->setText(QString::fromStdString(session_.study().setting("zone", "UTC")));
    asset_ = makeField("importAsset", "Asset");
    asset_->setPlaceholderText("where headers name none");
    head_ = new QTableWidget;
    head_->setObjectName("importRows");
    head_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    head_->verticalHeader()->setDefaultSectionSize(20);
    head_->verticalHeader()->hide();
    head_->setShowGrid(true);
    badTitle_ = makeLabel("", "section");
    badModel_ = new RowsModel({"line", "reason", "row"}, this);
    bad_ = makeTable(badModel_, "importBadRows", {60, 360, 0});
    bad_->setFixedHeight(120);
    trouble_ = makeLabel("", "bad");
    trouble_->setObjectName("importTrouble");
    trouble_->setWordWrap(true);
    import_ = makeButton("Import", "importStart", true);
    auto* cancel = makeButton("Cancel", "importCancel");

    auto* choices = new QHBoxLayout;
    choices->setSpacing(8);
    const auto pair = [&](const QString& words, QWidget* w, int width) {
        choices->addWidget(makeLabel(words, "second"));
        w->setFixedWidth(width);
        choices->addWidget(w);
        choices->addSpacing(8);
    };
    pair("Rows are", kind_, 120);
    pair("Form", form_, 150);
    pair("Zone of bare times", zone_, 120);
    pair("Asset", asset_, 150);
    choices->addStretch();
    auto* recipeRow = new QHBoxLayout;
    recipeRow->addWidget(makeLabel("Recipe", "second"));
    recipes_->setFixedWidth(200);
    recipeRow->addWidget(recipes_);
    recipeRow->addWidget(saveRecipe_);
    recipeRow->addStretch();
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(trouble_, 1);
    buttons->addWidget(cancel);
    buttons->addWidget(import_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 14);
    column->setSpacing(8);
    column->addWidget(title);
    column->addWidget(facts_);
    column->addLayout(choices);
    column->addLayout(recipeRow);
    column->addWidget(makeLabel("First rows", "section"));
    column->addWidget(head_, 1);
    column->addWidget(badTitle_);
    column->addWidget(bad_);
    column->addLayout(buttons);
    fillRecipes();
    connect(recipes_, &QComboBox::activated, this, &ImportDialog::useRecipe);
    connect(saveRecipe_, &QPushButton::clicked, this, &ImportDialog::keepRecipe);
    connect(cancel, &QPushButton::clicked, this, &QDialog::reject);
    connect(import_, &QPushButton::clicked, this, &ImportDialog::start);
    connect(kind_, &QComboBox::currentIndexChanged, this, &ImportDialog::look);
    connect(form_, &QComboBox::currentIndexChanged, this, &ImportDialog::look);
    connect(zone_, &QLineEdit::editingFinished, this, &ImportDialog::look);
    connect(asset_, &QLineEdit::textChanged, this, &ImportDialog::look);
}

void ImportDialog::fillRecipes() {
    const QString before = recipes_->currentText();
    recipes_->clear();
    recipes_->addItem("as guessed");
    for (const auto& [name, hints] : recipes(session_.study()))
        recipes_->addItem(QString::fromStdString(name));
    recipes_->setCurrentIndex(std::max(0, recipes_->findText(before)));
}

void ImportDialog::useRecipe() {
    recipe_ = {};
    if (recipes_->currentIndex() > 0)
        if (const auto found = recipeNamed(session_.study(), recipes_->currentText().toStdString()))
            recipe_ = *found;
    form_->setCurrentIndex(recipe_.longForm ? (*recipe_.longForm ? 2 : 1) : 0);
    asset_->setText(QString::fromStdString(recipe_.asset));
    if (!recipe_.zone.empty()) zone_->setText(QString::fromStdString(recipe_.zone));
    look();
}

void ImportDialog::keepRecipe() {
    bool good = false;
    const QString name =
        QInputDialog::getText(this, "Save as recipe", "Name", QLineEdit::Normal,
                              recipes_->currentIndex() > 0 ? recipes_->currentText() : QString(), &good)
            .trimmed();
    if (!good || name.isEmpty()) return;
    session_.tryChange([&] { saveRecipe(session_.study(), name.toStdString(), hints()); });
    fillRecipes();
    recipes_->setCurrentText(name);
}

bool ImportDialog::asEvents() const {
    return kind_->currentIndex() > 0;
}

LayoutHints ImportDialog::hints() const {
    LayoutHints h = recipe_;
    h.longForm.reset();
    if (form_->currentIndex() > 0) h.longForm = form_->currentIndex() == 2;
    h.zone = zone_->text().trimmed().toStdString();
    h.asset = asset_->text().trimmed().toStdString();
    return h;
}

void ImportDialog::look() {
    import_->setEnabled(false);
    trouble_->clear();
    if (!file_) return;
    form_->setEnabled(!asEvents());
    asset_->setEnabled(!asEvents());
    if (asEvents()) return showEvents();
    const auto preview =
        previewImport(&session_.study(), {QFileInfo(path_).fileName().toStdString(), file_->text()}, hints());
    if (!preview) {
        trouble_->setText(QString::fromStdString(preview.error().message));
        badModel_->setRows({});
        badTitle_->clear();
        // Even a file that cannot be imported yet shows its rows: one sees what to say about it.
        if (readHead({"", file_->text()}, 1)) showEvents();
        import_->setEnabled(false);
        return;
    }
    showPreview(*preview);
    import_->setEnabled(true);
}

void ImportDialog::showPreview(const ImportPreview& p) {
    QStringList facts;
    facts << sizeText(p.bytes)
          << QString("%1%L2 rows%3")
                 .arg(p.rowsEstimated ? "about " : "")
                 .arg(p.rows)
                 .arg(p.packed ? " in the first 4 MB, packed" : "")
          << QString("%1 columns").arg(p.header.size()) << (p.layout.longForm ? "long" : "wide")
          << "separator " + separatorName(p.layout.separator)
          << (p.layout.decimalComma ? "decimal comma" : "decimal point")
          << QString("times ") + dateOrderName(p.layout.dateOrder)
          << (p.timesCarryZone ? QString("zone in the times") : "read in " + QString::fromStdString(p.zone));
    if (p.firstTimes) facts << "from " + QString::fromStdString(session_.zone().text(p.firstTimes->from));
    facts << QString("%1 tags in the first rows").arg(p.tags.size());
    facts_->setText(facts.join(" · "));
    head_->clear();
    head_->setColumnCount(static_cast<int>(p.header.size()));
    head_->setRowCount(static_cast<int>(p.firstRows.size()));
    for (std::size_t c = 0; c < p.header.size(); ++c) {
        QString words = QString::fromStdString(p.header[c]);
        if (!p.layout.longForm && p.layout.columns[c].states) words += "  (states)";
        head_->setHorizontalHeaderItem(static_cast<int>(c), new QTableWidgetItem(words));
    }
    for (std::size_t r = 0; r < p.firstRows.size(); ++r)
        for (std::size_t c = 0; c < p.firstRows[r].size() && c < p.header.size(); ++c)
            head_->setItem(static_cast<int>(r), static_cast<int>(c),
                           new QTableWidgetItem(QString::fromStdString(p.firstRows[r][c])));
    head_->resizeColumnsToContents();
    std::vector<RowsModel::Row> bad;
    for (const BadRow& b : p.badRows)
        bad.push_back(
            {b.line,
             {QString::number(b.line), QString::fromStdString(b.reason), QString::fromStdString(b.text)}});
    badTitle_->setText(bad.empty()
                           ? "No bad rows among the first 200"
                           : QString("%1 bad rows among the first 200: they are kept aside").arg(bad.size()));
    badModel_->setRows(std::move(bad));
}

void ImportDialog::showEvents() {
    const auto head = readHead({QFileInfo(path_).fileName().toStdString(), file_->text()}, 12);
    if (!head) {
        trouble_->setText(QString::fromStdString(head.error().message));
        return;
    }
    facts_->setText(
        QString("%1 · separator %2 · %3 columns")
            .arg(sizeText(static_cast<std::int64_t>(file_->text().size())), separatorName(head->separator))
            .arg(head->header.size()));
    head_->clear();
    head_->setColumnCount(static_cast<int>(head->header.size()));
    head_->setRowCount(static_cast<int>(head->rows.size()));
    for (std::size_t c = 0; c < head->header.size(); ++c)
        head_->setHorizontalHeaderItem(static_cast<int>(c),
                                       new QTableWidgetItem(QString::fromStdString(head->header[c])));
    for (std::size_t r = 0; r < head->rows.size(); ++r)
        for (std::size_t c = 0; c < head->rows[r].size() && c < head->header.size(); ++c)
            head_->setItem(static_cast<int>(r), static_cast<int>(c),
                           new QTableWidgetItem(QString::fromStdString(head->rows[r][c])));
    head_->resizeColumnsToContents();
    badTitle_->setText(
        asEvents() ? "Rows with an unknown asset or tag are kept aside and listed after the import" : "");
    badModel_->setRows({});
    import_->setEnabled(asEvents());
}

void ImportDialog::start() {
    const LayoutHints said = hints();
    const auto report = [session = &session_](const Result<ImportResult>& r, qsizetype files) {
        if (!r) return emit session->failed(QString::fromStdString(r.error().message));
        QString words = QString("%L1 rows, %L2 new").arg(r->rows).arg(r->samples);
        if (files > 1) words.prepend(QString("%1 files: ").arg(files));
        if (r->unchanged) words += QString(", %L1 there already").arg(r->unchanged);
        if (r->replaced) words += QString(", %L1 older ones replaced").arg(r->replaced);
        if (r->badRowCount)
            words += QString(", %1 bad rows kept aside (first: line %2, %3)")
                         .arg(r->badRowCount)
                         .arg(r->badRows[0].line)
                         .arg(QString::fromStdString(r->badRows[0].reason));
        emit session->told(r->cancelled ? "Import stopped; what was committed stays. " + words : words);
    };
    if (asEvents()) {
        // Small tables go through the window's own study, so that they can be undone.
        const TextSource source{QFileInfo(path_).fileName().toStdString(), file_->text()};
        const auto result =
            importEvents(session_.study(), source, kind_->currentData().toString().toStdString(), said);
        if (!result) {
            trouble_->setText(QString::fromStdString(result.error().message));
            return;
        }
        session_.announceChange();
        report(result, 1);
        return accept();
    }
    session_.runJob(
        "import " + path_, "Importing " + QFileInfo(path_).fileName(),
        [session = &session_, paths = paths_, said, report](JobContext& job) -> std::function<void()> {
            auto result = std::make_shared<Result<ImportResult>>(importAll(job, paths, said));
            return [session, result, report, files = paths.size()] {
                session->study().refresh();
                session->announceChange();
                report(*result, files);
            };
        },
        true);
    accept();
}

}  // namespace jacinth::app
