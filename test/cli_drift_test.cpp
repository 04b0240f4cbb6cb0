// Drifting sensors of the demo plant, mended by check readings alone: what is left against the truth is the
// readings' own noise.
#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <nlohmann/json.hpp>

#include "store/study.h"
#include "test/cli_runner.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

constexpr double kReadingNoise = 0.5;  // % RH, of a hand-held instrument

class DriftByReadings : public ::testing::Test {
  protected:
    DriftByReadings() : folder("drift") {
        copyDemo(path());
        const json truth = demoTruth();
        for (const json& d : truth["drifts"]) drifts[d["tag"]].push_back(d);
        for (const json& v : truth["trueValues"])
            if (drifts.contains(v["tag"])) values[v["tag"]].push_back({instantOf(v["time"]), v["value"]});
    }
    std::string path() { return folder / "s.jacinth"; }
    void enter(std::vector<std::string> how) {
        how.insert(how.begin(), {"fix", "add", path()});
        const Said said = run(how);
        EXPECT_EQ(said.code, 0) << said.err;
    }
    /// Lonely steps of the tag, one after the other: readings alone do not separate a step from a drift.
    void takeOutSteps(const std::string& tag) {
        for (int i = 0; i < 4; ++i) {
            const json steps = run({"steps", path(), "--tag", tag, "--json"}).json();
            const auto lonely =
                std::find_if(steps.begin(), steps.end(), [](const json& s) { return s["lonely"] == true; });
            if (lonely == steps.end()) return;
            enter({"--step", std::to_string((*lonely)["number"].get<int>()), "--alone", "--why", "step"});
        }
    }
    /// Root mean square of mended (or logged) less true, while it drifts.
    double error(const std::string& tag, Which which) {
        const auto study = std::move(*Study::open(path(), true));
        const Tag of = *study->catalog().tagAt(tag);
        double sum = 0, n = 0;
        for (const auto& [t, value] : values[tag])
            for (const json& d : drifts[tag]) {
                if (t < instantOf(d["start"]) || t >= instantOf(d["end"])) continue;
                const double off = study->valueAt(of, t, which) - value;
                if (std::isfinite(off)) sum += off * off, ++n;
            }
        EXPECT_GT(n, 50) << tag;
        return std::sqrt(sum / n);
    }
    Folder folder;
    std::map<std::string, std::vector<json>> drifts;
    std::map<std::string, std::vector<std::pair<Instant, double>>> values;
};

TEST_F(DriftByReadings, EverySensorIsRightToTheReadingsNoise) {
    ASSERT_GE(drifts.size(), 3u);
    for (const auto& [tag, own] : drifts) {
        const double before = error(tag, Which::AsLogged);
        takeOutSteps(tag);
        for (const json& d : own)
            enter({"--tag", tag, "--kind", "ramp", "--from", d["start"], "--to", d["end"], "--fit-readings",
                   "--fixed-start", "--why", "drift against hand readings"});
        const double after = error(tag, Which::Mended);
        std::cout << tag << ": " << before << " -> " << after << " % RH RMS\n";
        EXPECT_LT(after, 1.5 * kReadingNoise) << tag;
        EXPECT_GT(before, 4 * after) << tag;
    }
}

}  // namespace
}  // namespace jacinth::test
