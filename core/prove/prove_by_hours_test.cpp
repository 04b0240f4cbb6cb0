// Proving against a scorer that follows the words of the definition hour by hour and shares no code with it.
#include <gtest/gtest.h>

#include <random>

#include "core/prove/prove.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

constexpr int kHours = 400;

/// One asset's record in hours; hour h is the time from h to h + 1.
struct HourCase {
    std::vector<bool> alarm = std::vector<bool>(kHours), hole = alarm, data = alarm;
    std::vector<bool> nearMiss = alarm, trueAfterAll = alarm;  ///< what somebody said about those hours
    std::vector<int> failures;
    int most = 0, least = 0, join = 0, offDelay = 0;
    /// The alarm is still on for so many hours after the rule.
    std::vector<bool> on() const {
        std::vector<bool> out(kHours);
        for (int h = 0; h < kHours; ++h)
            for (int before = h - offDelay; before <= h; ++before)
                if (before >= 0 && alarm[static_cast<std::size_t>(before)])
                    out[static_cast<std::size_t>(h)] = true;
        return out;
    }
};

struct HourAlarm {
    int from, to;
    Verdict verdict;
    bool operator==(const HourAlarm&) const = default;
};

/// Stretches of hours, those that are apart by at most `join` made one.
std::vector<std::pair<int, int>> stretchesOf(const std::vector<bool>& hours, int join) {
    std::vector<std::pair<int, int>> out;
    for (int h = 0; h < kHours; ++h) {
        if (!hours[static_cast<std::size_t>(h)]) continue;
        if (!out.empty() && h - out.back().second <= join)
            out.back().second = h + 1;
        else
            out.push_back({h, h + 1});
    }
    return out;
}

/// Is an hour of the alarm begun and not over at some moment from `a` to `b`, both included?
bool trueWithin(std::pair<int, int> alarm, int a, int b) {
    for (int h = alarm.first; h < alarm.second; ++h)
        if (h <= b && h + 1 > a) return true;
    return false;
}

bool atHour(const std::vector<bool>& hours, int h) {
    return h >= 0 && h < kHours && hours[static_cast<std::size_t>(h)];
}

bool anyWithin(const std::vector<bool>& hours, std::pair<int, int> alarm) {
    for (int h = alarm.first; h < alarm.second; ++h)
        if (atHour(hours, h)) return true;
    return false;
}

std::vector<HourAlarm> alarmsOf(const HourCase& c) {
    const std::vector<bool> on = c.on();
    std::vector<bool> counted(kHours);
    for (std::size_t h = 0; h < kHours; ++h) counted[h] = on[h] && !c.hole[h];
    std::vector<HourAlarm> out;
    for (const auto& a : stretchesOf(counted, c.join)) {
        Verdict verdict = anyWithin(c.nearMiss, a) ? Verdict::NearMiss : Verdict::False;
        if (a.first > kHours - c.most) verdict = Verdict::Open;
        if (anyWithin(c.trueAfterAll, a)) verdict = Verdict::True;
        for (const int t : c.failures)
            if (a.first > t - c.least && a.first <= t) verdict = Verdict::Late;
        for (const int t : c.failures)
            if (trueWithin(a, t - c.most, t - c.least)) verdict = Verdict::True;
        out.push_back({a.first, a.second, verdict});
    }
    for (const auto& a : stretchesOf(on, c.join)) {
        bool all = true;
        for (int h = a.first; h < a.second; ++h) all = all && atHour(c.hole, h);
        if (all) out.push_back({a.first, a.second, Verdict::Masked});
    }
    return out;
}

enum class OfFailure { Caught, Missed, Untestable };
struct HourFailure {
    OfFailure verdict;
    int warning = 0;
    bool late = false;
};

HourFailure judgedByHours(const HourCase& c, int t) {
    int covered = 0, free = 0;
    for (int h = t - c.most; h < t - c.least; ++h) {
        covered += atHour(c.data, h);
        free += atHour(c.data, h) && !atHour(c.hole, h);
    }
    const int length = c.most - c.least;
    if (covered * 2 < length || (length > 0 && free == 0)) return {OfFailure::Untestable};
    for (const HourAlarm& a : alarmsOf(c))
        if (a.verdict != Verdict::Masked && trueWithin({a.from, a.to}, t - c.most, t - c.least))
            return {OfFailure::Caught, t - std::max(a.from, t - c.most)};
    HourFailure missed{OfFailure::Missed};
    for (const HourAlarm& a : alarmsOf(c))
        missed.late = missed.late || (a.verdict != Verdict::Masked && a.from > t - c.least && a.from <= t);
    return missed;
}

std::vector<TimeRange> rangesOf(const std::vector<bool>& hours) {
    std::vector<TimeRange> out;
    for (const auto& [from, to] : stretchesOf(hours, 0)) out.push_back({at(from * kHour), at(to * kHour)});
    return out;
}

HourCase randomCase(std::mt19937& random) {
    HourCase c;
    const auto below = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    const auto put = [&](std::vector<bool>& hours, int times, int longest) {
        for (int i = 0; i < times; ++i) {
            const int from = below(kHours);
            for (int h = from; h < std::min(kHours, from + 1 + below(longest)); ++h)
                hours[static_cast<std::size_t>(h)] = true;
        }
    };
    put(c.alarm, below(14), 12);
    put(c.hole, below(8), 40);
    std::vector<bool> gaps(kHours);
    put(gaps, below(5), 60);
    for (std::size_t h = 0; h < kHours; ++h) c.data[h] = !gaps[h];
    for (int i = below(5); i > 0; --i) c.failures.push_back(below(kHours + 1));
    std::sort(c.failures.begin(), c.failures.end());
    c.failures.erase(std::unique(c.failures.begin(), c.failures.end()), c.failures.end());
    c.most = 1 + below(60);
    c.least = below(c.most + 1);
    c.join = below(3) == 0 ? 0 : below(12);
    c.offDelay = below(2) == 0 ? 0 : below(8);
    put(c.nearMiss, below(6), 20);
    put(c.trueAfterAll, below(4), 10);
    return c;
}

TEST(ProveByHours, AThousandRandomCasesAreJudgedAlike) {
    std::mt19937 random(20260301);
    int caught = 0, masked = 0, late = 0, open = 0, nearMisses = 0;
    for (int i = 0; i < 1000; ++i) {
        const HourCase c = randomCase(random);
        AssetCase a{AssetId(1),       rangesOf(c.alarm), {},
                    rangesOf(c.hole), rangesOf(c.data),  at(kHours * kHour)};
        for (const int t : c.failures) a.failures.push_back(at(t * kHour));
        a.nearMisses = rangesOf(c.nearMiss);
        a.trueAfterAll = rangesOf(c.trueAfterAll);
        const Proof proof = prove({a}, {c.most * kHour, c.least * kHour, c.join * kHour, c.offDelay * kHour});
        auto wanted = alarmsOf(c);
        std::vector<HourAlarm> got;
        for (const AlarmVerdict& v : proof.alarms)
            got.push_back({static_cast<int>((v.range.from - at({})) / kHour),
                           static_cast<int>((v.range.to - at({})) / kHour), v.verdict});
        const auto before = [](const HourAlarm& x, const HourAlarm& y) {
            return std::pair(x.from, int(x.verdict)) < std::pair(y.from, int(y.verdict));
        };
        std::sort(wanted.begin(), wanted.end(), before);
        std::sort(got.begin(), got.end(), before);
        ASSERT_EQ(got, wanted) << "case " << i;
        ASSERT_EQ(proof.failures.size(), c.failures.size());
        for (std::size_t f = 0; f < c.failures.size(); ++f) {
            const HourFailure want = judgedByHours(c, c.failures[f]);
            ASSERT_EQ(proof.failures[f].testable, want.verdict != OfFailure::Untestable) << "case " << i;
            ASSERT_EQ(proof.failures[f].caught, want.verdict == OfFailure::Caught) << "case " << i;
            ASSERT_EQ(proof.failures[f].warning, want.warning * kHour) << "case " << i;
            ASSERT_EQ(proof.failures[f].late, want.late) << "case " << i;
        }
        int counting = 0;
        for (std::size_t h = 0; h < kHours; ++h) counting += c.data[h] && !c.hole[h];
        ASSERT_EQ(proof.countingTime, counting * kHour) << "case " << i;
        caught += proof.caught, masked += proof.masked, late += proof.late, open += proof.open;
        nearMisses += proof.nearMisses;
    }
    // The cases have everything in them.
    EXPECT_GT(caught, 100);
    EXPECT_GT(masked, 100);
    EXPECT_GT(late, 100);
    EXPECT_GT(open, 100);
    EXPECT_GT(nearMisses, 100);
}

}  // namespace
}  // namespace jacinth
