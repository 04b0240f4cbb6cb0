// Where the outputs are the knots themselves the windows take the short loops; anywhere else the general
// ones. Both must say the same, to the last digit.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/base/missing.h"
#include "core/expr/window.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

constexpr WindowFigure kAll[] = {WindowFigure::Mean,     WindowFigure::Median, WindowFigure::Min,
                                 WindowFigure::Max,      WindowFigure::Range,  WindowFigure::Sum,
                                 WindowFigure::Sd,       WindowFigure::Count,  WindowFigure::Slope,
                                 WindowFigure::Integral, WindowFigure::Change, WindowFigure::Rate,
                                 WindowFigure::First,    WindowFigure::Last,   WindowFigure::Quantile};

/// Samples 5 to 15 s apart; in one of `every` places a gap, half as long at most as
/// the samples between two of them. 0: no gaps.
Signal madeSignal(unsigned seed, std::size_t n, bool stepped, unsigned every) {
    std::mt19937 random(seed);
    Signal out;
    out.stepped = stepped;
    Instant t = at(20'000 * kDay);
    out.begins = t;
    for (std::size_t i = 0; i < n; ++i) {
        const bool gap = every > 0 && i > 0 && random() % every == 0;
        const Duration usual = 5 * kSecond + Duration(random() % 10'000'000'000);
        t += gap ? kSecond + Duration(every * (random() % 1000) * 5'000'000) : usual;
        out.times.edit().push_back(t);
        out.values.edit().push_back(gap ? kMissing : std::sin(static_cast<double>(i) * 0.01) * 3 + 40);
    }
    return out;
}

void expectSame(const Signal& x, Duration width, const std::string& what) {
    const std::vector<Instant> elsewhere = x.times;  // the same moments, but not the signal's own knots
    for (const WindowFigure figure : kAll) {
        const auto atKnots = slide(figure, x, width, x.times, 0.3);
        const auto others = slide(figure, x, width, elsewhere, 0.3);
        std::size_t known = 0;
        for (std::size_t i = 0; i < atKnots.size(); ++i) {
            if (std::isnan(others[i])) {
                ASSERT_TRUE(std::isnan(atKnots[i])) << what << ", figure " << int(figure) << ", knot " << i;
                continue;
            }
            ++known;
            ASSERT_EQ(atKnots[i], others[i]) << what << ", figure " << int(figure) << ", knot " << i;
        }
        ASSERT_GT(known, 0u) << what << ", figure " << int(figure);
    }
}

TEST(WindowBatches, TheShortLoopsSayWhatTheGeneralOnesDo) {
    unsigned seed = 0;
    for (const bool stepped : {false, true})
        for (const unsigned every : {0u, 3000u, 1500u, 300u, 60u})
            for (const Duration width : {Duration(45 * kSecond), Duration(10 * kMinute), Duration(2 * kHour),
                                         Duration(11 * kHour)}) {
                const std::string what = std::string(stepped ? "stepped" : "lines") + ", a gap in " +
                                         std::to_string(every) + ", " + formatDuration(width);
                expectSame(madeSignal(++seed, 12'000, stepped, every), width, what);
            }
}

TEST(WindowBatches, ShorterAndLongerThanABatch) {
    for (const std::size_t n : {1u, 2u, 3u, 255u, 256u, 257u, 511u, 513u}) {
        Signal x = madeSignal(static_cast<unsigned>(n), n, false, 0);
        x.begins = kNoInstant;  // so that few samples have a window at all
        const std::vector<Instant> elsewhere = x.times;
        for (const WindowFigure figure : {WindowFigure::Mean, WindowFigure::Slope, WindowFigure::Sd}) {
            const auto atKnots = slide(figure, x, kMinute, x.times),
                       others = slide(figure, x, kMinute, elsewhere);
            ASSERT_EQ(atKnots.size(), n);
            for (std::size_t i = 0; i < n; ++i)
                ASSERT_TRUE(atKnots[i] == others[i] || (std::isnan(atKnots[i]) && std::isnan(others[i])))
                    << n << ", knot " << i;
        }
    }
}

TEST(WindowBatches, AWindowThatBeginsAtAKnotTakesInItsWholeStep) {
    Signal x;
    x.begins = at(0);
    for (int i = 0; i <= 600; ++i) {
        x.times.edit().push_back(at(i * kMinute));
        x.values.edit().push_back(i % 2);
    }
    const auto means = slide(WindowFigure::Mean, x, 10 * kMinute, x.times);
    const auto counts = slide(WindowFigure::Count, x, 10 * kMinute, x.times);
    for (int i = 0; i <= 600; ++i) {
        ASSERT_EQ(std::isnan(means[i]), i < 10) << i;
        if (i < 10) continue;
        EXPECT_DOUBLE_EQ(means[i], 0.5) << i;
        EXPECT_EQ(counts[i], 10) << i;  // the sample on the begin is before the window
    }
}

}  // namespace
}  // namespace jacinth
