// A made-up asset for the tests of the step search: a process that swings between two states, and sensors
// that see it with noise.
#pragma once

#include <cmath>
#include <random>

#include "core/steps/suspected_steps.h"
#include "core/time/times_for_tests.h"

namespace jacinth {

/// Twenty days a minute apart. The process heats for ten hours and rests for two, over and over; a state says
/// which. Sensors read it with white noise of 0.3; `twin` reads what `value` reads, `other` something else.
struct SteppedAsset {
    static constexpr int kMinutes = 20 * 24 * 60;
    std::mt19937 random{7};
    std::normal_distribution<double> noise{0, 0.3};
    Series value, twin, other;
    std::vector<RecurringStretch> states;
    std::vector<Instant> changes;
    BlockGrid grid{between(Duration::zero(), kMinutes* kMinute), 10 * kMinute};

    explicit SteppedAsset(unsigned seed = 7) : random(seed) {
        for (int m = 0; m < kMinutes; ++m) {
            const int into = m % 720;
            const bool rests = into >= 600;
            if (into == 0 || into == 600) {
                changes.push_back(at(m * kMinute));
                states.push_back({rests, between(m * kMinute, (m + (rests ? 120 : 600)) * kMinute)});
            }
            const double process = rests ? 20 : 80 - 60 * std::exp(-into / 60.0);
            value.push(at(m * kMinute), process + noise(random));
            twin.push(at(m * kMinute), process + 1 + noise(random));
            other.push(at(m * kMinute), 0.4 * process + noise(random));
        }
    }
    static void shift(Series& s, int from, int to, double by) {
        for (int m = from; m < std::min(to, kMinutes); ++m) s.values[static_cast<std::size_t>(m)] += by;
    }
    static constexpr int day(double d) { return static_cast<int>(d * 24 * 60); }

    TagScan scan(int id, const std::string& unit, const Series& series) const {
        return scanTag(TagId(id), unit, series, grid, {states});
    }
    /// With the twin, tags 1, 2 and 3; without it 1 and 3.
    std::vector<SuspectedStep> steps(bool withTwin = true) const {
        std::vector<TagScan> scans{scan(1, "%", value)};
        if (withTwin) scans.push_back(scan(2, "%", twin));
        scans.push_back(scan(3, "Pa", other));
        return suspectedSteps(scans, grid, changes);
    }
};

}  // namespace jacinth
