#include "app/shell/main_window.h"

#include <QButtonGroup>
#include <QCloseEvent>
#include <QDropEvent>
#include <QFileDialog>
#include <QInputDialog>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QProgressBar>
#include <QSettings>
#include <QStackedWidget>
#include <QStatusBar>
#include <QTimer>
#include <QToolButton>
#include <fstream>
#include <nlohmann/json.hpp>

#include "app/plot/pane_layout.h"
#include "app/shell/derived_dialog.h"
#include "app/shell/go_to.h"
#include "app/shell/import_dialog.h"
#include "app/shell/imports_dialog.h"
#include "app/shell/ledger_dialog.h"
#include "app/shell/tags_dialog.h"
#include "source/recipe.h"
#include "work/report.h"

namespace jacinth::app {
namespace {

const std::array<const char*, kBenches> kNames{"Survey", "Mend", "Screen", "Label", "Prove"};
const std::array<const char*, kBenches> kIcons{"survey", "mend", "screen", "label", "prove"};

Theme themeFor(ThemeChoice choice) {
    if (choice == ThemeChoice::Dark) return darkTheme();
    if (choice == ThemeChoice::Light) return lightTheme();
    // Before our own palette is set, the desktop's says which it is.
    static const bool desktopDark = QGuiApplication::palette().window().color().lightness() < 110;
    return desktopDark ? darkTheme() : lightTheme();
}

}  // namespace

MainWindow::MainWindow(std::unique_ptr<Study> study, ThemeChoice choice) {
    const Theme theme = themeFor(choice);
    applyTheme(theme);
    session_ = new Session(std::move(study), theme, this);
    session_->restoreView();
    const BenchId bench = session_->view().bench();
    setAcceptDrops(true);
    resize(1280, 800);
    buildBody();
    buildStatus();
    buildMenus();
    wireBenches();
    followTheme();
    followStudy();
    rail_->button(static_cast<int>(bench))->setChecked(true);
    followBench();
    const QByteArray geometry = QSettings().value("geometry").toByteArray();
    if (!geometry.isEmpty()) restoreGeometry(geometry);
    plant_->setVisible(QSettings().value("plant", true).toBool());
    inspectorFrame_->setVisible(QSettings().value("inspector", true).toBool());
    session_->workOutDerived();  // what another program changed, or a kill left undone
}

MainWindow::~MainWindow() = default;

Bench* MainWindow::current() const {
    return qobject_cast<Bench*>(benches_->currentWidget());
}

void MainWindow::buildBody() {
    auto* body = new QWidget;
    auto* column = new QVBoxLayout(body);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    strip_ = new RecordStrip(*session_);
    column->addWidget(strip_);
    auto* row = new QHBoxLayout;
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    auto* rail = new QWidget;
    buildRail(rail);
    plant_ = new PlantPanel(*session_);
    survey_ = new SurveyBench(*session_);
    mend_ = new MendBench(*session_);
    screen_ = new ScreenBench(*session_);
    label_ = new LabelBench(*session_);
    prove_ = new ProveBench(*session_);
    benches_ = new QStackedWidget;
    inspectors_ = new QStackedWidget;
    for (Bench* b : std::initializer_list<Bench*>{survey_, mend_, screen_, label_, prove_}) {
        benches_->addWidget(b);
        inspectors_->addWidget(b->inspector());
    }
    inspectorFrame_ = new QWidget;
    inspectorFrame_->setObjectName("inspector");
    inspectorFrame_->setAttribute(Qt::WA_StyledBackground);
    inspectorFrame_->setFixedWidth(288);
    auto* frame = new QVBoxLayout(inspectorFrame_);
    frame->setContentsMargins(0, 0, 0, 0);
    frame->addWidget(inspectors_);
    row->addWidget(rail);
    row->addWidget(plant_);
    row->addWidget(benches_, 1);
    row->addWidget(inspectorFrame_);
    column->addLayout(row, 1);
    setCentralWidget(body);
}

void MainWindow::buildRail(QWidget* rail) {
    rail->setObjectName("rail");
    rail->setAttribute(Qt::WA_StyledBackground);
    rail->setFixedWidth(64);
    rail_ = new QButtonGroup(this);
    auto* column = new QVBoxLayout(rail);
    column->setContentsMargins(4, 8, 4, 8);
    column->setSpacing(4);
    for (int i = 0; i < kBenches; ++i) {
        auto* button = new QToolButton;
        button->setText(kNames[static_cast<std::size_t>(i)]);
        button->setObjectName(QString("bench") + kNames[static_cast<std::size_t>(i)]);
        button->setAccessibleName(kNames[static_cast<std::size_t>(i)]);
        button->setToolTip(QString("%1 (Ctrl+%2)").arg(kNames[static_cast<std::size_t>(i)]).arg(i + 1));
        button->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
        button->setIconSize({24, 24});
        button->setCheckable(true);
        button->setAutoRaise(true);
        button->setFixedSize(56, 54);
        rail_->addButton(button, i);
        column->addWidget(button);
    }
    column->addStretch();
    connect(rail_, &QButtonGroup::idClicked, this,
            [this](int id) { session_->view().setBench(static_cast<BenchId>(id)); });
}

void MainWindow::buildStatus() {
    pointer_ = new QLabel;
    message_ = new QLabel;
    message_->setObjectName("statusMessage");
    facts_ = new QLabel;
    facts_->setObjectName("statusFacts");
    progress_ = new QProgressBar;
    progress_->setFixedWidth(110);
    progress_->setTextVisible(false);
    cancel_ = makeButton("Cancel", "cancelJob");
    cancel_->setFixedHeight(22);
    statusBar()->addWidget(pointer_, 1);
    statusBar()->addWidget(message_, 1);
    for (QWidget* w : std::initializer_list<QWidget*>{progress_, cancel_, facts_})
        statusBar()->addPermanentWidget(w);
    statusBar()->setSizeGripEnabled(false);
    progress_->hide();
    cancel_->hide();
    progressDelay_ = new QTimer(this);
    progressDelay_->setSingleShot(true);
    progressDelay_->setInterval(500);
    connect(progressDelay_, &QTimer::timeout, this, [this] {
        if (session_->busy()) progress_->show(), cancel_->show();
    });
    connect(cancel_, &QPushButton::clicked, this, [this] {
        session_->cancelJobs();
        tell("Cancelled");
    });
    connect(session_, &Session::jobProgress, this, [this](const QString& saying, double share) {
        if (!progressDelay_->isActive() && !progress_->isVisible()) progressDelay_->start();
        progress_->setValue(static_cast<int>(share * 100));
        progress_->setToolTip(saying);
    });
    connect(session_, &Session::jobsDone, this,
            [this] { progressDelay_->stop(), progress_->hide(), cancel_->hide(); });
    connect(session_, &Session::failed, this, &MainWindow::complain);
    connect(session_, &Session::told, this, &MainWindow::tell);
}

void MainWindow::buildMenus() {
    QMenu* file = menuBar()->addMenu("&File");
    file->addAction("&Open study…", QKeySequence::Open, this, [this] {
        const QString path = QFileDialog::getOpenFileName(this, "Open study", {}, "Studies (*.jacinth)");
        if (!path.isEmpty()) emit studyAsked(path);
    });
    file->addAction("&Import…", QKeySequence("Ctrl+I"), this, [this] {
        const QStringList paths = QFileDialog::getOpenFileNames(
            this, "Import", {}, "Text files (*.csv *.txt *.tsv *.gz);;All files (*)");
        if (!paths.isEmpty()) importFiles(paths);
    });
    file->addAction("Import a &folder…", this, [this] {
        const QString path = QFileDialog::getExistingDirectory(this, "Import a folder of files");
        if (!path.isEmpty()) importFiles({path});
    });
    file->addSeparator();
    file->addAction("Save a &copy…", this, &MainWindow::saveCopy);
    file->addAction("&Report…", this, &MainWindow::writeReport);
    file->addSeparator();
    file->addAction("&Quit", QKeySequence::Quit, this, &QWidget::close);

    QMenu* edit = menuBar()->addMenu("&Edit");
    undo_ = edit->addAction("&Undo", QKeySequence::Undo, session_, &Session::undo);
    redo_ = edit->addAction("&Redo", session_, &Session::redo);
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
    edit->addAction("&Imports…", this, [this] {
        ImportsDialog dialog(*session_, this);
        dialog.exec();
    });
    edit->addAction("&Ledger…", this, &MainWindow::showLedger);

    QMenu* view = menuBar()->addMenu("&View");
    for (int i = 0; i < kBenches; ++i)
        view->addAction(kNames[static_cast<std::size_t>(i)], QKeySequence(QString("Ctrl+%1").arg(i + 1)),
                        this, [this, i] { session_->view().setBench(static_cast<BenchId>(i)); });
    view->addSeparator();
    view->addAction("Back", QKeySequence("Alt+Left"), this, [this] { session_->view().goBack(); });
    view->addAction("Forward", QKeySequence("Alt+Right"), this, [this] { session_->view().goForward(); });
    view->addAction("Whole record", QKeySequence("Ctrl+0"), this,
                    [this] { session_->view().setView(session_->view().record()); });
    view->addAction("Fit values", this, [this] {
        survey_->plot()->fitValues();
        mend_->plot()->fitValues();
        label_->plot()->fitValues();
    });
    asLogged_ = view->addAction("Show as logged", this, [this](bool on) {
        session_->view().setWhich(on ? Which::AsLogged : Which::Mended);
    });
    asLogged_->setCheckable(true);
    QMenu* panes = view->addMenu("Panes");
    panes->addAction("This asset's tags by system", QKeySequence("Ctrl+Shift+A"), this, [this] {
        session_->view().setBench(BenchId::Survey);
        survey_->turnTo(SurveyWay::Traces);
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
            layouts->addAction(name, this, [this, name] { useLayout(*session_, name); });
        if (layouts->isEmpty()) layouts->addAction("none yet")->setEnabled(false);
    });
    view->addSeparator();
    view->addAction("Plant panel", QKeySequence("F9"), this,
                    [this] { plant_->setVisible(!plant_->isVisible()); });
    view->addAction("Inspector", QKeySequence("F10"), this,
                    [this] { inspectorFrame_->setVisible(!inspectorFrame_->isVisible()); });
    QMenu* theme = view->addMenu("Theme");
    theme->addAction("As the desktop", this, [this] { setThemeChoice(ThemeChoice::Desktop); });
    theme->addAction("Light", this, [this] { setThemeChoice(ThemeChoice::Light); });
    theme->addAction("Dark", this, [this] { setThemeChoice(ThemeChoice::Dark); });

    QMenu* study = menuBar()->addMenu("&Study");
    study->addAction("Go to…", QKeySequence("Ctrl+K"), this, [this] { showGoTo(); });
    soundOnly_ = study->addAction("Only sound data", this, &MainWindow::setSoundOnly);
    soundOnly_->setCheckable(true);
    soundOnly_->setToolTip("Samples of uncertain quality count as missing in every expression");
    study->addAction("Check the file", this, [this] {
        session_->runJob("check", "Checking", [this](JobContext& job) -> std::function<void()> {
            const auto faults = job.study.check();
            return [this, faults] {
                faults.empty() ? tell("The study is clean: every block agrees with its checksum.")
                               : complain(QString("%1 faults: %2")
                                              .arg(faults.size())
                                              .arg(QString::fromStdString(faults.front())));
            };
        });
    });
    QMenu* help = menuBar()->addMenu("&Help");
    help->addAction("Keys", this, [this] {
        QMessageBox::information(
            this, "Keys",
            "Wheel zooms time at the pointer, Ctrl+wheel values.\nDrag moves; Shift+drag zooms to a box; "
            "double-click fits.\n[ and ] step a view, + and − zoom, Home and End go to the ends.\n"
            "C drops a cursor, Shift+C the second; Esc takes them away.\nCtrl+1 to Ctrl+5 change the bench, "
            "Alt+Left and Alt+Right go back and forward.\nCtrl+K goes to anything by name. Space in the "
            "plant panel shows or hides a tag.\n"
            "Screen: G makes a run golden. Label: the key of a kind names the chosen mark, Delete removes "
            "it.");
    });
    help->addAction("About Jacinth", this, [this] {
        QMessageBox::about(this, "Jacinth",
                           "Jacinth 0.1\n\nFrom raw record to proved rule.\nLicence: GPL-3.0-or-later.");
    });

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

void MainWindow::wireBenches() {
    ViewState& view = session_->view();
    connect(&view, &ViewState::benchChanged, this, &MainWindow::followBench);
    connect(session_, &Session::studyChanged, this, &MainWindow::followStudy);
    connect(session_, &Session::themeChanged, this, &MainWindow::followTheme);
    for (const auto signal : {&ViewState::viewChanged, &ViewState::whichChanged})
        connect(&view, signal, this, &MainWindow::updateStatus);
    connect(survey_->plot(), &TimePlot::framed, this, &MainWindow::updateStatus);
    for (Bench* b : std::initializer_list<Bench*>{survey_, mend_, screen_, label_, prove_})
        connect(b, &Bench::pointerMoved, this, [this, b] {
            pointer_->setText(b->pointerText());
            message_->setVisible(pointer_->text().isEmpty());
        });
    connect(survey_, &SurveyBench::labelAsked, this, [this](TimeRange r) {
        session_->view().setBench(BenchId::Label);
        label_->mark(r, session_->view().asset(), 0);
    });
    connect(survey_, &SurveyBench::mendAsked, this, [this](TimeRange r) {
        session_->view().setBench(BenchId::Mend);
        mend_->takeInHand(r);
    });
    connect(survey_, &SurveyBench::ruleAsked, this, [this](const QString& text) {
        session_->view().setBench(BenchId::Prove);
        prove_->startFrom(text);
    });
    connect(screen_, &ScreenBench::momentAsked, this, &MainWindow::goToMoment);
    connect(screen_, &ScreenBench::labelAsked, this, [this](std::int64_t id) {
        session_->view().setBench(BenchId::Label);
        label_->markExcursion(id);
    });
    connect(prove_, &ProveBench::momentAsked, this, &MainWindow::goToMoment);
    connect(strip_, &RecordStrip::itemOpened, this, &MainWindow::openItem);
}

void MainWindow::followBench() {
    const int i = static_cast<int>(session_->view().bench());
    rail_->button(i)->setChecked(true);
    benches_->setCurrentIndex(i);
    inspectors_->setCurrentIndex(i);
    pointer_->clear();
    followTheme();
    current()->entered();
}

void MainWindow::followStudy() {
    const QString undo = QString::fromStdString(session_->study().undoName()),
                  redo = QString::fromStdString(session_->study().redoName());
    undo_->setText(undo.isEmpty() ? "&Undo" : "&Undo " + undo);
    undo_->setEnabled(!undo.isEmpty());
    redo_->setText(redo.isEmpty() ? "&Redo" : "&Redo " + redo);
    redo_->setEnabled(!redo.isEmpty());
    asLogged_->setChecked(session_->view().which() == Which::AsLogged);
    soundOnly_->setChecked(session_->study().setting(kSoundDataOnly) == "yes");
    setWindowTitle(QString::fromStdString(session_->study().path()).section('/', -1) + " – Jacinth");
    updateStatus();
}

void MainWindow::followTheme() {
    const Theme& t = session_->theme();
    for (int i = 0; i < kBenches; ++i) {
        auto* button = qobject_cast<QToolButton*>(rail_->button(i));
        const bool on = button->isChecked();
        button->setIcon(drawnIcon(kIcons[static_cast<std::size_t>(i)], on ? t.accent : t.second, t.accent));
        button->setStyleSheet(
            QString("QToolButton{border:none;border-left:3px solid "
                    "%1;border-radius:4px;background:%2;color:%3;font-size:11px;font-weight:%4;padding-top:"
                    "4px} QToolButton:focus{border:1px solid %5}")
                .arg(on ? t.accent.name() : "transparent", on ? t.softAccent.name() : "transparent",
                     on ? t.accent.name() : t.second.name(), on ? "600" : "400", t.accent.name()));
    }
    setWindowIcon(drawnIcon("jacinth", QColor("#23262D"), lightTheme().accent));
}

void MainWindow::setThemeChoice(ThemeChoice choice) {
    QSettings().setValue("theme", static_cast<int>(choice));
    session_->setTheme(themeFor(choice));
}

void MainWindow::updateStatus() {
    QStringList parts;
    parts << (session_->view().which() == Which::AsLogged ? "as logged" : "mended data");
    if (session_->view().bench() == BenchId::Survey && survey_->plot()->lastFrameMs() > 0)
        parts << QString("frame %1 ms").arg(survey_->plot()->lastFrameMs(), 0, 'f', 0);
    if (session_->study().setting(kSoundDataOnly) == "yes") parts << "only sound data";
    parts << "all times " + QString::fromStdString(session_->zone().name());
    facts_->setText("  " + parts.join(" · ") + "  ");
    asLogged_->setChecked(session_->view().which() == Which::AsLogged);
}

void MainWindow::complain(const QString& message) {
    pointer_->clear();
    message_->setVisible(true);
    message_->setStyleSheet(QString("color: %1").arg(session_->theme().accent.name()));
    message_->setText(message);
}

void MainWindow::tell(const QString& message) {
    pointer_->clear();
    message_->setVisible(true);
    message_->setStyleSheet({});
    message_->setText(message);
}

void MainWindow::goToMoment(TimeRange range, std::int64_t tag) {
    if (const Tag* t = session_->tag(tag)) {
        session_->lookAt(t->asset, tag);
        std::vector<std::int64_t> shown = session_->view().shown();
        if (std::find(shown.begin(), shown.end(), tag) == shown.end()) shown.insert(shown.begin(), tag);
        session_->view().setShown(std::move(shown));
    }
    session_->view().setBench(BenchId::Survey);
    session_->view().goTo(range.from, range.to);
    session_->view().setCursor(0, range.from);
    session_->view().setCursor(1, range.to);
}

void MainWindow::openItem(int row, std::int64_t id) {
    const std::array<BenchId, 5> benches{BenchId::Screen, BenchId::Screen, BenchId::Label, BenchId::Prove,
                                         BenchId::Mend};
    session_->view().setBench(benches[static_cast<std::size_t>(row)]);
    current()->open(id);
}

void MainWindow::showGoTo(const QString& text) {
    QList<QAction*> commands;
    for (QAction* top : menuBar()->actions())
        if (top->menu())
            for (QAction* a : top->menu()->actions())
                if (!a->menu() && !a->isSeparator()) commands << a;
    auto* dialog = new GoTo(*session_, commands, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->move(mapToGlobal(QPoint(width() - 536, 30)));
    dialog->startWith(text);
    dialog->show();
}

void MainWindow::importFiles(const QStringList& paths) {
    // Files with one and the same header are one import of many; others are asked about one by one.
    std::vector<std::pair<std::string, QStringList>> groups;
    for (const QString& path : paths) {
        const auto files = filesAt(path.toStdString());
        if (!session_->tell(files)) return;
        for (const std::string& file : *files) {
            const std::string header = headerOf(file);
            const auto same = std::find_if(groups.begin(), groups.end(), [&](const auto& g) {
                return !header.empty() && g.first == header;
            });
            if (same != groups.end())
                same->second << QString::fromStdString(file);
            else
                groups.push_back({header, {QString::fromStdString(file)}});
        }
    }
    for (const auto& [header, files] : groups) {
        ImportDialog dialog(*session_, files, this);
        if (dialog.exec() != QDialog::Accepted) return;
    }
}

void MainWindow::saveCopy() {
    const QString path = QFileDialog::getSaveFileName(this, "Save a copy", {}, "Studies (*.jacinth)");
    if (!path.isEmpty() && session_->tell(session_->study().saveCopy(path.toStdString())))
        tell("Copy saved as " + path);
}

void MainWindow::writeReport() {
    const QString path = QFileDialog::getSaveFileName(this, "Report", "report.html", "HTML (*.html)");
    if (path.isEmpty()) return;
    session_->runJob("report", "Writing the report", [this, path](JobContext& job) -> std::function<void()> {
        std::ofstream file(path.toStdString());
        file << reportHtml(job.study) << std::flush;
        const bool good = file.good();
        return [this, path, good] {
            good ? tell("Report written to " + path) : complain(path + " cannot be written");
        };
    });
}

void MainWindow::setSoundOnly(bool on) {
    session_->tryChange([&] {
        Study& study = session_->study();
        Transaction transaction(study.database());
        study.setSetting(kSoundDataOnly, on ? "yes" : "no");
        study.enterInLedger(on ? "only sound data" : "uncertain data counts", "", {});
        transaction.commit();
    });
}

void MainWindow::showLedger() {
    auto* dialog = new LedgerDialog(*session_, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->show();
}

void MainWindow::closeEvent(QCloseEvent* e) {
    session_->saveView();
    QSettings settings;
    settings.setValue("geometry", saveGeometry());
    settings.setValue("plant", plant_->isVisible());
    settings.setValue("inspector", inspectorFrame_->isVisible());
    QMainWindow::closeEvent(e);
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
    QStringList paths;
    for (const QUrl& url : e->mimeData()->urls()) {
        const QString path = url.toLocalFile();
        if (path.endsWith(".jacinth")) {
            emit studyAsked(path);
            return;
        }
        if (!path.isEmpty()) paths << path;
    }
    e->acceptProposedAction();
    // After the drop has ended: the dialog must not hold up whoever dragged.
    QTimer::singleShot(0, this, [this, paths] { importFiles(paths); });
}

}  // namespace jacinth::app
