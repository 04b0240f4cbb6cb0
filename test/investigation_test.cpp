// One investigation by command line alone, held against what really happened at the demo plant.
#include <gtest/gtest.h>

#include <cmath>
#include <random>
#include <set>

#include "core/stats/stats.h"
#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

/// Imported only from the open files, as a stranger would have to.
class Investigation : public ::testing::Test {
  protected:
    static void SetUpTestSuite() {
        folder = new Folder("investigation");
        study = *folder / "s.jacinth";
        truth = new json(demoTruth());
        const fs::path files = fs::path(JACINTH_DEMO_FOLDER) / "files";
        std::vector<std::string> import{"import", study, "--json"};
        for (const auto& f : fs::directory_iterator(files))
            if (f.path().filename().string().starts_with("record-")) import.push_back(f.path().string());
        std::sort(import.begin() + 3, import.end());
        imported = new json(run(import).json());
        for (const char* kind : {"failures", "work-orders", "readings", "log", "alarms", "stops", "batches"})
            ASSERT_EQ(run({"import-events", study, (files / kind).string() + ".csv", "--as", kind}).code, 0)
                << kind;
        for (int k = 1; k <= 6; ++k)
            run({"tag", "set", study, "--tag", "Kiln " + std::to_string(k) + "/Bearing vib.", "--role",
                 "bearing_vibration"});
    }
    static void TearDownTestSuite() {
        delete folder;
        delete truth;
        delete imported;
    }
    static Folder* folder;
    static json *truth, *imported;
    static std::string study;
};
Folder* Investigation::folder = nullptr;
json* Investigation::truth = nullptr;
json* Investigation::imported = nullptr;
std::string Investigation::study;

TEST_F(Investigation, TheFilesGiveTheSameStudyAsTheDemo) {
    const std::string demo = std::string(JACINTH_DEMO_FOLDER) + "/demo.jacinth";
    EXPECT_EQ((*imported)["badRowCount"], 0);
    const auto key = [](const json& tags) {
        std::map<std::string, std::string> out;
        for (const json& t : tags)
            out[t["asset"].get<std::string>() + "/" + t["tag"].get<std::string>()] =
                t["count"].dump() + t["unit"].dump() + t["kind"].dump() + t["first"].dump() +
                t["last"].dump();
        return out;
    };
    const auto mine = key(run({"tags", study, "--json"}).json()),
               theirs = key(run({"tags", demo, "--json"}).json());
    EXPECT_EQ(mine, theirs);
    EXPECT_EQ(mine.size(), 80u);
    for (const auto& [path, facts] : mine)
        ASSERT_EQ(run({"read", study, "--tag", path}).out, run({"read", demo, "--tag", path}).out) << path;
    EXPECT_EQ(run({"check", study}).code, 0);
    EXPECT_EQ(run({"check", demo}).code, 0);
}

/// Something real or false happened to the screened tags of this run: a change of the process, a worn
/// bearing (the current sags), a knocked sensor.
bool touched(const json& truth, const json& t) {
    const Instant start = instantOf(t["start"]), end = instantOf(t["end"]);
    const std::string asset = t["asset"];
    for (const json& c : truth["processChanges"])
        if (c["asset"] == asset && end > instantOf(c["time"])) return true;
    for (const json& f : truth["failures"]) {
        const Instant at = instantOf(f["time"]);
        const auto climb = fromNanoseconds(f["climbDays"].get<double>() * toNanoseconds(kDay));
        if (f["asset"] == asset && start < at && end > at - climb) return true;
    }
    for (const json& step : truth["falseSteps"]) {
        const std::string tag = step["tag"];
        const bool screened =
            tag == asset + "/Air-off temp" || tag == asset + "/Air-on temp" || tag == asset + "/Fan current";
        const bool over = !step["returns"].is_null() && instantOf(step["returns"]) < start;
        if (screened && end > instantOf(step["time"]) && !over) return true;
    }
    return false;
}

TEST_F(Investigation, RunsLimitsAndExcursionsMatchTheTruth) {
    const auto runs =
        run({"runs", "find", study, "--track", "Runs", "--where", "@kiln_step is not \"Idle\"", "--json"})
            .json();
    const json& happened = (*truth)["runs"];
    ASSERT_EQ(runs.size(), happened.size());
    std::map<std::int64_t, const json*> truthOf;
    for (const json& t : happened) {
        const auto found = std::find_if(runs.begin(), runs.end(), [&](const json& r) {
            return r["asset"] == t["asset"] &&
                   std::chrono::abs(instantOf(r["start"]) - instantOf(t["start"])) <= 30 * kSecond;
        });
        ASSERT_NE(found, runs.end()) << t.dump();
        if (t["complete"]) {
            EXPECT_LE(std::chrono::abs(instantOf((*found)["end"]) - instantOf(t["end"])), 30 * kSecond);
            EXPECT_EQ((*found)["facts"]["product"], t["product"]);
        }
        truthOf[(*found)["id"]] = &t;
    }
    std::vector<std::int64_t> quiet;
    for (const auto& [id, t] : truthOf)
        if ((*t)["offPath"].is_null() && (*t)["complete"] && !(*t)["interrupted"] &&
            (*t)["lookAlike"].is_null() && (*t)["asset"] != "Kiln 4" && (*t)["asset"] != "Kiln 2" &&
            !touched(*truth, *t))
            quiet.push_back(id);
    std::shuffle(quiet.begin(), quiet.end(), std::mt19937(3));
    std::vector<std::string> golden{"golden", "set", study, "--track", "Runs", "--why", "quiet runs"};
    for (int i = 0; i < 12; ++i)
        golden.insert(golden.end(), {"--run", std::to_string(quiet[static_cast<std::size_t>(i)])});
    ASSERT_EQ(run(golden).code, 0);
    ASSERT_EQ(run({"limits", "build", study, "--name", "L", "--track", "Runs", "--tag", "air_on_temp",
                   "--tag", "air_off_temp", "--tag", "fan_current"})
                  .code,
              0);
    const auto excursions = run({"screen", study, "--limits", "L", "--json"}).json();
    std::map<std::string, std::pair<int, int>> bySeverity;  // flagged on the right tag, of all
    for (const auto& [id, t] : truthOf) {
        const json& off = (*t)["offPath"];
        if (off.is_null()) continue;
        auto& [flagged, all] = bySeverity[off["severity"]];
        ++all;
        flagged += std::any_of(excursions.begin(), excursions.end(), [&, wanted = id](const json& e) {
            return e["run"] == wanted && e["tag"] == off["tag"];
        });
    }
    std::size_t goodFlagged = 0;
    for (const std::int64_t id : quiet)
        goodFlagged +=
            std::any_of(excursions.begin(), excursions.end(), [&](const json& e) { return e["run"] == id; });
    const auto share = [&](const char* severity) {
        const auto [flagged, all] = bySeverity[severity];
        std::printf("%s runs flagged on the right tag: %d of %d\n", severity, flagged, all);
        return static_cast<double>(flagged) / all;
    };
    EXPECT_GE(bySeverity["serious"].second, 9);
    EXPECT_GE(share("serious"), 0.95);
    EXPECT_GE(share("middling"), 0.7);
    share("slight");
    std::printf("good runs flagged at all: %zu of %zu\n", goodFlagged, quiet.size());
    EXPECT_LE(static_cast<double>(goodFlagged), 0.05 * static_cast<double>(quiet.size()));
}

/// RMS of mended value − true value, at the hours that the truth names.
double misfit(const std::string& study, const json& truth, const std::string& tag, Instant from, Instant to) {
    const auto values = run({"eval", study, "`" + tag + "`", "--every", "30s", "--from", toIso(from), "--to",
                             toIso(to), "--json"})
                            .json();
    double sum = 0;
    int n = 0;
    for (const json& v : truth["trueValues"]) {
        const Instant t = instantOf(v["time"]);
        if (v["tag"] != tag || t < from || t >= to) continue;
        const json& at = values[static_cast<std::size_t>((t - from) / (30 * kSecond))]["value"];
        if (at.is_null()) continue;
        sum += std::pow(at.get<double>() - v["value"].get<double>(), 2);
        ++n;
    }
    return n ? std::sqrt(sum / n) : 1e9;
}

TEST_F(Investigation, ARampAndAShiftBringTheHumidityBack) {
    const json& d = (*truth)["drifts"][0];
    const Instant from = instantOf(d["start"]) + kMinute, to = instantOf(d["end"]) - kMinute;
    const double before = misfit(study, *truth, d["tag"], from, to);
    ASSERT_EQ(
        run({"fix", "add", study, "--tag", d["tag"], "--kind", "ramp", "--from", d["start"], "--to", d["end"],
             "--start-by", "0", "--end-by", std::to_string(-d["endError"].get<double>()), "--why", "drift"})
            .code,
        0);
    const double after = misfit(study, *truth, d["tag"], from, to);
    std::printf("ramp: misfit %.2f -> %.2f %%\n", before, after);
    EXPECT_GT(before, 2);
    EXPECT_LT(after, 0.6);
    for (const json& s : (*truth)["falseSteps"]) {
        if (s["tag"] != "Kiln 4/Air-off RH") continue;
        const Instant a = instantOf(s["time"]) + kMinute, b = instantOf(s["returns"]) - kMinute;
        EXPECT_GT(misfit(study, *truth, s["tag"], a, b), 5);
        ASSERT_EQ(run({"fix", "add", study, "--tag", s["tag"], "--kind", "shift", "--from", s["time"], "--to",
                       s["returns"], "--by", std::to_string(-s["size"].get<double>()), "--why", "knocked"})
                      .code,
                  0);
        const double left = misfit(study, *truth, s["tag"], a, b);
        std::printf("shift: misfit left %.2f %%\n", left);
        EXPECT_LT(left, 0.6);
    }
}

TEST_F(Investigation, ARuleCatchesMostBearingsAndRarelyCriesWolf) {
    const auto p = run({"prove", study, "--rule", "mean(@bearing_vibration over 2h) > 2.75 for 20m", "--most",
                        "48h", "--least", "12h", "--join", "6h", "--json"})
                       .json();
    std::printf("caught %d of 7, false alarms a kiln-month %.2f\n", p["caught"].get<int>(),
                p["falsePerAssetMonth"].get<double>());
    EXPECT_EQ(p["failures"].size(), 7u);
    // The same failures, to the nanosecond, as in the study the demo makes of itself.
    const auto demo = run({"prove", std::string(JACINTH_DEMO_FOLDER) + "/demo.jacinth", "--rule",
                           "mean(@bearing_vibration over 2h) > 2.75 for 20m", "--json"})
                          .json();
    EXPECT_EQ(p["failures"], demo["failures"]);
    EXPECT_GE(p["caught"], 5);
    EXPECT_LE(p["falsePerAssetMonth"], 1.0);
    EXPECT_EQ(p["untestable"], 0);
}

TEST_F(Investigation, TheStudyIsSmall) {
    std::int64_t samples = 0;
    for (const json& t : run({"tags", study, "--json"}).json()) samples += t["count"].get<std::int64_t>();
    const double each = static_cast<double>(fs::file_size(study)) / static_cast<double>(samples);
    std::printf("bytes a sample, all in: %.2f\n", each);
    EXPECT_LT(each, 4);
}

}  // namespace
}  // namespace jacinth::test
