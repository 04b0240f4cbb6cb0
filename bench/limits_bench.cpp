// Golden limits for many runs × 12 tags × 660 slices, and every run screened by them, a golden one without
// itself: at n/4, n and 4n runs. Usage: limits_bench [--runs N] [--json]
#include <fmt/format.h>

#include <cmath>
#include <cstdlib>
#include <filesystem>

#include "bench/figures.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/limits/screening.h"

using namespace jacinth;
using namespace jacinth::bench;

namespace {

constexpr int kTags = 12, kSlices = 660;

/// One asset, runs of 22 h with two hours between, a sample every two minutes in each tag.
std::unique_ptr<Study> madeStudy(const std::string& path, int runs) {
    std::filesystem::remove(path);
    auto study = std::move(*Study::create(path));
    WriteBatch t(*study);
    const auto asset = study->catalog().addAsset("Kiln 1");
    for (int k = 0; k < kTags; ++k) {
        const auto tag = study->catalog().addTag(asset, fmt::format("Tag {}", k), "°C", TagKind::Continuous);
        std::uint64_t random = 88172645463325252ull + static_cast<std::uint64_t>(k);
        Series s;
        for (int i = 0; i < runs * 720; ++i) {
            random ^= random << 13, random ^= random >> 7, random ^= random << 17;
            // Every twentieth run is too high for an hour.
            const double bump = i / 720 % 20 == 7 && i % 720 >= 300 && i % 720 < 330 ? 9 : 0;
            s.push(Instant(i * 2 * kMinute + static_cast<int>(random % 20) * kSecond),
                   std::sin(i % 720 * 0.01) * 40 + static_cast<double>(random % 1000) * 0.002 + bump);
        }
        study->samples().write(tag, s);
        study->catalog().setSpacing(tag, 2 * kMinute);
    }
    const auto track = study->tracks().put("Runs", track_kind::kRuns);
    for (int r = 0; r < runs; ++r)
        study->tracks().addSpan(track,
                                {{}, asset, {}, Instant(r * kDay), Instant(r * kDay + 22 * kHour), {}});
    std::vector<SpanId> all;
    for (const Span& s : study->tracks().spans(track)) all.push_back(s.id);
    study->judgement().setGoldenRuns(track, all, "all of them");
    t.commit();
    return study;
}

}  // namespace

int main(int argc, char** argv) {
    Figures out(argc, argv);
    int runs = 1000;
    for (int i = 1; i + 1 < argc; ++i)
        if (std::string(argv[i]) == "--runs") runs = std::atoi(argv[i + 1]);
    const std::string path =
        std::filesystem::temp_directory_path() / fmt::format("limits-bench-{}.jacinth", getpid());
    std::vector<std::string> roles;
    for (int k = 0; k < kTags; ++k) roles.push_back(fmt::format("tag_{}", k));
    for (const LimitMethod method : {LimitMethod::Tolerance, LimitMethod::MedianMad, LimitMethod::Quantile})
        for (const int n : {runs / 4, runs, runs * 4}) {
            const auto study = madeStudy(path, n);
            const TrackId track = study->tracks().named("Runs")->id;
            LimitSpec spec;
            spec.method = method;
            spec.smooth = 5;
            spec.slack = 6 * kMinute;
            LimitSet set;
            const double made = medianSeconds([&] { set = *makeLimits(*study, "L", track, roles, spec); });
            std::vector<ScreenedRun> runsScreened;
            const double screened = medianSeconds(
                [&] { runsScreened = screenBy(*study, set, study->tracks().spans(track), {}); });
            std::size_t found = 0;
            for (const ScreenedRun& r : runsScreened) found += r.excursions.size();
            const double kept = medianSeconds([&] { keepExcursions(*study, track, {}, runsScreened); });
            const std::string what = fmt::format("{} · {} golden runs", limitMethodName(method), n);
            out.add("limits · " + what, made, "s", fmt::format("{} tags × {} slices", kTags, kSlices));
            out.add("screen all · " + what, screened, "s", fmt::format("{} excursions", found));
            out.add("record them · " + what, kept, "s", "");
        }
    for (const char* end : {"", "-wal", "-shm"}) std::filesystem::remove(path + end);
    return 0;
}
