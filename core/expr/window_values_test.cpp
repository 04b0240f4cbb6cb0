// Windows over values that are hard for running figures: many decimals or few, far apart, with large numbers
// under small changes, with gaps.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>

#include "core/base/missing.h"
#include "core/expr/covered_time.h"
#include "core/expr/window.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

using Draw = std::function<double(std::mt19937&, std::size_t)>;

struct Values {
    const char* what;
    Draw draw;
};

double part(std::mt19937& random) {
    return static_cast<double>(random()) / 4294967296.0;
}

const std::vector<Values>& allValues() {
    static const std::vector<Values> all{
        {"one decimal", [](auto& r, std::size_t) { return std::round(part(r) * 800) / 10; }},
        {"five decimals", [](auto& r, std::size_t) { return std::round(part(r) * 1e6) / 1e5; }},
        {"below zero and above", [](auto& r, std::size_t) { return std::round(part(r) * 400 - 200) / 100; }},
        {"all digits", [](auto& r, std::size_t) { return part(r) * 7 - 3; }},
        {"two levels far apart",
         [](auto& r, std::size_t) {
             return r() % 2 ? 1e6 + r() % 50 : -1e6 - static_cast<double>(r() % 50);
         }},
        {"two levels in few steps", [](auto& r, std::size_t) { return r() % 2 ? 6000.5 : 0.5; }},
        {"one value", [](auto&, std::size_t) { return 42.125; }},
        {"rising", [](auto&, std::size_t i) { return static_cast<double>(i) / 8; }},
        {"large under small changes", [](auto& r, std::size_t) { return 1e9 + part(r); }},
        {"a jump to large ones",
         [](auto& r, std::size_t i) { return (i < 700 ? 0.0 : 1e8) + std::round(part(r) * 100) / 100; }},
        {"beyond whole numbers", [](auto& r, std::size_t) { return 1e17 * part(r); }},
        {"tiny", [](auto& r, std::size_t) { return 1e-12 * part(r); }}};
    return all;
}

Signal signalOf(const Values& values, unsigned seed, bool gaps) {
    std::mt19937 random(seed);
    Signal out;
    Instant t = at(20'000 * kDay);
    out.begins = t;
    for (std::size_t i = 0; i < 1500; ++i) {
        t += 8 * kSecond + Duration(random() % 4'000'000'000);
        out.times.edit().push_back(t);
        const bool missing = gaps && (i % 97 == 50 || (i > 900 && i < 960));
        const double v = values.draw(random, i);
        out.values.edit().push_back(missing ? kMissing : v);
    }
    return out;
}

std::vector<double> inWindow(const Signal& x, Instant t, Duration width) {
    std::vector<double> out;
    for (std::size_t i = 0; i < x.times.size(); ++i)
        if (x.times[i] > t - width && x.times[i] <= t && std::isfinite(x.values[i]))
            out.push_back(x.values[i]);
    return out;
}

class WindowValues : public ::testing::TestWithParam<std::size_t> {
  protected:
    const Values& values() const { return allValues()[GetParam()]; }
    /// `figure` against `definition` on the samples of each window, as exact as their spread allows.
    void compare(WindowFigure figure, double q,
                 const std::function<double(std::vector<double>)>& definition) {
        for (const bool gaps : {false, true})
            for (const Duration width : {Duration(kMinute), Duration(20 * kMinute), Duration(4 * kHour)}) {
                const Signal x = signalOf(values(), 3, gaps);
                const auto found = slide(figure, x, width, x.times, q);
                for (std::size_t i = 0; i < x.times.size(); i += 11) {
                    if (std::isnan(found[i])) continue;
                    const std::vector<double> in = inWindow(x, x.times[i], width);
                    const auto [low, high] = std::minmax_element(in.begin(), in.end());
                    const double spread = *high - *low + 1e-15 * std::abs(*high);
                    ASSERT_NEAR(found[i], definition(in), 1e-9 * spread)
                        << values().what << ", " << formatDuration(width) << ", sample " << i;
                }
            }
    }
};

double orderStatistic(std::vector<double> in, double q) {
    std::sort(in.begin(), in.end());
    const double place = q * static_cast<double>(in.size() - 1);
    const auto below = static_cast<std::size_t>(place);
    const double next = in[std::min(below + 1, in.size() - 1)];
    return in[below] + (place - static_cast<double>(below)) * (next - in[below]);
}

TEST_P(WindowValues, MediansAndQuantiles) {
    compare(WindowFigure::Median, 0.5, [](auto in) { return orderStatistic(std::move(in), 0.5); });
    for (const double q : {0.0, 0.05, 0.9, 1.0})
        compare(WindowFigure::Quantile, q, [q](auto in) { return orderStatistic(std::move(in), q); });
}

TEST_P(WindowValues, SpreadAndExtremes) {
    compare(WindowFigure::Sd, 0.5, [](const std::vector<double>& in) {
        const double first = in.front();
        double sum = 0, squares = 0;
        for (const double v : in) sum += v - first;
        const double mean = sum / static_cast<double>(in.size());
        for (const double v : in) squares += (v - first - mean) * (v - first - mean);
        return in.size() < 2 ? 0 : std::sqrt(squares / static_cast<double>(in.size() - 1));
    });
    compare(WindowFigure::Min, 0.5, [](auto in) { return *std::min_element(in.begin(), in.end()); });
    compare(WindowFigure::Max, 0.5, [](auto in) { return *std::max_element(in.begin(), in.end()); });
    compare(WindowFigure::Range, 0.5, [](auto in) {
        const auto [low, high] = std::minmax_element(in.begin(), in.end());
        return *high - *low;
    });
}

INSTANTIATE_TEST_SUITE_P(All, WindowValues, ::testing::Range<std::size_t>(0, allValues().size()));

/// By going over the knots for each window.
Duration coveredByDefinition(const Signal& x, Instant begin, Instant end) {
    Duration out{};
    for (std::size_t i = 0; i < x.times.size(); ++i) {
        const bool last = i + 1 == x.times.size();
        if (!std::isfinite(x.values[i]) || (!x.stepped && (last || !std::isfinite(x.values[i + 1]))))
            continue;
        const Instant from = std::max(begin, x.times[i]), to = last ? end : std::min(end, x.times[i + 1]);
        if (to > from) out += to - from;
    }
    return out;
}

/// Knots 1 to 10 s apart, every other seed of held values; those that `isMissing` says have none.
Signal knotsWith(unsigned seed, int n, const std::function<bool(int)>& isMissing) {
    std::mt19937 random(seed);
    Signal out;
    out.stepped = seed % 2;
    Instant t{};
    for (int i = 0; i < n; ++i) {
        t += kSecond + Duration(random() % 9'000'000'000);
        out.times.edit().push_back(t);
        out.values.edit().push_back(isMissing(i) ? kMissing : 1);
    }
    return out;
}

TEST(CoveredTime, IsWhatTheKnotsSay) {
    for (unsigned seed = 1; seed <= 20; ++seed) {
        std::mt19937 random(seed);
        const Signal x = knotsWith(seed, 60, [&](int) { return random() % 3 == 0; });
        const Instant t = x.times.back();
        CoveredTime covered(x);
        for (Instant end = at(-20 * kSecond); end < t + kMinute; end += 700 * kMillisecond) {
            const Instant begin = end - 30 * kSecond;
            ASSERT_EQ(covered.over(begin, end), coveredByDefinition(x, begin, end))
                << seed << " " << toIso(end);
        }
    }
    EXPECT_FALSE(CoveredTime(Signal{}).evenly(at(0), at(kHour), at(2 * kHour)));
    EXPECT_EQ(CoveredTime(Signal{}).over(at(0), at(kHour)), Duration{});
}

TEST(CoveredTime, IsSaidOfManyWindowsAtOnce) {
    int alike = 0, growing = 0, neither = 0;
    for (unsigned seed = 1; seed <= 40; ++seed) {
        const Signal x = knotsWith(seed, 200, [&](int i) { return i % 20 < 3 + static_cast<int>(seed % 5); });
        const Instant t = x.times.back();
        CoveredTime covered(x);
        for (Instant end = at(0); end < t + kMinute; end += 5 * kSecond) {
            const Duration width = 90 * kSecond;
            const Instant last = end + 4 * kSecond;
            const auto even = covered.evenly(end - width, end, last);
            if (!even) {
                ++neither;
                continue;
            }
            ++(even->grows ? growing : alike);
            for (Instant e = end; e <= last; e += kSecond)
                ASSERT_EQ(even->ofFirst + (even->grows ? e - end : Duration::zero()),
                          coveredByDefinition(x, e - width, e))
                    << seed << " " << toIso(e);
        }
    }
    EXPECT_GT(alike, 300);
    EXPECT_GT(growing, 100);
    EXPECT_GT(neither, 300);
}

}  // namespace
}  // namespace jacinth
