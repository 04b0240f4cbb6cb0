// A record with eight runs of one kiln, for tests of runs and their limits.
#pragma once

#include "core/time/times_for_tests.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/limits/screening.h"
#include "work/runs/find_runs.h"
#include "work/runs/run_phases.h"

namespace jacinth {

/// One kiln, eight runs: Heat of 60 + 5·run min, Hold of 120 min, Cool of 60 min, an hour idle between. The
/// temperature rises from 20 to 80 in Heat, stays, falls in Cool; run 7 is 15 too hot in Hold.
class RunsTest : public NewStudy {
  protected:
    void fill() override {
        const auto asset = study->catalog().addAsset("Kiln 1");
        const auto temp = study->catalog().addTag(asset, "Temp", "°C", TagKind::Continuous);
        const auto step = study->catalog().addTag(asset, "Step", "", TagKind::State);
        for (const char* name : {"Idle", "Heat", "Hold", "Cool"}) study->catalog().addState(step, name);
        Series temps, steps;
        int minute = 0;
        const auto phase = [&](int state, int minutes, double from, double to) {
            steps.push(at(minute * kMinute), state);
            for (int m = 0; m < minutes; ++m, ++minute)
                temps.push(at(minute * kMinute), from + (to - from) * m / minutes);
        };
        for (int run = 0; run < 8; ++run) {
            const double wobble = 0.1 * (run % 3);
            phase(0, 60, 20, 20);
            starts.push_back(at(minute * kMinute));
            phase(1, 60 + 5 * run, 20, 80 + wobble);
            const double hot = run == 7 ? 15 : 0;
            phase(2, 120, 80 + wobble + hot, 80 + wobble + hot);
            phase(3, 60, 80 + wobble, 20);
        }
        phase(0, 60, 20, 20);
        study->samples().write(temp, temps);
        study->samples().write(step, steps);
        study->catalog().setSpacing(temp, kMinute);
    }
    TrackId find(RunSearch search = {"@step is not \"Idle\""}, bool phases = true) {
        if (phases && search.phases.empty()) search.phases = phasesSuggestedBy(*study, search.where);
        auto found = findRuns(*study, search);
        EXPECT_TRUE(found) << found.error().message;
        return keepRuns(*study, "Runs", search, *found);
    }
    void golden(TrackId track, std::size_t n) {
        std::vector<SpanId> ids;
        for (const Span& s : study->tracks().spans(track))
            if (ids.size() < n) ids.push_back(s.id);
        study->change("golden", "", {}, [&] { study->judgement().setGoldenRuns(track, ids, "first ones"); });
    }
    LimitSpec byPhases() const {
        LimitSpec spec;
        spec.every = 5 * kMinute;
        spec.lineUp = LineUp::Phases;
        return spec;
    }
    std::vector<Instant> starts;
};

}  // namespace jacinth
