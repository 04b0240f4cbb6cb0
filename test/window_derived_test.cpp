// Derived tags through their dialog: made with the editor, used, calculated again, refused, removed.
#include <QApplication>
#include <QComboBox>
#include <QMenu>
#include <QTreeWidget>

#include "app/base/tables.h"
#include "app/window/derived_dialog.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "test/window_driver.h"
#include "work/derived/derived_expressions.h"

namespace jacinth::test {
namespace {

class DerivedTags : public ::testing::Test {
  protected:
    DerivedTags() : folder("derived-window") {
        copyDemo(folder / "s.jacinth");
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->clickTag("Kiln 3/Air-on temp");
        d->settle();
    }
    void open(TagId tag = {}) {
        dialog = std::make_unique<app::DerivedDialog>(d->session(), tag, &d->window());
        dialog->show();
        d->settle();
    }
    template <typename W>
    W* field(const char* name) {
        W* found = dialog->findChild<W*>(name);
        EXPECT_NE(found, nullptr) << name;
        return found;
    }
    void name(const QString& words) {
        auto* f = field<QLineEdit>("derivedName");
        f->setFocus();
        f->selectAll();
        QTest::keyClicks(f, words);
    }
    void write(const QString& expression) {
        auto* editor = field<app::ExpressionEditor>("derivedText");
        editor->setFocus();
        QTest::keyClick(editor, Qt::Key_A, Qt::ControlModifier);
        QTest::keyClick(editor, Qt::Key_Delete);
        QTest::keyClicks(editor, expression);
        QTest::keyClick(editor, Qt::Key_Escape);
        d->settle();
    }
    void press(const char* button) {
        auto* b = field<QPushButton>(button);
        ASSERT_TRUE(b->isEnabled()) << button;
        QTest::mouseClick(b, Qt::LeftButton);
        d->settle();
    }
    QString trouble() { return field<QLabel>("derivedTrouble")->text(); }
    QString cell(int row, int column) {
        return field<QTableView>("derivedTable")->model()->index(row, column).data().toString();
    }
    int rows() { return field<QTableView>("derivedTable")->model()->rowCount(); }
    double at_(const std::string& path, Instant t) {
        return d->study().valueAt(*d->study().catalog().tagAt(path), t, Which::Mended);
    }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
    std::unique_ptr<app::DerivedDialog> dialog;
};

TEST_F(DerivedTags, IsMadeShownUsedAndFollowsAFix) {
    open();
    name("Air drop");
    write("@air_on_temp - @air_of_temp");
    EXPECT_TRUE(trouble().contains("nearest is `air_off_temp`")) << trouble().toStdString();
    EXPECT_FALSE(field<QPushButton>("derivedKeep")->isEnabled());
    write("@air_on_temp - @air_off_temp");
    EXPECT_TRUE(trouble().isEmpty());
    press("derivedKeep");
    ASSERT_EQ(rows(), 1);
    EXPECT_EQ(cell(0, 0), "Kiln 3/Air drop");
    EXPECT_EQ(cell(0, 1), "°C");
    EXPECT_TRUE(cell(0, 3).startsWith("calculated")) << cell(0, 3).toStdString();
    const auto id = d->tagId("Kiln 3/Air drop");
    // It is on the screen, and in the plant panel with what it is made from.
    const auto& shown = d->view().shown();
    EXPECT_NE(std::find(shown.begin(), shown.end(), id), shown.end());
    const QTreeWidgetItem* item = d->window().plant()->itemOf(id);
    ASSERT_NE(item, nullptr);
    EXPECT_TRUE(item->toolTip(0).contains("= @air_on_temp - @air_off_temp"))
        << item->toolTip(0).toStdString();
    const Instant t = d->view().view().from + kHour;
    EXPECT_NEAR(at_("Kiln 3/Air drop", t), at_("Kiln 3/Air-on temp", t) - at_("Kiln 3/Air-off temp", t),
                1e-9);
    // A second one from the first.
    press("derivedNew");
    name("Big drop");
    write("air_drop > 20 for 10m");
    press("derivedKeep");
    EXPECT_EQ(rows(), 2);
    EXPECT_EQ(d->study().catalog().tagAt("Kiln 3/Big drop")->kind, TagKind::State);
    // A fix on what it is made from is in it as soon as it is recalculated.
    const double before = at_("Kiln 3/Air drop", t);
    Fix fix;
    fix.tag = d->tagId("Kiln 3/Air-on temp");
    fix.from = t - kHour, fix.to = t + kHour;
    fix.body = ShiftFix{7};
    d->session().tryChange(
        [&] { d->study().change("fix", "", {}, [&] { d->study().judgement().addFix(fix); }); });
    d->settle();
    EXPECT_NEAR(at_("Kiln 3/Air drop", t), before + 7, 1e-9);
    dialog.reset();
    d->window().activateWindow();
    d->settle();
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_NEAR(at_("Kiln 3/Air drop", t), before, 1e-9);
}

TEST_F(DerivedTags, OnEveryAssetThatHasTheTagsAsOneStep) {
    open();
    name("Air drop");
    write("@air_on_temp - @air_off_temp");
    field<QComboBox>("derivedWhere")->setCurrentIndex(1);
    press("derivedKeep");
    EXPECT_EQ(rows(), 6);
    dialog.reset();
    d->session().undo();
    d->settle();
    EXPECT_FALSE(d->study().catalog().tagAt("Kiln 1/Air drop"));
    EXPECT_TRUE(d->study().check().empty());
    d->session().redo();
    d->settle();
    for (const DerivedExpression& e : derivedExpressions(d->study())) EXPECT_FALSE(e.stale) << e.tag.path();
    EXPECT_GT(d->study().samples().whole(d->tagId("Kiln 6/Air drop")).count, 100'000u);
}

TEST_F(DerivedTags, IsChangedRefusedAndRemoved) {
    open();
    name("A");
    write("@air_on_temp + 1");
    press("derivedKeep");
    press("derivedNew");
    name("B");
    write("@a * 2");
    press("derivedKeep");
    d->clickRow(field<QTableView>("derivedTable"), 0);
    EXPECT_EQ(field<app::ExpressionEditor>("derivedText")->text(), "@air_on_temp + 1");
    EXPECT_TRUE(field<QLineEdit>("derivedName")->isReadOnly());
    write("@b + 1");
    press("derivedKeep");
    EXPECT_EQ(trouble(), "`Kiln 3/A` would be made from itself: `Kiln 3/A` → `Kiln 3/B` → `Kiln 3/A`");
    EXPECT_EQ(derivedText(d->study(), d->tagId("Kiln 3/A")), "@air_on_temp + 1");
    press("derivedRemove");
    EXPECT_EQ(trouble(), "`Kiln 3/B` is made from `Kiln 3/A`");
    const Instant t = d->view().view().from + kHour;
    write("@air_on_temp + 5");
    press("derivedKeep");
    EXPECT_NEAR(at_("Kiln 3/B", t), 2 * (at_("Kiln 3/Air-on temp", t) + 5), 1e-9);
    d->clickRow(field<QTableView>("derivedTable"), 1);
    press("derivedRemove");
    EXPECT_EQ(rows(), 1);
    EXPECT_FALSE(d->study().catalog().tagAt("Kiln 3/B"));
    d->session().undo();
    d->settle();
    EXPECT_NEAR(at_("Kiln 3/B", t), 2 * (at_("Kiln 3/Air-on temp", t) + 5), 1e-9);
    EXPECT_EQ(rows(), 2);
}

TEST_F(DerivedTags, GoldenLimitsBecomeTagsByTheMenuOfTheirTag) {
    const std::string study = d->study().path();
    d->close();
    d.reset();
    EXPECT_EQ(run({"runs", "find", study, "--track", "Runs", "--where", "@kiln_step is not \"Idle\"",
                   "--least", "1h"})
                  .code,
              0);
    EXPECT_EQ(run({"golden", "set", study, "--track", "Runs", "--where", "number between 3 and 9"}).code, 0);
    EXPECT_EQ(
        run({"limits", "build", study, "--name", "Normal", "--track", "Runs", "--tag", "air_off_temp"}).code,
        0);
    d = std::make_unique<WindowDriver>(study);
    d->clickTag("Kiln 3/Air-off temp");
    QTreeWidget* tree = d->window().plant()->tree();
    const QPoint at =
        tree->visualItemRect(d->window().plant()->itemOf(d->tagId("Kiln 3/Air-off temp"))).center();
    bool chosen = false;
    QTimer::singleShot(300, [&] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        ASSERT_NE(menu, nullptr);
        for (QAction* a : menu->actions())
            if (a->text() == "Limits “Normal” as tags") {
                chosen = true;
                a->trigger();
            }
        menu->close();
    });
    emit tree->customContextMenuRequested(at);
    d->settle();
    ASSERT_TRUE(chosen);
    const auto& shown = d->view().shown();
    for (const char* side : {"low", "high"})
        EXPECT_NE(std::find(shown.begin(), shown.end(), d->tagId(std::string("Kiln 3/Air-off temp ") + side)),
                  shown.end());
    // In the middle of a golden run low < the tag < high; while the kiln is idle there are none.
    const auto golden = d->study().judgement().goldenRuns(d->study().tracks().named("Runs")->id);
    const Span middle = *d->study().tracks().span(golden[golden.size() / 2]);
    const std::string kiln = d->study().catalog().asset(middle.asset)->name;
    const Instant t = middle.start + (middle.end - middle.start) / 2;
    EXPECT_LT(at_(kiln + "/Air-off temp low", t), at_(kiln + "/Air-off temp high", t));
    EXPECT_TRUE(std::isnan(at_(kiln + "/Air-off temp low", middle.end + 10 * kMinute)));
    EXPECT_EQ(d->study().history().undoName(), "limits of air_off_temp as tags");
    d->session().undo();
    d->settle();
    EXPECT_FALSE(d->study().catalog().tagAt("Kiln 6/Air-off temp low"));
}

TEST_F(DerivedTags, OpenFromTheMenuOnTheTagInHand) {
    ASSERT_TRUE(defineDerived(d->study(), {"Air drop", "", "@air_on_temp - @air_off_temp", "Kiln 3"}));
    d->session().announceChange();
    d->settle();
    d->clickTag("Kiln 3/Air drop");
    bool seen = false;
    QTimer::singleShot(400, [&] {
        auto* opened = d->window().findChild<QDialog*>("derivedDialog");
        ASSERT_NE(opened, nullptr);
        seen = true;
        EXPECT_EQ(opened->findChild<QLineEdit*>("derivedName")->text(), "Air drop");
        opened->reject();
    });
    d->key(&d->window(), Qt::Key_E, Qt::ControlModifier);
    QTest::qWait(600);
    EXPECT_TRUE(seen);
}

}  // namespace
}  // namespace jacinth::test
