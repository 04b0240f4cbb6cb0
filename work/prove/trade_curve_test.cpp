// What a rule would catch with other limits.
#include "work/prove/trade_curve.h"

#include "work/prove/proving_fixture.h"

namespace jacinth {
namespace {

class TradeCurves : public Proving {
  protected:
    /// Adds `Heat`, 1 but for the two days before each failure, and for two days on which none followed:
    /// what comes before failures is not always higher.
    void fill() override {
        Proving::fill();
        const std::map<int, std::map<int, double>> peaks{{1, {{10, 3}, {20, 4}}},
                                                         {2, {{5, 5}, {15, 3.5}, {30, 6}}}};
        for (const auto& [kiln, days] : peaks) {
            const AssetId asset = study->catalog().assetNamed("Kiln " + std::to_string(kiln))->id;
            const TagId heat = study->catalog().addTag(asset, "Heat", "°C", TagKind::Continuous);
            Series s;
            for (int h = 0; h < kProvedDays * 24; ++h) {
                double v = 1;
                for (const auto& [day, height] : days)
                    if (h >= (day - 2) * 24 && h < day * 24) v = height;
                s.push(at(h * kHour), v);
            }
            study->samples().write(heat, s);
            study->catalog().setSpacing(heat, kHour);
        }
    }
    TradeCurve curveOf(const ProveRequest& request) {
        const auto curve = tradeCurveOf(*study, request);
        EXPECT_TRUE(curve) << curve.error().message;
        EXPECT_TRUE(curve && *curve);
        return curve && *curve ? **curve : TradeCurve{};
    }
};

TEST_F(TradeCurves, EveryPointIsAProofOfItsOwn) {
    ProveRequest request = asking("mean(@heat over 3h) > 2");
    const TradeCurve curve = curveOf(request);
    EXPECT_EQ(curve.rule, "mean(@heat over 3h) > {limit}");
    EXPECT_EQ(curve.limit, "limit");
    EXPECT_EQ(curve.settings, (Settings{{"limit", 2}}));
    ASSERT_EQ(curve.points.size(), 3u);
    for (std::size_t i = 0; i < 3; ++i) {
        EXPECT_EQ(curve.points[i].tally.caught, static_cast<int>(i) + 1);
        EXPECT_EQ(curve.points[i].tally.falseAlarms, static_cast<int>(i)) << "each more costs one";
    }
    for (std::size_t i = 0; i < curve.points.size(); ++i) {
        const TradePoint& p = curve.points[i];
        request.rule = curve.rule;
        request.settings = curve.settings;
        request.settings[curve.limit] = p.limit;
        const Proof alone = proved(request);
        EXPECT_EQ(std::tuple(p.tally.caught, p.tally.missed, p.tally.falseAlarms),
                  std::tuple(alone.caught, alone.missed, alone.falseAlarms));
        EXPECT_EQ(p.tally.falsePerAssetMonth, alone.falsePerAssetMonth);
        EXPECT_LE(p.tally.alarmedShare, 0.25);
        if (i == 0) continue;
        EXPECT_GT(p.tally.caught, curve.points[i - 1].tally.caught);
        EXPECT_GT(p.tally.falseAlarms, curve.points[i - 1].tally.falseAlarms);
    }
}

TEST_F(TradeCurves, ARuleThatStandsFarFromWhatIsOfUseStillHasOne) {
    // At 9 it never is true; the steps go down to 0, where it always is.
    const TradeCurve curve = curveOf(asking("@vib > 9"));
    EXPECT_EQ(curve.points.back().tally.caught, 3);
    EXPECT_LT(curve.points.back().limit, 5);
    EXPECT_GE(curve.points.back().limit, 1);
}

TEST_F(TradeCurves, ARuleThatIsAlwaysTrueStillHasOne) {
    // Around 0 every step is true always: the sweep goes on until it is not.
    const TradeCurve curve = curveOf(asking("@vib + 30 > 0"));
    ASSERT_FALSE(curve.points.empty());
    EXPECT_EQ(curve.points.back().tally.caught, 3);
    EXPECT_GE(curve.points.back().limit, 31);
    EXPECT_LT(curve.points.back().limit, 35);
}

TEST_F(TradeCurves, ANumberOnTheLeftIsOneToo) {
    const TradeCurve curve = curveOf(asking("2 < @vib"));
    EXPECT_EQ(curve.rule, "{limit} < @vib");
    EXPECT_EQ(curve.points.back().tally.caught, 3);
}

TEST_F(TradeCurves, WhatCatchesNothingWithAnyLimitIsEmpty) {
    EXPECT_TRUE(curveOf(asking("@vib > 1e300")).points.empty()) << "too far away";
    EXPECT_TRUE(curveOf(asking("@vib > 3 and @vib < 0")).points.empty());
}

TEST_F(TradeCurves, TheFirstNumberComparedWithChanges) {
    ProveRequest request = asking("@vib < {top} and mean(@vib over 2h) > {limit} + 1");
    EXPECT_NE(tradeCurveOf(*study, request).error().message.find("has no number"), std::string::npos);
    request.settings = {{"top", 9}, {"limit", 2}};
    EXPECT_EQ(curveOf(request).limit, "top");
}

TEST_F(TradeCurves, AreTakenFromSettingsAndOnTheAssetAskedFor) {
    ProveRequest request = asking("@vib > {limit}");
    request.settings = {{"limit", 3}};
    request.asset = "Kiln 2";
    const TradeCurve curve = curveOf(request);
    EXPECT_EQ(curve.rule, "@vib > {limit}");
    EXPECT_EQ(curve.points.back().tally.caught + curve.points.back().tally.missed, 1);
}

TEST_F(TradeCurves, AroundZeroTheyReachOneUpAndDown) {
    const TradeCurve curve = curveOf(asking("@vib - 2 > 0"));
    EXPECT_EQ(curve.settings.at("limit"), 0);
    EXPECT_EQ(curve.points.back().tally.caught, 3);
    EXPECT_GE(curve.points.back().limit, -1);
    EXPECT_LE(curve.points.back().limit, 1);
}

TEST_F(TradeCurves, WhatComparesWithNoNumberHasNone) {
    for (const char* rule : {"@vib > `Kiln 2/Vib` and @vib > `Kiln 1/Vib`", "missing(@vib)"}) {
        const auto curve = tradeCurveOf(*study, asking(rule));
        ASSERT_TRUE(curve) << curve.error().message;
        EXPECT_FALSE(*curve) << rule;
    }
}

TEST_F(TradeCurves, WhatIsWrongIsSaidAndItCanBeStopped) {
    const auto wrong = tradeCurveOf(*study, asking("@vip > 3"));
    ASSERT_FALSE(wrong);
    EXPECT_NE(wrong.error().message.find("vib"), std::string::npos) << wrong.error().message;
    const auto stopped = tradeCurveOf(*study, asking("@vib > 3"), Progress([](double) { return false; }));
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().kind, ErrorKind::Cancelled);
}

}  // namespace
}  // namespace jacinth
