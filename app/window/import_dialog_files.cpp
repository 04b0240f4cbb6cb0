// The files of one import: what each becomes, and what has to be said of it first.
#include <QFileInfo>

#include "app/window/import_dialog.h"
#include "app/window/import_words.h"
#include "source/import_plan.h"
#include "source/recipe.h"

namespace jacinth::app {

void ImportDialog::gather(const QStringList& paths) {
    std::vector<std::string> all;
    for (const QString& path : paths) all.push_back(path.toStdString());
    const auto planned = planImport(all);
    if (!planned) {
        trouble_->setText(QString::fromStdString(planned.error().message));
        return;
    }
    LayoutHints begin;
    begin.dateOrder = dateOrder_;
    begin.names = nameSettingsFrom(session_.study().setting(kNamesSetting));
    begin.zone = session_.study().setting("zone", "UTC");
    for (const PlannedFile& f : *planned) {
        const std::string header = headerOf(f.path);
        const auto same = std::find_if(alike_.begin(), alike_.end(), [&](const Alike& a) {
            return !header.empty() && a.header == header && a.kind == f.eventKind;
        });
        if (same != alike_.end())
            same->paths << QString::fromStdString(f.path);
        else
            alike_.push_back({header, f.eventKind, {QString::fromStdString(f.path)}, begin, {}, {}});
    }
}

void ImportDialog::makeFileList() {
    filesModel_ = new RowsModel({"file", "becomes", "size"}, this);
    files_ = makeTable(filesModel_, "importFiles", {260, 0, 80});
    files_->setAccessibleName("Files of this import");
    files_->hide();
    connect(files_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this] {
        const std::int64_t key = currentKey(files_);
        if (key <= 0) return;
        // Keys count the files in the order of the list.
        std::int64_t before = 0;
        for (std::size_t i = 0; i < alike_.size(); ++i) {
            before += alike_[i].paths.size();
            if (key > before) continue;
            if (i != current_) {
                openFile(i);
                look();
            }
            return;
        }
    });
}

/// In the list the name of the file stands beside it already.
QString ImportDialog::questionOn(const Alike& a) {
    QString words = a.question.section('\n', 0, 0);
    if (const QString name = QFileInfo(a.paths.front()).fileName() + ": "; words.startsWith(name))
        words.remove(0, name.size());
    return words;
}

void ImportDialog::fillFileList() {
    std::vector<RowsModel::Row> rows;
    std::int64_t currentRow = 0;
    for (std::size_t i = 0; i < alike_.size(); ++i) {
        const Alike& a = alike_[i];
        if (i == current_) currentRow = static_cast<std::int64_t>(rows.size()) + 1;
        for (const QString& path : a.paths) {
            const QString first = a.paths.size() > 1 && path != a.paths.front()
                                      ? "like " + QFileInfo(a.paths.front()).fileName()
                                      : QString();
            QString becomes = !a.question.isEmpty() ? questionOn(a)
                              : !first.isEmpty()    ? first
                              : a.becomes.isEmpty() ? QString("…")
                                                    : a.becomes;
            RowsModel::Row row{static_cast<std::int64_t>(rows.size()) + 1,
                               {QFileInfo(path).fileName(), becomes, sizeText(QFileInfo(path).size())}};
            if (!a.question.isEmpty()) row.ink = session_.theme().accent;
            row.sortBy(2, static_cast<std::int64_t>(QFileInfo(path).size()));
            rows.push_back(std::move(row));
        }
    }
    files_->setVisible(rows.size() > 1);
    files_->setFixedHeight(26 + 21 * std::clamp<int>(static_cast<int>(rows.size()), 2, 7));
    const QSignalBlocker quiet(files_->selectionModel());
    filesModel_->setRows(std::move(rows));
    files_->selectRow(filesModel_->rowOf(currentRow));
}

/// What was said of the files so far stays with them.
void ImportDialog::openFile(std::size_t alike) {
    if (source_ && alike != current_) {
        alike_[current_].hints = hints();
        alike_[current_].kind = asEvents() ? kind_->currentData().toString().toStdString() : std::string();
    }
    current_ = alike;
    Alike& a = alike_[alike];
    path_ = a.paths.front();
    setWindowTitle("Import " + QFileInfo(path_).fileName());
    title_->setText(a.paths.size() > 1
                        ? QFileInfo(path_).fileName() +
                              (a.paths.size() == 2
                                   ? QString(" and one more file like it")
                                   : QString(" and %1 more files like it").arg(a.paths.size() - 1))
                        : QFileInfo(path_).fileName());
    title_->setToolTip(a.paths.join("\n"));
    source_.reset();
    if (auto file = TextSource::at(path_.toStdString()))
        source_ = std::move(*file);
    else
        a.question = QString::fromStdString(file.error().message);
    const QSignalBlocker kind(kind_), form(form_), asset(asset_);
    kind_->setCurrentIndex(a.kind.empty() ? 0 : kind_->findData(QString::fromStdString(a.kind)));
    recipes_->setCurrentIndex(0);
    for (QComboBox* c : {timeColumn_, clockColumn_, tagColumn_, valueColumn_, qualityColumn_})
        c->setCurrentIndex(0);
    showHints(a.hints);
    showNameSettings(a.hints.names);
    units_->setCurrentIndex(static_cast<int>(a.hints.units));
    fillFileList();
}

/// In the background: a folder may hold many files, and each is read at its start, middle and end.
void ImportDialog::lookAtOthers() {
    for (std::size_t i = 0; i < alike_.size(); ++i) {
        if (i == current_) continue;
        const Alike a = alike_[i];
        if (!a.kind.empty()) {
            answered(i, QString::fromStdString(a.kind).replace('-', ' '), {});
            continue;
        }
        const std::string name = "import file " + std::to_string(i);
        session_.reader().ask(this, name.c_str(), [this, i, a](Study& study) -> BackgroundReader::Deliver {
            LayoutHints hints = a.hints;
            const auto file = TextSource::at(a.paths.front().toStdString());
            auto preview = file ? previewImport(&study, *file, hints) : Result<ImportPreview>(file.error());
            if (preview && hints.names.isEmpty())
                if (hints.names.pattern = proposedPattern(rawNames(*preview)); !hints.names.pattern.empty())
                    preview = previewImport(&study, *file, hints);
            const QString becomes = preview ? becomesWords(*preview) : QString();
            const QString question =
                preview ? questionsOf(*preview, true) : QString::fromStdString(preview.error().message);
            return [this, i, becomes, question, names = hints.names] {
                if (i == current_) return;  // it was opened meanwhile and says so itself
                alike_[i].hints.names = names;
                answered(i, becomes, question);
            };
        });
    }
}

void ImportDialog::answered(std::size_t alike, const QString& becomes, const QString& question) {
    alike_[alike].becomes = becomes;
    alike_[alike].question = question;
    fillFileList();
    showQuestions();
}

/// Nothing is imported before every file can be.
void ImportDialog::showQuestions() {
    const auto open =
        std::count_if(alike_.begin(), alike_.end(), [](const Alike& a) { return !a.question.isEmpty(); });
    const bool known = std::all_of(alike_.begin(), alike_.end(), [](const Alike& a) {
        return !a.becomes.isEmpty() || !a.question.isEmpty();
    });
    QString words = alike_[current_].question;
    if (words.isEmpty() && open > 0)
        words = open == 1 ? QString("One file above needs an answer first: choose it.")
                          : QString("%1 files above need an answer first: choose them.").arg(open);
    trouble_->setText(words);
    import_->setEnabled(open == 0 && known);
}

}  // namespace jacinth::app
