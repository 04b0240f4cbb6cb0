// Kappa over time against hand-worked values.
#include "core/label/agreement.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

const AssetId kKiln(1), kOther(2);
const std::map<AssetId, TimeRange> kDayOfOne{{kKiln, between(0, 100 * kMinute)}};

SaidOf said(int from, int to, const char* kind, AssetId asset = kKiln) {
    return {asset, between(from * kMinute, to * kMinute), kind};
}

TEST(AgreementOfLabels, ByHand) {
    // 100 minutes. One: wear 0–40; two: wear 10–50, leak 60–70.
    const Agreement a =
        agreementOf({said(0, 40, "wear")}, {said(10, 50, "wear"), said(60, 70, "leak")}, kDayOfOne);
    EXPECT_EQ(a.both, 30 * kMinute);
    EXPECT_EQ(a.one, 10 * kMinute);
    EXPECT_EQ(a.two, 20 * kMinute);
    EXPECT_EQ(a.neither, 40 * kMinute);
    // Agreed: 30 wear + 40 none; by chance 0.4·0.4 + 0.6·0.5.
    EXPECT_NEAR(a.observed, 0.7, 1e-12);
    EXPECT_NEAR(a.byChance, 0.46, 1e-12);
    EXPECT_NEAR(a.kappa, 0.24 / 0.54, 1e-12);
    ASSERT_EQ(a.differences.size(), 3u);
    EXPECT_EQ(a.differences[0].range, between(0, 10 * kMinute));
    EXPECT_EQ(a.differences[0].one, "wear");
    EXPECT_EQ(a.differences[0].two, "");
    EXPECT_EQ(a.differences[2].two, "leak");
}

TEST(AgreementOfLabels, TheSameIsOneAndNothingIsUnknown) {
    const std::vector<SaidOf> one{said(10, 30, "wear"), said(50, 60, "leak")};
    EXPECT_NEAR(agreementOf(one, one, kDayOfOne).kappa, 1, 1e-12);
    EXPECT_TRUE(agreementOf(one, one, kDayOfOne).differences.empty());
    EXPECT_TRUE(std::isnan(agreementOf({}, {}, kDayOfOne).kappa));
    EXPECT_TRUE(std::isnan(agreementOf(one, one, {}).kappa));
    EXPECT_NEAR(agreementOf(one, {}, kDayOfOne).kappa, 0, 1e-12) << "who says nothing agrees by chance alone";
}

TEST(AgreementOfLabels, TwoKindsOnOneStretchAreAKindOfTheirOwn) {
    const std::vector<SaidOf> one{said(0, 20, "wear"), said(10, 20, "leak")};
    const Agreement a = agreementOf(one, {said(0, 20, "wear")}, kDayOfOne);
    ASSERT_EQ(a.differences.size(), 1u);
    EXPECT_EQ(a.differences[0].one, "leak + wear");
    EXPECT_EQ(a.differences[0].two, "wear");
    EXPECT_NEAR(agreementOf(one, one, kDayOfOne).kappa, 1, 1e-12);
}

TEST(AgreementOfLabels, AssetsAreKeptApartAndTimeOutsideIsLeftOut) {
    const std::map<AssetId, TimeRange> both{{kKiln, between(0, 100 * kMinute)},
                                            {kOther, between(0, 100 * kMinute)}};
    const Agreement a = agreementOf({said(0, 50, "wear")}, {said(0, 50, "wear", kOther)}, both);
    EXPECT_EQ(a.both, Duration::zero());
    EXPECT_EQ(a.differences.size(), 2u);
    EXPECT_LT(a.kappa, 0);
    const Agreement cut = agreementOf({said(-50, 10, "wear")}, {said(0, 10, "wear")}, kDayOfOne);
    EXPECT_NEAR(cut.kappa, 1, 1e-12);
    EXPECT_EQ(cut.both, 10 * kMinute);
}

TEST(AgreementOfLabels, NeighboursThatSayTheSameAreOneDifference) {
    const Agreement a = agreementOf({said(0, 10, "wear"), said(10, 20, "wear")}, {}, kDayOfOne);
    ASSERT_EQ(a.differences.size(), 1u);
    EXPECT_EQ(a.differences[0].range, between(0, 20 * kMinute));
}

}  // namespace
}  // namespace jacinth
