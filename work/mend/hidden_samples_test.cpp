#include "work/mend/hidden_samples.h"

#include <gtest/gtest.h>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "work/base/study_fixture.h"
#include "work/mend/mending.h"

namespace jacinth {
namespace {

class Hidden : public NewStudy {
  protected:
    void fill() override {
        const AssetId asset = study->catalog().addAsset("Kiln 1");
        id = study->catalog().addTag(asset, "RH", "%", TagKind::Continuous);
        Series s;
        for (int m = 0; m < 60; ++m) s.push(at(m * kMinute), m, m == 13 ? Quality::Bad : Quality::Good);
        study->samples().write(id, s);
    }
    FixId hide(HideFix body, Duration from, Duration to) {
        Fix fix;
        fix.tag = id;
        fix.body = std::move(body);
        fix.from = at(from), fix.to = at(to);
        fix.why = "spike";
        return *enterFix(*study, fix);
    }
    std::size_t count() { return hiddenSamples(*study, tag(), between(0, kHour))->size(); }
    const Tag& tag() { return *study->catalog().tag(id); }
    TagId id;
};

TEST_F(Hidden, SamplesOfAStretchAreSeenOnceWhateverHidesThem) {
    hide({}, 10 * kMinute, 14 * kMinute);
    hide({}, 12 * kMinute, 15 * kMinute);
    const auto seen = hiddenSamples(*study, tag(), between(0, kHour));
    ASSERT_TRUE(seen);
    ASSERT_EQ(seen->size(), 5u) << "10, 11, 12, 14 and 15; what was bad before is not theirs";
    EXPECT_EQ((*seen)[0].time, at(10 * kMinute));
    EXPECT_DOUBLE_EQ((*seen)[0].value, 10);
    EXPECT_FALSE(hiddenSamples(*study, tag(), between(0, kHour), 3)) << "too many to look at";
}

TEST_F(Hidden, OneIsBroughtBackOutOfTheMiddleAndUndone) {
    const FixId fix = hide({}, 20 * kMinute, 24 * kMinute);
    ASSERT_TRUE(bringBack(*study, fix, at(22 * kMinute)));
    EXPECT_EQ(count(), 4u);
    EXPECT_DOUBLE_EQ(study->valueAt(tag(), at(22 * kMinute), Which::Mended), 22);
    EXPECT_EQ(std::get<HideFix>(fixOf(*study, fix)->body).parts.size(), 2u);
    EXPECT_FALSE(bringBack(*study, fix, at(22 * kMinute))) << "it is not hidden any more";
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(count(), 5u);
}

TEST_F(Hidden, TheLastOneTakesTheFixWithIt) {
    HideFix two;
    two.parts = {{at(30 * kMinute), at(30 * kMinute)}, {at(40 * kMinute), at(40 * kMinute)}};
    const FixId fix = hide(two, 30 * kMinute, 40 * kMinute);
    ASSERT_TRUE(bringBack(*study, fix, at(30 * kMinute)));
    EXPECT_EQ(count(), 1u);
    ASSERT_TRUE(bringBack(*study, fix, at(40 * kMinute)));
    EXPECT_TRUE(study->judgement().fixes(id).empty());
    EXPECT_FALSE(bringBack(*study, fix, at(40 * kMinute))) << "no such fix";
}

}  // namespace
}  // namespace jacinth
