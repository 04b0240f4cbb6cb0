// The menu Label: what can be done with marks, each with its key; it turns to the bench first.
#include <QFileInfo>
#include <QMenuBar>

#include "app/base/file_dialogs.h"
#include "app/base/swatch.h"
#include "app/window/cut_out_dialog.h"
#include "app/window/label_import_dialog.h"
#include "app/window/main_window.h"
#include "store/judgement.h"
#include "store/write_file.h"
#include "work/label/label_files.h"
#include "work/label/labels.h"

namespace jacinth::app {

void MainWindow::buildLabelMenu() {
    QMenu* menu = menuBar()->addMenu("&Label");
    const auto add = [&](const QString& words, const char* key, auto run) {
        menu->addAction(words, QKeySequence(key), this, [this, run] {
            turnTo(BenchId::Label);
            label()->turnTo(LabelWay::Marks);
            run(*label()->marks());
        });
    };
    QMenu* names = menu->addMenu("Name the chosen marks");
    connect(names, &QMenu::aboutToShow, this, [this, names] {
        names->clear();
        for (const LabelKind& k : session_->study().judgement().labelBook())
            names->addAction(swatchIcon(onGround(session_->theme(), QString::fromStdString(k.colour))),
                             QString::fromStdString(k.name).replace("&", "&&"), this, [this, name = k.name] {
                                 turnTo(BenchId::Label);
                                 label()->marks()->name(name);
                             });
    });
    add("Split at the cursor", "Ctrl+B", [](MarksPage& m) { m.splitChosen(); });
    add("Make one of the chosen marks", "Ctrl+M", [](MarksPage& m) { m.mergeChosen(); });
    add("Snap to samples", "Ctrl+J", [](MarksPage& m) { m.snapChosen(); });
    add("Take the start in hand", "Ctrl+Left", [](MarksPage& m) { m.holdEdge(true); });
    add("Take the end in hand", "Ctrl+Right", [](MarksPage& m) { m.holdEdge(false); });
    add("Move a sample earlier", "Ctrl+Shift+Left", [](MarksPage& m) { m.nudge(-1); });
    add("Move a sample later", "Ctrl+Shift+Right", [](MarksPage& m) { m.nudge(1); });
    add("Remove the chosen marks", "Ctrl+Shift+Del", [](MarksPage& m) { m.removeChosen(); });
    menu->addSeparator();
    add("Next mark", "Ctrl+PgDown", [](MarksPage& m) { m.step(1); });
    add("Previous mark", "Ctrl+PgUp", [](MarksPage& m) { m.step(-1); });
    add("Next not named yet", "Ctrl+Down", [](MarksPage& m) { m.nextUnnamed(1); });
    add("Previous not named yet", "Ctrl+Up", [](MarksPage& m) { m.nextUnnamed(-1); });
    add("Choose all in the list", "Ctrl+Shift+E", [](MarksPage& m) { m.chooseAllShown(); });
    add("Evidence beside the traces", "Ctrl+Shift+V",
        [](MarksPage& m) { m.showEvidence(!m.showsEvidence()); });
    add("More like this", "Ctrl+Shift+K", [](MarksPage& m) { m.searchAlike(); });
    menu->addSeparator();
    menu->addAction("Label book…", this, [this] {
        turnTo(BenchId::Label);
        label()->editBook();
    });
    menu->addAction("Import labels…", this, &MainWindow::importLabelsFrom);
    menu->addAction("Export labels…", this, &MainWindow::exportLabels);
    menu->addAction("Cut out their data…", this, &MainWindow::cutOutLabels);
}

void MainWindow::importLabelsFrom() {
    const QString path = askFileToOpen(this, "Import labels", "Labels (*.csv *.json *.txt);;All files (*)");
    if (path.isEmpty()) return;
    const auto text = readWhole(path.toStdString());
    if (session_->report(text)) LabelImportDialog(*session_, QFileInfo(path).fileName(), *text, this).exec();
}

void MainWindow::cutOutLabels() {
    CutOutDialog(*session_, label()->marks()->chosen(), this).exec();
}

void MainWindow::exportLabels() {
    const QString path = askFileToSave(
        this, {"Export labels", " labels.csv", "CSV (*.csv);;JSON with the label book (*.json)"});
    if (path.isEmpty()) return;
    const auto labels = labelsOf(session_->study());
    const bool json = path.endsWith(".json", Qt::CaseInsensitive);
    const std::string text =
        json ? labelsAsJson(session_->study(), labels) : labelsAsCsv(session_->study(), labels, true);
    if (session_->report(writeWhole(path.toStdString(), text)))
        notify(QString("%1 labels written to %2").arg(labels.size()).arg(path));
}

}  // namespace jacinth::app
