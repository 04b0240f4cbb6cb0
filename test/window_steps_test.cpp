// Suspected steps in Mend, driven by mouse and keys: looked for, taken out there and back on two tags
// together, judged, undone, and as left when the study is opened again.
#include <QCheckBox>

#include "app/mend/mend_bench.h"
#include "store/judgement.h"
#include "test/window_driver.h"
#include "work/mend/fix_in_hand.h"
#include "work/mend/mending.h"

namespace jacinth::test {
namespace {

class Steps : public ::testing::Test {
  protected:
    Steps() : folder("window-steps") {
        copyDemo(folder / "s.jacinth");
        start();
    }
    void start() {
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->clickTag("Kiln 1/Air-off RH");
        d->bench(app::BenchId::Mend);
        d->click("toSteps");
    }
    void look() {
        d->click("findSteps");
        d->settle();
    }
    QTableView* table() { return d->find<QTableView>("stepList"); }
    QString cell(int row, int column) { return table()->model()->index(row, column).data().toString(); }
    int rows() { return table()->model()->rowCount(); }
    int rowOf(const QString& tag) {
        for (int row = 0; row < rows(); ++row)
            if (cell(row, 1) == tag) return row;
        ADD_FAILURE() << "no step of " << tag.toStdString();
        return 0;
    }
    void choose(const QString& tag) {
        d->clickRow(table(), rowOf(tag));
        d->settle();
    }
    const Fix& draft() { return d->window().mend()->draft(); }
    std::vector<Fix> fixes() { return d->study().judgement().allFixes(); }
    QString sentence() { return d->find<QLabel>("stepSentence")->text(); }
    bool enabled(const char* button) { return d->find<QPushButton>(button)->isEnabled(); }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(Steps, AreListedWithTheirReasonsAndHaveTheirShiftInHand) {
    EXPECT_EQ(rows(), 0);
    EXPECT_FALSE(enabled("takeOutStep"));
    EXPECT_TRUE(d->find<QLabel>("stepStatus")->text().contains("not looked for"));
    look();
    EXPECT_GE(rows(), 9);
    EXPECT_TRUE(d->find<QLabel>("stepStatus")->toolTip().contains("million samples"));
    choose("Kiln 4/Bed ΔP");
    EXPECT_TRUE(sentence().contains("Kiln 4/Bed ΔP rises by")) << sentence().toStdString();
    EXPECT_EQ(d->view().tag(), d->tagId("Kiln 4/Bed ΔP"));
    EXPECT_EQ(draft().tag, d->tagId("Kiln 4/Bed ΔP"));
    EXPECT_NEAR(std::get<ShiftFix>(draft().body).by, -38, 3.8);
    EXPECT_TRUE(d->view().view().contains(draft().from));
    EXPECT_EQ(draft().to, d->study().record().to);  // from then on
    EXPECT_TRUE(fixes().empty());
}

TEST_F(Steps, AnotherTagIsChosenWhileOneStepIs) {
    look();
    choose("Kiln 4/Bed ΔP");
    d->clickTag("Kiln 2/Air-off RH");
    d->settle();
    EXPECT_EQ(d->view().tag(), d->tagId("Kiln 2/Air-off RH"));
    const TimeRange view = d->view().view();
    // Nor does a change of the study lead back to the step.
    d->session().announceChange();
    d->settle();
    EXPECT_EQ(d->view().tag(), d->tagId("Kiln 2/Air-off RH"));
    EXPECT_EQ(d->view().view(), view);
}

TEST_F(Steps, OfOneTagOrAssetOnlyItsOwnAreListed) {
    auto* scope = d->find<QComboBox>("stepScope");
    scope->setCurrentText("this tag");
    look();
    for (int row = 0; row < rows(); ++row) EXPECT_EQ(cell(row, 1), "Kiln 1/Air-off RH");
    scope->setCurrentText("this asset");
    look();
    for (int row = 0; row < rows(); ++row) EXPECT_TRUE(cell(row, 1).startsWith("Kiln 1/"));
}

TEST_F(Steps, TheEndOfADriftHasItsRampInHand) {
    look();
    d->click("stepsJudged");
    int drift = -1;
    for (int row = 0; row < rows() && drift < 0; ++row)
        if (cell(row, 7) == "a drift taken back") drift = row;
    ASSERT_GE(drift, 0);
    d->clickRow(table(), drift);
    d->settle();
    ASSERT_EQ(draft().kind(), FixKind::Ramp);
    const double size = std::get<RampFix>(draft().body).endBy;
    EXPECT_EQ(std::get<RampFix>(draft().body).startBy, 0);
    EXPECT_NEAR(std::abs(size), std::abs(cell(drift, 3).section(' ', 0, 0).mid(1).toDouble()), 0.2);
    d->click("takeOutStep");
    ASSERT_EQ(fixes().size(), 1u);
    EXPECT_TRUE(fixes()[0].why.starts_with("drift: "));
    EXPECT_EQ(cell(drift, 7), "taken out");
}

TEST_F(Steps, TwoTagsOfOneMountAreTakenOutThereAndBackTogether) {
    look();
    choose("Kiln 6/Air-off temp");
    EXPECT_TRUE(sentence().contains("one mount")) << sentence().toStdString();
    const double size = -std::get<ShiftFix>(draft().body).by;
    d->type("fixBy", "-3.1");
    d->click("takeOutStep");
    ASSERT_EQ(fixes().size(), 2u);
    for (const Fix& f : fixes()) {
        EXPECT_FALSE(f.why.empty());
        EXPECT_GT(f.to - f.from, kDay);
        EXPECT_LT(f.to, d->study().record().to);
        if (f.tag == d->tagId("Kiln 6/Air-off temp")) {
            EXPECT_EQ(std::get<ShiftFix>(f.body).by, -3.1);  // as typed
        }
    }
    EXPECT_NEAR(size, 3.2, 0.32);
    EXPECT_EQ(cell(rowOf("Kiln 6/Air-off temp"), 7), "taken out");
    EXPECT_EQ(cell(rowOf("Kiln 6/Air-off RH"), 7), "taken out");
    choose("Kiln 6/Air-off RH");
    EXPECT_FALSE(enabled("takeOutStep"));
    EXPECT_TRUE(changesNothing(draft()));  // not a second time
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_TRUE(fixes().empty());  // one step of two
    EXPECT_TRUE(enabled("takeOutStep"));
    EXPECT_NE(cell(rowOf("Kiln 6/Air-off temp"), 7), "taken out");
}

TEST_F(Steps, WhatWasTakenOutIsNotFoundAgain) {
    look();
    const int before = rows();
    choose("Kiln 2/Air-off RH");
    d->click("takeOutStep");
    ASSERT_EQ(fixes().size(), 1u);
    look();
    EXPECT_EQ(rows(), before - 1);
}

TEST_F(Steps, AVerdictNeedsAReasonIsKeptAndForgotten) {
    look();
    const int before = rows();
    choose("Kiln 5/Gas flow");
    d->type("fixWhy", "");
    d->click("stepIsProcess");
    EXPECT_EQ(rows(), before);
    d->type("fixWhy", "burner retuned");
    d->click("stepIsProcess");
    EXPECT_EQ(rows(), before - 1);
    d->close();
    start();
    look();
    EXPECT_EQ(rows(), before - 1);  // not proposed again
    d->click("stepsJudged");
    EXPECT_GE(rows(), before);
    for (int row = 0; row < rows(); ++row)
        if (cell(row, 7) == "judged: the process") d->clickRow(table(), row);
    EXPECT_TRUE(sentence().contains("burner retuned")) << sentence().toStdString();
    EXPECT_FALSE(enabled("takeOutStep"));
    d->click("forgetVerdict");
    d->click("stepsJudged");
    EXPECT_EQ(rows(), before);
}

TEST_F(Steps, ThisAssetAloneAndTheLedgerBack) {
    d->clickTag("Kiln 4/Bed ΔP");
    d->find<QComboBox>("stepScope")->setCurrentText("this asset");
    look();
    ASSERT_GE(rows(), 1);
    for (int row = 0; row < rows(); ++row) EXPECT_TRUE(cell(row, 1).startsWith("Kiln 4/"));
    d->click("toLedger");
    EXPECT_TRUE(d->find<QLabel>("ledgerEmpty")->isVisible());  // it says what belongs there
    EXPECT_FALSE(table()->isVisible());
}

TEST_F(Steps, SpikesAreShownThenHiddenAsOneClassThenUndone) {
    d->clickTag("Kiln 3/Bed ΔP");
    d->click("kindHide");
    d->type("spikeProminence", "many");
    d->click("findSpikes");
    d->settle();
    EXPECT_EQ(std::get<HideFix>(draft().body).parts.size(), 0u);  // said in the field, nothing done
    d->type("spikeProminence", "");
    d->click("findSpikes");
    d->settle();
    const std::size_t found = std::get<HideFix>(draft().body).parts.size();
    ASSERT_GT(found, 0u);
    EXPECT_TRUE(fixes().empty());
    const Instant first = std::get<HideFix>(draft().body).parts[0].from;
    const Tag tag = *d->study().catalog().tagAt("Kiln 3/Bed ΔP");
    const double spike = d->study().valueAt(tag, first, Which::Mended);
    d->click("enterFix");
    ASSERT_EQ(fixes().size(), 1u);
    EXPECT_EQ(std::get<HideFix>(fixes()[0].body).parts.size(), found);
    EXPECT_GT(std::abs(d->study().valueAt(tag, first, Which::Mended) - spike), 100);
    EXPECT_EQ(d->study().valueAt(tag, first, Which::AsLogged), spike);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_TRUE(fixes().empty());
    EXPECT_EQ(d->study().valueAt(tag, first, Which::Mended), spike);
}

TEST_F(Steps, HiddenSamplesAreSeenAndOneIsBroughtBack) {
    d->clickTag("Kiln 3/Bed ΔP");
    d->click("kindHide");
    d->click("findSpikes");
    d->settle();
    d->click("enterFix");
    ASSERT_EQ(fixes().size(), 1u);
    const std::size_t hidden = std::get<HideFix>(fixes()[0].body).parts.size();
    ASSERT_GT(hidden, 0u);
    const Instant first = std::get<HideFix>(fixes()[0].body).parts[0].from;
    const Tag tag = *d->study().catalog().tagAt("Kiln 3/Bed ΔP");
    const double spike = d->study().valueAt(tag, first, Which::AsLogged);
    d->view().setView({first - 10 * kMinute, first + 10 * kMinute});
    d->settle();
    auto* plot = d->window().mend()->plot();
    const auto onSpike = [&] {
        return QPoint(static_cast<int>(plot->xOf(first)), static_cast<int>(plot->yOf(0, spike)));
    };
    EXPECT_EQ(plot->pointAt(onSpike()), nullptr);
    d->find<QCheckBox>("showHidden")->click();
    plot->fitValues();
    d->settle();
    ASSERT_NE(plot->pointAt(onSpike()), nullptr);
    EXPECT_EQ(plot->pointAt(onSpike())->time, first);
    d->clickAt(plot, onSpike());
    d->settle();
    if (hidden == 1)
        EXPECT_TRUE(fixes().empty()) << "a fix that hides nothing goes";
    else
        EXPECT_EQ(std::get<HideFix>(fixes()[0].body).parts.size(), hidden - 1);
    EXPECT_EQ(d->study().valueAt(tag, first, Which::Mended), spike);
    EXPECT_EQ(plot->pointAt(onSpike()), nullptr);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_EQ(std::get<HideFix>(fixes()[0].body).parts.size(), hidden);
    EXPECT_NE(d->study().valueAt(tag, first, Which::Mended), spike);
}

TEST_F(Steps, AStopLeavesTheListAsItWas) {
    look();
    choose("Kiln 2/Air-off RH");
    d->click("takeOutStep");
    const int before = rows();
    d->find<QPushButton>("findSteps")->click();
    d->session().cancelJobs();
    d->settle();
    EXPECT_EQ(rows(), before);  // one that looked to the end would not find what was taken out
    EXPECT_EQ(cell(rowOf("Kiln 2/Air-off RH"), 7), "taken out");
    EXPECT_TRUE(enabled("findSteps"));
}

}  // namespace
}  // namespace jacinth::test
