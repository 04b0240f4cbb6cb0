#include "app/window/main_window.h"

#include <QApplication>
#include <QButtonGroup>
#include <QCloseEvent>
#include <QDropEvent>
#include <QFileInfo>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QProgressBar>
#include <QSettings>
#include <QStackedWidget>
#include <QStatusBar>
#include <QTimer>
#include <QToolButton>

#include "app/base/whole_text_tips.h"
#include "app/window/bench_table.h"
#include "app/window/import_dialog.h"
#include "app/window/imports_dialog.h"
#include "app/window/ledger_dialog.h"
#include "app/window/replaced_bar.h"
#include "app/window/study_windows.h"
#include "app/window/welcome_page.h"
#include "core/base/overloaded.h"
#include "source/recipe.h"
#include "store/history.h"

namespace jacinth::app {
namespace {

// With a title bar the window fits a screen of 800 pixels.
constexpr int kOpeningHeight = 760;

Theme themeFor(ThemeChoice choice) {
    if (choice == ThemeChoice::Dark) return darkTheme();
    if (choice == ThemeChoice::Light) return lightTheme();
    // Before our own palette is set, the desktop's says which it is.
    static const bool desktopDark = QGuiApplication::palette().window().color().lightness() < 110;
    return desktopDark ? darkTheme() : lightTheme();
}

}  // namespace

MainWindow::MainWindow(std::unique_ptr<Study> study, ThemeChoice choice) {
    choice_ = choice;
    const Theme theme = themeFor(choice);
    applyTheme(theme);
    session_ = new Session(std::move(study), theme, this);
    session_->restoreView();
    const BenchId bench = session_->view().bench();
    // Where file dialogs begin.
    setWindowFilePath(QString::fromStdString(session_->study().path()));
    setAcceptDrops(true);
    resize(1280, kOpeningHeight);
    buildBody();
    buildStatus();
    buildMenus();
    wire();
    followTheme();
    followStudy();
    rail_->button(static_cast<int>(bench))->setChecked(true);
    followBench();
    const QByteArray geometry = QSettings().value("geometry").toByteArray();
    if (!geometry.isEmpty()) restoreGeometry(geometry);
    plant_->setVisible(QSettings().value("plant", true).toBool());
    inspectorFrame_->setVisible(QSettings().value("inspector", true).toBool());
    followTips();
    if (session_->study().readOnly())
        notify(session_->study().isNewer()
                   ? "This study was made by a newer Jacinth: it is shown for reading only."
                   : "This study cannot be written: it is shown for reading only.");
    else
        session_->recalculateDerived();  // what another program changed, or a kill left undone
    lookForDamage();
}

/// One filter for the application shows whole what a narrow field or cell cuts off.
void MainWindow::followTips() {
    if (qApp->findChild<QObject*>("wholeTextTips")) return;
    auto* tips = new WholeTextTips(qApp);
    tips->setObjectName("wholeTextTips");
    qApp->installEventFilter(tips);
}

/// What of the file is damaged and not used: the rest is open.
void MainWindow::lookForDamage() {
    session_->runJob(this, "damage", "Looking for damage", [this](JobContext& job) -> std::function<void()> {
        return [this, damage = job.study.damage()] { sayDamage(damage); };
    });
}

void MainWindow::sayDamage(const std::vector<std::string>& damage) {
    if (damage.empty()) return;
    constexpr std::size_t kMostLines = 12;
    QStringList lines;
    for (std::size_t i = 0; i < std::min(damage.size(), kMostLines); ++i)
        lines << "• " + QString::fromStdString(damage[i]);
    if (damage.size() > kMostLines)
        lines << QString("… and %1 more; Study › Check the file lists all").arg(damage.size() - kMostLines);
    auto* box = new QMessageBox(QMessageBox::Warning, "Damage in the study",
                                "Some of this study is damaged. It is not used; everything else is open.",
                                QMessageBox::Ok, this);
    box->setObjectName("damageBox");
    box->setTextFormat(Qt::PlainText);
    box->setInformativeText(lines.join("\n"));
    box->setAttribute(Qt::WA_DeleteOnClose);
    box->open();
    complain(QString("%1 things in this study are damaged and not used").arg(damage.size()));
}

MainWindow::~MainWindow() = default;

Bench* MainWindow::bench(BenchId id) {
    Bench*& known = made_[static_cast<std::size_t>(id)];
    if (known) return known;
    Bench* const made = known = benchTable()[static_cast<std::size_t>(id)].make(*session_);
    benches_->addWidget(made);
    QWidget*& side = sides_[static_cast<std::size_t>(id)];
    side = made->hasPages() ? made->inspector() : makeScrolled(made->inspector());
    inspectors_->addWidget(side);
    connect(made, &Bench::asked, this, &MainWindow::answer);
    connect(made, &Bench::pointerMoved, this, [this, made] {
        pointer_->setText(made->pointerText());
        message_->setVisible(pointer_->text().isEmpty());
    });
    return made;
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
    benches_ = new QStackedWidget;
    inspectors_ = new QStackedWidget;
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
    welcome_ = new WelcomePage;
    connect(welcome_, &WelcomePage::importAsked, this, &MainWindow::askForFiles);
    connect(welcome_, &WelcomePage::folderAsked, this, &MainWindow::askForFolder);
    connect(welcome_, &WelcomePage::demoAsked, this, &MainWindow::demoAsked);
    connect(welcome_, &WelcomePage::openAsked, this, &MainWindow::askForStudy);
    connect(welcome_, &WelcomePage::recentAsked, this, &MainWindow::studyAsked);
    whole_ = new QStackedWidget;
    whole_->addWidget(body);
    whole_->addWidget(welcome_);
    replacedBar_ = new ReplacedBar(*session_);
    connect(replacedBar_, &ReplacedBar::openAsked, this, &MainWindow::studyAsked);
    auto* all = new QWidget;
    auto* rows = new QVBoxLayout(all);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(0);
    rows->addWidget(replacedBar_);
    rows->addWidget(whole_, 1);
    setCentralWidget(all);
}

/// Nothing was put in yet: neither samples nor recorded events.
bool MainWindow::hasRecord() const {
    return !session_->study().catalog().tags().empty() ||
           session_->study().record().length() > Duration::zero();
}

void MainWindow::buildRail(QWidget* rail) {
    rail->setObjectName("rail");
    rail->setAttribute(Qt::WA_StyledBackground);
    rail->setFixedWidth(64);
    rail_ = new QButtonGroup(this);
    auto* column = new QVBoxLayout(rail);
    column->setContentsMargins(4, 8, 4, 8);
    column->setSpacing(4);
    for (const BenchRow& row : benchTable()) {
        auto* button = new QToolButton;
        button->setText(row.name);
        button->setObjectName(QString("bench") + row.name);
        button->setAccessibleName(row.name);
        button->setToolTip(QString("%1 (%2)").arg(row.name, row.key));
        button->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
        button->setIconSize({24, 24});
        button->setCheckable(true);
        button->setAutoRaise(true);
        button->setFixedSize(56, 54);
        rail_->addButton(button, static_cast<int>(row.id));
        column->addWidget(button);
    }
    column->addStretch();
    connect(rail_, &QButtonGroup::idClicked, this, [this](int id) { openBench(static_cast<BenchId>(id)); });
}

void MainWindow::buildStatus() {
    pointer_ = new QLabel;
    message_ = new QLabel;
    message_->setObjectName("statusMessage");
    for (QLabel* label : {pointer_, message_}) label->setTextFormat(Qt::PlainText);
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
        notify("Cancelled");
    });
    connect(session_, &Session::jobProgress, this, [this](const QString& saying, double share) {
        if (!progressDelay_->isActive() && !progress_->isVisible()) progressDelay_->start();
        progress_->setValue(static_cast<int>(share * 100));
        progress_->setToolTip(saying);
    });
    connect(session_, &Session::jobsDone, this,
            [this] { progressDelay_->stop(), progress_->hide(), cancel_->hide(); });
    connect(session_, &Session::failed, this, &MainWindow::complain);
    connect(session_, &Session::notified, this, &MainWindow::notify);
    connect(session_, &Session::stepOfAnother, this, &MainWindow::askAboutStep);
    connect(session_, &Session::importIsLast, this, &MainWindow::askPastImport);
}

void MainWindow::wire() {
    ViewState& view = session_->view();
    connect(&view, &ViewState::benchChanged, this, &MainWindow::followBench);
    connect(session_, &Session::studyChanged, this, &MainWindow::followStudy);
    connect(session_, &Session::themeChanged, this, &MainWindow::followTheme);
    for (const auto signal : {&ViewState::viewChanged, &ViewState::whichChanged})
        connect(&view, signal, this, &MainWindow::updateStatus);
    connect(strip_, &RecordStrip::itemOpened, this, &MainWindow::openItem);
}

void MainWindow::answer(const Request& request) {
    std::visit(Overloaded{[this](const ShowMoment& r) { goToMoment(r.range, r.tag); },
                          [this](const LabelStretch& r) {
                              turnTo(BenchId::Label);
                              label()->mark(r.range, session_->view().asset());
                          },
                          [this](const LabelExcursion& r) {
                              turnTo(BenchId::Label);
                              label()->markExcursion(r.excursion);
                          },
                          [this](const MendStretch& r) {
                              turnTo(BenchId::Mend);
                              mend()->takeInHand(r.range);
                          },
                          [this](const ProveRule& r) {
                              turnTo(BenchId::Prove);
                              prove()->startFrom(r.text);
                          }},
               request);
}

void MainWindow::openBench(BenchId id) {
    opening_.reset();
    if (made_[static_cast<std::size_t>(id)] || !isVisible()) return turnTo(id);
    bench(id);
    opening_ = id;
    QMetaObject::invokeMethod(
        this,
        [this, id] {
            if (std::exchange(opening_, std::nullopt) == id) turnTo(id);
        },
        Qt::QueuedConnection);
}

void MainWindow::followBench() {
    opening_.reset();
    const int i = static_cast<int>(session_->view().bench());
    rail_->button(i)->setChecked(true);
    benches_->setCurrentWidget(current());
    inspectors_->setCurrentWidget(sides_[static_cast<std::size_t>(i)]);
    pointer_->clear();
    followTheme();
    current()->entered();
}

void MainWindow::followStudy() {
    const QString undo = QString::fromStdString(session_->study().history().undoName()),
                  redo = QString::fromStdString(session_->study().history().redoName());
    undo_->setText(undo.isEmpty() ? "&Undo" : "&Undo " + undo);
    undo_->setEnabled(!undo.isEmpty());
    redo_->setText(redo.isEmpty() ? "&Redo" : "&Redo " + redo);
    redo_->setEnabled(!redo.isEmpty());
    asLogged_->setChecked(session_->view().which() == Which::AsLogged);
    soundOnly_->setChecked(session_->study().setting(kSoundDataOnly) == "yes");
    const bool empty = !hasRecord();
    if (empty) {
        QStringList recent = recentStudies();
        recent.removeAll(QFileInfo(QString::fromStdString(session_->study().path())).absoluteFilePath());
        welcome_->setRecent(recent);
    }
    whole_->setCurrentIndex(empty ? 1 : 0);
    setWindowTitle(QString::fromStdString(session_->study().path()).section('/', -1) +
                   (session_->study().readOnly() ? " (for reading only) – Jacinth" : " – Jacinth"));
    updateStatus();
}

void MainWindow::followTheme() {
    const Theme& t = session_->theme();
    for (const BenchRow& row : benchTable()) {
        auto* button = qobject_cast<QToolButton*>(rail_->button(static_cast<int>(row.id)));
        const bool on = button->isChecked();
        button->setIcon(drawnIcon(row.icon, on ? t.accent : t.second, t.accent));
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
    choice_ = choice;
    QSettings().setValue("theme", static_cast<int>(choice));
    session_->setTheme(themeFor(choice));
}

void MainWindow::updateStatus() {
    QStringList parts;
    parts << (session_->view().which() == Which::AsLogged ? "as logged" : "mended data");
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

void MainWindow::notify(const QString& message) {
    pointer_->clear();
    message_->setVisible(true);
    message_->setStyleSheet({});
    message_->setText(message);
}

void MainWindow::askAboutStep(const QString& name, const QString& who, bool undoing) {
    QMessageBox box(QMessageBox::Question, undoing ? "Undo" : "Redo",
                    QString("“%1” was done by %2 in another program. %3 it?")
                        .arg(name, who.isEmpty() ? "somebody" : who, undoing ? "Undo" : "Redo"),
                    QMessageBox::Yes | QMessageBox::No, this);
    box.setObjectName("stepOfAnother");
    box.setTextFormat(Qt::PlainText);
    if (box.exec() != QMessageBox::Yes) return;
    undoing ? session_->undo(true) : session_->redo(true);
}

void MainWindow::askPastImport(const QString& import, const QString& before) {
    QMessageBox box(QMessageBox::Question, "Undo",
                    QString("The last change is “%1”, which undo does not take back.").arg(import),
                    QMessageBox::Cancel, this);
    box.setObjectName("undoPastImport");
    box.setTextFormat(Qt::PlainText);
    box.setInformativeText("Edit › Imports lists what came in, and removes it.");
    auto* imports = box.addButton("Imports…", QMessageBox::AcceptRole);
    QAbstractButton* past = before.isEmpty()
                                ? nullptr
                                : box.addButton("Undo “" + before + "” before it", QMessageBox::ActionRole);
    box.exec();
    if (box.clickedButton() == imports) ImportsDialog(*session_, this).exec();
    if (past && box.clickedButton() == past) session_->undo(true, true);
}

void MainWindow::goToMoment(TimeRange range, TagId tag) {
    if (const Tag* t = session_->tag(tag)) {
        session_->lookAt(t->asset, tag);
        std::vector<TagId> shown = session_->view().shown();
        if (std::find(shown.begin(), shown.end(), tag) == shown.end()) shown.insert(shown.begin(), tag);
        session_->view().setShown(std::move(shown));
    }
    session_->view().setBench(BenchId::Survey);
    session_->view().goTo(range.from, range.to);
    session_->view().setCursor(0, range.from);
    session_->view().setCursor(1, range.to);
}

void MainWindow::openItem(int row, std::variant<SpanId, FixId> id) {
    const std::array<BenchId, 5> benches{BenchId::Screen, BenchId::Screen, BenchId::Label, BenchId::Prove,
                                         BenchId::Mend};
    session_->view().setBench(benches[static_cast<std::size_t>(row)]);
    std::visit(Overloaded{[this](SpanId span) { current()->openSpan(span); },
                          [this](FixId fix) { current()->openFix(fix); }},
               id);
}

void MainWindow::importFiles(const QStringList& paths) {
    ImportDialog dialog(*session_, paths, this);
    dialog.exec();
}

void MainWindow::showLedger() {
    auto* dialog = new LedgerDialog(*session_, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->show();
}

void MainWindow::closeEvent(QCloseEvent* e) {
    if (!replacedBar_->mayLeave()) return e->ignore();
    session_->saveView();
    QSettings settings;
    settings.setValue("geometry", saveGeometry());
    // As the user set them: where a study is empty neither is visible.
    settings.setValue("plant", !plant_->isHidden());
    settings.setValue("inspector", !inspectorFrame_->isHidden());
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
