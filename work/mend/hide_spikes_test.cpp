// Spikes of a tag: found in a stretch, hidden by one fix, and as spans for labels.
#include "work/mend/hide_spikes.h"

#include "core/time/times_for_tests.h"
#include "store/sample_store.h"
#include "work/base/study_fixture.h"

namespace jacinth {
namespace {

/// An hour's samples, a minute apart; 90 instead of 10 at minutes 20 and 41, and a gap from minute 50 on.
class HideSpikes : public NewStudy {
  protected:
    void fill() override {
        const AssetId asset = study->catalog().addAsset("Kiln 1");
        id = study->catalog().addTag(asset, "RH", "%", TagKind::Continuous);
        Series s;
        for (int m = 0; m <= 50; ++m) s.push(at(m * kMinute), m == 20 || m == 41 ? 90 : 10 + 0.01 * (m % 3));
        study->samples().write(id, s);
        study->catalog().setSpacing(id, kMinute);
    }
    const Tag& tag() { return *study->catalog().tag(id); }
    TagId id;
};

TEST_F(HideSpikes, AreFoundAndHiddenAsOne) {
    const auto found = spikesOf(*study, tag(), between(0, kHour));
    ASSERT_TRUE(found) << found.error().message;
    ASSERT_EQ(found->size(), 2u);
    EXPECT_EQ((*found)[0].from, at(20 * kMinute));
    const auto fix = hidingFix(id, *found);
    ASSERT_TRUE(fix);
    EXPECT_EQ(fix->from, at(20 * kMinute));
    EXPECT_EQ(fix->to, at(41 * kMinute));
    EXPECT_EQ(std::get<HideFix>(fix->body).parts.size(), 2u);
    EXPECT_FALSE(hidingFix(id, {}));
}

TEST_F(HideSpikes, SpansReachToTheNextSample) {
    const auto spans = spansOver(*study, tag(),
                                 {{at(20 * kMinute), at(20 * kMinute)},
                                  {at(30 * kMinute), at(33 * kMinute)},
                                  {at(50 * kMinute), at(50 * kMinute)}});
    ASSERT_EQ(spans.size(), 3u);
    EXPECT_EQ(spans[0].range(), between(20 * kMinute, 21 * kMinute));
    EXPECT_EQ(spans[1].range(), between(30 * kMinute, 34 * kMinute));
    EXPECT_EQ(spans[2].range(), between(50 * kMinute, 51 * kMinute)) << "after the last: its spacing";
    for (const Span& s : spans) {
        EXPECT_EQ(s.tag, id);
        EXPECT_EQ(s.asset, tag().asset);
    }
}

}  // namespace
}  // namespace jacinth
