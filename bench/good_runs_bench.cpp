// How often golden limits flag good runs on many made-up plants, each with its own number of golden runs,
// spacing, length of run and slice, levels and noise: new limits 20 times a plant, 50 unseen runs each.
// Usage: good_runs_bench [--plants N] [--seed N] [--json]
#include <fmt/format.h>

#include "bench/figures.h"
#include "core/golden/good_runs_plant.h"

using namespace jacinth;
using namespace jacinth::bench;

namespace {

GoodRunsPlant anyPlant(std::mt19937_64& random) {
    const auto oneOf = [&](auto list) { return list[random() % list.size()]; };
    const auto between = [&](double low, double high) {
        return low * std::pow(high / low, std::uniform_real_distribution<>()(random));
    };
    GoodRunsPlant p;
    p.goldenRuns = static_cast<int>(between(8, 150));
    p.spacing = static_cast<std::int64_t>(between(30, 900)) * kSecond;
    p.length = static_cast<std::int64_t>(between(6, 40) * 60) * kMinute;
    p.every = oneOf(std::array<Duration, 4>{kMinute, 2 * kMinute, 5 * kMinute, 10 * kMinute});
    if (random() % 4 > 0) p.slowNoise = between(120, 6 * 3600);
    using enum GoodRunsPlant::Noise;
    p.noise = oneOf(std::array{Normal, Rounded, Mixed, Heavy, Jolts, Uneven});
    p.levels = oneOf(std::array{0.0, 0.2, 0.5, 1.5});
    return p;
}

}  // namespace

int main(int argc, char** argv) {
    Figures out(argc, argv);
    constexpr int kSets = 20, kRunsEach = 50;
    const int plants = numberAfter(argc, argv, "--plants", 40);
    std::mt19937_64 random(static_cast<std::uint64_t>(numberAfter(argc, argv, "--seed", 1)));
    int above = 0, lost = 0;
    double worst = 0, sum = 0;
    for (int i = 0; i < plants; ++i) {
        const GoodRunsPlant p = anyPlant(random);
        GoodRunsOf runs(p, random());
        int flagged = 0, missed = 0;
        double widened = 0;
        for (int set = 0; set < kSets; ++set) {
            const GoldenLimits limits = runs.limitsOfNewGoldenRuns();
            widened += (limits.widened - 1) / kSets;
            for (int run = 0; run < kRunsEach; ++run) {
                Series s = runs.makeRun();
                flagged += runs.screen(s, limits).empty() ? 0 : 1;
                runs.depart(s, limits);
                missed += runs.finds(s, limits) ? 0 : 1;
            }
        }
        const double share = 100.0 * flagged / (kSets * kRunsEach);
        constexpr std::array<const char*, 6> kNoise{"normal", "rounded", "mixed", "heavy", "jolts", "uneven"};
        out.add(fmt::format("{} golden, {}, slow {:.0f} s, levels {}", p.goldenRuns,
                            kNoise[static_cast<std::size_t>(p.noise)], p.slowNoise, p.levels),
                share, "%",
                fmt::format(
                    "a sample in {:.0f} s, {:.0f} h, slices of {:.0f} min; widened {:.0f} %; {} missed",
                    toSeconds(p.spacing), toHours(p.length), toSeconds(p.every) / 60, 100 * widened, missed));
        above += share > 2;
        lost += missed;
        sum += share;
        worst = std::max(worst, share);
    }
    out.add("good runs flagged, on average", sum / plants, "%");
    out.add("good runs flagged, worst plant", worst, "%");
    out.add("plants with more than 2 %", above, "", fmt::format("of {}", plants));
    out.add("departures missed", lost, "", fmt::format("of {}", plants * kSets * kRunsEach));
}
