// A study with failures of three kilns, for tests of proving, searching and comparing.
#pragma once

#include <gtest/gtest.h>

#include "core/time/times_for_tests.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/prove/proving.h"

namespace jacinth {

inline constexpr int kProvedDays = 40;

/// Two kilns with `Vib`, an hour a sample: 1, and 5 for the two days before each failure. Kiln 1 fails on
/// days 10 and 20 and stands still for a day after; kiln 2 fails on day 30. Kiln 3 has no `Vib` and fails on
/// day 15. On kiln 2 it is 5 on day 5 as well, with nothing behind it.
class Proving : public NewStudy {
  protected:
    void fill() override {
        Catalog& catalog = study->catalog();
        const TrackId failures = study->tracks().put("Failures", track_kind::kFailures),
                      stops = study->tracks().put("Stops", track_kind::kStops);
        const std::map<int, std::vector<int>> failing{{1, {10, 20}}, {2, {30}}, {3, {15}}};
        for (const auto& [kiln, days] : failing) {
            const AssetId asset = catalog.addAsset("Kiln " + std::to_string(kiln));
            for (const int day : days) {
                study->tracks().addSpan(failures, {{}, asset, {}, at(day * kDay), at(day * kDay), {}});
                study->tracks().addSpan(stops, {{}, asset, {}, at(day * kDay), at((day + 1) * kDay), {}});
            }
            if (kiln == 3) {
                catalog.addTag(asset, "Flow", "m³/h", TagKind::Continuous);
                continue;
            }
            const TagId vib = catalog.addTag(asset, "Vib", "mm/s", TagKind::Continuous);
            Series s;
            for (int h = 0; h < kProvedDays * 24; ++h) {
                bool high = kiln == 2 && h / 24 == 5;
                for (const int day : days) high = high || (h >= (day - 2) * 24 && h < day * 24);
                s.push(at(h * kHour), high ? 5 : 1);
            }
            study->samples().write(vib, s);
            catalog.setSpacing(vib, kHour);
        }
    }
    Proof proved(const ProveRequest& request) {
        auto proof = proveRule(*study, request);
        EXPECT_TRUE(proof) << proof.error().message;
        return proof ? *proof : Proof{};
    }
    std::string refusal(const ProveRequest& request) {
        const auto proof = proveRule(*study, request);
        return proof ? "it was proved" : proof.error().message;
    }
    ProveRequest asking(const std::string& rule) {
        ProveRequest request;
        request.rule = rule;
        return request;
    }
};

}  // namespace jacinth
