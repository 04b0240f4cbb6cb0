// Draws what will happen: loads, products, failures and runs off the path, by kiln and run.
#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/time/zone.h"
#include "demo/plant.h"

namespace jacinth::demo {
namespace {

constexpr double kHoursPerCycle = 34;  // a run of about 22 h and the idle time before it

int scaled(const PlantSpec& spec, int in61Days) {
    return std::max(1, static_cast<int>(std::lround(in61Days * spec.days / 61.0)));
}

RunPlan ordinaryRun(Random& random) {
    RunPlan plan;
    const double which = random.uniform();
    plan.product = which < 0.6 ? "Pale" : which < 0.85 ? "Amber" : "Wheat";
    plan.load =
        std::round((random.chance(0.03) ? random.uniform(46, 48) : random.normal(42, 0.45)) * 10) / 10;
    plan.idleHours = random.uniform(9.5, 16.5);
    plan.dryingFactor = 1 + random.normal(0, 0.009);
    plan.temperatureOffset = random.normal(0, 0.3);
    plan.damperOpen = random.chance(0.05);
    plan.manualBurner = random.chance(0.08);
    plan.flameLosses = random.chance(0.25) ? 1 : 0;
    return plan;
}

/// Run indices that have nothing planned yet, away from the ends of the record and from each other.
bool freeRun(const std::vector<RunPlan>& runs, int i, int margin) {
    const int n = static_cast<int>(runs.size());
    for (int k = std::max(0, i - margin); k <= std::min(n - 1, i + margin); ++k)
        if (runs[k].failsAtHour || (k == i && runs[k].offPath)) return false;
    return true;
}

void planFailures(const PlantSpec& spec, Random& random, std::vector<std::vector<RunPlan>>& plans) {
    const int count = scaled(spec, 7);
    const int runs = static_cast<int>(spec.days * 24 / kHoursPerCycle);
    for (int f = 0; f < count; ++f) {
        auto& kiln = plans[f % kKilns];
        // Spread over the record; the first week and the last days stay without.
        const int lead = std::min(6, runs / 2);
        for (int attempt = 0; attempt < 200; ++attempt) {
            const int i = random.whole(lead, std::max(lead, runs - 3));
            if (!freeRun(kiln, i, 5)) continue;
            kiln[i].failsAtHour = random.uniform(14.6, 16.9);
            kiln[i].flameLosses = 0;
            break;
        }
    }
}

void planOffPath(const PlantSpec& spec, Random& random, std::vector<std::vector<RunPlan>>& plans) {
    const int count = scaled(spec, 33);
    const int runs = static_cast<int>(spec.days * 24 / kHoursPerCycle);
    for (int k = 0; k < count; ++k) {
        const OffPath off{static_cast<OffPathKind>(k % 3), 1 + (k / 3) % 3};
        for (int attempt = 0; attempt < 200; ++attempt) {
            auto& kiln = plans[random.whole(0, kKilns - 1)];
            const int i = random.whole(1, std::max(1, runs - 2));
            if (!freeRun(kiln, i, 1)) continue;
            kiln[i].offPath = off;
            kiln[i].flameLosses = 0;
            kiln[i].damperOpen = false;
            break;
        }
    }
}

void planFlameStops(const PlantSpec& spec, Random& random, std::vector<std::vector<RunPlan>>& plans) {
    const int runs = static_cast<int>(spec.days * 24 / kHoursPerCycle);
    for (int k = 0; k < scaled(spec, 5); ++k)
        for (int attempt = 0; attempt < 200; ++attempt) {
            RunPlan& plan = plans[random.whole(0, kKilns - 1)][random.whole(0, std::max(0, runs - 2))];
            if (plan.failsAtHour || plan.offPath || plan.flameLossStop) continue;
            plan.flameLosses = 1;
            plan.flameLossStop = true;
            break;
        }
}

}  // namespace

TimeRange PlantSpec::record() const {
    const Zone oslo = *Zone::named("Europe/Oslo");
    const Instant from = oslo.instant({2026, 3, 1, 0, 0}).instant;
    return {from, oslo.addDays(from, days)};
}

std::string kilnName(int kiln) {
    return "Kiln " + std::to_string(kiln);
}

double outsideTemperature(Instant t) {
    const double day = toHours(t.time_since_epoch()) / 24;
    const double season = 6.5 - 9.5 * std::cos(2 * std::numbers::pi * (day - 20) / 365.25);
    const double weather =
        2.5 * std::sin(2 * std::numbers::pi * day / 6.3) + 1.5 * std::sin(2 * std::numbers::pi * day / 17.7);
    return season + weather + 4 * std::sin(2 * std::numbers::pi * (day - 0.38));
}

double outsideHumidity(Instant t) {
    const double day = toHours(t.time_since_epoch()) / 24;
    return std::clamp(74 - 2.0 * (outsideTemperature(t) - 5) + 6 * std::sin(2 * std::numbers::pi * day / 9.1),
                      25.0, 98.0);
}

std::vector<std::vector<RunPlan>> planRuns(const PlantSpec& spec) {
    const Random root(spec.seed);
    std::vector<std::vector<RunPlan>> plans(kKilns);
    const int most = static_cast<int>(spec.days * 24 / 28) + 4;  // more than can fit
    for (int k = 0; k < kKilns; ++k) {
        Random random = root.branch(100 + static_cast<std::uint64_t>(k));
        for (int i = 0; i < most; ++i) {
            plans[k].push_back(ordinaryRun(random));
            plans[k].back().washDownBefore = i % 7 == (k + 3) % 7;
        }
        plans[k][0].idleHours = random.uniform(1, 18);
    }
    Random random = root.branch(7);
    planFailures(spec, random, plans);
    planOffPath(spec, random, plans);
    planFlameStops(spec, random, plans);
    return plans;
}

}  // namespace jacinth::demo
