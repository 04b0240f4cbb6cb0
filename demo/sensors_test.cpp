// The loggers' record against the truth about it: every fault is there, where and as large as the truth says.
#include <gtest/gtest.h>

#include <cmath>
#include <nlohmann/json.hpp>
#include <sstream>

#include "demo/demo.h"
#include "demo/written.h"

namespace jacinth::demo {
namespace {

class Sensors : public ::testing::Test {
  protected:
    static void SetUpTestSuite() { truth = new Truth(drawTruth({})); }
    static void TearDownTestSuite() {
        delete truth;
        loggers.clear();
    }
    static const std::vector<Logger>& kiln(int k) {
        auto& made = loggers[k];
        if (made.empty()) made = recordKiln(*truth, k);
        return made;
    }
    static std::pair<const Logger*, const LoggerColumn*> find(const std::string& path) {
        for (const Logger& l : kiln(path[5] - '0'))
            for (const LoggerColumn& c : l.columns)
                if (l.asset + "/" + c.tag == path) return {&l, &c};
        ADD_FAILURE() << "no sensor " << path;
        return {};
    }
    static std::size_t tick(Instant t) {
        return static_cast<std::size_t>((t - truth->spec.record().from) / kTick);
    }
    /// Mean of logged − true humidity over a stretch.
    static double humidityError(const std::string& path, Instant from, Instant to) {
        const auto [logger, column] = find(path);
        double sum = 0;
        int n = 0;
        for (std::size_t i = 0; i < logger->stamps.size(); ++i)
            if (logger->stamps[i] >= from && logger->stamps[i] < to) {
                sum +=
                    column->values[i] -
                    truth->kilns[static_cast<std::size_t>(path[5] - '1')].humidity[tick(logger->stamps[i])];
                ++n;
            }
        return n ? sum / n : std::nan("");
    }
    static Truth* truth;
    static std::map<int, std::vector<Logger>> loggers;
};
Truth* Sensors::truth = nullptr;
std::map<int, std::vector<Logger>> Sensors::loggers;

TEST_F(Sensors, ScansComeAtTheirRateWithJitter) {
    for (const Logger& l : kiln(1)) {
        if (l.name != "30 s") continue;
        EXPECT_NEAR(toSeconds(medianSpacing(l.stamps)), 30, 0.02);
        std::set<Duration> steps;
        for (std::size_t i = 1; i < 500; ++i) {
            EXPECT_LT(l.stamps[i - 1], l.stamps[i]);
            steps.insert(l.stamps[i] - l.stamps[i - 1]);
        }
        EXPECT_GT(steps.size(), 20u);
    }
}

TEST_F(Sensors, DriftGrowsFromNothingToItsEnd) {
    ASSERT_GE(truth->drifts.size(), 6u);
    for (const Drift& d : truth->drifts) {
        if (d.range.length() < 8 * kDay) continue;
        EXPECT_NEAR(humidityError(d.tag, d.range.from, d.range.from + 12 * kHour), 0, 0.9) << d.tag;
        EXPECT_NEAR(humidityError(d.tag, d.range.to - 12 * kHour, d.range.to), d.endError, 0.9) << d.tag;
    }
}

TEST_F(Sensors, FalseStepsJumpByTheirSizeAndComeBack) {
    for (const FalseStep& s : truth->steps) {
        if (!s.tag.ends_with("/Air-off RH")) continue;
        const Instant end = s.returns ? *s.returns : truth->spec.record().to;
        EXPECT_NEAR(humidityError(s.tag, s.time, std::min(end, s.time + 6 * kHour)), s.size, 0.8) << s.tag;
        EXPECT_NEAR(humidityError(s.tag, s.time - 6 * kHour, s.time), 0, 0.8) << s.tag;
        if (s.returns) EXPECT_NEAR(humidityError(s.tag, end, end + 6 * kHour), 0, 0.8) << s.tag;
    }
}

TEST_F(Sensors, TwoTagsOfOneMountStepTogether) {
    std::map<Instant, int> together;
    for (const FalseStep& s : truth->steps) ++together[s.time];
    EXPECT_EQ(std::count_if(together.begin(), together.end(), [](const auto& t) { return t.second == 2; }),
              1);
}

TEST_F(Sensors, SpikesAreOneSampleLong) {
    int checked = 0;
    for (const Spike& s : truth->spikes) {
        if (!s.tag.ends_with("Bearing vib.") || checked >= 5) continue;
        const auto [logger, column] = find(s.tag);
        if (truth->clockError.tag == logger->asset + "/60 s") continue;
        const auto i = static_cast<std::size_t>(
            std::lower_bound(logger->stamps.begin(), logger->stamps.end(), s.time) - logger->stamps.begin());
        if (i == 0 || i + 1 >= column->values.size()) continue;
        EXPECT_GT(column->values[i] - column->values[i + 1], 0.8 * s.size);
        EXPECT_GT(column->values[i] - column->values[i - 1], 0.8 * s.size);
        ++checked;
    }
    EXPECT_GT(checked, 0);
}

TEST_F(Sensors, GapsStuckAndBadStretchesAreThere) {
    for (const TagStretch& g : truth->gaps)
        for (const Logger& l : kiln(g.tag[5] - '0'))
            if (l.asset + "/" + l.name == g.tag && l.asset + "/60 s" != truth->clockError.tag) {
                EXPECT_EQ(std::count_if(l.stamps.begin(), l.stamps.end(),
                                        [&](Instant t) { return g.range.contains(t); }),
                          0)
                    << g.tag;
            }
    for (const TagStretch& s : truth->stuck) {
        const auto [logger, column] = find(s.tag);
        if (logger->asset + "/60 s" == truth->clockError.tag) continue;
        std::set<double> values;
        for (std::size_t i = 0; i < logger->stamps.size(); ++i)
            if (s.range.contains(logger->stamps[i])) values.insert(column->values[i]);
        EXPECT_LE(values.size(), 2u) << s.tag;
    }
    for (const TagStretch& b : truth->bad) {
        const auto [logger, column] = find(b.tag);
        ASSERT_FALSE(column->bad.empty());
        for (std::size_t i = 0; i < logger->stamps.size(); ++i)
            if (b.range.contains(logger->stamps[i])) EXPECT_EQ(column->bad[i], 1);
    }
}

TEST_F(Sensors, TheClockErrorShowsAsStampsThatGoBack) {
    const int k = truth->clockError.tag[5] - '0';
    for (const Logger& l : kiln(k)) {
        if (l.name != "60 s") continue;
        int back = 0;
        for (std::size_t i = 1; i < l.stamps.size(); ++i) back += l.stamps[i] < l.stamps[i - 1];
        EXPECT_EQ(back, 1);
        EXPECT_EQ(toIso(truth->clockError.range.from), "2026-03-29T01:00:00Z");
    }
}

TEST_F(Sensors, VibrationClimbsBeforeAFailureAndIsLowAfter) {
    for (const KilnHistory& h : truth->kilns)
        for (const Wear& w : h.wears) {
            // A logger whose clock is an hour off records times an hour off.
            if (truth->clockError.range.contains(w.failure) &&
                truth->clockError.tag.starts_with(kilnName(h.kiln)))
                continue;
            const auto [logger, column] = find(kilnName(h.kiln) + "/Bearing vib.");
            const auto mean = [&, &logger = logger, &column = column](Instant from, Instant to) {
                double sum = 0;
                int n = 0;
                for (std::size_t i = 0; i < logger->stamps.size(); ++i)
                    if (logger->stamps[i] >= from && logger->stamps[i] < to && column->values[i] > 0.5)
                        sum += column->values[i], ++n;
                return n ? sum / n : 0;
            };
            EXPECT_GT(mean(w.failure - kHour, w.failure), 3.5) << h.kiln;
            EXPECT_LT(mean(w.failure + 10 * kHour, w.failure + 60 * kHour), 2.5) << h.kiln;
        }
}

TEST_F(Sensors, TheOddKilnRunsWarmerAndTheBeltKilnLosesAirBetweenChanges) {
    const auto freeDry = [&](int k) {
        const KilnHistory& h = truth->kilns[static_cast<std::size_t>(k - 1)];
        double sum = 0;
        int n = 0;
        for (std::size_t i = 0; i < h.step.size(); ++i)
            if (h.step[i] == Step::FreeDry && h.flow[i] > 0.5) sum += h.airOn[i], ++n;
        return sum / n;
    };
    EXPECT_GT(freeDry(truth->oddKiln), freeDry(1) + 3);
    const KilnHistory& belt = truth->kilns[static_cast<std::size_t>(truth->beltKiln - 1)];
    ASSERT_GE(belt.beltChanges.size(), 2u);
    for (const Instant change : belt.beltChanges) {
        EXPECT_LT(belt.belt[tick(change - kHour)], 0.94);
        EXPECT_GT(belt.belt[tick(change + kHour)], 0.99);
    }
}

TEST_F(Sensors, WhatIsWrittenDownFitsTheTruthMostOfTheTime) {
    std::map<std::string, int> rows;
    for (const WrittenTable& t : writtenDown(*truth)) {
        std::istringstream lines(t.text);
        std::string line;
        std::getline(lines, line);
        while (std::getline(lines, line)) {
            ++rows[t.kind];
            if (t.kind != "readings") continue;
            // tag,time,value,by
            const auto a = line.find(','), b = line.find(',', a + 1);
            const Instant at = *fromIso(line.substr(a + 1, b - a - 1));
            const double read = std::stod(line.substr(b + 1));
            EXPECT_NEAR(read, truth->kilns[static_cast<std::size_t>(line[5] - '1')].humidity[tick(at)], 2.5)
                << line;
        }
    }
    EXPECT_EQ(rows["failures"], 7);
    EXPECT_GE(rows["work-orders"], 12);
    EXPECT_GE(rows["readings"], 45);
    EXPECT_GE(rows["log"], 50);
    EXPECT_GE(rows["alarms"], 40);
    EXPECT_GE(rows["stops"], 12);
    EXPECT_GE(rows["batches"], 240);
}

TEST(Randoms, AreTheSameOnEveryMachine) {
    Random r(42);
    const std::uint64_t first = r.bits();
    EXPECT_EQ(Random(42).bits(), first);
    EXPECT_NE(Random(43).bits(), first);
    EXPECT_NE(Random(42).branch(1).bits(), Random(42).branch(2).bits());
    double sum = 0, squares = 0;
    for (int i = 0; i < 20000; ++i) {
        const double v = r.normal();
        sum += v;
        squares += v * v;
    }
    EXPECT_NEAR(sum / 20000, 0, 0.03);
    EXPECT_NEAR(squares / 20000, 1, 0.04);
    for (int i = 0; i < 1000; ++i) {
        const int w = r.whole(-3, 3);
        EXPECT_GE(w, -3);
        EXPECT_LE(w, 3);
    }
}

}  // namespace
}  // namespace jacinth::demo
