// The one window: menu, record strip, bench rail, plant panel, the bench in the middle, inspector, status
// bar.
#pragma once

#include <QMainWindow>

#include "app/label/label_bench.h"
#include "app/mend/mend_bench.h"
#include "app/prove/prove_bench.h"
#include "app/screen/screen_bench.h"
#include "app/shell/plant_panel.h"
#include "app/shell/record_strip.h"
#include "app/survey/survey_bench.h"

class QStackedWidget;
class QButtonGroup;
class QProgressBar;

namespace jacinth::app {

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

  signals:
    void studyAsked(const QString& path);  ///< open another study

  protected:
    void closeEvent(QCloseEvent* e) override;
    void dragEnterEvent(QDragEnterEvent* e) override;
    void dropEvent(QDropEvent* e) override;

  private:
    void buildBody();
    void buildRail(QWidget* rail);
    void buildStatus();
    void buildMenus();
    void buildGoMenu();
    void wireBenches();
    void followBench();
    void followStudy();
    void followTheme();
    void goToMoment(TimeRange range, std::int64_t tag);
    void openItem(int row, std::int64_t id);
    void saveCopy();
    void writeReport();
    void showLedger();
    void setSoundOnly(bool on);
    void updateStatus();
    void complain(const QString& message);
    void tell(const QString& message);
    void setThemeChoice(ThemeChoice choice);

    Session* session_;
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
