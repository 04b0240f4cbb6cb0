// Every command of every menu, on the demo study, on an empty one, and while a job runs: nothing crashes,
// nothing hangs, and the window is there afterwards.
#include <QMenuBar>
#include <QPlainTextEdit>
#include <QSettings>
#include <QThread>
#include <set>

#include "app/window/study_windows.h"
#include "test/dialogs.h"
#include "test/window_driver.h"

namespace jacinth::test {
namespace {

/// Those that leave the window or ask the desktop.
bool leavesTheWindow(const QString& name) {
    return name == "Quit" || name == "Open the demo plant";
}

/// Closes every dialog that comes up while it lives.
class Dismisser {
  public:
    Dismisser() {
        timer_.setInterval(30);
        QObject::connect(&timer_, &QTimer::timeout, [this] {
            if (QWidget* popup = QApplication::activePopupWidget()) popup->close();
            if (auto* d = qobject_cast<QDialog*>(QApplication::activeModalWidget())) {
                ++dismissed;
                d->reject();
            }
        });
        timer_.start();
    }
    int dismissed = 0;

  private:
    QTimer timer_;
};

/// Commands change what is kept for the user, as which panels are shown: later tests must not find that.
class SettingsForgotten {
  public:
    ~SettingsForgotten() { QSettings().clear(); }
};

int triggerAll(WindowDriver& d) {
    Dismisser dismisser;
    int triggered = 0;
    // Menus that are filled when they open.
    for (QMenu* menu : d.window().findChildren<QMenu*>()) emit menu->aboutToShow();
    for (const auto& [name, action] : d.window().commands()) {
        if (leavesTheWindow(name) || !action->isEnabled()) continue;
        SCOPED_TRACE(name.toStdString());
        action->trigger();
        QTest::qWait(20);
        ++triggered;
        EXPECT_TRUE(d.window().isVisible()) << name.toStdString();
    }
    d.settle();
    return triggered;
}

TEST(Commands, AllOfThemOnTheDemoStudy) {
    const SettingsForgotten forgotten;
    Folder folder("commands-demo");
    copyDemo(folder / "s.jacinth");
    WindowDriver d(folder / "s.jacinth");
    EXPECT_GT(triggerAll(d), 35);
    EXPECT_TRUE(d.study().check().empty());
}

TEST(Commands, AllOfThemOnAnEmptyStudy) {
    const SettingsForgotten forgotten;
    Folder folder("commands-empty");
    ASSERT_TRUE(Study::create(folder / "s.jacinth"));
    WindowDriver d(folder / "s.jacinth");
    EXPECT_GT(triggerAll(d), 30);
    EXPECT_TRUE(d.study().check().empty());
}

TEST(Commands, AllOfThemWhileAJobRuns) {
    const SettingsForgotten forgotten;
    Folder folder("commands-busy");
    copyDemo(folder / "s.jacinth");
    WindowDriver d(folder / "s.jacinth");
    auto goOn = std::make_shared<std::atomic<bool>>(true);
    bool ended = false;
    d.session().runJob(
        &d.session(), "long", "Long work",
        [goOn](app::JobContext& job) -> std::function<void()> {
            while (goOn->load() && !job.progress.stopped(0.5)) QThread::msleep(5);
            return {};
        },
        false, [&] { ended = true; });
    {
        Dismisser dismisser;
        for (const auto& [name, action] : d.window().commands()) {
            if (leavesTheWindow(name) || !action->isEnabled()) continue;
            action->trigger();
            QTest::qWait(10);
            EXPECT_TRUE(d.window().isVisible()) << name.toStdString();
        }
    }
    EXPECT_FALSE(ended);
    d.session().cancelJobs();
    EXPECT_TRUE(QTest::qWaitFor([&] { return ended; }, 5000));
    goOn->store(false);
    d.settle();
}

TEST(Commands, CancelLeavesEveryButtonUsable) {
    Folder folder("commands-cancel");
    copyDemo(folder / "s.jacinth");
    WindowDriver d(folder / "s.jacinth");
    const auto startAndCancel = [&](QPushButton* button) {
        ASSERT_TRUE(button && button->isEnabled());
        QTest::mouseClick(button, Qt::LeftButton);
        d.session().cancelJobs();
        d.settle();
        EXPECT_TRUE(button->isEnabled()) << button->objectName().toStdString();
    };
    d.bench(app::BenchId::Prove);
    QTest::keyClicks(d.window().prove()->editor(), "mean(@bearing_vibration over 2h) > 2.75 for 20m");
    QTest::qWait(400);
    d.settle();
    startAndCancel(d.find<QPushButton>("proveButton"));
    d.bench(app::BenchId::Screen);
    d.window().screen()->turnTo(app::ScreenWay::Runs);
    d.settle();
    d.find<QPlainTextEdit>("runsWhere")->setPlainText("@kiln_step is not \"Idle\"");
    startAndCancel(d.find<QPushButton>("findRuns"));
}

TEST(Commands, EveryCommandOfAMenuHasAKeyOrANameOfItsOwn) {
    Folder folder("commands-names");
    ASSERT_TRUE(Study::create(folder / "s.jacinth"));
    WindowDriver d(folder / "s.jacinth");
    std::set<QString> names, keys;
    for (const auto& [name, action] : d.window().commands()) {
        EXPECT_TRUE(names.insert(name).second) << name.toStdString() << " stands in the menus twice";
        for (const QKeySequence& key : action->shortcuts())
            EXPECT_TRUE(keys.insert(key.toString()).second)
                << key.toString().toStdString() << " has two commands";
    }
}

TEST(Jobs, GoWithTheObjectTheyServe) {
    Folder folder("jobs");
    copyDemo(folder / "s.jacinth");
    WindowDriver d(folder / "s.jacinth");
    std::atomic<bool> begun = false, stopped = false;
    bool ended = false, done = false;
    auto owner = std::make_unique<QObject>();
    d.session().runJob(
        owner.get(), "test", "Testing",
        [&](app::JobContext& job) -> std::function<void()> {
            begun = true;
            while (!job.progress.stopped(0.5)) QThread::msleep(2);
            stopped = true;
            return [&] { done = true; };
        },
        false, [&] { ended = true; });
    while (!begun) QThread::msleep(2);
    owner.reset();
    d.settle();
    EXPECT_TRUE(stopped);
    EXPECT_FALSE(ended || done);
    EXPECT_FALSE(d.session().busy());
}

TEST(Jobs, WhatTheUserStoppedIsNotReportedAsAFailure) {
    Folder folder("stopped");
    copyDemo(folder / "s.jacinth");
    WindowDriver d(folder / "s.jacinth");
    QStringList failures;
    QObject::connect(&d.session(), &app::Session::failed, [&](const QString& m) { failures << m; });
    EXPECT_FALSE(d.session().report(Result<int>(Error::cancelled())));
    EXPECT_TRUE(failures.isEmpty());
    EXPECT_FALSE(d.session().report(Result<int>(Error{"no such thing"})));
    EXPECT_EQ(failures, QStringList{"no such thing"});
}

}  // namespace
}  // namespace jacinth::test
