// The menus of the window: every command stands in one, with its key.
#include <QInputDialog>
#include <QMenuBar>
#include <QMessageBox>

#include "app/base/file_dialogs.h"
#include "app/base/preferences.h"
#include "app/plot/pane_layout.h"
#include "app/screen/limits_dialog.h"
#include "app/window/bench_table.h"
#include "app/window/derived_dialog.h"
#include "app/window/facts_dialog.h"
#include "app/window/go_to.h"
#include "app/window/imports_dialog.h"
#include "app/window/main_window.h"
#include "app/window/study_windows.h"
#include "app/window/tags_dialog.h"
#include "app/window/trust_dialog.h"
#include "store/write_file.h"
#include "work/report/report.h"
#include "work/settings/study_settings.h"

namespace jacinth::app {
namespace {

constexpr const char* kStudyFiles = "Studies (*.jacinth)";

void collect(const QMenu* menu, const QString& before, std::vector<std::pair<QString, QAction*>>& out) {
    for (QAction* a : menu->actions()) {
        const QString name = before + QString(a->text()).remove('&');
        if (a->menu())
            collect(a->menu(), name + ": ", out);
        else if (!a->isSeparator() && !a->text().isEmpty())
            out.emplace_back(name, a);
    }
}

}  // namespace

void MainWindow::buildMenus() {
    buildFileMenu();
    buildEditMenu();
    buildViewMenu();
    buildLabelMenu();
    buildStudyMenu();
    buildHelpMenu();
    buildGoToField();
}

std::vector<std::pair<QString, QAction*>> MainWindow::commands() const {
    std::vector<std::pair<QString, QAction*>> out;
    for (const QAction* top : menuBar()->actions())
        if (top->menu()) collect(top->menu(), {}, out);
    return out;
}

void MainWindow::buildFileMenu() {
    QMenu* file = menuBar()->addMenu("&File");
    file->addAction("&New study…", QKeySequence::New, this, &MainWindow::askForNewStudy);
    file->addAction("&Open study…", QKeySequence::Open, this, &MainWindow::askForStudy);
    QMenu* recent = file->addMenu("Open &recent");
    connect(recent, &QMenu::aboutToShow, this, [this, recent] {
        recent->clear();
        for (const QString& path : recentStudies())
            recent->addAction(QString(path).replace("&", "&&"), this,
                              [this, path] { emit studyAsked(path); });
        if (recent->isEmpty()) recent->addAction("none yet")->setEnabled(false);
    });
    file->addAction("Open the &demo plant", this, &MainWindow::demoAsked);
    file->addSeparator();
    file->addAction("&Import…", QKeySequence("Ctrl+I"), this, &MainWindow::askForFiles);
    file->addAction("Import a &folder…", this, &MainWindow::askForFolder);
    file->addSeparator();
    file->addAction("Save a &copy…", QKeySequence("Ctrl+Shift+S"), this, &MainWindow::saveCopy);
    file->addAction("&Report…", QKeySequence("Ctrl+P"), this, &MainWindow::writeReport);
    file->addSeparator();
    file->addAction("&Quit", QKeySequence::Quit, this, &QWidget::close);
}

void MainWindow::buildEditMenu() {
    QMenu* edit = menuBar()->addMenu("&Edit");
    undo_ = edit->addAction("&Undo", QKeySequence::Undo, this, [this] { session_->undo(); });
    redo_ = edit->addAction("&Redo", this, [this] { session_->redo(); });
    redo_->setShortcuts({QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")});
    undo_->setObjectName("undo");
    edit->addSeparator();
    edit->addAction("Assets and &tags…", QKeySequence("Ctrl+T"), this, [this] {
        TagsDialog dialog(*session_, session_->view().tag(), this);
        dialog.exec();
    });
    edit->addAction("&Derived tags…", QKeySequence("Ctrl+E"), this, [this] {
        DerivedDialog dialog(*session_, session_->view().tag(), this);
        dialog.exec();
    });
    edit->addAction("&Facts…", QKeySequence("Ctrl+Shift+N"), this,
                    [this] { FactsDialog(*session_, this).exec(); });
    edit->addAction("&Golden limits…", QKeySequence("Ctrl+G"), this, [this] {
        LimitsDialog dialog(*session_, this);
        dialog.exec();
    });
    edit->addAction("&Imports…", QKeySequence("Ctrl+Shift+I"), this, [this] {
        ImportsDialog dialog(*session_, this);
        dialog.exec();
    });
    edit->addAction("&Ledger…", QKeySequence("Ctrl+L"), this, &MainWindow::showLedger);
    edit->addSeparator();
    edit->addAction("&Preferences…", QKeySequence("Ctrl+,"), this, [this] {
        PreferencesDialog dialog(*session_, this);
        connect(&dialog, &PreferencesDialog::themeChosen, this,
                [this](int theme) { setThemeChoice(static_cast<ThemeChoice>(theme)); });
        dialog.exec();
    });
}

void MainWindow::buildViewMenu() {
    QMenu* view = menuBar()->addMenu("&View");
    for (const BenchRow& row : benchTable())
        view->addAction(row.name, QKeySequence(row.key), this, [this, id = row.id] { openBench(id); });
    for (const BenchRow& row : benchTable()) {
        if (!row.pages) continue;
        QMenu* menu = view->addMenu(QString(row.name) + " pages");
        const QStringList names = row.pages();
        for (int i = 0; i < names.size(); ++i)
            menu->addAction(names[i], this, [this, id = row.id, i] {
                turnTo(id);
                qobject_cast<PagedBench*>(bench(id))->turnToPage(i);
            });
    }
    view->addSeparator();
    view->addAction("Back", QKeySequence("Alt+Left"), this, [this] { session_->view().goBack(); });
    view->addAction("Forward", QKeySequence("Alt+Right"), this, [this] { session_->view().goForward(); });
    view->addAction("Whole record", QKeySequence("Ctrl+0"), this, [this] {
        if (session_->view().record().length() > Duration::zero())
            session_->view().setView(session_->view().record());
    });
    view->addAction("Fit values", QKeySequence("Ctrl+Shift+F"), this, [this] {
        for (Bench* made : made_)
            if (made) made->fitValues();
    });
    asLogged_ = view->addAction("Show as logged", QKeySequence("Ctrl+Shift+L"), this, [this](bool on) {
        session_->view().setWhich(on ? Which::AsLogged : Which::Mended);
    });
    asLogged_->setCheckable(true);
    buildLaidOver(view);
    buildPanesMenu(view);
    view->addSeparator();
    view->addAction("Plant panel", QKeySequence("F9"), this,
                    [this] { plant_->setVisible(plant_->isHidden()); });
    view->addAction("Inspector", QKeySequence("F10"), this,
                    [this] { inspectorFrame_->setVisible(inspectorFrame_->isHidden()); });
    QMenu* theme = view->addMenu("Theme");
    theme->addAction("As the desktop", this, [this] { setThemeChoice(ThemeChoice::Desktop); });
    theme->addAction("Light", this, [this] { setThemeChoice(ThemeChoice::Light); });
    theme->addAction("Dark", this, [this] { setThemeChoice(ThemeChoice::Dark); });
}

void MainWindow::buildLaidOver(QMenu* view) {
    const auto add = [&](const char* words, const char* key, bool ViewState::LaidOver::*what) {
        QAction* action = view->addAction(words, QKeySequence(key), this, [this, what](bool on) {
            ViewState::LaidOver now = session_->view().laidOver();
            now.*what = on;
            session_->view().setLaidOver(now);
        });
        action->setCheckable(true);
        const auto follow = [this, action, what] { action->setChecked(session_->view().laidOver().*what); };
        connect(&session_->view(), &ViewState::laidOverChanged, action, follow);
        follow();
    };
    add("Lay the other data over", "Ctrl+Shift+M", &ViewState::LaidOver::other);
    add("Lay what mending changed over", "Ctrl+Shift+D", &ViewState::LaidOver::change);
}

void MainWindow::buildPanesMenu(QMenu* view) {
    QMenu* panes = view->addMenu("Panes");
    panes->addAction("This asset's tags by system", QKeySequence("Ctrl+Shift+A"), this, [this] {
        session_->view().setBench(BenchId::Survey);
        survey()->turnTo(SurveyWay::Traces);
        showAssetBySystem(*session_);
    });
    panes->addAction("Shown tags by unit", this, [this] { arrange(*session_, Arrange::ByUnit); });
    panes->addAction("Shown tags by system", this, [this] { arrange(*session_, Arrange::BySystem); });
    panes->addAction("Each in its own pane", this, [this] { arrange(*session_, Arrange::EachItsOwn); });
    panes->addSeparator();
    panes->addAction("Save layout…", this, [this] {
        bool good = false;
        const QString name =
            QInputDialog::getText(this, "Save layout", "Name", QLineEdit::Normal, {}, &good).trimmed();
        if (good && !name.isEmpty()) saveLayout(*session_, name);
    });
    QMenu* layouts = panes->addMenu("Saved layouts");
    connect(layouts, &QMenu::aboutToShow, this, [this, layouts] {
        layouts->clear();
        for (const QString& name : savedLayouts(*session_))
            layouts->addAction(QString(name).replace("&", "&&"), this,
                               [this, name] { useLayout(*session_, name); });
        if (layouts->isEmpty()) layouts->addAction("none yet")->setEnabled(false);
    });
}

void MainWindow::buildStudyMenu() {
    QMenu* study = menuBar()->addMenu("&Study");
    study->addAction("Go to…", QKeySequence("Ctrl+K"), this, [this] { showGoTo(); });
    soundOnly_ = study->addAction("Only sound data", this, &MainWindow::setSoundOnly);
    soundOnly_->setCheckable(true);
    soundOnly_->setToolTip(
        "Samples of uncertain quality, and stretches that are not trusted, count as missing in every "
        "expression");
    study->addAction("Trust and sign-off…", this, [this] { TrustDialog(*session_, this).exec(); });
    study->addAction("Check the file", this, &MainWindow::checkFile);
}

void MainWindow::buildHelpMenu() {
    QMenu* help = menuBar()->addMenu("&Help");
    help->addAction("Keys", QKeySequence::HelpContents, this, [this] {
        QMessageBox::information(
            this, "Keys",
            "Wheel zooms time at the pointer, Ctrl+wheel values.\nDrag moves; Shift+drag zooms to a box; "
            "double-click fits.\n[ and ] step a view, + and − zoom, Home and End go to the ends.\n"
            "C drops a cursor, Shift+C the second; Esc removes them.\nCtrl+1 to Ctrl+5 change the bench, "
            "Alt+Left and Alt+Right go back and forward.\nCtrl+K goes to anything by name. Space in the "
            "plant panel shows or hides a tag.\n"
            "Screen: G makes a run golden. Label: the key of a kind names the chosen marks, Delete removes "
            "them; Up and Down go through them, Ctrl+Down to the next without a name. A bracket is pulled "
            "whole "
            "or by an end; a band over the brackets chooses several. All others stand in the menu Label.");
    });
    help->addAction("About Jacinth", this, [this] {
        QMessageBox::about(this, "Jacinth",
                           "Jacinth 0.1\n\nFrom raw record to proved rule.\nLicence: GPL-3.0-or-later.");
    });
}

void MainWindow::buildGoToField() {
    goTo_ = makeField("goTo", "Go to");
    goTo_->setPlaceholderText("Go to a tag, run, time or command   Ctrl+K");
    goTo_->setFixedSize(264, 24);
    goTo_->setFocusPolicy(Qt::ClickFocus);
    auto* corner = new QWidget;
    auto* row = new QHBoxLayout(corner);
    row->setContentsMargins(0, 2, 10, 2);
    row->addWidget(goTo_);
    corner->setFixedSize(280, 28);
    menuBar()->setCornerWidget(corner);
    connect(goTo_, &QLineEdit::textEdited, this, [this](const QString& text) {
        goTo_->clear();
        showGoTo(text);
    });
}

void MainWindow::showGoTo(const QString& text) {
    auto* dialog = new GoTo(*session_, commands(), this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->move(mapToGlobal(QPoint(width() - 536, 30)));
    dialog->startWith(text);
    dialog->show();
}

void MainWindow::askForStudy() {
    const QString path = askFileToOpen(this, "Open study", kStudyFiles);
    if (!path.isEmpty()) emit studyAsked(path);
}

void MainWindow::askForNewStudy() {
    const QString path = askFileToSave(this, {"New study", "new study.jacinth", kStudyFiles, false});
    if (!path.isEmpty()) emit newStudyAsked(path);
}

void MainWindow::askForFiles() {
    const QStringList paths =
        askFilesToOpen(this, "Import", "Text files (*.csv *.txt *.tsv *.gz);;All files (*)");
    if (!paths.isEmpty()) importFiles(paths);
}

void MainWindow::askForFolder() {
    const QString path = askFolder(this, "Import a folder of files");
    if (!path.isEmpty()) importFiles({path});
}

void MainWindow::saveCopy() {
    const QString path = askFileToSave(this, {"Save a copy", " copy.jacinth", kStudyFiles});
    if (path.isEmpty()) return;
    // The dialog has asked whether a file that is there may go.
    session_->runJob(this, "copy", "Saving a copy", [this, path](JobContext& job) -> std::function<void()> {
        const Status saved = job.study.saveCopy(path.toStdString(), true, job.progress);
        return [this, path, saved] {
            if (session_->report(saved)) notify("Copy saved as " + path);
        };
    });
}

void MainWindow::writeReport() {
    const QString path = askFileToSave(this, {"Report", " report.html", "HTML (*.html)"});
    if (path.isEmpty()) return;
    session_->runJob(
        this, "report", "Writing the report",
        [this, path, grouping = session_->view().grouping()](JobContext& job) -> std::function<void()> {
            const auto html = reportHtml(job.study, job.progress, grouping);
            const Status written = html ? writeWhole(path.toStdString(), *html) : Status(html.error());
            return [this, path, written] {
                if (session_->report(written)) notify("Report written to " + path);
            };
        });
}

void MainWindow::checkFile() {
    session_->runJob(this, "check", "Checking", [this](JobContext& job) -> std::function<void()> {
        const auto faults = job.study.check(job.progress);
        return [this, faults] {
            if (faults.empty())
                return notify(
                    "The study is clean: every row and block agrees with its checksum, and so does the "
                    "ledger.");
            complain(QString("%1 faults: %2").arg(faults.size()).arg(QString::fromStdString(faults.front())));
            QStringList lines;
            for (const std::string& fault : faults) lines << QString::fromStdString(fault);
            auto* box = new QMessageBox(QMessageBox::Warning, "Check",
                                        QString("%1 faults found").arg(faults.size()), QMessageBox::Ok, this);
            box->setObjectName("faultsBox");
            box->setTextFormat(Qt::PlainText);
            box->setDetailedText(lines.join("\n"));
            box->setAttribute(Qt::WA_DeleteOnClose);
            box->open();
        };
    });
}

void MainWindow::setSoundOnly(bool on) {
    session_->tryChange([&] { setSoundDataOnly(session_->study(), on); });
}

}  // namespace jacinth::app
