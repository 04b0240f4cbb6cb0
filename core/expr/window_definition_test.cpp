// Every figure over a window against its definition, calculated at each sample by going over the whole
// record.
#include <algorithm>
#include <cmath>

#include "core/base/missing.h"
#include "core/expr/functions.h"
#include "core/expr/record_fixture.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

constexpr double kNone = kMissing;

struct Sample {
    Instant t;
    double v;
};

/// A stretch on which the tag has a value: a line from a to b.
struct Piece {
    Instant from, to;
    double a, b;
    double at(Instant t) const { return a + (b - a) * toNanoseconds(t - from) / toNanoseconds(to - from); }
};

class ByDefinition {
  public:
    ByDefinition(const Series& s, bool stepped, Instant end) : begins_(s.times.front()) {
        for (std::size_t i = 0; i < s.size(); ++i)
            if (s.view().usable(i)) samples_.push_back({s.times[i], s.values[i]});
        for (std::size_t i = 0; i < samples_.size(); ++i) {
            const Sample& x = samples_[i];
            if (stepped) {
                const Instant to = i + 1 < samples_.size() ? samples_[i + 1].t : end;
                if (to > x.t) pieces_.push_back({x.t, to, x.v, x.v});
            } else if (i + 1 < samples_.size() && samples_[i + 1].t - x.t <= kHour) {
                pieces_.push_back({x.t, samples_[i + 1].t, x.v, samples_[i + 1].v});
            }
        }
    }

    double figure(const std::string& name, Instant t, Duration width) const {
        if (t - width < begins_) return kNone;
        double known = 0, area = 0, above = 0;
        for (const Piece& p : pieces_) {
            const Instant from = std::max(p.from, t - width), to = std::min(p.to, t);
            if (from >= to) continue;
            const auto length = toNanoseconds(to - from);
            const double a = p.at(from), b = p.at(to);
            known += length;
            area += (a + b) / 2 * length;
            above += a > 0 && b > 0     ? length
                     : a <= 0 && b <= 0 ? 0
                                        : length * std::max(a, b) / std::abs(a - b);
        }
        if (known == 0 || known * 2 < toNanoseconds(width)) return kNone;
        constexpr auto hour = toNanoseconds(kHour);
        if (name == "mean") return area / known;
        if (name == "integral") return area / hour;
        if (name == "share") return above / known;
        if (name == "time") return above / toNanoseconds(kSecond);
        std::vector<Sample> in;
        for (const Sample& s : samples_)
            if (s.t > t - width && s.t <= t) in.push_back(s);
        return overSamples(name, in);
    }

    /// Over the last n samples, the one at t included.
    double figure(const std::string& name, Instant t, std::size_t n) const {
        std::vector<Sample> in;
        for (const Sample& s : samples_)
            if (s.t <= t) in.push_back(s);
        if (in.size() < n) return kNone;
        in.erase(in.begin(), in.end() - static_cast<std::ptrdiff_t>(n));
        return overSamples(name, in);
    }

    const std::vector<Sample>& samples() const { return samples_; }

  private:
    static double overSamples(const std::string& name, const std::vector<Sample>& in) {
        const auto n = static_cast<double>(in.size());
        if (name == "count") return n;
        if (in.empty()) return kNone;
        std::vector<double> sorted;
        double sum = 0;
        for (const Sample& s : in) {
            sorted.push_back(s.v);
            sum += s.v;
        }
        std::sort(sorted.begin(), sorted.end());
        const auto quantile = [&](double q) {
            const double place = q * (n - 1);
            const auto i = static_cast<std::size_t>(place);
            const double next = sorted[std::min(i + 1, sorted.size() - 1)];
            return sorted[i] + (place - static_cast<double>(i)) * (next - sorted[i]);
        };
        if (name == "sum") return sum;
        if (name == "mean") return sum / n;
        if (name == "median") return quantile(0.5);
        if (name == "quantile") return quantile(0.9);
        if (name == "min") return sorted.front();
        if (name == "max") return sorted.back();
        if (name == "range") return sorted.back() - sorted.front();
        if (name == "first") return in.front().v;
        if (name == "last") return in.back().v;
        if (in.size() < 2) return kNone;
        const double hours = toHours(in.back().t - in.front().t);
        if (name == "change") return in.back().v - in.front().v;
        if (name == "rate") return (in.back().v - in.front().v) / hours;
        double squares = 0, xx = 0, xy = 0, meanTime = 0;
        for (const Sample& s : in) meanTime += toHours(s.t - in.front().t) / n;
        for (const Sample& s : in) {
            const double x = toHours(s.t - in.front().t) - meanTime, y = s.v - sum / n;
            squares += y * y;
            xx += x * x;
            xy += x * y;
        }
        return name == "sd" ? std::sqrt(squares / (n - 1)) : xy / xx;
    }
    Instant begins_;
    std::vector<Sample> samples_;
    std::vector<Piece> pieces_;
};

std::string textOf(const std::string& figure, const std::string& tag, const std::string& window) {
    if (figure == "quantile") return "quantile(" + tag + ", 0.9 over " + window + ")";
    if (figure == "share" || figure == "time") return figure + "(" + tag + " > 0 over " + window + ")";
    return figure + "(" + tag + " over " + window + ")";
}

class WindowFigures : public ::testing::TestWithParam<const char*> {
  protected:
    void compare(const Record& all, const std::string& tag, const std::string& window,
                 const std::function<double(const ByDefinition&, Instant)>& definition) {
        const bool stepped = tag == "@s";
        const TimeRange range{all.x.times.front(), all.x.times.back() + kNanosecond};
        const auto e = compileExpression(textOf(GetParam(), tag, window), recordNames());
        ASSERT_TRUE(e) << e.error().message;
        PartOf inputs(all, {range.from - 30 * kDay, range.to});
        const auto value = evaluate(*e, inputs, range);
        ASSERT_TRUE(value) << value.error().message;
        const ByDefinition byDefinition(stepped ? all.s : all.x, stepped, range.to);
        int known = 0;
        for (std::size_t i = 0; i < byDefinition.samples().size(); i += 7) {
            const Instant t = byDefinition.samples()[i].t;
            if (t >= range.to) break;
            const double want = definition(byDefinition, t), got = signalAt(std::get<Signal>(*value), t);
            ASSERT_EQ(std::isnan(want), std::isnan(got)) << e->text << " at " << toIso(t);
            known += std::isfinite(want);
            if (std::isfinite(want)) ASSERT_NEAR(got, want, 1e-9 * (1 + std::abs(want))) << e->text;
        }
        EXPECT_GT(known, 10) << e->text;
    }
    static Record shortRecord(unsigned seed) {
        Record all = randomRecord(seed);
        for (Series* s : {&all.x, &all.s}) {
            const std::size_t n = s == &all.x ? 1500 : 300;
            s->times.resize(n);
            s->values.resize(n);
            if (!s->quality.empty()) s->quality.resize(n);
        }
        all.x.times.resize(firstNotBefore(all.x.times, all.s.times.back()));
        all.x.values.resize(all.x.times.size());
        all.x.quality.resize(all.x.times.size());
        return all;
    }
};

/// Those that are weighted by time have no definition over samples here: see their own tests.
class FiguresOfSamples : public WindowFigures {};

TEST_P(WindowFigures, OverADurationAreTheirDefinitionAtEverySample) {
    for (unsigned seed = 11; seed <= 13; ++seed)
        for (const auto& [window, width] :
             {std::pair{"25m", 25 * kMinute}, std::pair{"3h", 3 * kHour}, std::pair{"2d", 2 * kDay}})
            for (const char* tag : {"@x", "@s"})
                compare(shortRecord(seed), tag, window,
                        [w = width](const ByDefinition& d, Instant t) { return d.figure(GetParam(), t, w); });
}

TEST_P(FiguresOfSamples, OverSamplesAreTheirDefinitionAtEverySample) {
    for (unsigned seed = 21; seed <= 22; ++seed)
        for (const std::size_t n : {2u, 5u, 40u})
            for (const char* tag : {"@x", "@s"})
                compare(shortRecord(seed), tag, std::to_string(n) + " samples",
                        [n](const ByDefinition& d, Instant t) { return d.figure(GetParam(), t, n); });
}

INSTANTIATE_TEST_SUITE_P(All, WindowFigures,
                         ::testing::Values("mean", "median", "min", "max", "range", "sum", "sd", "count",
                                           "slope", "integral", "share", "time", "change", "rate", "quantile",
                                           "first", "last"));

INSTANTIATE_TEST_SUITE_P(All, FiguresOfSamples,
                         ::testing::Values("mean", "median", "min", "max", "range", "sum", "sd", "count",
                                           "slope", "change", "rate", "quantile", "first", "last"));

}  // namespace
}  // namespace jacinth
