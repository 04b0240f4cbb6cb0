// From one study to another in the real window: new, open, recent, copy; an empty study; damage; other
// programs.
#include <QLabel>
#include <QMenuBar>
#include <QSettings>

#include "app/window/go_to.h"
#include "app/window/study_windows.h"
#include "app/window/welcome_page.h"
#include "source/import_samples.h"
#include "store/judgement.h"
#include "store/study_database.h"
#include "store/tracks.h"
#include "test/dialogs.h"
#include "test/window_driver.h"
#include "work/label/kinds.h"

namespace jacinth::test {
namespace {

class Studies : public ::testing::Test {
  protected:
    Studies() : folder("window-studies"), windows(app::ThemeChoice::Light) {
        QSettings().remove("recent");
        make("one.jacinth", "Kiln 1");
        make("two.jacinth", "Kiln 2");
        EXPECT_TRUE(windows.open(path("one.jacinth")));
        settle();
    }
    QString path(const char* name) { return QString::fromStdString(folder / name); }
    void make(const char* name, const std::string& asset) {
        auto study = std::move(*Study::create(folder / name));
        const std::string text = "time," + asset + "/Temp [°C]\n2026-03-01 00:00,1\n2026-03-01 00:01,2\n";
        EXPECT_TRUE(importSamples(*study, {"f.csv", text, {}}, {}));
    }
    void settle() {
        QTest::qWait(80);
        while (windows.window()->session().busy()) QTest::qWait(30);
        QTest::qWait(80);
    }
    void trigger(const QString& name) {
        for (const auto& [command, action] : windows.window()->commands())
            if (command == name) {
                action->trigger();
                settle();
                return;
            }
        ADD_FAILURE() << "no command " << name.toStdString();
    }
    std::string openStudy() { return windows.window()->session().study().path(); }
    QString status() { return windows.window()->findChild<QLabel*>("statusMessage")->text(); }
    Folder folder;
    app::StudyWindows windows;
};

TEST_F(Studies, OpenShowsTheOtherStudyAndTheProgramGoesOn) {
    bool quit = false;
    QObject::connect(qApp, &QGuiApplication::lastWindowClosed, &windows, [&] { quit = true; });
    chooseFile(path("two.jacinth"));
    trigger("Open study…");
    EXPECT_EQ(openStudy(), folder / "two.jacinth");
    EXPECT_TRUE(windows.window()->isVisible());
    EXPECT_FALSE(quit) << "the old window closed before the new one was there";
    EXPECT_TRUE(windows.window()->windowTitle().startsWith("two.jacinth"));
    EXPECT_EQ(app::recentStudies().size(), 2);
    // And back, by the list of studies that were open before.
    auto* recent = windows.window()->findChild<QMenu*>();
    for (QMenu* menu : windows.window()->findChildren<QMenu*>())
        if (menu->title() == "Open &recent") recent = menu;
    emit recent->aboutToShow();
    ASSERT_EQ(recent->actions().size(), 2);
    recent->actions()[1]->trigger();
    settle();
    EXPECT_EQ(openStudy(), folder / "one.jacinth");
    EXPECT_FALSE(quit);
}

TEST_F(Studies, WhatIsNoStudyLeavesTheWindowAsItIs) {
    std::ofstream(folder / "text.jacinth") << "time,value\n";
    for (const char* name : {"text.jacinth", "nothing.jacinth"}) {
        windows.open(path(name));
        settle();
        EXPECT_EQ(openStudy(), folder / "one.jacinth");
        EXPECT_TRUE(windows.window()->isVisible());
        EXPECT_FALSE(status().isEmpty());
    }
    EXPECT_NE(status().indexOf("there is no file"), -1) << status().toStdString();
}

TEST_F(Studies, ANewStudyIsEmptyAndOffersWhatOneDoesFirst) {
    chooseFile(path("fresh"));
    trigger("New study…");
    EXPECT_EQ(openStudy(), folder / "fresh.jacinth");
    auto* welcome = windows.window()->findChild<app::WelcomePage*>("welcome");
    ASSERT_TRUE(welcome && welcome->isVisible());
    for (const char* name : {"welcomeImport", "welcomeFolder", "welcomeDemo", "welcomeOpen"}) {
        auto* button = welcome->findChild<QPushButton*>(name);
        ASSERT_TRUE(button && button->isVisible() && button->isEnabled()) << name;
    }
    for (QLabel* label : windows.window()->findChildren<QLabel*>())
        if (label->isVisible()) {
            EXPECT_FALSE(label->text().contains("1970")) << label->text().toStdString();
        }
    // A neutral label book, and no example of somebody's plant.
    for (const LabelKind& kind : windows.window()->session().study().judgement().labelBook())
        EXPECT_EQ(kind.name.find("bearing"), std::string::npos);
    // The study that was open before, by one click.
    auto* again = welcome->findChild<QPushButton*>("welcomeRecent");
    ASSERT_NE(again, nullptr);
    QTest::mouseClick(again, Qt::LeftButton);
    settle();
    EXPECT_EQ(openStudy(), folder / "one.jacinth");
    // A path where there is a study: said, and nothing is overwritten.
    EXPECT_FALSE(windows.create(path("two.jacinth")));
    EXPECT_NE(status().indexOf("exists already"), -1);
}

TEST_F(Studies, ANewOneBeginsWithTheSitesLabelBook) {
    ::setenv("XDG_CONFIG_HOME", folder.path().c_str(), 1);
    ASSERT_TRUE(keepAsSiteBook({{"surge", "", "#882255", 's', false, ""}}));
    EXPECT_TRUE(windows.create(path("new.jacinth")));
    settle();
    const LabelBook book = windows.window()->session().study().judgement().labelBook();
    ASSERT_EQ(book.size(), 1u);
    EXPECT_EQ(book[0].name, "surge");
    std::ofstream(siteBookPath()) << "[{]";
    EXPECT_TRUE(windows.create(path("other.jacinth")));
    settle();
    EXPECT_FALSE(windows.window()->session().study().judgement().labelBook().empty());
    ::unsetenv("XDG_CONFIG_HOME");
}

TEST_F(Studies, ACopyOverAnExistingFileReplacesItWhole) {
    std::ofstream(folder / "copy.jacinth") << "something else";
    chooseFile(path("copy.jacinth"));
    trigger("Save a copy…");
    EXPECT_NE(status().indexOf("Copy saved"), -1) << status().toStdString();
    auto copy = Study::open(folder / "copy.jacinth", true);
    ASSERT_TRUE(copy) << copy.error().message;
    EXPECT_TRUE((*copy)->catalog().tagAt("Kiln 1/Temp"));
    // Never over the open study itself.
    chooseFile(path("one.jacinth"));
    trigger("Save a copy…");
    EXPECT_NE(status().indexOf("the study itself"), -1) << status().toStdString();
    EXPECT_TRUE(windows.window()->session().study().check().empty());
}

TEST_F(Studies, AReportIsNeverWrittenOverAStudy) {
    chooseFile(path("two.jacinth"));
    trigger("Report…");
    EXPECT_NE(status().indexOf("is a study and is not overwritten"), -1) << status().toStdString();
    EXPECT_TRUE(Study::open(folder / "two.jacinth", true));
    chooseFile(path("r.html"));
    trigger("Report…");
    EXPECT_NE(status().indexOf("Report written"), -1);
    EXPECT_TRUE(std::filesystem::exists(folder / "r.html"));
}

TEST_F(Studies, WhatAnotherProgramChangesIsSeenWithinASecondAndNotUndoneUnasked) {
    app::Session& session = windows.window()->session();
    int changes = 0;
    QObject::connect(&session, &app::Session::studyChanged, &windows, [&] { ++changes; });
    auto other = std::move(*Study::open(folder / "one.jacinth"));
    other->setWho("R. O.");
    other->change("their track", "", {}, [&] { other->tracks().put("Theirs", track_kind::kLabels); });
    Statement(databaseOf(*other), "UPDATE history SET origin = 77").run();  // as from another program
    EXPECT_TRUE(QTest::qWaitFor([&] { return changes > 0; }, 1000));
    EXPECT_TRUE(session.study().tracks().named("Theirs"));
    EXPECT_TRUE(windows.window()->undoAction()->text().contains("their track"));
    QString asked;
    onNextDialog([&](QWidget* w) {
        auto* box = qobject_cast<QMessageBox*>(w);
        asked = box->text();
        QTest::mouseClick(box->button(QMessageBox::No), Qt::LeftButton);
    });
    windows.window()->undoAction()->trigger();
    settle();
    EXPECT_TRUE(asked.contains("R. O.")) << asked.toStdString();
    EXPECT_TRUE(session.study().tracks().named("Theirs"));
    onNextDialog([&](QWidget* w) {
        QTest::mouseClick(qobject_cast<QMessageBox*>(w)->button(QMessageBox::Yes), Qt::LeftButton);
    });
    windows.window()->undoAction()->trigger();
    settle();
    EXPECT_FALSE(session.study().tracks().named("Theirs"));
    // New samples show as well.
    EXPECT_TRUE(importSamples(*other, {"g.csv", "time,Kiln 1/Temp\n2026-03-02 00:00,7\n", {}}, {}));
    EXPECT_TRUE(
        QTest::qWaitFor([&] { return toIso(session.view().record().to).starts_with("2026-03-02"); }, 1000));
}

TEST_F(Studies, NamesFromTheRecordAreNotTakenForMarkup) {
    auto study = std::move(*Study::create(folder / "markup.jacinth"));
    EXPECT_TRUE(importSamples(
        *study,
        {"f.csv", "time,<b>Kiln</b> 9/<img src=x> [<i>]\n2026-03-01 00:00,1\n2026-03-01 00:01,2\n", {}}, {}));
    study.reset();
    ASSERT_TRUE(windows.open(path("markup.jacinth")));
    settle();
    for (QLabel* label : windows.window()->findChildren<QLabel*>())
        if (label->text().contains("<b>Kiln") || label->text().contains("<img") ||
            label->text().contains("<i>")) {
            EXPECT_EQ(label->textFormat(), Qt::PlainText) << label->text().toStdString();
        }
}

TEST_F(Studies, DamageIsListedAndTheRestIsOpen) {
    {
        auto study = std::move(*Study::open(folder / "two.jacinth"));
        study->change("rules", "", {}, [&] {
            study->judgement().putRule({"good", "@temp > 1", {}});
            study->judgement().putRule({"broken", "@temp > 2", {}});
        });
    }
    {
        Database db(folder / "two.jacinth", Database::Mode::ReadWrite);
        db.run("UPDATE rule SET body = '{' WHERE name = 'broken'");
    }
    ASSERT_TRUE(windows.open(path("two.jacinth")));
    settle();
    auto* box = windows.window()->findChild<QMessageBox*>("damageBox");
    ASSERT_NE(box, nullptr);
    EXPECT_TRUE(box->informativeText().contains("rule `2`")) << box->informativeText().toStdString();
    box->close();
    EXPECT_EQ(windows.window()->session().study().judgement().rules().size(), 1u);
}

TEST(GoTo, FindsAllWordsWithinOneThingBestFirst) {
    const auto fit = [](const char* typed, const char* name, const char* more = "") {
        return app::GoTo::fit(QString(typed).split(' '), name, more);
    };
    EXPECT_GT(fit("Kiln 5 failed", "Kiln 5 failed", "2026-04-15 06:00"), 0);
    EXPECT_EQ(fit("Kiln 5 failed", "Kiln 4 failed", "2026-04-15 06:00"), 0);
    EXPECT_GT(fit("Kiln 5 run 12", "Kiln 5 run 12", "2026-03-13"),
              fit("Kiln 5 run 12", "Kiln 5 run 1", "2026-03-12 05:00"));
    EXPECT_EQ(fit("Kiln 5 run 12", "Kiln 5 run 112"), 0);
    EXPECT_GT(fit("dark", "Theme: Dark"), 0);
    EXPECT_GT(fit("vib", "Kiln 1/Bearing vib."), 0);
    EXPECT_GT(fit("temp", "Kiln 1/Temp"), fit("temp", "Kiln 1/Contemporary"));
}

}  // namespace
}  // namespace jacinth::test
