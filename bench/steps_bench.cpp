// Suspected steps of an asset of four tags in memory, at n, 4n and 16n samples in all; against sorting the
// values of the same tags once. Usage: steps_bench [--samples N] [--json]
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <random>

#include "bench/figures.h"
#include "core/steps/suspected_steps.h"

using namespace jacinth;
using namespace jacinth::bench;

namespace {

constexpr int kTags = 4;

/// A process that heats for ten hours and rests for two, read every 30 s by sensors with white noise; one is
/// knocked there and back.
struct MadeAsset {
    std::vector<Series> tags{kTags};
    std::vector<RecurringStretch> states;
    std::vector<Instant> changes;
    TimeRange range;

    explicit MadeAsset(std::size_t samples) {
        std::mt19937 random(5);
        std::normal_distribution<double> noise(0, 0.3);
        const auto n = static_cast<std::int64_t>(samples / kTags);
        for (std::int64_t i = 0; i < n; ++i) {
            const Instant t = Instant(i * 30 * kSecond);
            const std::int64_t into = i % 1440;
            if (into == 0 || into == 1200) {
                const Duration lasts = (into == 0 ? 10 : 2) * kHour;
                states.push_back({into == 0, {t, t + lasts}});
                changes.push_back(t);
            }
            const double process = into >= 1200 ? 20 : 80 - 60 * std::exp(-static_cast<double>(into) / 120);
            for (int k = 0; k < kTags; ++k)
                tags[static_cast<std::size_t>(k)].push(
                    t, process * (1 + k / 2) + noise(random) + (k == 0 && i > n / 3 && i < n / 2 ? 4 : 0));
        }
        range = {Instant{}, Instant(n * 30 * kSecond)};
    }
    std::vector<SuspectedStep> steps() const {
        const BlockGrid grid = gridFor(range);
        std::vector<TagScan> scans;
        for (std::size_t k = 0; k < tags.size(); ++k)
            scans.push_back(scanTag(TagId(k + 1), k < 2 ? "%" : "Pa", tags[k], grid, {states}));
        return suspectedSteps(scans, grid, changes);
    }
    double sorting() const {
        return secondsOf([&] {
            for (const Series& s : tags) {
                std::vector<double> values = s.values;
                std::sort(values.begin(), values.end());
            }
        });
    }
};

}  // namespace

int main(int argc, char** argv) {
    Figures out(argc, argv);
    std::size_t most = 16'000'000;
    for (int i = 1; i + 1 < argc; ++i)
        if (std::string(argv[i]) == "--samples") most = static_cast<std::size_t>(std::atoll(argv[i + 1]));
    for (const std::size_t n : {most / 16, most / 4, most}) {
        const MadeAsset asset(n);
        std::size_t found = 0;
        const double took = medianSeconds([&] { found = asset.steps().size(); });
        out.add(fmt::format("suspected steps, {:.0f} million samples, {} found", static_cast<double>(n) / 1e6,
                            found),
                took, "s", fmt::format("{:.1f} × sorting them once", took / asset.sorting()));
    }
}
