// What the names of a file become, and values in another unit than the study's.
#include "app/base/file_dialogs.h"
#include "app/window/import_dialog.h"
#include "store/write_file.h"

namespace jacinth::app {

/// What becomes of names, and of values in another unit than the study's.
void ImportDialog::buildNames(QVBoxLayout* column) {
    auto* line = new QHBoxLayout;
    line->setSpacing(8);
    line->addWidget(makeLabel("Names are", "second"));
    line->addWidget(names_, 3);
    line->addSpacing(6);
    line->addWidget(makeLabel("assets are called", "second"));
    line->addWidget(assetNames_, 2);
    line->addWidget(nameTable_);
    column->addLayout(line);
    unitsRow_ = new QWidget;
    unitsRow_->setObjectName("importUnitsRow");
    auto* row = new QHBoxLayout(unitsRow_);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(8);
    unitsText_ = makeLabel("", "bad");
    unitsText_->setWordWrap(true);
    units_->setFixedWidth(170);
    row->addWidget(unitsText_, 1);
    row->addWidget(units_);
    unitsRow_->hide();
    column->addWidget(unitsRow_);
    for (QLineEdit* field : {names_, assetNames_})
        connect(field, &QLineEdit::editingFinished, this, &ImportDialog::look);
    connect(units_, &QComboBox::activated, this, &ImportDialog::look);
    connect(nameTable_, &QPushButton::clicked, this, &ImportDialog::chooseNameTable);
}

void ImportDialog::chooseNameTable() {
    const QString path = askFileToOpen(this, "A table of names", "Tables (*.csv *.txt *.tsv);;All files (*)");
    if (path.isEmpty()) return;
    const auto text = readWhole(path.toStdString());
    if (!session_.report(text)) return;
    auto table = readNameTable(*text);
    if (!table) return trouble_->setText(QString::fromStdString(table.error().message));
    tableOfNames_ = std::move(*table);
    nameTable_->setText(QString("Table: %1 names").arg(tableOfNames_.size()));
    look();
}

NameSettings ImportDialog::names() const {
    NameSettings out;
    const std::string pattern = names_->text().trimmed().toStdString();
    // Left out, this pattern also takes names without a slash: they are tags of the asset that is given.
    if (pattern != "{asset}/{tag}") out.pattern = pattern;
    out.assetName = out.pattern.empty() ? std::string() : assetNames_->text().trimmed().toStdString();
    out.table = tableOfNames_;
    out.onlyTable = onlyTable_;
    return out;
}

void ImportDialog::showNameSettings(const NameSettings& settings) {
    names_->setText(QString::fromStdString(settings.pattern));
    assetNames_->setText(QString::fromStdString(settings.assetName));
    tableOfNames_ = settings.table;
    onlyTable_ = settings.onlyTable;
    nameTable_->setText(tableOfNames_.empty() ? QString("Table…")
                                              : QString("Table: %1 names").arg(tableOfNames_.size()));
}

/// As the names look, where the last import into this study kept nothing.
void ImportDialog::proposeNames() {
    if (!alike_[current_].hints.names.isEmpty() || !source_ || asEvents()) return;
    const auto preview = previewImport(nullptr, *source_, hints());
    if (preview) names_->setText(QString::fromStdString(proposedPattern(rawNames(*preview))));
}

void ImportDialog::showNames(const ImportPreview& p) {
    std::vector<RowsModel::Row> rows;
    for (const auto& [name, m] : p.names) {
        QStringList groups;
        for (const auto* facts : {&m.assetFacts, &m.tagFacts})
            for (const auto& [fact, value] : *facts)
                groups << QString::fromStdString(fact) + " " + QString::fromStdString(value);
        rows.push_back(
            {static_cast<std::int64_t>(rows.size()) + 1,
             {QString::fromStdString(name), QString::fromStdString(m.asset), QString::fromStdString(m.tag),
              QString::fromStdString(m.role.empty() ? roleFromName(m.tag) : m.role),
              QString::fromStdString(m.unit), groups.join(", ")}});
    }
    tabs_->setTabText(1, QString("Names (%1)").arg(rows.size()));
    namesModel_->setRows(std::move(rows));
}

void ImportDialog::showUnits(const ImportPreview& p) {
    QStringList differ;
    bool all = true;
    for (const UnitDifference& u : p.units) {
        if (differ.size() < 3)
            differ << QString("%1 is in %2 here and in %3 in the file")
                          .arg(QString::fromStdString(u.path), QString::fromStdString(u.ofStudy),
                               QString::fromStdString(u.ofFile));
        all = all && u.convertible;
    }
    if (p.units.size() > 3) differ << QString("%1 more").arg(p.units.size() - 3);
    if (!all) differ << "not all can be converted";
    unitsText_->setText(differ.join("; "));
    unitsRow_->setVisible(!differ.isEmpty());
}

}  // namespace jacinth::app
