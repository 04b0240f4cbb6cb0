// Fixes of every kind in a study: entered, edited, moved, undone, and read back the same.
#include "work/mend/mending.h"

#include <gtest/gtest.h>

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/time/times_for_tests.h"
#include "store/fix_body.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/study_database.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/derived/derived_expressions.h"
#include "work/mend/fix_in_hand.h"

namespace jacinth {
namespace {

constexpr int kMendedMinutes = 3 * 24 * 60;

/// `RH` and its `Twin` a minute apart over three days, a wave between 30 and 70; RH has a gap of two hours on
/// the second day. `Step` holds states.
class Mending : public NewStudy {
  protected:
    void fill() override {
        Catalog& catalog = study->catalog();
        const AssetId asset = catalog.addAsset("Kiln 1");
        const TagId rh = catalog.addTag(asset, "RH", "%", TagKind::Continuous),
                    twin = catalog.addTag(asset, "Twin", "%", TagKind::Continuous),
                    step = catalog.addTag(asset, "Step", "", TagKind::State);
        for (const char* name : {"Run", "Idle"}) catalog.addState(step, name);
        Series rhs, twins, steps;
        for (int m = 0; m < kMendedMinutes; ++m) {
            twins.push(at(m * kMinute), 2 + 0.9 * wave(m));
            if (m < kGapFrom || m >= kGapTo) rhs.push(at(m * kMinute), wave(m));
            if (m % 600 == 0) steps.push(at(m * kMinute), m / 600 % 2);
        }
        study->samples().write(rh, rhs);
        study->samples().write(twin, twins);
        study->samples().write(step, steps);
        for (const TagId t : {rh, twin}) catalog.setSpacing(t, kMinute);
        const TrackId readings = study->tracks().put("Readings", track_kind::kReadings);
        for (int h = 0; h <= 20; h += 4) {
            Span s{{}, asset, rh, at(h * kHour), at(h * kHour), {}};
            s.facts["value"] = wave(h * 60) - 0.2 * h;
            study->tracks().addSpan(readings, s);
        }
    }
    static constexpr int kGapFrom = 30 * 60, kGapTo = 32 * 60;
    static double wave(int minute) { return 50 + 20 * std::sin(minute * 2 * M_PI / (6 * 60)); }
    Tag tag(const std::string& name) { return *study->catalog().tagAt("Kiln 1/" + name); }
    Fix fix(FixBody body, int fromHour, int toHour, const std::string& of = "RH") {
        return {{}, tag(of).id, std::move(body), at(fromHour * kHour), at(toHour * kHour), true, "because"};
    }
    FixId enter(const Fix& f) {
        const auto id = enterFix(*study, f);
        EXPECT_TRUE(id) << id.error().message;
        return id ? *id : FixId();
    }
    Series mended(const std::string& name = "RH") { return study->read(tag(name), kWhole, Which::Mended); }
    Series logged(const std::string& name = "RH") { return study->read(tag(name), kWhole, Which::AsLogged); }
    double value(Duration t) { return study->valueAt(tag("RH"), at(t), Which::Mended); }
    static constexpr TimeRange kWhole{at(0), at(kMendedMinutes* kMinute)};
};

std::vector<FixBody> everyKind(TagId twin) {
    BridgeFix spline{BridgeFix::Way::Spline, 3 * kHour, true};
    return {ShiftFix{1.25},
            RampFix{0, -2.5},
            BendFix{{{at(2 * kHour), 1}, {at(3 * kHour), -1}, {at(4 * kHour), 0.1}}},
            CurveFix{{{at(0), {{30, 1}, {70, -1}}}, {at(kDay), {{50, 0.5}}}}},
            spline,
            BorrowFix{twin, kHour, true},
            DecayFix{20 * kMinute, 3 * kHour, true},
            DecayFix{},
            HideFix{{between(2 * kHour, 2 * kHour), between(3 * kHour, 3 * kHour + kMinute)}},
            CutFix{},
            ClockFix{-kHour}};
}

TEST_F(Mending, EveryKindIsKeptAsItIs) {
    std::vector<FixId> ids;
    for (const FixBody& body : everyKind(tag("Twin").id)) ids.push_back(enter(fix(body, 2, 5)));
    study.reset();
    study = std::move(*Study::open(path));
    const auto all = study->judgement().fixes(tag("RH").id);
    const auto bodies = everyKind(tag("Twin").id);
    ASSERT_EQ(all.size(), bodies.size());
    for (std::size_t i = 0; i < all.size(); ++i) {
        EXPECT_EQ(all[i].body, bodies[i]) << i;
        EXPECT_EQ(all[i].from, at(2 * kHour));
        EXPECT_NE(fixAmount(*study, all[i]), "") << i;
        EXPECT_FALSE(all[i].who.empty());
    }
    EXPECT_TRUE(study->check().empty());
    EXPECT_TRUE(study->damage().empty());
    for (std::size_t i = 0; i < all.size(); ++i) ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(mended().values, logged().values);
}

TEST_F(Mending, EveryKindDrawsWhatItReads) {
    for (const FixBody& body : everyKind(tag("Twin").id)) {
        const FixId id = enter(fix(body, 29, 34));
        for (const int pixels : {7, 50, 400, 3000}) {
            const TimeRange range = between(20 * kHour, 40 * kHour);
            double least = 1e9, greatest = -1e9, drawnLeast = 1e9, drawnGreatest = -1e9;
            const Series s = study->read(tag("RH"), range, Which::Mended);
            for (std::size_t i = 0; i < s.size(); ++i)
                if (range.contains(s.times[i]) && s.view().usable(i))
                    least = std::min(least, s.values[i]), greatest = std::max(greatest, s.values[i]);
            for (const Summary& c : study->columns(tag("RH"), range, pixels, Which::Mended))
                if (c.usable > 0 && range.contains(c.firstTime) && range.contains(c.lastTime))
                    drawnLeast = std::min(drawnLeast, c.least),
                    drawnGreatest = std::max(drawnGreatest, c.greatest);
            EXPECT_EQ(drawnLeast, least) << body.index() << " at " << pixels;
            EXPECT_EQ(drawnGreatest, greatest) << body.index() << " at " << pixels;
        }
        ASSERT_TRUE(removeFix(*study, id));
    }
}

TEST_F(Mending, AGapIsBridgedAndBorrowedInTheStudyToo) {
    EXPECT_TRUE(std::isnan(value(31 * kHour)));
    const FixId line = enter(fix(BridgeFix{}, 29, 34));
    EXPECT_NEAR(value(31 * kHour), (wave(kGapFrom - 1) + wave(kGapTo)) / 2, 0.2);
    ASSERT_TRUE(switchFix(*study, line, false));
    enter(fix(BorrowFix{tag("Twin").id}, 29, 34));
    for (int m = kGapFrom; m < kGapTo; m += 7) EXPECT_NEAR(value(m * kMinute), wave(m), 1e-6);
    const FixFigures f = figuresOf(*study, study->judgement().fixes(tag("RH").id).back());
    EXPECT_EQ(f.filled, kGapTo - kGapFrom);
    EXPECT_EQ(f.changed, 0);
    EXPECT_EQ(f.startBefore, f.startAfter);
}

TEST_F(Mending, FiguresSayWhatAFixDoes) {
    const FixFigures ramp = figuresOf(*study, fix(RampFix{1, 3}, 2, 4));
    EXPECT_NEAR(ramp.startBefore, wave(120), 1e-9);
    EXPECT_NEAR(ramp.startAfter, wave(120) + 1, 1e-9);
    EXPECT_NEAR(ramp.endAfter, wave(240) + 3, 1e-9);
    EXPECT_NEAR(ramp.meanAfter - ramp.meanBefore, 2, 1e-9);
    EXPECT_EQ(ramp.changed, 121);
    EXPECT_EQ(figuresOf(*study, fix(HideFix{}, 2, 4)).hidden, 121);
    EXPECT_EQ(figuresOf(*study, fix(CutFix{}, 2, 4)).gone, 121);
    // Of one that is entered: against what the fixes before it leave.
    enter(fix(ShiftFix{10}, 0, 9));
    const FixId id = enter(fix(ShiftFix{1}, 2, 4));
    enter(fix(ShiftFix{100}, 0, 9));
    EXPECT_NEAR(figuresOf(*study, *fixOf(*study, id)).startBefore, wave(120) + 10, 1e-9);
    EXPECT_NEAR(figuresOf(*study, *fixOf(*study, id)).startAfter, wave(120) + 11, 1e-9);
}

TEST_F(Mending, AFixIsEditedInItsPlace) {
    const FixId first = enter(fix(ShiftFix{1}, 2, 4)), second = enter(fix(ShiftFix{2}, 2, 4));
    Fix changed = *fixOf(*study, first);
    changed.body = RampFix{0, 5};
    changed.why = "it was a drift";
    ASSERT_TRUE(editFix(*study, changed));
    const auto all = study->judgement().fixes(tag("RH").id);
    EXPECT_EQ(all[0].id, first);
    EXPECT_EQ(all[1].id, second);
    EXPECT_EQ(all[0].body, FixBody(RampFix{0, 5}));
    EXPECT_EQ(study->history().undoName(), "ramp on Kiln 1 RH edited");
    // The ledger has what it was and what it is.
    const auto line = study->history().ledger().back();
    EXPECT_EQ(line.why, "it was a drift");
    EXPECT_NE(line.detail.find("\"before\""), std::string::npos);
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->judgement().fixes(tag("RH").id)[0].body, FixBody(ShiftFix{1}));
    changed.id = FixId(99);
    EXPECT_EQ(editFix(*study, changed).error().message, "there is no fix 99");
    changed.id = first;
    changed.body = RampFix{0, std::nan("")};
    EXPECT_FALSE(editFix(*study, changed));
}

TEST_F(Mending, FixesMoveUpAndDownAmongThoseOfTheirTag) {
    const CurveFix half{{{at(0), {{0, 0}, {100, -50}}}}};
    const FixId curve = enter(fix(half, 2, 4));
    enter(fix(ShiftFix{7}, 2, 4, "Twin"));
    const FixId shift = enter(fix(ShiftFix{10}, 2, 4));
    EXPECT_NEAR(value(2 * kHour), wave(120) / 2 + 10, 1e-9);
    ASSERT_TRUE(moveFix(*study, shift, true));
    EXPECT_NEAR(value(2 * kHour), (wave(120) + 10) / 2, 1e-9);
    EXPECT_EQ(moveFix(*study, shift, true).error().message,
              "fix " + std::to_string(shift.number) + " is the first of its tag");
    EXPECT_EQ(moveFix(*study, curve, false).error().message,
              "fix " + std::to_string(curve.number) + " is the last of its tag");
    ASSERT_TRUE(moveFix(*study, shift, false));
    EXPECT_NEAR(value(2 * kHour), wave(120) / 2 + 10, 1e-9);
    ASSERT_TRUE(study->history().undo());
    EXPECT_NEAR(value(2 * kHour), (wave(120) + 10) / 2, 1e-9);
    EXPECT_TRUE(study->check().empty());
}

TEST_F(Mending, SeveralTagsAreMendedTogether) {
    const auto ids = enterFixes(*study, {fix(ShiftFix{1}, 2, 4), fix(ShiftFix{-2}, 2, 4, "Twin")});
    ASSERT_TRUE(ids);
    EXPECT_EQ(ids->size(), 2u);
    EXPECT_EQ(study->history().undoName(), "shift on Kiln 1 RH and 1 more");
    ASSERT_TRUE(study->history().undo());
    EXPECT_TRUE(study->judgement().allFixes().empty());
    // All or none.
    EXPECT_FALSE(enterFixes(*study, {fix(ShiftFix{1}, 2, 4), fix(ShiftFix{1}, 2, 4, "Step")}));
    EXPECT_TRUE(study->judgement().allFixes().empty());
    EXPECT_FALSE(enterFixes(*study, {}));
}

TEST_F(Mending, WhatFixesChangeAtAMomentAlsoWhereItDependsOnTheValue) {
    const CurveFix half{{{at(0), {{0, 0}, {100, -50}}}}};
    const std::vector<Fix> curve{fix(half, 2, 4)}, shift{fix(ShiftFix{3}, 2, 4)},
        line{fix(BridgeFix{}, 29, 34)};
    EXPECT_NEAR(mendedBy(*study, tag("RH"), curve, at(2 * kHour)), -wave(120) / 2, 1e-9);
    EXPECT_EQ(mendedBy(*study, tag("RH"), curve, at(5 * kHour)), 0);
    EXPECT_EQ(mendedBy(*study, tag("RH"), shift, at(3 * kHour)), 3);
    EXPECT_TRUE(std::isnan(mendedBy(*study, tag("RH"), line, at(31 * kHour))));  // nothing was logged there
}

TEST_F(Mending, WhatIsBorrowedFollowsTheTwinsSamples) {
    enter(fix(BorrowFix{tag("Twin").id}, 29, 34));
    const auto greatest = [&] {
        double out = -1e9;
        for (const Summary& c : study->columns(tag("RH"), between(30 * kHour, 32 * kHour), 40, Which::Mended))
            if (c.usable > 0) out = std::max(out, c.greatest);
        return out;
    };
    EXPECT_LT(greatest(), 75);
    Series more;
    more.push(at(31 * kHour), 200);
    WriteBatch t(*study);
    study->samples().write(tag("Twin").id, more);
    t.commit();
    EXPECT_GT(greatest(), 100);  // not the picture kept from before
}

TEST_F(Mending, WhatMakesNoSenseIsRefused) {
    const auto refusal = [&](const Fix& f) {
        const auto id = enterFix(*study, f);
        return id ? std::string() : id.error().message;
    };
    EXPECT_EQ(refusal(fix(ShiftFix{1}, 2, 4, "Step")), "Kiln 1/Step holds states; a shift needs numbers");
    EXPECT_EQ(refusal(fix(HideFix{}, 2, 4, "Step")), "");
    EXPECT_EQ(refusal(fix(BorrowFix{tag("Step").id}, 2, 4)),
              "Kiln 1/Step holds states; nothing can be borrowed from it");
    EXPECT_EQ(refusal(fix(BorrowFix{TagId(99)}, 2, 4)), "the twin is not in this study");
    EXPECT_EQ(refusal(fix(BorrowFix{tag("RH").id}, 2, 4)), "a tag cannot borrow from itself");
    Fix f = fix(ShiftFix{1}, 2, 4);
    f.tag = TagId(99);
    EXPECT_EQ(refusal(f), "the tag is not in this study");
}

TEST_F(Mending, OverlapsAreNamed) {
    enter(fix(ShiftFix{1}, 2, 4));
    enter(fix(ShiftFix{1}, 4, 6));
    enter(fix(ShiftFix{1}, 5, 6));
    enter(fix(ShiftFix{1}, 2, 4, "Twin"));
    EXPECT_EQ(overlapping(*study, fix(ShiftFix{1}, 3, 4)).size(), 2u);  // an end is included
    EXPECT_EQ(overlapping(*study, fix(ShiftFix{1}, 7, 8)).size(), 0u);
}

TEST_F(Mending, ReadingsAreFittedAndTheOutlyingOneNamed) {
    Fix ramp = fix(RampFix{}, 0, 20);
    const RampFit fit = *fitRamp(readingsOf(*study, ramp), between(0, 20 * kHour), {});
    EXPECT_NEAR(fit.startBy, 0, 1e-9);
    EXPECT_NEAR(fit.endBy, -4, 1e-9);
    EXPECT_EQ(fit.readings, 6);
    // Entered and fitted again it is the same: its own change is not counted twice.
    ramp.body = RampFix{fit.startBy, fit.endBy};
    ramp.id = enter(ramp);
    enter(fix(ShiftFix{100}, 0, 20));  // acts after it
    EXPECT_NEAR(fitRamp(readingsOf(*study, ramp), between(0, 20 * kHour), {})->endBy, -4, 1e-9);
    const Fix another = fix(RampFix{}, 0, 20);
    EXPECT_NEAR(fitRamp(readingsOf(*study, another), between(0, 20 * kHour), {})->startBy, -100, 1e-9);
}

TEST_F(Mending, AFixWhoseBodyCannotBeReadIsNamedAndNotUsed) {
    const FixId id = enter(fix(ShiftFix{1}, 2, 4));
    Statement(databaseOf(*study), "UPDATE fix SET body = '{\"by\":\"much\"}' WHERE id = ?").bind(id).run();
    study->reload();
    study->judgement().forgetFixes();
    EXPECT_TRUE(study->judgement().fixes(tag("RH").id).empty());
    const auto damage = study->damage();
    ASSERT_EQ(damage.size(), 1u);
    EXPECT_EQ(damage[0], "fix " + std::to_string(id.number) + ": what it does cannot be read");
    EXPECT_EQ(mended().values, logged().values);
}

TEST_F(Mending, FixesOfTheFormatBeforeAreRead) {
    Statement(databaseOf(*study),
              "INSERT INTO fix(tag, kind, start, end, start_by, end_by, is_on, why, who, entered) "
              "VALUES(?, 'ramp', ?, ?, 1, 3, 1, 'old', 'R. O.', 0)")
        .bind(tag("RH").id, at(2 * kHour), at(4 * kHour))
        .run();
    study->judgement().forgetFixes();
    ASSERT_EQ(study->judgement().fixes(tag("RH").id).size(), 1u);
    EXPECT_EQ(study->judgement().fixes(tag("RH").id)[0].body, FixBody(RampFix{1, 3}));
    EXPECT_NEAR(value(3 * kHour), wave(180) + 2, 1e-9);
    EXPECT_TRUE(study->check().empty());
}

TEST_F(Mending, WhatWouldFillTheMemoryIsRefusedBeforeItIsEntered) {
    Tag rh = tag("RH");
    study->change("spacing", "", {}, [&] { study->catalog().setSpacing(rh.id, kMillisecond / 4); });
    const auto refusal = [&](FixBody body) {
        const auto id = enterFix(*study, fix(std::move(body), 29, 33));
        return id ? std::string() : id.error().message;
    };
    EXPECT_EQ(
        refusal(BridgeFix{BridgeFix::Way::Line, 6 * kHour, false}),
        "this bridge would put 29 million samples, 250 µs apart, into 2 h 01 min of Kiln 1/RH; at most 20 "
        "million can be filled at once: leave this gap open, or fill a shorter part of it");
    // Each gap alone would do: a minute each, for 28 hours.
    const auto many = enterFix(*study, fix(BridgeFix{BridgeFix::Way::Line, 6 * kHour, false}, 0, 28));
    ASSERT_FALSE(many);
    EXPECT_NE(many.error().message.find("into the gaps of Kiln 1/RH; one fix can put in 100 million"),
              std::string::npos)
        << many.error().message;
    EXPECT_NE(refusal(BridgeFix{BridgeFix::Way::Line, 6 * kHour, true}), "");
    EXPECT_NE(refusal(BorrowFix{tag("Twin").id}), "");
    EXPECT_NE(refusal(DecayFix{}), "");
    EXPECT_EQ(refusal(BridgeFix{BridgeFix::Way::Line, kHour, false}), "")
        << "a gap that it leaves open costs nothing";
    EXPECT_TRUE(study->judgement().allFixes().size() == 1);
}

TEST_F(Mending, AmountsBeyondReasonAreRefused) {
    for (FixBody body : {FixBody(ShiftFix{2e300}), FixBody(RampFix{0, -1e200}),
                         FixBody(BendFix{{{at(0), 1e150}, {at(kHour), 0}}})}) {
        const auto id = enterFix(*study, fix(std::move(body), 0, 2));
        EXPECT_FALSE(id);
    }
    enter(fix(ShiftFix{1e90}, 0, 2));
    EXPECT_TRUE(std::isfinite(study->read(tag("RH"), {at(0), at(kHour)}, Which::Mended).values[0]));
}

TEST_F(Mending, ATagBorrowsFromNothingThatIsMadeFromIt) {
    const auto made = defineDerived(*study, {{"Double", "%", "2 * @rh", "Kiln 1"}}, "derived");
    ASSERT_TRUE(made) << made.error().message;
    const auto more = defineDerived(*study, {{"More", "%", "@double + 1", "Kiln 1"}}, "derived");
    ASSERT_TRUE(more) << more.error().message;
    const auto id = enterFix(*study, fix(BorrowFix{tag("More").id}, 29, 33));
    ASSERT_FALSE(id);
    EXPECT_EQ(
        id.error().message,
        "Kiln 1/RH cannot borrow from a tag that is made from it: `Kiln 1/More` → `Kiln 1/Double` → `Kiln "
        "1/RH`");
    // And the other way: what is made from its own twin.
    enter(fix(BorrowFix{tag("Twin").id}, 29, 33));
    const auto circle = defineDerived(*study, {{"Twin 2", "%", "@rh", "Kiln 1"}}, "derived");
    ASSERT_TRUE(circle);
    EXPECT_FALSE(enterFix(*study, fix(BorrowFix{tag("Twin 2").id}, 29, 33)));
}

}  // namespace
}  // namespace jacinth
