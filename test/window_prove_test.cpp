// A rule found, searched, compared, kept and looked at in the real window, and what is said where nothing can
// be proved.
#include <gtest/gtest.h>

#include <QElapsedTimer>
#include <cmath>

#include "store/judgement.h"
#include "store/tracks.h"
#include "test/prove_window.h"
#include "work/prove/look_at_alarm.h"
#include "work/prove/searching.h"

namespace jacinth::test {
namespace {

/// What a search of one limit says of its best.
struct ShownBest {
    double limit = 0;
    int caught = 0, falseAlarms = 0;
};
ShownBest bestOf(const app::ShownSearch& search) {
    const std::size_t best = search.found.result.best;
    const Tally& t = search.found.result.tallies[best];
    return {search.found.settings[best].at("limit"), t.caught, t.falseAlarms};
}

TEST_F(ProveWindow, FromTheLeadUpToAKeptProof) {
    write("@bearing_vibration > 4");
    ASSERT_TRUE(proof());
    // The lead-up: drag over it, take the slope.
    auto* plot = d->find<app::LeadUpPlot>("leadUpPlot");
    const int middle = static_cast<int>(plot->paneRect(0).center().y());
    d->drag(plot, {static_cast<int>(plot->xOf(42 * kHour)), middle},
            {static_cast<int>(plot->xOf(12 * kHour)), middle});
    ASSERT_TRUE(plot->part());
    EXPECT_EQ(plot->part()->from, 42 * kHour);
    EXPECT_EQ(plot->part()->to, 12 * kHour);
    auto* found = d->find<QTableView>("partRules");
    ASSERT_EQ(found->model()->rowCount(), 8) << text("partWords").toStdString();
    ASSERT_EQ(found->model()->index(0, 0).data().toString(), "slope");
    d->clickRow(found, 0);
    d->click("partTake");
    wait();
    EXPECT_TRUE(rule().text.starts_with("slope(@bearing_vibration over 30h)")) << rule().text;
    EXPECT_EQ(bench().editor()->toPlainText().toStdString(), rule().text);
    EXPECT_FALSE(plot->part());
    ASSERT_TRUE(proof());
    keepAs("Bearing slope", "from the lead-up");
    ASSERT_TRUE(d->study().judgement().ruleNamed("Bearing slope"));

    // The search: its best becomes the second version.
    auto& search = page<app::SearchPage>("proveSearch");
    d->type("varySteps_limit", "31");
    d->type("searchFalse", "50");  // a slope over runs and pauses speaks often
    d->click("searchStart");
    ASSERT_TRUE(search.shown());
    const ShownBest best = bestOf(*search.shown());
    EXPECT_EQ(search.shown()->found.settings.size(), 31u);
    EXPECT_FALSE(text("searchVerdict").isEmpty());
    const double before = rule().settings.at("limit");
    d->clickAt(search.curve(),
               {static_cast<int>(search.curve()->width() * 0.8), search.curve()->height() / 2});
    d->click("searchTakePicked");
    wait();
    EXPECT_NE(rule().settings.at("limit"), before);
    d->click("searchTakeBest");
    wait();
    EXPECT_EQ(rule().settings.at("limit"), best.limit);
    EXPECT_EQ(proof()->caught, best.caught) << "what the search says is what the proof says";
    EXPECT_EQ(proof()->falseAlarms, best.falseAlarms);
    keepAs("Bearing slope", "searched");

    // Both versions on the same failures.
    auto& rules = page<app::RulesPage>("proveRules");
    wait();
    ASSERT_EQ(rules.listed().size(), 2u);
    for (const int row : {0, 1}) {
        auto* model = rules.table()->model();
        model->setData(model->index(row, 0), Qt::Checked, Qt::CheckStateRole);
    }
    wait();
    ASSERT_TRUE(rules.compared());
    EXPECT_EQ(rules.compared()->proofs[0].caught, best.caught);
    EXPECT_TRUE(text("comparedWords").startsWith("together they catch"));
    EXPECT_EQ(rules.table()->model()->index(0, 0).data(Qt::CheckStateRole).toInt(), Qt::Checked);
}

TEST_F(ProveWindow, ASearchShowsWhatIsKnownSoFarAndKeepsItWhenItIsStopped) {
    write("slope(@bearing_vibration over {hours}h) > {limit} and mean(@fan_current over {hours}h) > 20");
    d->type("setting_hours", "30");
    d->type("setting_limit", "0.05");
    wait();
    auto& search = page<app::SearchPage>("proveSearch");
    d->type("varySteps_hours", "30");
    d->type("varySteps_limit", "40");
    QTest::mouseClick(d->find("searchStart"), Qt::LeftButton);
    QElapsedTimer timer;
    timer.start();
    while (!text("searchVerdict").startsWith("So far on") && timer.elapsed() < 50000) QTest::qWait(5);
    EXPECT_TRUE(text("searchVerdict").endsWith("of 6 assets.")) << text("searchVerdict").toStdString();
    ASSERT_TRUE(search.shown());
    const std::size_t done = search.shown()->found.onAssets;
    EXPECT_LT(done, 6u);
    EXPECT_GT(search.table()->model()->rowCount(), 0) << "with what is known";
    // What is picked meanwhile stays picked, whatever comes.
    d->find<QTableView>("searchTable")->selectRow(3);
    const auto key = app::currentKey(search.table());
    while (search.shown()->found.onAssets <= done && timer.elapsed() < 50000) QTest::qWait(5);
    EXPECT_EQ(app::currentKey(search.table()), key);
    QTest::mouseClick(d->find("searchStop"), Qt::LeftButton);
    d->settle();
    EXPECT_TRUE(text("searchVerdict").startsWith("Stopped: searched on"))
        << text("searchVerdict").toStdString();
    EXPECT_TRUE(d->find("searchStart")->isEnabled());
    EXPECT_TRUE(search.shown());
}

TEST_F(ProveWindow, AFalseAlarmIsLookedAtAndBecomesANearMiss) {
    write("mean(@bearing_vibration over 2h) > {limit}");
    d->type("setting_limit", "1.9");
    wait();
    ASSERT_TRUE(proof());
    const int before = proof()->falseAlarms;
    ASSERT_GT(before, 1);
    auto& alarms = page<app::AlarmsPage>("proveAlarms");
    wait();
    ASSERT_GE(alarms.current(), 0);
    const AlarmVerdict first = proof()->alarms[static_cast<std::size_t>(alarms.current())];
    EXPECT_EQ(first.verdict, Verdict::False);
    EXPECT_EQ(d->view().asset(), first.asset);
    EXPECT_TRUE(d->view().view().contains(first.range.from));
    EXPECT_GT(alarms.plot()->paneCount(), 0);
    d->key(alarms.table(), Qt::Key_Return);
    EXPECT_EQ(d->view().bench(), app::BenchId::Survey) << "it opens with its tags";
    EXPECT_EQ(d->view().cursor(0), first.range.from);
    d->bench(app::BenchId::Prove);
    d->key(alarms.table(), Qt::Key_M);
    wait();
    EXPECT_EQ(proof()->falseAlarms, before - 1);
    EXPECT_EQ(proof()->nearMisses, 1);
    Proof only;
    only.alarms = {first};
    EXPECT_EQ(labelsOfAlarms(d->study(), only), std::vector<std::string>{kNearMiss});
    EXPECT_TRUE(text("alarmWords").contains("near miss"));
    d->key(alarms.table(), Qt::Key_N);
    EXPECT_NE(proof()->alarms[static_cast<std::size_t>(alarms.current())].range, first.range);
    d->key(alarms.table(), Qt::Key_S);
    wait();
    EXPECT_EQ(proof()->falseAlarms, before - 1) << "a wrong sensor does not excuse the rule";
    keepAs("Low limit");
    const auto kept = d->study().judgement().ruleNamed("Low limit");
    ASSERT_TRUE(kept);
    ASSERT_TRUE(lastProof(d->study(), kept->id));
    EXPECT_EQ(lastProof(d->study(), kept->id)->proof.nearMisses, 1);
    EXPECT_TRUE(outOfDate(d->study(), *kept, *lastProof(d->study(), kept->id)).empty());
    // Three steps: the rule with its proof, the sensor, the near miss.
    for (int i = 0; i < 3; ++i) d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    wait();
    EXPECT_FALSE(d->study().judgement().ruleNamed("Low limit")) << "with its proof in one step";
    EXPECT_EQ(proof()->falseAlarms, before) << "undo proves again";
}

TEST_F(ProveWindow, AProofThatNoLongerStandsIsSaid) {
    write("mean(@bearing_vibration over 2h) > 2.75");
    keepAs("Rough");
    auto& rules = page<app::RulesPage>("proveRules");
    wait();
    const auto said = [&] { return rules.table()->model()->index(0, 6).data().toString(); };
    EXPECT_FALSE(said().contains("out of date"));
    auto& failuresPage = page<app::FailuresPage>("proveFailures");
    d->clickRow(failuresPage.table(), 0);
    auto* model = failuresPage.table()->model();
    d->find<QLineEdit>("failureWhy")->setText("struck");
    model->setData(model->index(0, 0), Qt::Unchecked, Qt::CheckStateRole);
    wait();
    EXPECT_EQ(proof()->untestable, 1);
    EXPECT_EQ(model->index(0, 6).data().toString(), "untestable: not counted: struck");
    d->click("proveRules");
    wait();
    EXPECT_TRUE(said().contains("out of date: failures were added")) << said().toStdString();
}

TEST_F(ProveWindow, TwoSettingsAreAMapAndTheNumbersOfARuleBecomeSettings) {
    write("mean(@bearing_vibration over 6h) > 3.2");
    auto& search = page<app::SearchPage>("proveSearch");
    EXPECT_FALSE(d->find("searchStart")->isEnabled()) << "nothing to vary";
    d->click("searchName");
    wait();
    EXPECT_EQ(rule().text, "mean(@bearing_vibration over {hours}h) > {limit}");
    EXPECT_EQ(rule().settings.at("limit"), 3.2);
    d->type("varyLow_hours", "24");
    d->click("searchStart");
    EXPECT_TRUE(d->find<QLineEdit>("varyHigh_hours")->property("wrong").toBool()) << "12 is less than 24";
    EXPECT_FALSE(search.shown());
    for (const auto& [field, number] : {std::pair{"varyLow_hours", "2"},
                                        {"varyHigh_hours", "8"},
                                        {"varySteps_hours", "4"},
                                        {"varyLow_limit", "2"},
                                        {"varyHigh_limit", "4"},
                                        {"varySteps_limit", "5"}})
        d->type(field, number);
    d->click("searchStart");
    ASSERT_TRUE(search.shown());
    EXPECT_EQ(search.shown()->found.settings.size(), 20u);
    ASSERT_TRUE(search.map()->isVisible());
    // A click on a cell chooses its setting, in the list too.
    d->clickAt(search.map(), search.map()->cellOf(7).center().toPoint());
    EXPECT_EQ(app::currentKey(search.table()), 8);
    d->click("searchTakePicked");
    wait();
    EXPECT_EQ(rule().settings, search.shown()->found.settings[7]);
    EXPECT_EQ(proof()->caught, search.shown()->found.result.tallies[7].caught);
    // Another rule is current: the verdict is not of it.
    write("mean(@bearing_vibration over {hours}h) < {limit}");
    EXPECT_EQ(text("searchVerdict"), "The rule was changed after this search.");
}

TEST_F(ProveWindow, ASearchIsStopped) {
    write("mean(@bearing_vibration over {hours}h) > {limit}");
    auto& search = page<app::SearchPage>("proveSearch");
    d->type("varySteps_hours", "40");
    d->type("varySteps_limit", "100");
    QTest::mouseClick(d->find("searchStart"), Qt::LeftButton);
    QTest::qWait(100);
    QTest::mouseClick(d->find("searchStop"), Qt::LeftButton);
    d->settle();
    EXPECT_TRUE(d->find("searchStart")->isEnabled());
    EXPECT_FALSE(d->find("searchStop")->isEnabled());
    EXPECT_FALSE(search.shown()) << "nothing was found yet";
}

TEST_F(ProveWindow, WithoutFailuresEverythingSaysWhatIsMissing) {
    d->bench(app::BenchId::Prove);
    auto& list = page<app::FailuresPage>("proveFailures");
    list.table()->selectAll();
    d->click("failureRemove");
    wait();
    EXPECT_TRUE(failures().empty());
    write("mean(@bearing_vibration over 2h) > {limit}");
    ASSERT_TRUE(proof());
    EXPECT_EQ(text("caughtFigure"), "0 of 0");
    d->click("proveSearch");
    d->type("varySteps_limit", "5");
    d->click("searchStart");
    EXPECT_TRUE(text("searchBest").contains("holds no failures to judge settings by: do not put it on watch"))
        << text("searchBest").toStdString();
    EXPECT_FALSE(d->find("searchVerdict")->isVisible()) << "a verdict on nothing";
    d->click("proveAlarms");
    EXPECT_EQ(proof()->cameTrue, 0);
    // One failure, written down by hand.
    d->click("proveFailures");
    d->type("failureMoment", "5 Apr 2026 06:00");
    d->click("failureAdd");
    wait();
    ASSERT_EQ(failures().size(), 1u);
    EXPECT_EQ(proof()->failures.size(), 1u);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    wait();
    EXPECT_EQ(failures().size(), 7u);
}

TEST_F(ProveWindow, AlwaysNeverAndMaskedAreSaidInPlainWords) {
    write("@bearing_vibration > -1");
    ASSERT_TRUE(proof());
    EXPECT_EQ(text("caughtFigure"), "7 of 7");
    EXPECT_TRUE(text("ruleState").contains("true for 100 %")) << text("ruleState").toStdString();
    write("@bearing_vibration > 1000");
    EXPECT_EQ(text("caughtFigure"), "0 of 7");
    EXPECT_EQ(text("warningFigure"), "–");
    d->click("proveAlarms");
    EXPECT_EQ(text("alarmWords"), "The rule has no alarms yet.");
    d->click("proveProof");
    d->type("proveMasks", "@bearing_vibration > -1");
    wait();
    EXPECT_EQ(proof()->untestable, 7);
    EXPECT_EQ(text("caughtFigure"), "0 of 0");
    d->type("proveMasks", "Stosp");
    EXPECT_TRUE(d->find<QLineEdit>("proveMasks")->property("wrong").toBool());
    EXPECT_TRUE(d->find<QLineEdit>("proveMasks")->toolTip().contains("Stops"));
}

TEST_F(ProveWindow, ARuleIsTakenUpRenamedAndRemoved) {
    write("@bearing_vibration > 3");
    keepAs("Rough");
    write("@bearing_vibration > 3.5");
    EXPECT_TRUE(d->find<QComboBox>("ruleChoice")->currentText().contains("changed"));
    keepAs("Rough");
    EXPECT_EQ(d->study().judgement().ruleVersions("Rough").size(), 2u);
    auto& rules = page<app::RulesPage>("proveRules");
    wait();
    d->clickRow(rules.table(), 1);
    d->click("ruleTake");
    wait();
    EXPECT_EQ(bench().editor()->toPlainText(), "@bearing_vibration > 3") << "the older version is current";
    d->clickRow(rules.table(), 0);
    onNextDialog([](QWidget* dialog) {
        dialog->findChild<QLineEdit*>()->setText("Rougher");
        QMetaObject::invokeMethod(dialog, "accept");
    });
    d->click("ruleRename");
    wait();
    EXPECT_TRUE(d->study().judgement().ruleNamed("Rougher"));
    EXPECT_EQ(rule().name, "Rougher");
    d->clickRow(rules.table(), 0);
    onNextDialog([](QWidget* dialog) {
        for (QPushButton* b : dialog->findChildren<QPushButton*>())
            if (b->text() == "Remove") QTest::mouseClick(b, Qt::LeftButton);
    });
    d->click("ruleRemove");
    wait();
    EXPECT_TRUE(d->study().judgement().rules().empty());
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(d->study().judgement().ruleVersions("Rougher").size(), 2u);
}

}  // namespace
}  // namespace jacinth::test
