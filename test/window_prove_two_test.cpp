// Two people prove in two windows of one study, and one of them while work runs: what is kept in one is seen
// in the other, each has a rule of its own, and curves follow what changes.
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/prove_window.h"

namespace jacinth::test {
namespace {

class ProveTwo : public ProveWindow {
  protected:
    ProveTwo() { other = std::make_unique<WindowDriver>(folder / "p.jacinth"); }
    app::ProveBench& otherBench() { return *other->window().prove(); }
    void writeInOther(const QString& text) {
        other->bench(app::BenchId::Prove);
        otherBench().editor()->selectAll();
        QTest::keyClicks(otherBench().editor(), text);
        QTest::qWait(200);
        other->settle();
    }
    app::RulesPage& rulesOf(WindowDriver& driver) {
        driver.click("proveRules");
        QTest::qWait(200);
        driver.settle();
        return *driver.window().findChild<app::RulesPage*>();
    }
    static int rowNamed(app::RulesPage& rules, const QString& name) {
        const auto* model = rules.table()->model();
        for (int row = 0; row < model->rowCount(); ++row)
            if (model->index(row, 0).data().toString() == name) return row;
        return -1;
    }
    static void tick(app::RulesPage& rules, const QString& name, bool on = true) {
        auto* model = rules.table()->model();
        model->setData(model->index(rowNamed(rules, name), 0), on ? Qt::Checked : Qt::Unchecked,
                       Qt::CheckStateRole);
    }
    std::unique_ptr<WindowDriver> other;
};

TEST_F(ProveTwo, EachHasItsOwnRuleAndSeesWhatTheOtherKeeps) {
    write("mean(@bearing_vibration over 2h) > 2.75");
    writeInOther("@fan_current < 5 for 3d");
    const int mine = proof()->caught;
    EXPECT_NE(rule().text, otherBench().state().rule().text);
    keepAs("Vibration");
    app::RulesPage& rules = rulesOf(*other);
    EXPECT_TRUE(QTest::qWaitFor([&] { return rowNamed(rules, "Vibration") >= 0; }, 5000));
    EXPECT_EQ(otherBench().state().rule().text, "@fan_current < 5 for 3d") << "what is written there stays";
    tick(rules, "Vibration");
    tick(rules, "current rule");
    QTest::qWait(200);
    other->settle();
    ASSERT_TRUE(rules.compared());
    ASSERT_EQ(rules.compared()->proofs.size(), 2u);
    int caught = 0;
    for (const Proof& p : rules.compared()->proofs) caught = std::max(caught, p.caught);
    EXPECT_EQ(caught, mine);
    // Undone here, gone there, with its tick.
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(QTest::qWaitFor([&] { return rowNamed(rules, "Vibration") < 0; }, 5000));
    EXPECT_TRUE(QTest::qWaitFor([&] { return rules.trades()->rules().empty(); }, 5000));
}

TEST_F(ProveTwo, AFailureThatIsRemovedInOneChangesProofAndCurvesOfTheOther) {
    write("mean(@bearing_vibration over 2h) > 2.75");
    keepAs("Vibration");
    d->click("proveProof");
    write("mean(@bearing_temp over 2h) > 50");
    keepAs("Warm");
    app::RulesPage& rules = rulesOf(*d);
    tick(rules, "Vibration");
    tick(rules, "Warm");
    wait();
    const auto testable = [&](std::size_t i) {
        const Tally& t = rules.trades()->rules()[i].curve->points.back().tally;
        return t.caught + t.missed;
    };
    ASSERT_EQ(rules.trades()->rules().size(), 2u);
    ASSERT_TRUE(rules.trades()->rules()[0].curve && !rules.trades()->rules()[0].curve->points.empty());
    EXPECT_EQ(testable(0), 7);
    other->bench(app::BenchId::Prove);
    other->click("proveFailures");
    other->clickRow(other->window().findChild<app::FailuresPage*>()->table(), 6);
    other->click("failureRemove");
    EXPECT_TRUE(QTest::qWaitFor([&] { return failures().size() == 6u; }, 5000));
    EXPECT_TRUE(QTest::qWaitFor(
        [&] {
            const auto& now = rules.trades()->rules();
            return now.size() == 2 && now[0].curve && testable(0) == 6;
        },
        10000))
        << "the curve is that of the failures there are";
    EXPECT_TRUE(QTest::qWaitFor([&] { return proof() && proof()->failures.size() == 6u; }, 5000));
}

TEST_F(ProveTwo, CurvesThatAreUnderWayGoWithTheirTicks) {
    write("slope(@fan_current over 2d) > 0.1");
    keepAs("Slope");
    d->click("proveProof");
    write("median(@fan_current over 3d) > 30");
    keepAs("Median");
    app::RulesPage& rules = rulesOf(*d);
    tick(rules, "Slope");
    tick(rules, "Median");
    for (int i = 0; i < 6; ++i) {  // before they can be there
        QTest::qWait(15);
        tick(rules, i % 2 ? "Slope" : "Median", i % 4 > 1);
    }
    tick(rules, "Slope", false);
    wait();
    EXPECT_TRUE(rules.trades()->rules().empty()) << "one rule alone is not compared";
    EXPECT_FALSE(rules.compared());
    tick(rules, "Slope");
    tick(rules, "Median");
    QTest::qWait(10);
    other->close();  // and another window goes meanwhile
    wait();
    EXPECT_EQ(rules.trades()->rules().size(), 2u);
    EXPECT_TRUE(rules.compared());
}

}  // namespace
}  // namespace jacinth::test
