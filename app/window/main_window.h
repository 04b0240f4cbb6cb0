// The one window: menu, record strip, bench rail, plant panel, the bench in the middle, inspector, status
// bar.
#pragma once

#include <QMainWindow>

#include "app/label/label_bench.h"
#include "app/mend/mend_bench.h"
#include "app/prove/prove_bench.h"
#include "app/screen/screen_bench.h"
#include "app/survey/survey_bench.h"
#include "app/window/plant_panel.h"
#include "app/window/record_strip.h"

class QStackedWidget;
class QMenu;
class QButtonGroup;
class QProgressBar;

namespace jacinth::app {

class ReplacedBar;
class WelcomePage;

enum class ThemeChoice { Desktop, Light, Dark };

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    MainWindow(std::unique_ptr<Study> study, ThemeChoice theme);
    ~MainWindow() override;

    Session& session() { return *session_; }
    /// Made when it is first asked for: a window opens with one bench alone.
    Bench* bench(BenchId id);
    SurveyBench* survey() { return static_cast<SurveyBench*>(bench(BenchId::Survey)); }
    MendBench* mend() { return static_cast<MendBench*>(bench(BenchId::Mend)); }
    ScreenBench* screen() { return static_cast<ScreenBench*>(bench(BenchId::Screen)); }
    LabelBench* label() { return static_cast<LabelBench*>(bench(BenchId::Label)); }
    ProveBench* prove() { return static_cast<ProveBench*>(bench(BenchId::Prove)); }
    PlantPanel* plant() const { return plant_; }
    RecordStrip* strip() const { return strip_; }
    Bench* current() { return bench(session_->view().bench()); }
    void importFiles(const QStringList& paths);
    void showGoTo(const QString& text = {});
    QAction* undoAction() const { return undo_; }
    ThemeChoice themeChoice() const { return choice_; }
    /// Every command of the menus, by its name with the menus that it stands in.
    std::vector<std::pair<QString, QAction*>> commands() const;

  signals:
    void studyAsked(const QString& path);     ///< open another study
    void newStudyAsked(const QString& path);  ///< make one and open it
    void demoAsked();                         ///< open the demo plant

  protected:
    void closeEvent(QCloseEvent* e) override;
    void dragEnterEvent(QDragEnterEvent* e) override;
    void dropEvent(QDropEvent* e) override;

  private:
    void buildBody();
    void buildRail(QWidget* rail);
    void buildStatus();
    void buildMenus();
    void buildFileMenu();
    void buildEditMenu();
    void buildViewMenu();
    void buildLaidOver(QMenu* view);
    void buildPanesMenu(QMenu* view);
    void buildLabelMenu();
    void buildStudyMenu();
    void importLabelsFrom();
    void exportLabels();
    void cutOutLabels();
    void buildHelpMenu();
    void buildGoToField();
    void followTips();
    void lookForDamage();
    void sayDamage(const std::vector<std::string>& damage);
    bool hasRecord() const;
    void askForFiles();
    void askForFolder();
    void askForStudy();
    void askForNewStudy();
    void checkFile();
    void askPastImport(const QString& import, const QString& before);
    void askAboutStep(const QString& name, const QString& who, bool undoing);
    void wire();
    void followBench();
    void followStudy();
    void followTheme();
    void answer(const Request& request);
    void turnTo(BenchId bench) { session_->view().setBench(bench); }
    /// The same for a click or key alone: a bench that is new is made now and shown after the next events, as
    /// each half holds up the window for some 60 ms.
    void openBench(BenchId bench);
    void goToMoment(TimeRange range, TagId tag);
    void openItem(int row, std::variant<SpanId, FixId> id);
    void saveCopy();
    void writeReport();
    void showLedger();
    void setSoundOnly(bool on);
    void updateStatus();
    void complain(const QString& message);
    void notify(const QString& message);
    void setThemeChoice(ThemeChoice choice);

    ThemeChoice choice_ = ThemeChoice::Desktop;
    Session* session_;
    QStackedWidget* whole_;  ///< the benches, or what an empty study shows
    WelcomePage* welcome_;
    ReplacedBar* replacedBar_;
    RecordStrip* strip_;
    PlantPanel* plant_;
    QWidget* inspectorFrame_;
    QStackedWidget *benches_, *inspectors_;
    QButtonGroup* rail_;
    std::array<Bench*, kBenches> made_{};
    std::optional<BenchId> opening_;          ///< made by openBench and about to be shown
    std::array<QWidget*, kBenches> sides_{};  ///< inspectors of those that are made
    QLineEdit* goTo_;
    QAction *undo_, *redo_, *asLogged_, *soundOnly_;
    QLabel *pointer_, *facts_, *message_;
    QProgressBar* progress_;
    QPushButton* cancel_;
    QTimer* progressDelay_;
};

}  // namespace jacinth::app
