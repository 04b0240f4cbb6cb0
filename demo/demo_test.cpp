#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "demo/demo.h"

namespace jacinth::demo {
namespace {

TEST(DemoPlant, SameSeedSameTruthOtherSeedAnother) {
    const PlantSpec spec{12, 4};
    EXPECT_EQ(truthToJson(drawTruth(spec)), truthToJson(drawTruth(spec)));
    EXPECT_NE(truthToJson(drawTruth(spec))["runs"], truthToJson(drawTruth({12, 5}))["runs"]);
}

class WholePlant : public ::testing::Test {
  protected:
    static void SetUpTestSuite() { truth = new Truth(drawTruth({})); }
    static void TearDownTestSuite() { delete truth; }
    static Truth* truth;
};
Truth* WholePlant::truth = nullptr;

TEST_F(WholePlant, HoldsWhatTheDesignAsksFor) {
    int failures = 0, steps = 0;
    std::map<int, int> bySeverity;
    for (const KilnHistory& h : truth->kilns) {
        failures += static_cast<int>(h.wears.size());
        const double months = truth->spec.days / 30.44;
        EXPECT_GE(static_cast<double>(h.runs.size()) / months, 18) << h.kiln;
        EXPECT_LE(static_cast<double>(h.runs.size()) / months, 22.5) << h.kiln;
        for (const RunRecord& r : h.runs)
            if (r.offPath && r.offPath->when.to != Instant{}) ++bySeverity[r.offPath->severity];
    }
    EXPECT_EQ(failures, 7);
    steps = static_cast<int>(truth->steps.size());
    EXPECT_EQ(steps, 9);
    EXPECT_GE(bySeverity[1] + bySeverity[2] + bySeverity[3], 30);
    EXPECT_GE(bySeverity[3], 9);
    EXPECT_EQ(truth->changes.size(), 2u);
    EXPECT_FALSE(truth->clockError.tag.empty());
}

TEST_F(WholePlant, RunsAreAboutTwentyTwoHours) {
    for (const KilnHistory& h : truth->kilns)
        for (const RunRecord& r : h.runs) {
            if (r.range.to >= truth->spec.record().to) continue;
            EXPECT_GT(toHours(r.range.length()), 18);
            EXPECT_LT(toHours(r.range.length()), 36);
        }
}

TEST_F(WholePlant, PhysicsIsPlausible) {
    for (const KilnHistory& h : truth->kilns) {
        for (std::size_t i = 0; i < h.step.size(); i += 7) {
            ASSERT_GT(h.airOn[i], -15);
            ASSERT_LT(h.airOn[i], 95);
            ASSERT_GE(h.humidity[i], 3);
            ASSERT_LT(h.humidity[i], 95);
            ASSERT_GE(h.flow[i], 0);
        }
        // Through the drying the air-off temperature climbs and the humidity falls.
        const RunRecord& r = h.runs[3];
        const auto at = [&](double share) {
            return static_cast<std::size_t>((r.range.from - truth->spec.record().from +
                                             fromNanoseconds(share * toNanoseconds(r.range.length()))) /
                                            kTick);
        };
        EXPECT_LT(h.airOff[at(0.25)] + 20, h.airOff[at(0.85)]);
        EXPECT_GT(h.humidity[at(0.25)], h.humidity[at(0.85)] + 40);
    }
}

TEST(DemoStudy, ComesThroughTheSameImportAsAnybodysFiles) {
    const std::string path = ::testing::TempDir() + "demo-small.jacinth";
    std::remove(path.c_str());
    const Truth truth = drawTruth({4, 2});
    auto made = makeStudy(truth, path);
    ASSERT_TRUE(made) << made.error().message;
    Study& study = **made;
    EXPECT_EQ(study.catalog().assets().size(), 7u);
    EXPECT_EQ(study.catalog().tags().size(), 6u * 13 + 2);
    EXPECT_TRUE(study.check().empty());
    EXPECT_NE(study.catalog().tagInRole(study.catalog().assetNamed("Kiln 3")->id, "bearing_vibration"),
              nullptr);
    const auto loggers = recordKiln(truth, 3);
    const Tag tag = *study.catalog().tagAt("Kiln 3/Air-on temp");
    const Series s = study.read(tag, truth.spec.record(), Which::AsLogged);
    ASSERT_EQ(s.size(), loggers[0].stamps.size());
    EXPECT_EQ(s.times, loggers[0].stamps);
    EXPECT_EQ(s.values, loggers[0].columns[0].values);
    std::remove(path.c_str());
}

}  // namespace
}  // namespace jacinth::demo
