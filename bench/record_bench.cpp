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
        x.begins = Instant();
        for (int i = 0; i < n; ++i) {
            x.times.edit().push_back(Instant(i * 10 * kSecond));
            x.values.edit().push_back(50 + (i * 7919 % 1000) * 0.01);
        }
        const double s = medianSeconds([&] {
            slide(WindowFigure::Slope, x, 6 * kHour, x.times);
            slide(WindowFigure::Mean, x, 7 * kDay, x.times);
        });
        out.add(fmt::format("sliding slope 6h and mean 7d, {} samples", n), s, "s",
                before > 0 ? fmt::format("{:.2f} x the time of a quarter", s / before) : "");
        before = s;
    }
}

/// Text files of the demo plant into a new study, and the same files only split into fields.
void measureImport(Figures& out, const std::string& path, const std::vector<demo::DemoFile>& files) {
    double bytes = 0, split = 0, stored = 0;
    auto study = std::move(*Study::create(path));
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
        if (fields == 0) std::abort();
    }
    out.add("import, all in and durable", bytes / stored / 1e6, "MB/s",
            fmt::format("{:.2f} of the speed of splitting alone ({:.0f} MB/s)", split / stored,
                        bytes / split / 1e6));
    study->foldJournal();
    std::int64_t samples = 0;
    for (const Tag& t : study->catalog().tags()) samples += study->samples().whole(t.id).count;
    out.add("samples on record", static_cast<double>(samples) / 1e6, "million");
    out.add("bytes a sample, all in", static_cast<double>(fs::file_size(path)) / static_cast<double>(samples),
            "B", "16 raw; at most 4 wanted");
    study.reset();
}

std::unique_ptr<Study> measureOpening(Figures& out, const std::string& path) {
    std::unique_ptr<Study> s;
    const double opening = secondsOf([&] {
        s = std::move(*Study::open(path));
        for (const Tag& t : s->catalog().tags())
            if (t.assetName == "Kiln 3") (void)s->columns(t, s->record(), 1000, Which::Mended);
    });
    out.add("open and read columns of 13 tags over all, cold", opening * 1e3, "ms");
    return s;
}

void giveRoles(Study& study) {
    for (Tag t : std::vector<Tag>(study.catalog().tags()))
        for (const auto& [name, role] : demo::rolesByTag())
            if (t.name == name) {
                t.role = role;
                study.catalog().updateTag(t);
            }
}

/// Runs, golden limits of six tags, and all runs screened against them.
void measureLimits(Figures& out, Study& study) {
    const RunSearch search{"@kiln_step is not \"Idle\"", kHour};
    FoundRuns runs;
    const double finding = medianSeconds([&] { runs = *findRuns(study, search); });
    out.add("find runs, 6 kilns", finding * 1e3, "ms", fmt::format("{} runs", runs.runs.size()));
    const auto track = keepRuns(study, "Runs", search, runs);
    std::vector<SpanId> golden;
    for (const Span& r : study.tracks().spans(track))
        if (golden.size() < 12) golden.push_back(r.id);
    study.change("golden", "", nullptr, [&] { study.judgement().setGoldenRuns(track, golden, ""); });
    LimitSet set;
    const std::vector<std::string> roles{"air_on_temp",     "air_off_temp", "air_off_rh",
                                         "air_off_rh_twin", "bed_dp",       "gas_flow"};
    const double limits = medianSeconds([&] { set = *makeLimits(study, "L", track, roles, {}); });
    std::size_t found = 0;
    const double screening = medianSeconds([&] {
        found = 0;
        for (const ScreenedRun& r : screenBy(study, set, study.tracks().spans(track), {}))
            found += r.excursions.size();
    });
    out.add("limits of 6 tags", limits * 1e3, "ms");
    out.add("screen all runs in 6 tags", screening * 1e3, "ms",
            fmt::format("{} runs, {} excursions", runs.runs.size(), found));
}

void measureProving(Figures& out, Study& study) {
    Proof proof;
    const double proving = medianSeconds([&] {
        proof = *proveRule(study, {"slope(@bearing_vibration over 6h) > 0.5 and mean(@fan_current over 6h) < "
                                   "0.97 * median(@fan_current over 7d) for 20m"});
    });
    out.add("prove a rule with slope, mean and median over 7d", proving * 1e3, "ms",
            fmt::format("{} alarms", proof.alarms.size()));
    const double simple = medianSeconds(
        [&] { proof = *proveRule(study, {"mean(@bearing_vibration over 2h) > 2.75 for 20m"}); });
    out.add("prove a rule with one mean", simple * 1e3, "ms", fmt::format("{} of 7 caught", proof.caught));
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
    measureImport(out, folder + "/s.jacinth", files);
    {
        const auto study = measureOpening(out, folder + "/s.jacinth");
        giveRoles(*study);
        measureLimits(out, *study);
        measureProving(out, *study);
    }
    fs::remove_all(folder);
    growthOfWindows(out);
}
