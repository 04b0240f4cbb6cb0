// An irregular record of a continuous and a stepped tag, with gaps and bad samples, read in parts.
#pragma once

#include <gtest/gtest.h>

#include <random>

#include "core/expr/evaluate.h"
#include "core/time/times_for_tests.h"

namespace jacinth {

struct Record {
    Series x, s;
};

inline Record randomRecord(unsigned seed) {
    std::mt19937 random(seed);
    Record out;
    Instant t{};
    for (int i = 0; i < 6000; ++i) {
        t += (30 + static_cast<std::int64_t>(random() % 900)) * kSecond;
        if (random() % 400 == 0) t += (9 + 60 * (random() % 2)) * kHour;
        out.x.push(t, static_cast<double>(random() % 2000) / 100 - 10,
                   random() % 50 ? Quality::Good : Quality::Bad);
        if (random() % 5 == 0) out.s.push(t + kSecond, static_cast<double>(random() % 4));
    }
    return out;
}

class PartOf : public Inputs {
  public:
    PartOf(const Record& all, TimeRange reach) : all_(all), reach_(reach) {}
    Result<Signal> role(const std::string& name) override {
        const bool stepped = name == "s";
        const Series& series = stepped ? all_.s : all_.x;
        TimeRange wanted = reach_;
        if (stepped && !series.empty()) wanted.from = std::min(wanted.from, heldFrom(series, reach_.from));
        return signalOf(series.view().within(wanted),
                        {stepped ? TagKind::Stepped : TagKind::Continuous, stepped ? kWithoutEnd : kHour},
                        series.times.front());
    }
    Result<Signal> path(const std::string& name) override { return role(name); }

  private:
    static Instant heldFrom(const Series& s, Instant t) {
        const std::size_t i = firstNotBefore(s.times, t);
        return s.times[i == 0 ? 0 : i - 1];
    }
    const Record& all_;
    TimeRange reach_;
};

inline Names recordNames() {
    Names n;
    n.roles["x"] = {TagKind::Continuous, "", {}, kHour};
    n.roles["s"] = {TagKind::Stepped, "", {}, {}};
    return n;
}

}  // namespace jacinth
