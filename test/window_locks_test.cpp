// Another program beside the window: whatever the window does with files, it goes on holding the study, so
// that a command on it does not take away its journal. And a file that is replaced beneath the window.
#include <QDropEvent>
#include <QFileDialog>
#include <QLabel>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QUrl>

#include "app/window/study_windows.h"
#include "store/history.h"
#include "store/tracks.h"
#include "test/dialogs.h"
#include "test/window_driver.h"
#include "work/label/labels.h"

namespace jacinth::test {
namespace {

/// Is the study held by a program, as another one sees it? A connection holds a shared lock on it as long as
/// it lives.
bool isHeld(const std::string& study) {
    const std::string ask =
        "/usr/bin/python3 -c \"import fcntl, sys\nf = open('" + study +
        "', 'r+b')\ntry: fcntl.lockf(f, fcntl.LOCK_EX | fcntl.LOCK_NB, 510, 0x40000002)\nexcept OSError: "
        "sys.exit(7)\"";
    return WEXITSTATUS(std::system(ask.c_str())) == 7;
}

class Locks : public ::testing::Test {
  protected:
    Locks() : folder("window-locks"), study(folder / "s.jacinth") {
        copyDemo(study);
        std::ofstream(folder / "rows.csv") << "time,Kiln 1/New [°C]\n2026-03-01T00:00Z,1\n";
        d = std::make_unique<WindowDriver>(study);
        addLabel();
        EXPECT_TRUE(isHeld(study));
    }
    ~Locks() override { QSettings().clear(); }

    void addLabel() {
        const Instant from = d->study().record().from + labels * kHour;
        ASSERT_TRUE(addLabelled(
            d->study(), {{}, d->study().catalog().assets()[1].id, {}, from, from + kMinute, {}}, "", ""));
        ++labels;
    }
    /// A command comes and goes; what the window commits afterwards is there, and still held.
    void beStillThereAfter(const char* what) {
        ASSERT_TRUE(isHeld(study)) << what;
        ASSERT_EQ(run({"ledger", study}).code, 0) << what;
        ASSERT_TRUE(fs::exists(study + "-wal")) << what << ": the command took the journal away";
        addLabel();
        const Said said = run({"label", "list", study, "--json"});
        ASSERT_EQ(said.code, 0) << what << ": " << said.err;
        ASSERT_EQ(said.json().size(), static_cast<std::size_t>(labels)) << what;
    }
    void trigger(const QString& name) {
        for (const auto& [command, action] : d->window().commands())
            if (command == name) {
                action->trigger();
                d->settle();
                return;
            }
        ADD_FAILURE() << "no command " << name.toStdString();
    }
    Folder folder;
    std::string study;
    std::unique_ptr<WindowDriver> d;
    int labels = 0;
};

/// Looks into the folder as a dialog does, long enough that it has looked at every file, and leaves it.
void leaveFileDialog(bool& seen) {
    onNextDialog([&seen](QWidget* dialog) {
        auto* files = qobject_cast<QFileDialog*>(dialog);
        if (!files) return static_cast<QDialog*>(dialog)->reject();
        seen = true;
        EXPECT_FALSE(files->windowTitle().isEmpty());
        QTest::qWait(400);
        QTest::keyClick(files, Qt::Key_Escape);
    });
}

TEST_F(Locks, HoldThroughEveryFileDialogThatIsOpenedAndLeft) {
    for (const char* command : {"New study…", "Open study…", "Import…", "Import a folder…", "Save a copy…",
                                "Report…", "Import labels…", "Export labels…"}) {
        bool seen = false;
        leaveFileDialog(seen);
        trigger(command);
        EXPECT_TRUE(seen) << command;
        beStillThereAfter(command);
        if (HasFatalFailure()) return;
    }
}

TEST_F(Locks, HoldWhenTheStudyItselfIsChosenForSomethingElse) {
    const QString itself = QString::fromStdString(study);
    for (const char* command : {"Import…", "Save a copy…", "Report…", "Import labels…", "Export labels…"}) {
        chooseFile(itself);
        QTimer leave;
        QObject::connect(&leave, &QTimer::timeout, [] {
            auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            if (dialog && !qobject_cast<QFileDialog*>(dialog)) dialog->reject();
        });
        leave.start(700);
        trigger(command);
        beStillThereAfter(command);
        if (HasFatalFailure()) return;
    }
    EXPECT_TRUE(d->study().check().empty());
}

TEST_F(Locks, HoldThroughEveryCommandOfEveryMenu) {
    QTimer leave;
    QObject::connect(&leave, &QTimer::timeout, [] {
        if (QWidget* popup = QApplication::activePopupWidget()) popup->close();
        if (auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget())) dialog->reject();
    });
    leave.start(40);
    for (QMenu* menu : d->window().findChildren<QMenu*>()) emit menu->aboutToShow();
    for (const auto& [name, action] : d->window().commands()) {
        if (name == "Quit" || name == "Open the demo plant" || !action->isEnabled()) continue;
        action->trigger();
        QTest::qWait(20);
        ASSERT_TRUE(isHeld(study)) << name.toStdString();
    }
    d->settle();
    leave.stop();
    labels = static_cast<int>(labelsOf(d->study()).size());
    beStillThereAfter("every command");
}

void drop(QWidget& on, const std::vector<std::string>& files) {
    QMimeData data;
    QList<QUrl> urls;
    for (const std::string& f : files) urls << QUrl::fromLocalFile(QString::fromStdString(f));
    data.setUrls(urls);
    QDropEvent event(QPointF(400, 300), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&on, &event);
}

TEST_F(Locks, HoldThroughDrops) {
    fs::copy(study, folder / "other name.csv");
    fs::create_hard_link(study, folder / "linked.csv");
    fs::create_symlink(study, folder / "symbolic.csv");
    for (const std::string& file : {folder / "rows.csv", folder / "linked.csv", folder / "symbolic.csv",
                                    folder / "other name.csv", study + "-wal", folder / "."}) {
        dismissDialog();
        QTimer leave;
        QObject::connect(&leave, &QTimer::timeout, [] {
            if (auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget())) dialog->reject();
        });
        leave.start(300);
        drop(d->window(), {file});
        QTest::qWait(200);
        d->settle();
        beStillThereAfter(file.c_str());
        if (HasFatalFailure()) return;
    }
}

TEST_F(Locks, HoldInBothWindowsOfAStudy) {
    auto second = std::make_unique<WindowDriver>(study);
    bool seen = false;
    leaveFileDialog(seen);
    trigger("Open study…");
    EXPECT_TRUE(seen);
    beStillThereAfter("a dialog of the first window");
    second->close();
    second.reset();
    beStillThereAfter("closing the second window");
}

class Replaced : public Locks {
  protected:
    void replaceBy(const char* name) {
        ASSERT_TRUE(d->study().saveCopy(folder / name));
        auto other = std::move(*Study::open(folder / name));
        other->setSetting("plant", "The other one");
        other.reset();
        fs::rename(folder / name, study);
        EXPECT_TRUE(QTest::qWaitFor([&] { return d->find("replacedBar")->isVisible(); }, 3000));
        d->settle();
    }
    QString message() { return d->find<QLabel>("replacedMessage")->text(); }
    bool mayClose() {
        const bool closed = d->window().close();
        return closed;
    }
};

TEST_F(Replaced, AFileIsNoticedAndNothingMoreIsWritten) {
    replaceBy("new.jacinth");
    EXPECT_TRUE(message().startsWith("Another program has put another file in the place of s.jacinth"));
    const auto before = labelsOf(d->study()).size();
    EXPECT_FALSE(d->session().tryChange([&] {
        (void)addLabelled(d->study(),
                          {{},
                           d->study().catalog().assets()[1].id,
                           {},
                           d->study().record().from,
                           d->study().record().from + kHour,
                           {}},
                          "", "");
    }));
    EXPECT_TRUE(d->statusText().contains("nothing is written"));
    EXPECT_EQ(labelsOf(d->study()).size(), before);
    // The new file is as its maker left it.
    auto now = std::move(*Study::open(study));
    EXPECT_EQ(now->plantName(), "The other one");
    EXPECT_TRUE(now->check().empty());
    dismissDialog();
    EXPECT_FALSE(mayClose()) << "what is in no file any more is asked about";
    onNextDialog([](QWidget* box) {
        EXPECT_EQ(box->objectName(), "replacedQuestion");
        for (QPushButton* button : box->findChildren<QPushButton*>())
            if (button->text() == "Do not save") button->click();
    });
    EXPECT_TRUE(mayClose());
}

TEST_F(Replaced, WhatIsOpenCanBeSavedElsewhere) {
    replaceBy("new.jacinth");
    chooseFile(QString::fromStdString(folder / "saved.jacinth"));
    d->click("replacedSave");
    auto saved = Study::open(folder / "saved.jacinth");
    ASSERT_TRUE(saved) << saved.error().message;
    EXPECT_EQ(labelsOf(**saved).size(), 1u);
    EXPECT_NE((*saved)->plantName(), "The other one");
    EXPECT_TRUE((*saved)->check().empty());
    EXPECT_TRUE(mayClose()) << "nothing is lost any more";
}

TEST_F(Replaced, TheFileThatIsThereNowCanBeOpened) {
    app::StudyWindows windows(app::ThemeChoice::Light);
    d.reset();
    ASSERT_TRUE(windows.open(QString::fromStdString(study)));
    const auto settle = [&] {
        QTest::qWait(100);
        while (windows.window()->session().busy()) QTest::qWait(30);
    };
    settle();
    ASSERT_TRUE(windows.window()->session().study().saveCopy(folder / "new.jacinth"));
    {
        auto other = std::move(*Study::open(folder / "new.jacinth"));
        other->setSetting("plant", "The other one");
    }
    fs::rename(folder / "new.jacinth", study);
    auto* bar = windows.window()->findChild<QWidget*>("replacedBar");
    ASSERT_TRUE(QTest::qWaitFor([&] { return bar->isVisible(); }, 3000));
    onNextDialog([](QWidget* box) {
        for (QPushButton* button : box->findChildren<QPushButton*>())
            if (button->text() == "Do not save") button->click();
    });
    QTest::mouseClick(windows.window()->findChild<QPushButton*>("replacedOpen"), Qt::LeftButton);
    settle();
    EXPECT_EQ(windows.window()->session().study().plantName(), "The other one");
    EXPECT_FALSE(windows.window()->findChild<QWidget*>("replacedBar")->isVisible());
    EXPECT_TRUE(windows.window()->session().tryChange(
        [&] { windows.window()->session().study().setSetting("plant", "Changed"); }));
    EXPECT_TRUE(windows.window()->session().study().check().empty());
}

TEST_F(Replaced, AFileThatIsMovedKeepsEverything) {
    fs::rename(study, folder / "elsewhere.jacinth");
    ASSERT_TRUE(QTest::qWaitFor([&] { return d->find("replacedBar")->isVisible(); }, 3000));
    EXPECT_TRUE(message().startsWith("s.jacinth has left its place"));
    EXPECT_FALSE(d->find("replacedOpen")->isVisible());
    const auto moved = Study::open(folder / "elsewhere.jacinth");
    ASSERT_TRUE(moved);
    EXPECT_EQ(labelsOf(**moved).size(), 1u);
    onNextDialog([](QWidget* box) {
        for (QPushButton* button : box->findChildren<QPushButton*>())
            if (button->text() == "Do not save") button->click();
    });
    EXPECT_TRUE(mayClose());
}

}  // namespace
}  // namespace jacinth::test
