// How often limits flag good runs and how surely they find departures, on made-up runs of many kinds of
// noise.
#include <gtest/gtest.h>

#include "core/golden/good_runs_plant.h"

namespace jacinth {
namespace {

using Plant = GoodRunsPlant;
using GoodRuns = testing::TestWithParam<Plant>;

TEST_P(GoodRuns, AreRarelyFlaggedAndDeparturesAlwaysFound) {
    constexpr int kSets = 20, kRunsEach = 50;
    GoodRunsOf plant(GetParam());
    int flagged = 0, found = 0;
    for (int set = 0; set < kSets; ++set) {
        const GoldenLimits limits = plant.limitsOfNewGoldenRuns();
        for (int run = 0; run < kRunsEach; ++run) {
            Series s = plant.makeRun();
            flagged += plant.screen(s, limits).empty() ? 0 : 1;
            plant.depart(s, limits);
            found += plant.finds(s, limits) ? 1 : 0;
        }
    }
    EXPECT_LE(flagged, kSets * kRunsEach * 2 / 100) << "more than 2 % of good runs are flagged";
    EXPECT_EQ(found, kSets * kRunsEach);
}

using enum GoodRunsPlant::Noise;
INSTANTIATE_TEST_SUITE_P(Plants, GoodRuns,
                         testing::Values(Plant{"Plain12", 12, 0, kMinute, 5 * kMinute},
                                         Plant{"Minutes25", 25, 600, kMinute, 5 * kMinute},
                                         Plant{"Hour25", 25, 3600, kMinute, 5 * kMinute},
                                         Plant{"Hours12", 12, 14400, 5 * kMinute, 5 * kMinute},
                                         Plant{"Sparse25", 25, 0, 15 * kMinute, 5 * kMinute},
                                         Plant{"Rounded25", 25, 0, kMinute, 2 * kMinute, Rounded},
                                         Plant{"RoundedHour25", 25, 3600, kMinute, 5 * kMinute, Rounded},
                                         Plant{"Mixed25", 25, 3600, kMinute, 5 * kMinute, Mixed},
                                         Plant{"Heavy25", 25, 0, kMinute, 5 * kMinute, Heavy},
                                         Plant{"Hour60", 60, 3600, kMinute, 5 * kMinute},
                                         Plant{"Hours60", 60, 14400, 5 * kMinute, 5 * kMinute},
                                         Plant{"Minutes150", 150, 600, 2 * kMinute, 5 * kMinute},
                                         Plant{"Hours150", 150, 14400, 5 * kMinute, 10 * kMinute},
                                         Plant{"Mixed150", 150, 3600, 2 * kMinute, 5 * kMinute, Mixed},
                                         Plant{"Rounded60", 60, 3600, 2 * kMinute, 2 * kMinute, Rounded},
                                         Plant{"Uneven32", 32, 2178, 2 * kMinute, 10 * kMinute, Uneven},
                                         Plant{"Jolts25", 25, 1816, 5 * kMinute, 5 * kMinute, Jolts}),
                         [](const auto& plant) { return std::string(plant.param.name); });

}  // namespace
}  // namespace jacinth
