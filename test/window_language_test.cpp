// Writing an expression in the window: completion, help, the place of an error, a tag dragged in, warnings.
#include <QApplication>
#include <QMimeData>
#include <QTreeView>

#include "app/plot/time_plot.h"
#include "test/window_driver.h"

namespace jacinth::test {
namespace {

class Writing : public ::testing::Test {
  protected:
    Writing() : folder("writing") {
        copyDemo(folder / "s.jacinth");
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->clickAsset("Kiln 3");
        d->bench(app::BenchId::Prove);
        editor = d->window().prove()->editor();
        editor->setFocus();
    }
    QAbstractItemView* popup() { return editor->completer()->popup(); }
    QStringList offers() {
        QStringList out;
        const QAbstractItemModel* model = popup()->model();
        for (int i = 0; popup()->isVisible() && i < model->rowCount(); ++i)
            out << model->index(i, 0).data().toString();
        return out;
    }
    QString text() { return editor->toPlainText(); }
    QString state() {
        QTest::qWait(350);
        d->settle();
        return d->find<QLabel>("ruleState")->text();
    }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
    app::ExpressionEditor* editor = nullptr;
};

TEST_F(Writing, AWrongNameIsMendedByWhatIsOffered) {
    QTest::keyClicks(editor, "mean(@bearing_vibratoin over 2h) > 2.75");
    EXPECT_TRUE(state().contains("nearest is `bearing_vibration`"));
    EXPECT_FALSE(d->find("proveButton")->isEnabled());
    // Back to the slip: the word is removed from its fourth last letter on, and completed.
    for (int i = 0; i < 16; ++i) d->key(editor, Qt::Key_Left);
    for (int i = 0; i < 4; ++i) d->key(editor, Qt::Key_Backspace);
    EXPECT_EQ(offers(), QStringList{"@bearing_vibration"});
    d->key(editor, Qt::Key_Tab);
    EXPECT_EQ(text(), "mean(@bearing_vibration over 2h) > 2.75");
    EXPECT_FALSE(popup()->isVisible());
    EXPECT_TRUE(state().startsWith("valid on 6 assets"));
    EXPECT_TRUE(d->find("proveButton")->isEnabled());
}

TEST_F(Writing, RolesFunctionsAndStatesAreOfferedWhileTyping) {
    QTest::keyClicks(editor, "sha");
    ASSERT_EQ(offers(), QStringList{"share("});
    d->key(editor, Qt::Key_Tab);
    QTest::keyClicks(editor, "@burn");
    ASSERT_EQ(offers(), QStringList{"@burner_mode"});
    d->key(editor, Qt::Key_Tab);
    QTest::keyClicks(editor, " is \"");
    EXPECT_TRUE(offers().contains("\"Auto\"")) << offers().join(" ").toStdString();
    QTest::keyClicks(editor, "Aut");
    d->key(editor, Qt::Key_Tab);
    QTest::keyClicks(editor, " over 24h) < 0.6");
    EXPECT_EQ(text(), "share(@burner_mode is \"Auto\" over 24h) < 0.6");
    EXPECT_TRUE(state().startsWith("valid on 6 assets")) << state().toStdString();
}

TEST_F(Writing, EnterTakesOnlyWhatWasChosen) {
    QTest::keyClicks(editor, "@bear");
    ASSERT_EQ(offers().size(), 2);
    d->key(editor, Qt::Key_Down);
    d->key(editor, Qt::Key_Down);
    d->key(editor, Qt::Key_Return);
    EXPECT_EQ(text(), "@bearing_vibration");
    editor->clear();
    QTest::keyClicks(editor, "@bear");
    d->key(editor, Qt::Key_Return);
    EXPECT_EQ(text(), "@bear\n");
    editor->clear();
    QTest::keyClicks(editor, "@bear");
    d->key(editor, Qt::Key_Escape);
    EXPECT_FALSE(popup()->isVisible());
    EXPECT_EQ(text(), "@bear");
}

TEST_F(Writing, ClosingWhileSomethingIsOfferedIsNoTrouble) {
    QTest::keyClicks(editor, "sha@burn");
    EXPECT_TRUE(popup()->isVisible());
    d.reset();
}

TEST_F(Writing, CtrlSpaceOffersTheStatesBehindIs) {
    QTest::keyClicks(editor, "@kiln_step is ");
    EXPECT_TRUE(offers().isEmpty());
    d->key(editor, Qt::Key_Space, Qt::ControlModifier);
    EXPECT_TRUE(offers().contains("\"Cure\""));
}

TEST_F(Writing, HelpFollowsTheCaret) {
    QTest::keyClicks(editor, "slope(@bed_dp over 6h) > clip(1");
    auto* help = d->find<QLabel>("ruleHelp");
    EXPECT_TRUE(help->text().startsWith("clip(x, lo, hi): x, but not below lo"))
        << help->text().toStdString();
    d->key(editor, Qt::Key_Home);
    d->key(editor, Qt::Key_Right);
    EXPECT_TRUE(help->text().startsWith("slope(x over d): the least-squares line"));
}

TEST_F(Writing, UnlikeUnitsAreWarnedOf) {
    QTest::keyClicks(editor, "@air_off_temp > @air_off_rh");
    EXPECT_TRUE(state().startsWith("valid on"));
    EXPECT_TRUE(d->find<QLabel>("ruleHelp")->text().contains("°C against %"))
        << d->find<QLabel>("ruleHelp")->text().toStdString();
}

TEST_F(Writing, ATagDraggedInBecomesItsPath) {
    QMimeData mime;
    mime.setData(app::kTagMime, QByteArray::number(d->tagId("Kiln 2/Gas flow").number));
    const QPoint at(10, 10);
    QDragEnterEvent enter(at, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(editor->viewport(), &enter);
    QDragMoveEvent move(at, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(editor->viewport(), &move);
    QDropEvent drop(at, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(editor->viewport(), &drop);
    EXPECT_EQ(text(), "`Kiln 2/Gas flow`");
}

TEST_F(Writing, TracksOfTheStudyAreKnownAndOffered) {
    QTest::keyClicks(editor, "inside(\"St");
    ASSERT_FALSE(offers().isEmpty());
    d->key(editor, Qt::Key_Tab);
    QTest::keyClicks(editor, ") for 10m");
    EXPECT_TRUE(state().contains("valid on")) << state().toStdString();
}

}  // namespace
}  // namespace jacinth::test
