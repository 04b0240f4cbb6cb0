// On which terms a rule is proved, in the real window: warning times, off-delay, masks, kinds of failures;
// how the alarms are counted; and a search over more settings than a picture can show.
#include <QHelpEvent>
#include <QToolTip>

#include "app/prove/warning_curve.h"
#include "store/judgement.h"
#include "test/prove_window.h"
#include "work/prove/breakdown.h"

namespace jacinth::test {
namespace {

class ProveTerms : public ProveWindow {
  protected:
    void setTerm(const char* field, const QString& text) {
        d->type(field, text, true);
        wait();
    }
    bool isWrong(const char* field) { return d->find<QLineEdit>(field)->property("wrong").toBool(); }
    QString cell(QTableView* table, int row, int column) {
        return table->model()->index(row, column).data().toString();
    }
    double sum(QTableView* table, int column) {
        double out = 0;
        for (int row = 0; row < table->model()->rowCount(); ++row) out += cell(table, row, column).toDouble();
        return out;
    }
    void chooseFrom(const char* combo, int row) {
        auto* c = d->find<QComboBox>(combo);
        c->setCurrentIndex(row);
        emit c->activated(row);
        wait();
    }
    static constexpr const char* kRule = "mean(@bearing_vibration over 2h) > 2.4";
};

TEST_F(ProveTerms, ALongerWarningCatchesFewerAndTheCurveSaidHowMany) {
    write(kRule);
    const Proof before = *proof();
    ASSERT_GT(before.caught, 2);
    d->click("proveAlarms");
    auto* curve = d->window().findChild<app::WarningCurve*>();
    ASSERT_NE(curve, nullptr);
    const auto steps = curve->steps();
    ASSERT_EQ(steps.size(), 49u);
    EXPECT_EQ(steps[12].first, 12 * kHour);
    EXPECT_EQ(steps[12].second, before.caught);
    for (std::size_t i = 1; i < steps.size(); ++i) EXPECT_LE(steps[i].second, steps[i - 1].second);
    d->click("proveProof");
    for (const int hours : {30, 1, 47}) {
        setTerm("proveLeast", QString("%1h").arg(hours));
        ASSERT_TRUE(bench().state().proofIsCurrent());
        EXPECT_EQ(rule().spec.least, hours * kHour);
        EXPECT_EQ(proof()->caught, steps[static_cast<std::size_t>(hours)].second) << hours;
    }
}

TEST_F(ProveTerms, WhatThePointerMeetsOnTheWarningCurveIsSaid) {
    write(kRule);
    d->click("proveAlarms");
    auto* curve = d->window().findChild<app::WarningCurve*>();
    const QPoint middle(curve->width() / 2, curve->height() / 2);
    QHelpEvent help(QEvent::ToolTip, middle, curve->mapToGlobal(middle));
    QApplication::sendEvent(curve, &help);
    EXPECT_TRUE(QToolTip::text().contains("warned at least")) << QToolTip::text().toStdString();
    EXPECT_TRUE(QToolTip::text().contains("of 7 caught")) << QToolTip::text().toStdString();
    QToolTip::hideText();
}

TEST_F(ProveTerms, TimesThatCannotBeAreSaidAndChangeNothing) {
    write(kRule);
    const Proof before = *proof();
    const ProveSpec spec = rule().spec;
    for (const auto& [field, text] : {std::pair{"proveMost", "two days"},
                                      {"proveMost", "0h"},
                                      {"proveLeast", "60h"},
                                      {"proveJoin", ""},
                                      {"proveOffDelay", "-1h"}}) {
        const QString was = d->find<QLineEdit>(field)->text();
        setTerm(field, text);
        EXPECT_TRUE(isWrong(field)) << field << " " << text;
        EXPECT_EQ(rule().spec, spec) << field << " " << text;
        EXPECT_EQ(proof()->caught, before.caught);
        setTerm(field, was);
        EXPECT_FALSE(isWrong(field)) << field;
    }
    EXPECT_EQ(rule().spec, spec);
}

TEST_F(ProveTerms, JoiningAndTheOffDelayMakeFewerAlarms) {
    write("@bearing_vibration > 2.4");
    setTerm("proveJoin", "0h");
    const std::size_t apart = proof()->alarms.size();
    setTerm("proveJoin", "24h");
    const std::size_t joined = proof()->alarms.size();
    EXPECT_LT(joined, apart);
    setTerm("proveJoin", "0h");
    EXPECT_EQ(proof()->alarms.size(), apart);
    setTerm("proveOffDelay", "1d");
    EXPECT_LT(proof()->alarms.size(), apart);
    EXPECT_EQ(rule().spec.offDelay, kDay);
    keepAs("Slow to leave");
    const auto kept = d->study().judgement().ruleNamed("Slow to leave");
    ASSERT_TRUE(kept);
    EXPECT_EQ(kept->spec, rule().spec) << "the terms are kept with the rule";
}

TEST_F(ProveTerms, MasksAreTracksAndConditions) {
    write("mean(@bearing_vibration over 2h) > 1.9");
    const Proof before = *proof();
    ASSERT_GT(before.falseAlarms, 0);
    // What is masked where the rule is true leaves no alarm at all.
    setTerm("proveMasks", "mean(@bearing_vibration over 2h) > 1.9");
    EXPECT_FALSE(isWrong("proveMasks"));
    ASSERT_TRUE(bench().state().proofIsCurrent());
    EXPECT_EQ(proof()->falseAlarms, 0);
    EXPECT_LT(proof()->countingTime, before.countingTime);
    EXPECT_EQ(rule().masks.size(), 1u);
    setTerm("proveMasks", "no such track");
    EXPECT_TRUE(isWrong("proveMasks"));
    EXPECT_EQ(rule().masks.size(), 1u) << "what it was stays";
    setTerm("proveMasks", "mean(@bearing_vibration over 2h)");
    EXPECT_TRUE(isWrong("proveMasks")) << "a number cannot be a mask";
    setTerm("proveMasks", "");
    EXPECT_FALSE(isWrong("proveMasks"));
    EXPECT_TRUE(rule().masks.empty());
    EXPECT_EQ(proof()->falseAlarms, before.falseAlarms);
}

TEST_F(ProveTerms, OnlyFailuresOfTheKindThatIsChosenCount) {
    d->bench(app::BenchId::Prove);
    // One of another kind, so that a kind is not all.
    auto& list = page<app::FailuresPage>("proveFailures");
    d->clickRow(list.table(), 2);
    d->find<QComboBox>("failureKind")->setEditText("belt");
    d->click("failureChange");
    d->click("proveProof");
    write(kRule);
    auto* kinds = d->find<QComboBox>("proveFailureKind");
    ASSERT_GT(kinds->count(), 2);
    ASSERT_GT(kinds->findText("belt"), 0);
    const std::size_t all = proof()->failures.size();
    for (int row = 1; row < kinds->count(); ++row) {
        chooseFrom("proveFailureKind", row);
        EXPECT_EQ(rule().failures, kinds->itemText(row).toStdString());
        const auto ofKind = failuresOf(d->study(), rule().failures);
        ASSERT_TRUE(ofKind);
        EXPECT_EQ(proof()->failures.size(), ofKind->size());
        if (rule().failures == "belt") EXPECT_EQ(proof()->failures.size(), 1u);
        if (rule().failures == "fan bearing") EXPECT_EQ(proof()->failures.size(), all - 1);
    }
    chooseFrom("proveFailureKind", 0);
    EXPECT_TRUE(rule().failures.empty());
    EXPECT_EQ(proof()->failures.size(), all);
}

TEST_F(ProveTerms, EveryWayToCountTheAlarmsCountsAllOfThem) {
    write("mean(@bearing_vibration over 2h) > 1.9");
    ASSERT_GT(proof()->falseAlarms, 1);
    d->click("proveAlarms");
    wait();
    auto* shares = d->find<QTableView>("alarmShares");
    for (const int by : {0, 1, 2}) {
        chooseFrom("alarmSharesBy", by);
        EXPECT_GT(shares->model()->rowCount(), 0);
        EXPECT_EQ(sum(shares, 1), proof()->cameTrue) << by;
        EXPECT_EQ(sum(shares, 2), proof()->falseAlarms) << by;
        EXPECT_EQ(sum(shares, 4), proof()->nearMisses) << by;
    }
    chooseFrom("alarmSharesBy", 0);
    // Each asset's rate is its false alarms over its own time that counts.
    for (const AlarmShare& s : breakDown(d->study(), *proof(), static_cast<BreakdownBy>(0))) {
        const double months = toHours(s.counting) / 730.5;
        if (months > 0) EXPECT_NEAR(s.falsePerAssetMonth(), s.falseAlarms / months, 1e-9) << s.name;
    }
}

TEST_F(ProveTerms, ThreeSettingsAreListedAndOneIsTaken) {
    write("mean(@bearing_vibration over {hours}h) > {limit} and @fan_current > {amps}");
    d->type("setting_hours", "6");
    d->type("setting_limit", "3");
    d->type("setting_amps", "10");
    wait();
    auto& search = page<app::SearchPage>("proveSearch");
    auto* third = d->find<QCheckBox>("vary_amps");
    if (!third->isChecked()) QTest::mouseClick(third, Qt::LeftButton, {}, {8, third->height() / 2});
    ASSERT_TRUE(third->isChecked());
    d->type("varySteps_hours", "3");
    d->type("varySteps_limit", "5");
    d->type("varySteps_amps", "3");
    d->type("searchTries", "20");
    d->click("searchStart");
    ASSERT_TRUE(search.shown());
    EXPECT_EQ(search.shown()->found.settings.size(), 45u);
    EXPECT_FALSE(search.curve()->isVisible());
    EXPECT_FALSE(search.map()->isVisible());
    EXPECT_EQ(search.table()->model()->rowCount(), 45);
    EXPECT_TRUE(text("searchVerdict").contains("too few tries")) << text("searchVerdict").toStdString();
    const int row = 7;
    d->clickRow(search.table(), row);
    const QString listed = cell(search.table(), row, 1);
    d->click("searchTakePicked");
    wait();
    EXPECT_EQ(QString("%1 of %2").arg(proof()->caught).arg(proof()->caught + proof()->missed), listed);
    EXPECT_EQ(rule().settings.size(), 3u);
}

}  // namespace
}  // namespace jacinth::test
