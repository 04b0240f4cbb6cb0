#include "app/window/import_dialog.h"

#include <fmt/format.h>

#include <QFileInfo>
#include <QInputDialog>

#include "app/base/preferences.h"
#include "app/base/tables.h"
#include "app/window/import_words.h"
#include "source/recipe.h"
#include "store/imports.h"

namespace jacinth::app {
namespace {

QString separatorName(char c) {
    return c == ',' ? "comma" : c == ';' ? "semicolon" : c == '\t' ? "tab" : QString("“%1”").arg(c);
}

/// A choice whose items carry what a hint says; the first is to leave it to Jacinth.
QComboBox* makeHintChoice(const QString& name, const QString& accessible,
                          std::initializer_list<std::pair<const char*, const char*>> items) {
    QComboBox* out = makeChoice(name, accessible, {"as found"});
    for (const auto& [words, hint] : items) out->addItem(words, hint);
    return out;
}

std::string chosenHint(const QComboBox* choice) {
    return choice->currentData().toString().toStdString();
}

/// Selects the item that stands for a hint; one that no item stands for becomes an item.
void chooseHint(QComboBox* choice, const std::string& hint) {
    const QString text = QString::fromStdString(hint);
    if (!hint.empty() && choice->findData(text) < 0) choice->addItem(text, text);
    choice->setCurrentIndex(hint.empty() ? 0 : choice->findData(text));
}

QString reportOf(const ImportResult& r, qsizetype files) {
    QString words = QString("%L1 rows, %L2 new").arg(r.rows).arg(r.samples);
    if (files > 1) words.prepend(QString("%1 files: ").arg(files));
    if (r.unchanged) words += QString(", %L1 there already").arg(r.unchanged);
    if (r.replaced) words += QString(", %L1 older ones replaced").arg(r.replaced);
    if (r.sameTime) words += QString(", %L1 at a time that a later row has again").arg(r.sameTime);
    for (const auto& [text, count] : r.noValue)
        words += QString(", %L1 without value (“%2”)").arg(count).arg(QString::fromStdString(text));
    if (r.badRowCount || r.badCellCount)
        words += QString("; kept aside: %L1 rows, %L2 cells%3")
                     .arg(r.badRowCount)
                     .arg(r.badCellCount)
                     .arg(r.badRows.empty() ? QString()
                                            : QString(" (first: line %1, %2)")
                                                  .arg(r.badRows[0].line)
                                                  .arg(QString::fromStdString(r.badRows[0].reason)));
    return r.cancelled ? "Import stopped; what was committed stays. " + words : words;
}

/// A file of an import, and how it is read.
struct AskedFile {
    QString path;
    std::string kind;
    LayoutHints hints;
};

/// One file after the other; stops at the first that cannot be read, and says which.
Result<ImportResult> importAll(JobContext& job, const std::vector<AskedFile>& files) {
    ImportResult total;
    const auto all = static_cast<double>(files.size());
    for (std::size_t i = 0; i < files.size() && !total.cancelled; ++i) {
        const AskedFile& f = files[i];
        const auto file = TextSource::at(f.path.toStdString());
        if (!file) return file.error();
        const Progress progress =
            job.progress.part(static_cast<double>(i) / all, static_cast<double>(i + 1) / all);
        const auto one = f.kind.empty() ? importSamples(job.study, *file, f.hints, progress)
                                        : importEvents(job.study, *file, f.kind, f.hints);
        if (!one && i > 0)
            return Error{fmt::format("{}. {} before it came in whole", one.error().message,
                                     i == 1 ? "The file" : fmt::format("The {} files", i))};
        if (!one) return one.error();
        total.add(*one);
    }
    return total;
}

}  // namespace

ImportDialog::ImportDialog(Session& session, const QStringList& paths, QWidget* parent)
    : QDialog(parent), session_(session), dateOrder_(Preferences::load().dateOrder.toStdString()) {
    setObjectName("importDialog");
    resize(900, 620);
    build();
    gather(paths);
    if (alike_.empty()) {
        setWindowTitle("Import");
        if (trouble_->text().isEmpty()) trouble_->setText("No text files are there.");
        import_->setEnabled(false);
        return;
    }
    if (alike_.size() > 1 || alike_.front().paths.size() > 1) resize(900, 760);
    openFile(0);
    if (names_->text().isEmpty()) proposeNames();
    look();
    lookAtOthers();
}

void ImportDialog::build() {
    makeFields();
    makeRows();
    arrange();
    fillRecipes();
    for (QComboBox* c : {times_, separator_, decimal_, encoding_, timeColumn_, clockColumn_, tagColumn_,
                         valueColumn_, qualityColumn_})
        connect(c, &QComboBox::activated, this, &ImportDialog::look);
    connect(times_->lineEdit(), &QLineEdit::editingFinished, this, &ImportDialog::look);
    connect(noValue_, &QLineEdit::editingFinished, this, &ImportDialog::look);
    connect(titleLines_, &QLineEdit::editingFinished, this, &ImportDialog::look);
    connect(recipes_, &QComboBox::activated, this, &ImportDialog::useRecipe);
    connect(saveRecipe_, &QPushButton::clicked, this, &ImportDialog::keepRecipe);
    connect(import_, &QPushButton::clicked, this, &ImportDialog::start);
    connect(kind_, &QComboBox::currentIndexChanged, this, &ImportDialog::look);
    connect(form_, &QComboBox::currentIndexChanged, this, &ImportDialog::look);
    connect(zone_, &QLineEdit::editingFinished, this, &ImportDialog::look);
    connect(asset_, &QLineEdit::textChanged, this, &ImportDialog::look);
}

void ImportDialog::makeFields() {
    recipes_ = makeChoice("importRecipe", "Recipe", {});
    saveRecipe_ = makeButton("Save as recipe…", "saveRecipe");
    facts_ = makeLabel("", "second");
    facts_->setObjectName("importFacts");
    facts_->setWordWrap(true);
    kind_ = makeChoice("importKind", "What the rows are", {"samples"});
    kind_->setItemData(0, "samples");
    for (const std::string& k : eventKinds())
        kind_->addItem(QString::fromStdString(k).replace('-', ' '), QString::fromStdString(k));
    form_ = makeChoice("importForm", "Form",
                       {"as found", "wide: one column per tag", "long: one row per sample"});
    times_ = makeHintChoice("importTimes", "How times are written",
                            {{"year first", "year-first"},
                             {"day first", "day-first"},
                             {"month first", "month-first"},
                             {"seconds since 1970", "epoch-s"},
                             {"milliseconds since 1970", "epoch-ms"}});
    times_->setEditable(true);
    times_->setToolTip("Or a pattern: %d/%m/%y %I:%M %p");
    separator_ = makeHintChoice("importSeparator", "Separator",
                                {{"comma", ","}, {"semicolon", ";"}, {"tab", "tab"}, {"bar", "|"}});
    decimal_ = makeHintChoice("importDecimal", "Decimal mark", {{"point", "."}, {"comma", ","}});
    encoding_ = makeHintChoice("importEncoding", "Encoding",
                               {{"UTF-8", "utf-8"}, {"Latin-1", "latin-1"}, {"UTF-16", "utf-16le"}});
    noValue_ = makeField("importNoValue", "Texts that mean no value");
    noValue_->setPlaceholderText(QString::fromUtf8(kNoValueTexts));
    noValue_->setToolTip("Texts among numbers that mean “no value”, separated by |. Now: " +
                         QString::fromUtf8(kNoValueTexts));
    timeColumn_ = makeHintChoice("importTimeColumn", "Time column", {});
    clockColumn_ = makeHintChoice("importClockColumn", "Column of the time of day", {});
    tagColumn_ = makeHintChoice("importTagColumn", "Tag column", {});
    valueColumn_ = makeHintChoice("importValueColumn", "Value column", {});
    qualityColumn_ = makeHintChoice("importQualityColumn", "Quality column", {});
    titleLines_ = makeField("importTitleLines", "Title lines above the header");
    titleLines_->setPlaceholderText("found");
    titleLines_->setToolTip("Lines above the header that are not part of the table");
    zone_ = makeField("importZone", "Zone");
    zone_->setText(QString::fromStdString(session_.study().setting("zone", "UTC")));
    asset_ = makeField("importAsset", "Asset");
    asset_->setPlaceholderText("where headers name none");
    names_ = makeField("importNames", "What names become");
    names_->setPlaceholderText("{asset}/{tag}");
    names_->setToolTip(
        "A pattern of the names: {area}/{line}/{asset}/{tag}, {asset}-{tag}, {asset}.{tag} …\nFields other "
        "than "
        "asset, tag, role and unit become facts of the asset, by which assets are grouped.");
    assetNames_ = makeField("importAssetNames", "What assets are called");
    assetNames_->setPlaceholderText("{asset}");
    assetNames_->setToolTip(
        "From the fields of the pattern: {line} {asset} keeps the pumps 1 of two lines apart");
    nameTable_ = makeButton("Table…", "importNameTable");
    nameTable_->setToolTip(
        "A CSV file with the columns name, asset, tag, role, unit and facts like area and line");
    units_ = makeChoice("importUnits", "Values in another unit",
                        {"choose what to do", "convert them", "keep the numbers"});
}

void ImportDialog::makeRows() {
    head_ = new QTableWidget;
    head_->setObjectName("importRows");
    head_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    head_->verticalHeader()->setDefaultSectionSize(20);
    head_->verticalHeader()->hide();
    head_->setShowGrid(true);
    namesModel_ = new RowsModel({"name", "asset", "tag", "role", "unit", "groups"}, this);
    namesTable_ = makeTable(namesModel_, "importNamesTable", {230, 130, 130, 110, 60, 0});
    tabs_ = new QTabWidget;
    tabs_->setObjectName("importTabs");
    tabs_->setDocumentMode(true);
    tabs_->addTab(head_, "First rows");
    tabs_->addTab(namesTable_, "Names");
    badTitle_ = makeLabel("", "section");
    badModel_ = new RowsModel({"line", "cell", "reason", "row"}, this);
    bad_ = makeTable(badModel_, "importBadRows", {60, 130, 320, 0});
    bad_->setFixedHeight(120);
    trouble_ = makeLabel("", "bad");
    trouble_->setObjectName("importTrouble");
    trouble_->setWordWrap(true);
    import_ = makeButton("Import", "importStart", true);
}

void ImportDialog::arrange() {
    title_ = makeLabel("", "title");
    makeFileList();
    auto* cancel = makeButton("Cancel", "importCancel");
    connect(cancel, &QPushButton::clicked, this, &QDialog::reject);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(trouble_, 1);
    buttons->addWidget(cancel);
    buttons->addWidget(import_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 14);
    column->setSpacing(8);
    column->addWidget(files_);
    column->addWidget(title_);
    column->addWidget(facts_);
    buildChoices(column);
    buildColumnChoices(column);
    buildNames(column);
    column->addWidget(tabs_, 1);
    column->addWidget(badTitle_);
    column->addWidget(bad_);
    column->addLayout(buttons);
}

void ImportDialog::buildChoices(QVBoxLayout* column) {
    const auto row = [&](std::initializer_list<std::tuple<QString, QWidget*, int>> fields) {
        auto* line = new QHBoxLayout;
        line->setSpacing(8);
        for (const auto& [words, widget, width] : fields) {
            line->addWidget(makeLabel(words, "second"));
            widget->setFixedWidth(width);
            line->addWidget(widget);
            line->addSpacing(6);
        }
        line->addStretch();
        column->addLayout(line);
        return line;
    };
    row({{"Rows are", kind_, 116}, {"Form", form_, 168}, {"Asset", asset_, 150}, {"Recipe", recipes_, 140}})
        ->insertWidget(8 + 4, saveRecipe_);
    row({{"Times", times_, 150},
         {"Zone of bare times", zone_, 116},
         {"Separator", separator_, 104},
         {"Decimals", decimal_, 88},
         {"Encoding", encoding_, 88}});
}

void ImportDialog::buildColumnChoices(QVBoxLayout* column) {
    auto* line = new QHBoxLayout;
    line->setSpacing(8);
    const auto add = [&](const QString& words, QWidget* widget, int width) {
        line->addWidget(makeLabel(words, "second"));
        widget->setFixedWidth(width);
        line->addWidget(widget);
        line->addSpacing(6);
    };
    add("Columns: time", timeColumn_, 100);
    add("time of day", clockColumn_, 84);
    add("tag", tagColumn_, 84);
    add("value", valueColumn_, 84);
    add("quality", qualityColumn_, 84);
    add("No value", noValue_, 90);
    add("Title lines", titleLines_, 56);
    line->addStretch();
    column->addLayout(line);
}

void ImportDialog::fillColumnChoices(const std::vector<std::string>& header, bool longForm) {
    for (QComboBox* c : {timeColumn_, clockColumn_, tagColumn_, valueColumn_, qualityColumn_}) {
        const std::string before = chosenHint(c);
        c->clear();
        c->addItem("as found");
        for (const std::string& h : header) c->addItem(QString::fromStdString(h), QString::fromStdString(h));
        chooseHint(c, before);
    }
    for (QComboBox* c : {tagColumn_, valueColumn_, qualityColumn_}) c->setEnabled(longForm);
}

void ImportDialog::fillRecipes() {
    const QString before = recipes_->currentText();
    recipes_->clear();
    recipes_->addItem("none");
    for (const auto& [name, hints] : recipes(session_.study()))
        recipes_->addItem(QString::fromStdString(name));
    recipes_->setCurrentIndex(std::max(0, recipes_->findText(before)));
}

void ImportDialog::useRecipe() {
    LayoutHints recipe;
    if (recipes_->currentIndex() > 0)
        if (const auto found = recipeNamed(session_.study(), recipes_->currentText().toStdString()))
            recipe = *found;
    showHints(recipe);
    look();
}

/// In the fields; names and units are not part of a recipe.
void ImportDialog::showHints(const LayoutHints& hints) {
    form_->setCurrentIndex(hints.longForm ? (*hints.longForm ? 2 : 1) : 0);
    asset_->setText(QString::fromStdString(hints.asset));
    chooseHint(times_, hints.timeFormat);
    chooseHint(separator_, hints.separator);
    chooseHint(decimal_, hints.decimal);
    chooseHint(encoding_, hints.encoding);
    noValue_->setText(QString::fromStdString(hints.noValue));
    titleLines_->setText(QString::fromStdString(hints.titleLines));
    const std::size_t plus = hints.timeColumn.find('+');
    const bool twoColumns =
        plus != std::string::npos && hints.timeColumn.find('+', plus + 1) == std::string::npos;
    chooseHint(timeColumn_, twoColumns ? hints.timeColumn.substr(0, plus) : hints.timeColumn);
    chooseHint(clockColumn_, twoColumns ? hints.timeColumn.substr(plus + 1) : "");
    chooseHint(tagColumn_, hints.tagColumn);
    chooseHint(valueColumn_, hints.valueColumn);
    chooseHint(qualityColumn_, hints.qualityColumn);
    if (!hints.zone.empty()) zone_->setText(QString::fromStdString(hints.zone));
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
    LayoutHints h;
    // A pattern that is typed stands for no item.
    const QString typed = times_->currentText().trimmed();
    h.timeFormat = typed.contains('%') ? typed.toStdString() : chosenHint(times_);
    h.dateOrder = dateOrder_;
    h.separator = chosenHint(separator_);
    h.decimal = chosenHint(decimal_);
    h.encoding = chosenHint(encoding_);
    h.noValue = noValue_->text().trimmed().toStdString();
    h.titleLines = titleLines_->text().trimmed().toStdString();
    h.timeColumn = chosenHint(timeColumn_);
    if (const std::string clock = chosenHint(clockColumn_); !clock.empty() && !h.timeColumn.empty())
        h.timeColumn += "+" + clock;
    h.tagColumn = chosenHint(tagColumn_);
    h.valueColumn = chosenHint(valueColumn_);
    h.qualityColumn = chosenHint(qualityColumn_);
    if (form_->currentIndex() > 0) h.longForm = form_->currentIndex() == 2;
    h.zone = zone_->text().trimmed().toStdString();
    h.asset = asset_->text().trimmed().toStdString();
    h.names = names();
    h.units = static_cast<OtherUnits>(units_->currentIndex());
    return h;
}

void ImportDialog::look() {
    if (alike_.empty()) return;
    form_->setEnabled(!asEvents());
    for (QWidget* w : std::initializer_list<QWidget*>{asset_, names_, assetNames_, nameTable_})
        w->setEnabled(!asEvents());
    const bool readings = kind_->currentData().toString() == "readings";
    unitsText_->setText("Readings in another unit than their tag's:");
    unitsRow_->setVisible(readings);
    if (!source_) return showQuestions();
    if (asEvents()) return answered(current_, kind_->currentText(), showEvents());
    const auto preview = previewImport(&session_.study(), *source_, hints());
    if (!preview) {
        // Even a file that cannot be imported yet shows its rows: one sees what to say about it.
        showEvents();
        return answered(current_, {}, QString::fromStdString(preview.error().message));
    }
    showPreview(*preview);
    showNames(*preview);
    showUnits(*preview);
    answered(current_, becomesWords(*preview), questionsOf(*preview, units_->currentIndex() == 0));
}

void ImportDialog::showHead(const std::vector<std::string>& header,
                            const std::vector<std::vector<std::string>>& rows) {
    head_->clear();
    head_->setColumnCount(static_cast<int>(header.size()));
    head_->setRowCount(static_cast<int>(rows.size()));
    for (std::size_t c = 0; c < header.size(); ++c)
        head_->setHorizontalHeaderItem(static_cast<int>(c),
                                       new QTableWidgetItem(QString::fromStdString(header[c])));
    for (std::size_t r = 0; r < rows.size(); ++r)
        for (std::size_t c = 0; c < rows[r].size() && c < header.size(); ++c)
            head_->setItem(static_cast<int>(r), static_cast<int>(c),
                           new QTableWidgetItem(QString::fromStdString(rows[r][c])));
    head_->resizeColumnsToContents();
}

void ImportDialog::showPreview(const ImportPreview& p) {
    QStringList facts;
    facts << sizeText(p.bytes)
          << QString("%1%L2 rows%3")
                 .arg(p.rowsEstimated ? "about " : "")
                 .arg(p.rows)
                 .arg(p.packed ? " in the first 4 MB, packed" : "")
          << (p.layout.titleLines > 0
                  ? QString("%1 above the header · %2 columns")
                        .arg(p.layout.titleLines == 1 ? QString("1 title line")
                                                      : QString("%1 title lines").arg(p.layout.titleLines))
                        .arg(p.header.size())
                  : QString("%1 columns").arg(p.header.size()))
          << (p.layout.longForm ? "long" : "wide") << "separator " + separatorName(p.layout.separator)
          << (p.layout.decimalComma ? "decimal comma" : "decimal point")
          << encodingName(p.layout.coding.encoding)
          << (p.layout.timeQuestion.empty()
                  ? "times " + QString::fromStdString(sayTimeFormat(p.layout.timeFormat))
                  : QString("day or month first?"))
          << (p.timesCarryZone ? QString("zone in the times") : "read in " + QString::fromStdString(p.zone));
    if (p.firstTimes) facts << "from " + QString::fromStdString(session_.zone().text(p.firstTimes->from));
    facts << QString("%1 tags in the first rows").arg(p.tags.size());
    for (const auto& [text, count] : p.noValue)
        facts << QString("“%1” means no value").arg(QString::fromStdString(text));
    facts_->setText(facts.join(" · "));
    std::vector<std::string> heads = p.header;
    for (std::size_t c = 0; c < heads.size(); ++c)
        if (!p.layout.longForm && p.layout.columns[c].states) heads[c] += "  (states)";
    showHead(heads, p.firstRows);
    fillColumnChoices(p.header, p.layout.longForm);
    std::vector<RowsModel::Row> bad;
    for (const BadRow& b : p.badRows)
        bad.push_back({b.line,
                       {QString::number(b.line), QString::fromStdString(b.cell),
                        QString::fromStdString(b.reason), QString::fromStdString(b.text)}});
    badTitle_->setText(
        bad.empty()
            ? "No bad rows or cells among the first 200 rows"
            : QString("%1 bad rows and cells among the first 200 rows: they are kept aside").arg(bad.size()));
    bad_->setVisible(!bad.empty());
    badModel_->setRows(std::move(bad));
}

/// Why its rows cannot be shown; empty where they can.
QString ImportDialog::showEvents() {
    const auto parts = partsOf(*source_, hints());
    auto head = parts ? readHead(source_->name, *parts, hints(), 12) : Result<TextHead>(parts.error());
    if (!head) {
        badModel_->setRows({});
        bad_->hide();
        badTitle_->clear();
        return QString::fromStdString(head.error().message);
    }
    facts_->setText(
        QString("%1 · separator %2 · %3 columns · %4")
            .arg(sizeText(static_cast<std::int64_t>(source_->size())), separatorName(head->separator))
            .arg(head->header.size())
            .arg(encodingName(parts->coding.encoding)));
    showHead(head->header, head->rows);
    if (!asEvents()) fillColumnChoices(head->header, true);
    badTitle_->setText(
        asEvents() ? "Rows with an unknown asset or tag are kept aside and listed after the import" : "");
    badModel_->setRows({});
    bad_->hide();
    return {};
}

void ImportDialog::start() {
    alike_[current_].hints = hints();
    alike_[current_].kind = asEvents() ? kind_->currentData().toString().toStdString() : std::string();
    std::vector<AskedFile> asked;
    for (const bool events : {false, true})
        for (const Alike& a : alike_)
            if (a.kind.empty() != events)
                for (const QString& path : a.paths) asked.push_back({path, a.kind, a.hints});
    const QString what =
        asked.size() == 1 ? QFileInfo(asked.front().path).fileName() : QString("%1 files").arg(asked.size());
    session_.runJob(
        &session_, "import " + asked.front().path, "Importing " + what,
        [session = &session_, asked](JobContext& job) -> std::function<void()> {
            auto result = std::make_shared<Result<ImportResult>>(importAll(job, asked));
            return [session, result, files = static_cast<qsizetype>(asked.size())] {
                session->study().refresh();
                session->announceChange();
                if (session->report(*result)) emit session->notified(reportOf(**result, files));
            };
        },
        true);
    accept();
}

}  // namespace jacinth::app
