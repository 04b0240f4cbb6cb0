#include "work/mend/fit_words.h"

#include <gtest/gtest.h>

#include "core/time/times_for_tests.h"
#include "store/catalog.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"

namespace jacinth {
namespace {

class FitWords : public NewStudy {
  protected:
    void fill() override {
        kiln = study->catalog().addAsset("Kiln 1");
        other = study->catalog().addAsset("Kiln 2");
        rh = study->catalog().addTag(kiln, "Air-off RH", "%", TagKind::Continuous);
        study->catalog().addTag(kiln, "Gas flow", "m³/h", TagKind::Continuous);
        orders = study->tracks().put("Orders", track_kind::kWorkOrders);
    }
    void add(AssetId asset, int hour, const char* words, TrackId track = {}) {
        study->tracks().addSpan(track ? track : orders,
                                {{}, asset, {}, at(hour * kHour), at(hour * kHour), {{"text", words}}});
    }
    std::vector<std::string> found(int from = 0, int to = 100) {
        Fix fix;
        fix.tag = rh;
        fix.body = RampFix{};
        fix.from = at(from * kHour), fix.to = at(to * kHour);
        std::vector<std::string> out;
        for (const Recalibration& r : recalibrationsIn(*study, fix)) out.push_back(r.words);
        return out;
    }
    AssetId kiln, other;
    TagId rh;
    TrackId orders;
};

using Words = std::vector<std::string>;

TEST_F(FitWords, ARecalibrationWithinTheStretchIsFound) {
    add(kiln, 50, "Air-off RH probe recalibrated");
    add(kiln, 60, "Fan belt changed");
    add(other, 40, "Air-off RH probe recalibrated");
    add(kiln, 45, "Calibration of the GAS FLOW meter");
    EXPECT_EQ(found(), Words{"Air-off RH probe recalibrated"});
    add({}, 20, "Sensors of the whole site CALIBRATED");
    EXPECT_EQ(found(), (Words{"Sensors of the whole site CALIBRATED", "Air-off RH probe recalibrated"}));
    add(kiln, 30, "probe replaced", study->tracks().put("Log", track_kind::kLog));
    EXPECT_EQ(found().size(), 3u);
}

TEST_F(FitWords, AtTheEndsIsWhereARecalibrationBelongs) {
    add(kiln, 50, "Air-off RH probe recalibrated");
    EXPECT_EQ(found(50, 100), Words{});
    EXPECT_EQ(found(0, 50), Words{});
    EXPECT_EQ(found(0, 51), Words{});
    EXPECT_EQ(found(0, 52), Words{"Air-off RH probe recalibrated"});
    EXPECT_EQ(recalibrationWords({}, study->zone()), "");
}

TEST_F(FitWords, EndsAreSaidWithAsManyDigitsAsTheyAreSure) {
    RampFit fit;
    fit.startBy = 0.1234, fit.startSure = 0.0567, fit.endBy = -9.5432, fit.endSure = 0.61;
    EXPECT_EQ(sureWords(fit, false, "%"), "Start 0.123 ± 0.057 %, end −9.54 ± 0.61 % (95 %)");
    EXPECT_EQ(sureWords(fit, true, ""), "Start fixed at 0.123, end −9.54 ± 0.61 (95 %)");
    fit.endSure = std::nan("");
    EXPECT_EQ(sureWords(fit, true, "%"),
              "How sure the ends are cannot be told from so few readings: one more is needed.");
    BendFit bend;
    bend.spread = std::nan("");
    bend.readingsAt = {1, 1};
    EXPECT_NE(sureWords(bend, "%").find("its one reading"), std::string::npos);
    bend.spread = 1, bend.degrees = 20, bend.readingsAt = {1, 4};
    EXPECT_EQ(sureWords(bend, "%"), "Each knot ± 1 to 2.1 % (95 %), by how many readings it has");
    bend.readingsAt = {4, 4};
    EXPECT_EQ(sureWords(bend, "%"), "Each knot ± 1 % (95 %)");
}

}  // namespace
}  // namespace jacinth
