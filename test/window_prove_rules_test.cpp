// Rules in the real window: proved again, combined, remembered; and what the pictures of Prove do under the
// mouse.
#include <QMenu>

#include "store/judgement.h"
#include "test/prove_window.h"
#include "work/prove/starting_ranges.h"

namespace jacinth::test {
namespace {

class ProveRules : public ProveWindow {
  protected:
    QString cell(QTableView* table, int row, int column) {
        return table->model()->index(row, column).data().toString();
    }
    int rowNamed(QTableView* table, const QString& name) {
        for (int row = 0; row < table->model()->rowCount(); ++row)
            if (cell(table, row, 0) == name) return row;
        return -1;
    }
    void tick(QTableView* table, const QString& name) {
        table->model()->setData(table->model()->index(rowNamed(table, name), 0), Qt::Checked,
                                Qt::CheckStateRole);
    }
};

TEST_F(ProveRules, AProofOutOfDateIsMadeAgain) {
    write("mean(@bearing_vibration over 2h) > 2.75");
    const int caught = proof()->caught;
    ASSERT_GT(caught, 1);
    keepAs("Rough");
    auto& rules = page<app::RulesPage>("proveRules");
    wait();
    d->clickRow(rules.table(), 0);
    d->click("ruleProveAgain");
    wait();
    EXPECT_TRUE(cell(rules.table(), 0, 6).contains("the same as before") ||
                text("ruleDetail").contains("the same as before"))
        << text("ruleDetail").toStdString();
    auto& list = page<app::FailuresPage>("proveFailures");
    d->clickRow(list.table(), 6);
    d->click("failureRemove");
    wait();
    d->click("proveRules");
    wait();
    EXPECT_TRUE(cell(rules.table(), 0, 6).startsWith("out of date"))
        << cell(rules.table(), 0, 6).toStdString();
    EXPECT_EQ(cell(rules.table(), 0, 2), QString("%1 of 7").arg(caught)) << "as it was proved";
    d->clickRow(rules.table(), 0);
    d->click("ruleProveAgain");
    wait();
    EXPECT_FALSE(cell(rules.table(), 0, 6).startsWith("out of date"));
    EXPECT_TRUE(cell(rules.table(), 0, 2).endsWith("of 6"));
    const auto kept = d->study().judgement().ruleNamed("Rough");
    ASSERT_TRUE(kept);
    EXPECT_EQ(kept->version, 1) << "the rule is the same";
    EXPECT_EQ(d->study().judgement().proofs(kept->id).size(), 3u);
}

TEST_F(ProveRules, NewSettingsBeginWhereTheTagIs) {
    write("mean(@bearing_vibration over {hours}h) > {limit}");
    wait();
    ASSERT_TRUE(proof()) << "proved with the numbers that were found";
    const auto found = startingRanges(d->study(), bench().state().request());
    ASSERT_TRUE(found);
    EXPECT_EQ(rule().settings.at("hours"), 6);
    EXPECT_EQ(rule().settings.at("limit"), found->at(1).value);
    EXPECT_GT(proof()->caught, 0) << "1 would be one long alarm";
    auto* field = d->find<QLineEdit>("setting_limit");
    EXPECT_EQ(field->text().toDouble(), found->at(1).value);
    EXPECT_TRUE(field->toolTip().contains("99 % of mean(@bearing_vibration"))
        << field->toolTip().toStdString();
    // What the user says stays, whatever else the rule becomes.
    d->type("setting_limit", "2.5");
    write("mean(@bearing_vibration over {hours}h) > {limit} for 20m");
    EXPECT_EQ(rule().settings.at("limit"), 2.5);
    page<app::SearchPage>("proveSearch");
    wait();
    const double low = d->find<QLineEdit>("varyLow_limit")->text().toDouble(),
                 high = d->find<QLineEdit>("varyHigh_limit")->text().toDouble();
    EXPECT_LE(low, 2.5);
    EXPECT_GE(high, 2.5);
    EXPECT_NEAR(low, found->at(1).vary.low, 1e-9);
    EXPECT_EQ(d->find<QLineEdit>("varyHigh_hours")->text(), "24");
    // A range that was typed stays too.
    d->type("varyHigh_limit", "77");
    d->type("setting_hours", "8");
    wait();
    EXPECT_EQ(d->find<QLineEdit>("varyHigh_limit")->text(), "77");
}

TEST_F(ProveRules, ANewRuleOfTheSameWordsBeginsWhereTheOtherDid) {
    const QString text = "mean(@bearing_vibration over {hours}h) > {limit}";
    write(text);
    wait();
    const double begun = rule().settings.at("limit");
    ASSERT_NE(begun, 1);
    auto* rules = d->find<QComboBox>("ruleChoice");
    rules->setCurrentIndex(0);
    emit rules->activated(0);
    wait();
    write(text);
    wait();
    EXPECT_EQ(rule().settings.at("limit"), begun) << "known already, and nothing is looked for";
    ASSERT_TRUE(proof());
    // What was known of another rule does not hold for this one.
    page<app::SearchPage>("proveSearch");
    write("mean(@fan_current over {hours}h) < {limit}");
    wait();
    EXPECT_TRUE(d->find<QLineEdit>("setting_limit")->toolTip().contains("fan_current"));
    EXPECT_GT(d->find<QLineEdit>("varyHigh_limit")->text().toDouble(), 3 * begun) << "amperes";
}

TEST_F(ProveRules, ARuleIsProvedWhereNoNumberCanBeFound) {
    write("abs({x}) > 3 and @bearing_vibration > 3");
    wait();
    EXPECT_EQ(rule().settings.at("x"), 1);
    ASSERT_TRUE(proof());
    EXPECT_TRUE(proof()->alarms.empty());
}

TEST_F(ProveRules, TwoBecomeOne) {
    write("mean(@bearing_vibration over 2h) > {limit}");
    d->type("setting_limit", "3");
    wait();
    const int one = proof()->caught;
    keepAs("Vibration");
    d->click("proveProof");
    write("mean(@bearing_temp over 2h) > 50 for 1h");
    const int other = proof()->caught;
    keepAs("Warm");
    auto& rules = page<app::RulesPage>("proveRules");
    wait();
    EXPECT_FALSE(d->find("combineRules")->isEnabled()) << "nothing is ticked";
    tick(rules.table(), "Vibration");
    EXPECT_FALSE(d->find("combineRules")->isEnabled()) << "one is not two";
    tick(rules.table(), "Warm");
    wait();
    d->click("combineRules");
    wait();
    EXPECT_NE(rule().text.find(" or "), std::string::npos) << rule().text;
    EXPECT_TRUE(rule().name.empty());
    EXPECT_GE(proof()->caught, std::max(one, other));
    d->find<QComboBox>("combineHow")->setCurrentIndex(1);
    d->click("combineRules");
    wait();
    EXPECT_NE(rule().text.find(" and "), std::string::npos) << rule().text;
    EXPECT_LE(proof()->caught, std::min(one, other));
}

TEST_F(ProveRules, EachHasItsCurveAndAPointOfItBecomesTheRule) {
    write("mean(@bearing_vibration over 2h) > 4");
    keepAs("Vibration");
    d->click("proveProof");
    write("slope(@bearing_temp over 6h) > {climb}");
    d->type("setting_climb", "2");
    wait();
    keepAs("Warming");
    auto& rules = page<app::RulesPage>("proveRules");
    wait();
    EXPECT_TRUE(rules.trades()->rules().empty());
    tick(rules.table(), "Vibration");
    tick(rules.table(), "Warming");
    wait();
    const auto& trades = rules.trades()->rules();
    ASSERT_EQ(trades.size(), 2u);
    ASSERT_TRUE(trades[0].curve && trades[1].curve);
    EXPECT_EQ(trades[1].curve->limit, "climb");
    EXPECT_EQ(trades[0].proof.caught, rules.compared()->proofs[0].caught);
    for (const app::RuleTrade& t : trades)
        for (std::size_t i = 1; i < t.curve->points.size(); ++i)
            EXPECT_GT(t.curve->points[i].tally.caught, t.curve->points[i - 1].tally.caught);
    const std::size_t vibration = trades[0].name == "Vibration" ? 0 : 1;
    const auto placeOf = [&](const TradePoint& p) {
        return rules.trades()->placeOf(p.tally.falsePerAssetMonth, p.tally.catchRate());
    };
    const auto& points = trades[vibration].curve->points;
    const auto better = std::find_if(points.begin(), points.end(), [&](const TradePoint& p) {
        return p.tally.caught > trades[vibration].proof.caught &&
               rules.trades()->rect().contains(placeOf(p).toPoint());
    });
    ASSERT_NE(better, points.end()) << "a rule at 4 leaves room for a better one";
    const TradePoint point = *better;
    const QPointF at = placeOf(point);
    d->doubleClickAt(rules.trades(), at.toPoint());
    wait();
    EXPECT_EQ(rule().text, "mean(@bearing_vibration over 2h) > {limit}");
    EXPECT_EQ(rule().settings.at("limit"), point.limit);
    EXPECT_EQ(proof()->caught, point.tally.caught);
}

TEST_F(ProveRules, TheCurrentRuleIsThereWhenTheStudyIsOpenedAgain) {
    write("mean(@bearing_vibration over {hours}h) > {limit}");
    d->type("setting_hours", "3");
    d->type("setting_limit", "2.5");
    wait();
    const int caught = proof()->caught;
    d->close();
    d = std::make_unique<WindowDriver>(folder / "p.jacinth");
    d->bench(app::BenchId::Prove);
    wait();
    EXPECT_EQ(bench().editor()->toPlainText(), "mean(@bearing_vibration over {hours}h) > {limit}");
    EXPECT_EQ(d->find<QLineEdit>("setting_limit")->text(), "2.5");
    ASSERT_TRUE(proof());
    EXPECT_EQ(proof()->caught, caught);
}

TEST_F(ProveRules, WhatIsNoNumberOrNoRuleChangesNothing) {
    write("mean(@bearing_vibration over {hours}h) > {limit}");
    d->type("setting_limit", "3");
    wait();
    const Proof before = *proof();
    d->type("setting_limit", "three");
    EXPECT_TRUE(d->find<QLineEdit>("setting_limit")->property("wrong").toBool());
    EXPECT_EQ(rule().settings.at("limit"), 3);
    d->type("setting_limit", "3.0");
    EXPECT_FALSE(d->find<QLineEdit>("setting_limit")->property("wrong").toBool());
    write("mean(@bearing_vibration over {hours}h) > {limit} and @bearing_vibratoin > 1");
    EXPECT_TRUE(text("ruleState").contains("bearing_vibration")) << "the nearest name is said";
    EXPECT_FALSE(bench().state().provable());
    write("mean(@bearing_vibration over {hours}h)");
    EXPECT_TRUE(text("ruleState").contains("a rule is a condition"));
    bench().editor()->selectAll();
    d->key(bench().editor(), Qt::Key_Delete);
    wait();
    EXPECT_TRUE(text("ruleState").contains("write a condition"));
    write("mean(@bearing_vibration over {hours}h) > {limit}");
    ASSERT_TRUE(bench().state().provable());
    EXPECT_EQ(rule().settings.at("limit"), 3) << "a setting that comes back has its number again";
    EXPECT_EQ(proof()->caught, before.caught);
}

TEST_F(ProveRules, AnAlarmIsChosenOnTheTimeLine) {
    write("mean(@bearing_vibration over 2h) > 1.9");
    auto& alarms = page<app::AlarmsPage>("proveAlarms");
    wait();
    auto* line = d->window().findChild<app::AlarmTimeline*>();
    ASSERT_NE(line, nullptr);
    const int last = static_cast<int>(proof()->alarms.size()) - 1;
    ASSERT_NE(alarms.current(), last);
    d->clickAt(line, line->shapeOf(last).center().toPoint());
    EXPECT_EQ(alarms.current(), last);
    EXPECT_EQ(app::currentKey(alarms.table()), last + 1);
    const double width = line->shapeOf(last).width();
    d->wheel(line, line->shapeOf(last).center().toPoint(), 3);
    EXPECT_GT(line->shapeOf(last).width(), width) << "the wheel looks closer";
    EXPECT_TRUE(line->rect().contains(line->shapeOf(last).center().toPoint()));
    d->doubleClickAt(line, line->shapeOf(last).center().toPoint());
    EXPECT_EQ(d->view().bench(), app::BenchId::Survey);
    EXPECT_EQ(d->view().asset(), proof()->alarms.back().asset);
}

TEST_F(ProveRules, TheLeadUpIsLinesOrABandAndLooksCloser) {
    write("@bearing_vibration > 4");
    auto* plot = d->find<app::LeadUpPlot>("leadUpPlot");
    EXPECT_EQ(plot->linesDrawn(), 7);
    EXPECT_EQ(plot->quietOnes().size(), 7u) << "as many stretches without failure";
    d->type("leadUpTags", "fan_current");
    wait();
    EXPECT_EQ(plot->panes(), 2);
    EXPECT_EQ(plot->linesDrawn(), 14);
    auto* look = d->find<QComboBox>("leadUpLook");
    look->setCurrentIndex(1);
    emit look->activated(1);
    wait();
    EXPECT_EQ(plot->linesDrawn(), 0) << "quantiles in their place";
    const double day = plot->xOf(kDay) - plot->xOf(2 * kDay);
    d->wheel(plot, {static_cast<int>(plot->xOf(kDay)), static_cast<int>(plot->paneRect(0).center().y())}, 2);
    EXPECT_GT(plot->xOf(kDay) - plot->xOf(2 * kDay), day * 1.3);
    d->drag(plot, {static_cast<int>(plot->xOf(30 * kHour)), static_cast<int>(plot->paneRect(1).center().y())},
            {static_cast<int>(plot->xOf(18 * kHour)), static_cast<int>(plot->paneRect(1).center().y())});
    ASSERT_TRUE(plot->part());
    EXPECT_EQ(plot->part()->name, "fan_current");
    d->key(plot, Qt::Key_Escape);
    EXPECT_FALSE(plot->part());
}

TEST_F(ProveRules, TagsNamedByTheirPathAreDrawnAndMeasuredToo) {
    write("`Site/Outside temp` > 12");
    ASSERT_TRUE(proof());
    EXPECT_EQ(proof()->failures.size(), 7u);
    EXPECT_EQ(proof()->untestable, 0);
    auto* plot = d->find<app::LeadUpPlot>("leadUpPlot");
    EXPECT_EQ(plot->panes(), 1);
    EXPECT_EQ(plot->linesDrawn(), 7);
    d->type("leadUpTags", "`Site/Outside RH`, Site/No such tag");
    wait();
    EXPECT_EQ(plot->panes(), 2);
    EXPECT_TRUE(d->find("leadUpTags")->toolTip().contains("Site/No such tag"));
    const auto middle = static_cast<int>(plot->paneRect(1).center().y());
    d->drag(plot, {static_cast<int>(plot->xOf(30 * kHour)), middle},
            {static_cast<int>(plot->xOf(18 * kHour)), middle});
    ASSERT_TRUE(plot->part());
    EXPECT_EQ(plot->part()->name, "Site/Outside RH");
    wait();
    auto* rules = d->find<QTableView>("partRules");
    ASSERT_GT(rules->model()->rowCount(), 0);
    d->clickRow(rules, 0);
    d->click("partTake");
    wait();
    EXPECT_TRUE(QString::fromStdString(bench().state().rule().text).contains("(`Site/Outside RH` over 12h)"))
        << bench().state().rule().text;
    EXPECT_TRUE(bench().state().provable());
    d->click("proveAlarms");
    wait();
    EXPECT_EQ(text("alarmPlotWords"), "");
}

TEST_F(ProveRules, ARuleThatNoFailedAssetCanUseSaysSoBesideIt) {
    const int wide = d->window().width();
    write("@outside_temp > 9");
    EXPECT_EQ(text("ruleState"), "valid on Site, where nothing failed");
    EXPECT_TRUE(text("ruleHelp").contains("`Site/Outside temp` by its path"))
        << text("ruleHelp").toStdString();
    EXPECT_EQ(text("caughtFigure"), "0 of 0");
    EXPECT_EQ(d->find<app::LeadUpPlot>("leadUpPlot")->panes(), 0);
    write("@bearing_vibraton > 9");
    EXPECT_TRUE(text("ruleState").contains("nearest is `bearing_vibration`"));
    EXPECT_TRUE(text("ruleHelp").contains("nearest is `bearing_vibration`")) << "where it has room";
    EXPECT_EQ(d->window().width(), wide) << "long words do not push the window wider";
    write("@bearing_vibration > 4");
    EXPECT_TRUE(text("ruleState").startsWith("valid on 6 assets")) << text("ruleState").toStdString();
    EXPECT_FALSE(text("ruleHelp").contains("path"));
    write("slope(");
    EXPECT_TRUE(text("ruleHelp").contains("slope(")) << text("ruleHelp").toStdString();
}

TEST_F(ProveRules, ANewRuleProvesWithWhatIsKeptOfTheOldOne) {
    // The same through many small changes as from nothing.
    for (const char* text :
         {"mean(@bearing_vibration over 6h) > 3", "mean(@bearing_vibration over 6h) > 2.5",
          "mean(@bearing_vibration over 5h) > 2.5",
          "mean(@bearing_vibration over 5h) > 2.5 and @fan_current > 20",
          "median(@fan_current over 2d) > 20 and mean(@bearing_vibration over 5h) > 2.5"}) {
        write(text);
        ASSERT_TRUE(bench().state().proofIsCurrent()) << text;
        const auto plain = proveRule(d->study(), bench().state().request());
        ASSERT_TRUE(plain);
        EXPECT_EQ(std::tuple(proof()->caught, proof()->falseAlarms, proof()->alarms.size()),
                  std::tuple(plain->caught, plain->falseAlarms, plain->alarms.size()))
            << text;
    }
}

}  // namespace
}  // namespace jacinth::test
