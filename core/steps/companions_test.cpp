#include "core/steps/companions.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/base/missing.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

/// Forty days of blocks: two causes that wander, a and b; tags that are mixtures of them, with noise.
struct Mixtures {
    std::mt19937 random{3};
    std::normal_distribution<double> normal;
    BlockGrid grid{{Instant{}, Instant(40 * kDay)}, 10 * kMinute};
    std::vector<double> a = wander(), b = wander();

    std::vector<double> wander() {
        std::vector<double> out(grid.count());
        double x = 0;
        for (double& v : out) v = x = 0.99 * x + normal(random);
        return out;
    }
    std::vector<double> tag(double ofA, double ofB, double noise, int lag = 0) {
        std::vector<double> out;
        for (std::size_t i = 0; i < a.size(); ++i) {
            const std::size_t k = i >= static_cast<std::size_t>(lag) ? i - static_cast<std::size_t>(lag) : 0;
            out.push_back(5 + ofA * a[k] + ofB * b[k] + noise * normal(random));
        }
        return out;
    }
    std::vector<Companions> of(const std::vector<std::vector<double>>& tags) const {
        std::vector<const std::vector<double>*> pointers;
        for (const auto& t : tags) pointers.push_back(&t);
        return companionsOf(pointers, grid);
    }
};

double spread(const std::vector<double>& x) {
    std::vector<double> known;
    for (const double v : x)
        if (!std::isnan(v)) known.push_back(v);
    return standardDeviation(known);
}

TEST(Companions, OfTheSameTwoCausesExplainEachOther) {
    Mixtures m;
    const auto found = m.of({m.tag(1, 0, 0.1), m.tag(0, 1, 0.1), m.tag(2, -1, 0.1)});
    EXPECT_NEAR(found[2].effectOf(0), 2, 0.1);
    EXPECT_NEAR(found[2].effectOf(1), -1, 0.1);
    EXPECT_EQ(found[2].effectOf(2), 0);
    EXPECT_LT(spread(found[2].remainder.levels()), 0.4) << "noise of its own and of both others";
    EXPECT_GT(spread(m.tag(2, -1, 0.1)), 10) << "of that much";
}

TEST(Companions, ReadEarlierOrLaterAreFoundAllTheSame) {
    Mixtures m;
    const auto found = m.of({m.tag(1, 0, 0.02), m.tag(1.5, 0, 0.02, 2)});
    EXPECT_NEAR(found[1].effectOf(0), 1.5, 0.05);
    EXPECT_LT(spread(found[1].remainder.levels()), 0.2);
}

TEST(Companions, AreNotBentBySteps) {
    Mixtures m;
    std::vector<double> x = m.tag(1, 0, 0.1), y = m.tag(3, 0, 0.1);
    for (std::size_t i = 2000; i < 2500; ++i) x[i] += 40;
    for (std::size_t i = 4000; i < y.size(); ++i) y[i] -= 60;
    const auto found = m.of({x, y});
    EXPECT_NEAR(found[1].effectOf(0), 3, 0.1);
    EXPECT_NEAR(found[1].remainder.at(2000, 1), -120, 3) << "a step of a companion shows by its coefficient";
    EXPECT_NEAR(found[1].remainder.at(4000, 1), -60, 3);
}

TEST(Companions, TagsThatShareNothingHaveNone) {
    Mixtures m;
    const auto found = m.of({m.tag(1, 0, 0.1), m.tag(0, 1, 0.1)});
    EXPECT_TRUE(found[0].terms.empty());
    EXPECT_TRUE(found[1].terms.empty());
    EXPECT_EQ(m.of({m.tag(1, 0, 0.1)})[0].terms.size(), 0u);
}

TEST(Companions, AreFoundWhateverTheirUnits) {
    Mixtures m;
    std::vector<double> pascals = m.tag(1, 0, 0.05), metres = m.tag(0, 1, 0.05), both = m.tag(1, 1, 0.05);
    for (double& v : pascals) v *= 1e8;
    for (double& v : metres) v *= 1e-9;
    for (double& v : both) v *= 1e-3;
    const auto found = m.of({pascals, metres, both});
    EXPECT_NEAR(found[2].effectOf(0), 1e-11, 1e-12);
    EXPECT_NEAR(found[2].effectOf(1), 1e6, 1e5);
}

TEST(Companions, OneThatIsMissingIsToldByItsOwn) {
    Mixtures m;
    std::vector<double> x = m.tag(1, 0, 0.05), y = m.tag(2, 0, 0.05), z = m.tag(-1, 0, 0.05);
    for (std::size_t i = 3000; i < 3100; ++i) y[i] = kMissing;
    const auto found = m.of({x, y, z});
    EXPECT_TRUE(std::isnan(found[1].remainder.levels()[3050])) << "the tag itself is not known there";
    for (std::size_t i = 3000; i < 3100; ++i)
        EXPECT_LT(std::abs(found[0].remainder.levels()[i] - median(found[0].remainder.levels())), 1) << i;
}

TEST(UsualSize, IsTheRobustStandardDeviation) {
    std::mt19937 random(1);
    std::normal_distribution<double> normal;
    std::vector<double> sizes;
    for (int i = 0; i < 20000; ++i) sizes.push_back(std::abs(3 * normal(random)));
    EXPECT_NEAR(usualSize(sizes), 3, 0.1);
    for (int i = 0; i < 1000; ++i) sizes.push_back(1e6);
    EXPECT_NEAR(usualSize(sizes), 3.1, 0.2);
    std::vector<double> mostlyStill(800, 0);
    for (int i = 0; i < 200; ++i) mostlyStill.push_back(10);
    EXPECT_GT(usualSize(mostlyStill), 3) << "not 0";
    EXPECT_TRUE(std::isnan(usualSize({})));
}

}  // namespace
}  // namespace jacinth
