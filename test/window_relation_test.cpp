// The relation check in Mend, driven by mouse and keys: asked, listed, and each moment made a fix, a label or
// a remembered event with one key.
#include <QCheckBox>
#include <QClipboard>
#include <QGuiApplication>
#include <QListWidget>

#include "app/mend/mend_bench.h"
#include "store/judgement.h"
#include "test/window_driver.h"
#include "work/mend/mending.h"

namespace jacinth::test {
namespace {

class RelationCheck : public ::testing::Test {
  protected:
    RelationCheck() : folder("window-relation") {
        copyDemo(folder / "s.jacinth");
        start();
    }
    void start() {
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->clickTag("Kiln 4/Bed ΔP");
        d->bench(app::BenchId::Mend);
        d->click("mendRelation");
        d->settle();
    }
    void tick(const QString& tag) {
        auto* list = d->find<QListWidget>("relationOn");
        for (int i = 0; i < list->count(); ++i)
            if (list->item(i)->text() == tag) {
                const QRect at = list->visualItemRect(list->item(i));
                d->clickAt(list->viewport(), {at.left() + 12, at.center().y()});
                return;
            }
        ADD_FAILURE() << "no tag " << tag.toStdString();
    }
    void check() {
        tick("Fan current");
        d->type("relationEvery", "6h");
        d->click("checkRelation");
        d->settle();
    }
    QTableView* moments() { return d->find<QTableView>("relationMoments"); }
    QString cell(QTableView* table, int row, int column) {
        return table->model()->index(row, column).data().toString();
    }
    QString text(const char* label) { return d->find<QLabel>(label)->text(); }
    std::vector<Fix> fixes() { return d->study().judgement().allFixes(); }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(RelationCheck, FindsTheStepAndShowsTheFitBeforeAndAfter) {
    EXPECT_EQ(moments()->model()->rowCount(), 0);
    EXPECT_FALSE(d->find<QPushButton>("momentFix")->isEnabled());
    check();
    ASSERT_EQ(moments()->model()->rowCount(), 1);
    EXPECT_TRUE(cell(moments(), 0, 0).startsWith("19 Mar")) << cell(moments(), 0, 0).toStdString();
    EXPECT_EQ(cell(moments(), 0, 1), "level");
    EXPECT_NEAR(cell(moments(), 0, 2).mid(1).section(' ', 0, 0).toDouble(), 38, 4);
    auto* coefficients = d->find<QTableView>("relationCoefficients");
    ASSERT_EQ(coefficients->model()->rowCount(), 2);
    EXPECT_EQ(cell(coefficients, 1, 0), "Fan current");
    EXPECT_TRUE(cell(coefficients, 1, 2).contains("(t "));
    EXPECT_TRUE(text("relationFit").contains("R²"));
    EXPECT_TRUE(text("relationByChance").contains("244 rows")) << text("relationByChance").toStdString();
    EXPECT_EQ(d->window().mend()->relationPage()->plot()->paneCount(), 2);
    d->click("copyFiguresRelation");
    EXPECT_TRUE(QGuiApplication::clipboard()->text().contains("Fan current\t"));
}

TEST_F(RelationCheck, OneKeyTakesTheShiftInHandAndEnterTakesItOut) {
    check();
    d->clickRow(moments(), 0);
    d->key(moments(), Qt::Key_F);
    d->settle();
    const Fix& draft = d->window().mend()->draft();
    EXPECT_TRUE(fixes().empty());
    EXPECT_EQ(draft.tag, d->tagId("Kiln 4/Bed ΔP"));
    EXPECT_NEAR(std::get<ShiftFix>(draft.body).by, -38, 4);
    EXPECT_TRUE(d->find<QLineEdit>("fixWhy")->text().contains("against Kiln 4/Fan current"));
    d->click("enterFix");
    ASSERT_EQ(fixes().size(), 1u);
    // The picture says that it was made before; checked again it holds.
    d->click("mendRelation");
    d->settle();
    EXPECT_TRUE(d->window().mend()->relationPage()->state().contains("check again"));
    d->click("checkRelation");
    d->settle();
    EXPECT_EQ(moments()->model()->rowCount(), 0);
    EXPECT_TRUE(d->window().mend()->relationPage()->state().isEmpty());
}

TEST_F(RelationCheck, AnEventIsRememberedWithItsReasonAndForgotten) {
    check();
    d->clickRow(moments(), 0);
    d->type("relationWhy", "");
    d->key(moments(), Qt::Key_E);
    EXPECT_EQ(cell(moments(), 0, 4), "");
    d->type("relationWhy", "a new tapping was fitted");
    d->key(moments(), Qt::Key_E);
    d->settle();
    EXPECT_TRUE(cell(moments(), 0, 4).contains("a new tapping was fitted"));
    d->close();
    start();
    check();
    EXPECT_TRUE(cell(moments(), 0, 4).contains("a new tapping was fitted"));
    d->clickRow(moments(), 0);
    d->key(moments(), Qt::Key_E);
    d->settle();
    EXPECT_EQ(cell(moments(), 0, 4), "");
}

TEST_F(RelationCheck, AMomentGoesToLabelAsAStretch) {
    check();
    d->clickRow(moments(), 0);
    d->key(moments(), Qt::Key_L);
    d->settle();
    EXPECT_EQ(d->view().bench(), app::BenchId::Label);
}

TEST_F(RelationCheck, WhatCannotBeAskedIsSaid) {
    d->type("relationEvery", "soon");
    d->click("checkRelation");
    d->settle();
    EXPECT_EQ(moments()->model()->rowCount(), 0);
    EXPECT_TRUE(d->find<QLineEdit>("relationEvery")->property("wrong").toBool());
    d->type("relationEvery", "6h");
    d->type("relationAlpha", "2");
    d->click("checkRelation");
    EXPECT_TRUE(d->find<QLineEdit>("relationAlpha")->property("wrong").toBool());
    d->type("relationAlpha", "0.01");
    d->click("relationLevels");  // no kind of moment is looked for: the plain fit
    check();
    EXPECT_EQ(moments()->model()->rowCount(), 0);
    EXPECT_EQ(d->find<QTableView>("relationCoefficients")->model()->rowCount(), 2);
    // Of another tag what is shown stays that of the tag that was checked, and says so.
    d->clickTag("Kiln 4/Fan current");
    d->settle();
    EXPECT_TRUE(d->window().mend()->relationPage()->state().contains("Kiln 4/Bed ΔP"));
}

}  // namespace
}  // namespace jacinth::test
