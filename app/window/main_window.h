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

class WelcomePage;

/// As on the rail and in the menus.
const char* benchName(int bench);

enum class ThemeChoice { Desktop, Light, Dark };

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    MainWindow(std::unique_ptr<Study> study, ThemeChoice theme);
    ~MainWindow() override;

    Session& session() { return *session_; }
    SurveyBench* survey() const { return survey_; }
    MendBench* mend() const { return mend_; }
    ScreenBench* screen() const { return screen_; }
    LabelBench* label() const { return label_; }
    ProveBench* prove() const { return prove_; }
    PlantPanel* plant() const { return plant_; }
    RecordStrip* strip() const { return strip_; }
    Bench* current() const;
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
    void buildPanesMenu(QMenu* view);
    void buildStudyMenu();
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
    void askAboutStep(const QString& name, const QString& who, bool undoing);
    void wireBenches();
    void followBench();
    void followStudy();
    void followTheme();
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
    RecordStrip* strip_;
    PlantPanel* plant_;
    QWidget* inspectorFrame_;
    QStackedWidget *benches_, *inspectors_;
    QButtonGroup* rail_;
    SurveyBench* survey_;
    MendBench* mend_;
    ScreenBench* screen_;
    LabelBench* label_;
    ProveBench* prove_;
    QLineEdit* goTo_;
    QAction *undo_, *redo_, *asLogged_, *soundOnly_;
    QLabel *pointer_, *facts_, *message_;
    QProgressBar* progress_;
    QPushButton* cancel_;
    QTimer* progressDelay_;
};

}  // namespace jacinth::app
