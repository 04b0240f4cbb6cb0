// The record without a window: bytes a sample, import against mere splitting, drawing columns, sliding
// figures at n, 4n and 16n, screening and proving. Usage: record_bench [--json] [--days N]
#include <fmt/format.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>

#include "bench/figures.h"
#include "core/expr/window.h"
#include "demo/demo.h"
#include "source/row_reader.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/limits/screening.h"
#include "work/prove/proving.h"
#include "work/runs/find_runs.h"

using namespace jacinth;
using namespace jacinth::bench;

namespace {

namespace fs = std::filesystem;

void growthOfWindows(Figures& out) {
    double before = 0;
    for (const int n : {250'000, 1'000'000, 4'000'000}) {
        Signal x;
        x.begins = 0;
        for (int i = 0; i < n; ++i) {
            x.times.edit().push_back(static_cast<Instant>(i) * 10 * kSecond);
            x.values.edit().push_back(50 + (i * 7919 % 1000) * 0.01);
        }
        const double s = secondsOf([&] {
            slide(WindowFigure::Slope, x, 6 * kHour, x.times);
            slide(WindowFigure::Mean, x, 7 * kDay, x.times);
        });
        out.add(fmt::format("sliding slope 6h and mean 7d, {} samples", n), s, "s",
                before > 0 ? fmt::format("{:.2f} x the time of a quarter", s / before) : "");
        before = s;
    }
}

}  // namespace

int main(int argc, char** argv) {
    Figures out(argc, argv);
    demo::PlantSpec spec;
    for (int i = 1; i + 1 < argc; ++i)
        if (std::strcmp(argv[i], "--days") == 0) spec.days = std::atoi(argv[i + 1]);
    const std::string folder =
        (fs::temp_directory_path() / ("jacinth-bench-" + std::to_string(::getpid()))).string();
    fs::create_directories(folder);
    const demo::Truth truth = demo::drawTruth(spec);
    std::vector<demo::DemoFile> files;
    demo::makeFiles(truth, [&](demo::DemoFile f) { files.push_back(std::move(f)); });

    double bytes = 0, split = 0, stored = 0;
    auto study = std::move(*Study::create(folder + "/s.jacinth"));
    study->setSetting("zone", "Europe/Oslo");
    for (const demo::DemoFile& f : files) {
        if (!f.eventKind.empty()) {
            (void)importEvents(*study, {f.name, f.text}, f.eventKind, {});
            continue;
        }
        bytes += static_cast<double>(f.text.size());
        std::size_t fields = 0;
        split += secondsOf([&] {
            RowReader rows(f.text, f.text.find(';') < f.text.find('\n') ? ';' : ',');
            while (rows.next()) fields += rows.fields().size();
        });
        stored += secondsOf([&] { (void)importSamples(*study, {f.name, f.text}, {}); });
        if (fields == 0) return 1;
    }
    out.add("import, all in and durable", bytes / stored / 1e6, "MB/s",
            fmt::format("{:.2f} of the speed of splitting alone ({:.0f} MB/s)", split / stored,
                        bytes / split / 1e6));
    study->foldJournal();
    std::int64_t samples = 0;
    for (const Tag& t : study->catalog().tags()) samples += study->samples().whole(t.id).count;
    out.add("samples on record", static_cast<double>(samples) / 1e6, "million");
    out.add("bytes a sample, all in",
            static_cast<double>(fs::file_size(folder + "/s.jacinth")) / static_cast<double>(samples), "B",
            "16 raw; at most 4 wanted");
    study.reset();

    std::unique_ptr<Study> s;
    const double opening = secondsOf([&] {
        s = std::move(*Study::open(folder + "/s.jacinth"));
        for (const Tag& t : s->catalog().tags())
            if (t.assetName == "Kiln 3") (void)s->columns(t, s->record(), 1000, Which::Mended);
    });
    out.add("open and read columns of 13 tags over all, cold", opening * 1e3, "ms");

    for (Tag t : std::vector<Tag>(s->catalog().tags()))
        for (const auto& [name, role] : demo::rolesByTag())
            if (t.name == name) {
                t.role = role;
                s->catalog().updateTag(t);
            }
    const RunSearch search{"@kiln_step is not \"Idle\"", kHour};
    FoundRuns runs;
    const double finding = secondsOf([&] { runs = *findRuns(*s, search); });
    out.add("find runs, 6 kilns", finding * 1e3, "ms", fmt::format("{} runs", runs.runs.size()));
    const auto track = keepRuns(*s, "Runs", search, runs);
    std::vector<SpanId> golden;
    for (const Span& r : s->tracks().spans(track))
        if (golden.size() < 12) golden.push_back(r.id);
    s->change("golden", "", nullptr, [&] { s->judgement().setGoldenRuns(track, golden, ""); });
    LimitSet set;
    const std::vector<std::string> roles{"air_on_temp",     "air_off_temp", "air_off_rh",
                                         "air_off_rh_twin", "bed_dp",       "gas_flow"};
    const double limits = secondsOf([&] { set = *makeLimits(*s, "L", track, roles, {}); });
    std::size_t found = 0;
    const double screening = secondsOf([&] {
        for (const ScreenedRun& r : screenBy(*s, set, s->tracks().spans(track), {}))
            found += r.excursions.size();
    });
    out.add("limits of 6 tags", limits * 1e3, "ms");
    out.add("screen all runs in 6 tags", screening * 1e3, "ms",
            fmt::format("{} runs, {} excursions", runs.runs.size(), found));
    Proof proof;
    const double proving = secondsOf([&] {
        proof = *proveRule(*s, {"slope(@bearing_vibration over 6h) > 0.5 and mean(@fan_current over 6h) < "
                                "0.97 * median(@fan_current over 7d) for 20m"});
    });
    out.add("prove a rule with slope, mean and median over 7d", proving * 1e3, "ms",
            fmt::format("{} alarms", proof.alarms.size()));
    const double simple =
        secondsOf([&] { proof = *proveRule(*s, {"mean(@bearing_vibration over 2h) > 2.75 for 20m"}); });
    out.add("prove a rule with one mean", simple * 1e3, "ms", fmt::format("{} of 7 caught", proof.caught));
    s.reset();
    fs::remove_all(folder);
    growthOfWindows(out);
}
