// Mend, driven by mouse and keys: every kind of fix in hand, entered, edited, moved, undone and found again.
#include <QCheckBox>
#include <QTableWidget>

#include "app/mend/mend_bench.h"
#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/dialogs.h"
#include "test/window_driver.h"
#include "work/mend/fix_in_hand.h"
#include "work/mend/mending.h"

namespace jacinth::test {
namespace {

class Mend : public ::testing::Test {
  protected:
    Mend() : folder("mend") {
        copyDemo(folder / "s.jacinth");
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->clickTag("Kiln 2/Air-off RH");
        d->bench(app::BenchId::Mend);
        d->type("timeField", "10 Mar to 14 Mar", true);
    }
    app::MendBench* bench() { return d->window().mend(); }
    const Fix& draft() { return bench()->draft(); }
    std::vector<Fix> fixes() { return d->study().judgement().allFixes(); }
    Tag tag() { return *d->study().catalog().tagAt("Kiln 2/Air-off RH"); }
    void over(const QString& from, const QString& to) {
        d->type("fixFrom", from);
        d->type("fixTo", to);
    }
    void take(const char* kind) {
        d->click(kind);
        over("11 Mar 2026 06:00", "13 Mar 2026 06:00");
    }
    void enter(const QString& why = "checked") {
        d->type("fixWhy", why);
        d->click("enterFix");
    }
    QPoint gripAt(int id) {
        const Fix& fix = draft();
        for (const Grip& g : gripsOf(fix))
            if (g.id == id) {
                const double value =
                    d->study().valueAt(tag(), g.time, fixesBefore(d->study(), fix)) + g.by.value_or(0);
                return {static_cast<int>(bench()->plot()->xOf(g.time)),
                        static_cast<int>(bench()->plot()->yOf(0, value))};
            }
        ADD_FAILURE() << "no grip " << id;
        return {};
    }
    double mendedAt(Instant t) { return d->study().valueAt(tag(), t, Which::Mended); }
    double loggedAt(Instant t) { return d->study().valueAt(tag(), t, Which::AsLogged); }
    QString label(const char* name) { return d->find<QLabel>(name)->text(); }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(Mend, ARampIsDraggedToAReadingTypedExactlyAndEntered) {
    take("kindRamp");
    double reads = mendedAt(draft().to);
    const QPoint grip = gripAt(1);
    d->drag(bench()->plot(), grip, {grip.x(), static_cast<int>(bench()->plot()->yOf(0, reads - 6))});
    EXPECT_NEAR(std::get<RampFix>(draft().body).endBy, -6, 1);
    reads = mendedAt(draft().to);  // the end may have snapped to another sample
    d->type("fixEndReads", QString::number(reads - 5.25, 'f', 6));
    EXPECT_NEAR(std::get<RampFix>(draft().body).endBy, -5.25, 1e-5);
    EXPECT_TRUE(label("fixFigures").contains("at the end ")) << label("fixFigures").toStdString();
    enter();
    ASSERT_EQ(fixes().size(), 1u);
    EXPECT_NEAR(mendedAt(fixes()[0].to), reads - 5.25, 1e-5);
    EXPECT_TRUE(changesNothing(draft()));  // the next one, over the same stretch
}

TEST_F(Mend, ABendOfThreeKnotsByMouseAndByTyping) {
    take("kindBend");
    auto* knots = d->find<QTableWidget>("fixKnots");
    ASSERT_EQ(knots->rowCount(), 3);
    const QPoint middle = gripAt(2);
    const double value = bench()->plot()->valueAt(0, middle.y());
    d->drag(bench()->plot(), middle, {middle.x() + 40, static_cast<int>(bench()->plot()->yOf(0, value + 4))});
    const BendFix& bend = std::get<BendFix>(draft().body);
    EXPECT_NEAR(bend.knots[1].by, 4, 1);
    EXPECT_GT(bend.knots[1].time, draft().from + (draft().to - draft().from) / 2);
    knots->item(2, 1)->setText("−2.5");
    d->settle();
    EXPECT_EQ(std::get<BendFix>(draft().body).knots[2].by, -2.5);
    // What a knot must read.
    const double now = d->study().valueAt(tag(), draft().from, Which::AsLogged);
    knots->item(0, 2)->setText(QString::number(now + 1, 'f', 4));
    d->settle();
    EXPECT_NEAR(std::get<BendFix>(draft().body).knots[0].by, 1, 1e-3);
    d->click("addKnot");
    EXPECT_EQ(std::get<BendFix>(draft().body).knots.size(), 4u);
    knots->selectRow(1);
    d->click("removeKnot");
    EXPECT_EQ(std::get<BendFix>(draft().body).knots.size(), 3u);
    // A slip of typing changes nothing.
    const FixBody before = draft().body;
    knots->item(1, 1)->setText("four");
    d->settle();
    EXPECT_EQ(draft().body, before);
    enter();
    ASSERT_EQ(fixes().size(), 1u);
    EXPECT_EQ(fixes()[0].body, before);
}

TEST_F(Mend, KnotsKeepTheirAmountsWhenAnEdgeIsTyped) {
    take("kindBend");
    auto* knots = d->find<QTableWidget>("fixKnots");
    knots->item(0, 1)->setText("1.23456789");
    d->settle();
    d->type("fixFrom", "11 Mar 2026 09:00");
    const BendFix& bend = std::get<BendFix>(draft().body);
    EXPECT_EQ(bend.knots[0].by, 1.23456789);
    EXPECT_EQ(bend.knots[0].time, draft().from);
    EXPECT_EQ(bend.knots[1].by, 0);
}

TEST_F(Mend, AReadingThatDoesNotGoWithTheOthersIsLeftOutWhenAsked) {
    const auto of = tag();
    d->study().change("readings", "", {}, [&] {
        const TrackId track = d->study().tracks().put("More readings", track_kind::kReadings);
        for (int i = 0; i < 7; ++i) {
            Span s{{}, of.asset, of.id, *fromIso("2026-03-11T06:00:00Z") + i * 6 * kHour, {}, {}};
            s.end = s.start;
            s.facts["value"] = loggedAt(s.start) - 2 + 0.05 * (i % 2) + (i == 3 ? 30 : 0);
            d->study().tracks().addSpan(track, s);
        }
    });
    take("kindBend");
    over("11 Mar 2026 06:00", "13 Mar 2026 06:00");
    d->click("fitToReadings");
    EXPECT_TRUE(label("misfit").contains("does not go with the others")) << label("misfit").toStdString();
    const std::size_t all = std::get<BendFix>(draft().body).knots.size();
    d->click("leaveOutReadings");
    EXPECT_EQ(std::get<BendFix>(draft().body).knots.size(), all - 1);
    EXPECT_FALSE(d->find("leaveOutReadings")->isVisible());
    for (const auto& k : std::get<BendFix>(draft().body).knots) EXPECT_NEAR(k.by, -2, 0.1);
    // Fitted again when it is edited: its own change is not counted twice.
    enter();
    bench()->openFix(fixes()[0].id);
    d->settle();
    d->click("fitToReadings");
    d->click("leaveOutReadings");
    for (const auto& k : std::get<BendFix>(draft().body).knots) EXPECT_NEAR(k.by, -2, 0.1);
    d->click("leaveFix");
    EXPECT_EQ(d->find<QLineEdit>("fixWhy")->text(), "");
}

TEST_F(Mend, ArrowsMoveAHeldHandleBySamplesAndItsAmountByAStep) {
    take("kindShift");
    auto* plot = bench()->plot();
    d->clickAt(plot, gripAt(0));
    const Instant from = draft().from;
    d->key(plot, Qt::Key_Right);
    const Duration once = draft().from - from;
    EXPECT_GT(once, Duration::zero());
    EXPECT_LT(once, 2 * kMinute);
    d->key(plot, Qt::Key_Right, Qt::ShiftModifier);
    EXPECT_GT(draft().from - from, 8 * once);
    const TimeRange view = d->view().view();
    d->key(plot, Qt::Key_Up);
    const double step = std::get<ShiftFix>(draft().body).by;
    EXPECT_GT(step, 0);
    d->key(plot, Qt::Key_Up, Qt::ShiftModifier);
    EXPECT_NEAR(std::get<ShiftFix>(draft().body).by, 11 * step, step / 2);
    EXPECT_EQ(d->view().view(), view);  // the view stands still
    d->key(plot, Qt::Key_Escape);
    d->key(plot, Qt::Key_Right);
    EXPECT_NE(d->view().view(), view);  // and moves again
}

TEST_F(Mend, ButtonsLookAtBothEndsAndComeBack) {
    take("kindShift");
    const TimeRange view = d->view().view();
    d->click("fixToStart");
    EXPECT_TRUE(d->view().view().contains(draft().from));
    EXPECT_FALSE(d->view().view().contains(draft().to));
    d->click("fixToEnd");
    EXPECT_TRUE(d->view().view().contains(draft().to));
    d->click("fixBack");
    d->click("fixBack");
    EXPECT_EQ(d->view().view(), view);
}

TEST_F(Mend, EveryOtherKindIsEnteredByItsFields) {
    take("kindCurve");
    d->type("fixFirstPoints", "30: +1, 70: -2");
    enter();
    take("kindBridge");
    d->find<QComboBox>("fixWay")->setCurrentIndex(3);
    d->type("fixLongest", "3h");
    enter();
    take("kindBorrow");
    EXPECT_EQ(d->find<QComboBox>("fixTwin")->currentText(), "RH twin");
    QTest::mouseClick(d->find<QCheckBox>("borrowOver"), Qt::LeftButton, {}, {8, 8});
    d->settle();
    d->type("borrowMargin", "4h");
    enter();
    take("kindDecay");
    enter();
    take("kindHide");
    enter();
    take("kindCut");
    enter();
    take("kindClock");
    d->type("fixClockBy", "-1h");
    enter();
    const auto all = fixes();
    std::string kinds;
    for (const Fix& f : all) kinds += std::string(fixKindName(f.kind())) + " ";
    ASSERT_EQ(kinds, "curve bridge borrow decay hide cut clock ") << d->statusText().toStdString();
    EXPECT_EQ(std::get<CurveFix>(all[0].body).calibrations[0].points[1].by, -2);
    EXPECT_EQ(std::get<BridgeFix>(all[1].body).longest, 3 * kHour);
    EXPECT_EQ(std::get<BorrowFix>(all[2].body).margin, 4 * kHour);
    EXPECT_FALSE(std::get<DecayFix>(all[3].body).tau);
    EXPECT_EQ(all[4].kind(), FixKind::Hide);
    EXPECT_EQ(all[5].kind(), FixKind::Cut);
    EXPECT_EQ(std::get<ClockFix>(all[6].body).by, -kHour);
    EXPECT_TRUE(d->study().check().empty());
    for (std::size_t i = 0; i < all.size(); ++i) d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(fixes().empty());
}

TEST_F(Mend, WhatIsWrongIsMarkedAndNotEntered) {
    take("kindBridge");
    d->type("fixLongest", "soon");
    EXPECT_TRUE(d->find<QLineEdit>("fixLongest")->toolTip().contains("no length of time"));
    EXPECT_EQ(std::get<BridgeFix>(draft().body).longest, BridgeFix{}.longest);
    d->click("kindCurve");
    d->type("fixFirstPoints", "30 +1");
    EXPECT_TRUE(d->find<QLineEdit>("fixFirstPoints")->toolTip().contains("pairs"));
    enter();
    EXPECT_TRUE(fixes().empty());
    d->click("kindClock");
    enter();
    EXPECT_TRUE(d->statusText().contains("changes nothing")) << d->statusText().toStdString();
    EXPECT_TRUE(fixes().empty());
}

TEST_F(Mend, AFixIsEditedInItsPlaceFromTheLedger) {
    take("kindShift");
    d->type("fixBy", "2");
    enter("first");
    take("kindShift");
    d->type("fixBy", "3");
    enter("second");
    const FixId first = fixes()[0].id;
    bench()->openFix(first);
    d->settle();
    EXPECT_EQ(label("fixInHand"), QString("Editing fix %1: shift").arg(first.number));
    EXPECT_EQ(d->find<QLineEdit>("fixBy")->text(), "2");
    d->type("fixBy", "-4");
    enter("it was the other way");
    ASSERT_EQ(fixes().size(), 2u);
    EXPECT_EQ(fixes()[0].id, first);
    EXPECT_EQ(fixes()[0].body, FixBody(ShiftFix{-4}));
    EXPECT_EQ(fixes()[0].why, "it was the other way");
    EXPECT_TRUE(label("fixInHand").startsWith("New fix"));
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(fixes()[0].body, FixBody(ShiftFix{2}));
    // Left without keeping: nothing changes.
    bench()->openFix(first);
    d->settle();
    d->type("fixBy", "77");
    d->click("leaveFix");
    EXPECT_EQ(fixes()[0].body, FixBody(ShiftFix{2}));
    EXPECT_TRUE(label("fixInHand").startsWith("New fix"));
    // Removed while it is edited: what is in hand becomes a new one.
    bench()->openFix(first);
    d->settle();
    ASSERT_TRUE(d->session().tryChange([&] { ASSERT_TRUE(removeFix(d->study(), first)); }));
    d->settle();
    EXPECT_TRUE(label("fixInHand").startsWith("New fix")) << label("fixInHand").toStdString();
}

TEST_F(Mend, TheLedgerMovesFixesAndShowsThisTagOrAll) {
    const auto other = d->tagId("Kiln 1/Air-off RH");
    const auto enterOn = [&](TagId on, FixBody body) {
        Fix f = newFix(FixKind::Shift, on, {draft().from, draft().to});
        f.body = std::move(body);
        f.why = "w";
        d->session().tryChange([&] { ASSERT_TRUE(enterFix(d->study(), f)); });
        d->settle();
    };
    enterOn(tag().id, CurveFix{{{at(0), {{0, 0}, {100, -50}}}}});
    enterOn(other, ShiftFix{1});
    enterOn(tag().id, ShiftFix{10});
    auto* model = bench()->ledger()->model();
    EXPECT_EQ(model->rowCount(), 3);
    QTest::mouseClick(d->find<QCheckBox>("ledgerAllTags"), Qt::LeftButton, {}, {8, 8});
    EXPECT_EQ(model->rowCount(), 2);
    const Instant inside = draft().from + kHour;
    const double before = mendedAt(inside);
    d->clickRow(bench()->ledger(), 1);
    EXPECT_FALSE(d->find("fixDown")->isEnabled());
    d->click("fixUp");
    EXPECT_EQ(fixes()[0].kind(), FixKind::Shift);
    EXPECT_NEAR(mendedAt(inside), before - 5, 1e-9);
    d->click("removeFix");
    EXPECT_EQ(fixes().size(), 2u);
}

TEST_F(Mend, UndoneAndOpenedAgainAllIsAsItWasLeft) {
    take("kindShift");
    d->type("fixBy", "2");
    enter();
    take("kindHide");
    enter();
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    const double then = mendedAt(draft().from + kHour);
    d->close();
    d = std::make_unique<WindowDriver>(folder / "s.jacinth");
    d->clickTag("Kiln 2/Air-off RH");
    d->bench(app::BenchId::Mend);
    ASSERT_EQ(fixes().size(), 1u);
    EXPECT_EQ(fixes()[0].body, FixBody(ShiftFix{2}));
    EXPECT_EQ(mendedAt(fixes()[0].from + kHour), then);
    EXPECT_TRUE(d->study().check().empty());
}

TEST_F(Mend, ATagOfStatesTakesTheKindsThatNeedNoNumbers) {
    d->clickTag("Kiln 2/Kiln step");
    take("kindShift");
    d->type("fixBy", "1");
    enter();
    EXPECT_TRUE(fixes().empty());
    EXPECT_TRUE(d->statusText().contains("needs numbers")) << d->statusText().toStdString();
    take("kindHide");
    enter();
    EXPECT_EQ(fixes().size(), 1u);
}

TEST_F(Mend, ACheckReadingIsWrittenDownOnThePlotChangedAndRemoved) {
    auto* plot = bench()->plot();
    const auto readings = [&] { return d->study().judgement().checkReadings(tag().id); };
    const auto own = [&](double value) {
        const auto all = readings();
        return std::count_if(all.begin(), all.end(), [&](const CheckReading& r) { return r.value == value; });
    };
    const std::size_t before = readings().size();
    const QPoint at = plot->paneRect(0).center();
    QTest::mouseMove(plot, at);
    d->settle();
    d->key(plot, Qt::Key_R);
    ASSERT_TRUE(d->find<QWidget>("readingPopup")->isVisible());
    d->type("readingValue", "not yet", true);
    EXPECT_TRUE(d->find<QLineEdit>("readingValue")->property("wrong").toBool());
    EXPECT_EQ(readings().size(), before);
    const double value = std::round(plot->valueAt(0, plot->paneRect(0).center().y()));
    d->type("readingValue", QString::number(value), true);
    d->settle();
    EXPECT_FALSE(d->find<QWidget>("readingPopup")->isVisible());
    ASSERT_EQ(readings().size(), before + 1);
    ASSERT_EQ(own(value), 1);
    // Its mark is clicked: it is changed, then removed; each is one step to undo.
    Instant t{};
    for (const CheckReading& r : readings())
        if (r.value == value) t = r.time;
    const QPoint mark(static_cast<int>(plot->xOf(t)), static_cast<int>(plot->yOf(0, value)));
    d->clickAt(plot, mark);
    ASSERT_TRUE(d->find<QWidget>("readingPopup")->isVisible());
    EXPECT_EQ(d->find<QLineEdit>("readingValue")->text().toDouble(), value);
    d->type("readingValue", QString::number(value + 1), true);
    d->settle();
    EXPECT_EQ(own(value), 0);
    EXPECT_EQ(own(value + 1), 1);
    d->clickAt(plot, {mark.x(), static_cast<int>(plot->yOf(0, value + 1))});
    d->click("removeReading");
    d->settle();
    EXPECT_EQ(readings().size(), before);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_EQ(own(value + 1), 1);
    d->key(plot, Qt::Key_R);
    d->key(d->find<QLineEdit>("readingValue"), Qt::Key_Escape);
    EXPECT_FALSE(d->find<QWidget>("readingPopup")->isVisible());
}

TEST_F(Mend, AnAfternoonsWorkIsAsItWasLeftAndUndoneToNothing) {
    take("kindRamp");  // dragged, then typed
    const QPoint grip = gripAt(1);
    d->drag(bench()->plot(), grip, {grip.x(), grip.y() + 30});
    d->type("fixEndReads", QString::number(mendedAt(draft().to) - 3, 'f', 6));
    enter("drift against readings");
    take("kindBend");
    auto* knots = d->find<QTableWidget>("fixKnots");
    knots->item(1, 1)->setText("1.5");
    knots->item(2, 1)->setText("-2");
    d->settle();
    enter("three calibrations");
    d->click("kindHide");
    d->click("findSpikes");
    d->settle();
    if (changesNothing(draft())) over("11 Mar 2026 06:00", "11 Mar 2026 07:00");
    enter("spikes of the sensor");
    d->click("showHidden");
    d->settle();
    auto* trust = d->find<QComboBox>("trustGrade");
    trust->setCurrentIndex(trust->findText("fair"));
    d->click("paintTrust");
    d->settle();
    ASSERT_EQ(fixes().size(), 3u);
    std::vector<double> left;
    const Instant from = fixes()[0].from, to = fixes()[0].to;
    for (Instant t = from; t < to; t += kHour) left.push_back(mendedAt(t));
    const std::vector<Fix> before = fixes();
    d->close();
    d = std::make_unique<WindowDriver>(folder / "s.jacinth");
    d->settle();
    ASSERT_EQ(fixes().size(), before.size());
    for (std::size_t i = 0; i < before.size(); ++i) {
        EXPECT_EQ(fixes()[i].body, before[i].body);
        EXPECT_EQ(fixes()[i].why, before[i].why);
        EXPECT_EQ(fixes()[i].who, before[i].who);
    }
    std::size_t i = 0;
    for (Instant t = from; t < to; t += kHour, ++i) {
        const double now = mendedAt(t);
        EXPECT_TRUE(now == left[i] || (std::isnan(now) && std::isnan(left[i]))) << i;
    }
    for (int step = 0; step < 4; ++step) d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_TRUE(fixes().empty());
    for (Instant t = from; t < to; t += 7 * kHour) EXPECT_EQ(mendedAt(t), loggedAt(t));
    EXPECT_TRUE(d->study().judgement().trustMarks(tag().id).empty());
}

}  // namespace
}  // namespace jacinth::test
