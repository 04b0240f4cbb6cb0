#include <fmt/format.h>
#include <algorithm>

#include "zoo/process.h"

namespace jacinth::zoo {
namespace {

std::size_t daysOf(Random& random) {
    return static_cast<std::size_t>(random.whole(30, 60)) * 1440;
}

Instant minuteAt(std::size_t m) {
    return Instant{} + static_cast<std::int64_t>(m) * kMinute;
}

/// Some minute away from both ends.
std::size_t somewhere(std::size_t n, Random& random) {
    return static_cast<std::size_t>(random.between(0.15, 0.85) * static_cast<double>(n));
}

/// Every tag is a mixture of the same two or three causes: a daily one, a slow one, set points; read with
/// lags. Now and then a cause goes to another level, or what it does to most tags changes.
Process continuous(Random& random) {
    Process out;
    const std::size_t n = out.minutes = daysOf(random);
    std::vector<Minutes> causes{daily(n, random), wandering(n, random.scaleBetween(600, 4000), random)};
    if (random.chance(0.6))
        causes.push_back(following(setPoints(n, 300, 2500, random), random.between(5, 60)));
    if (random.chance(0.4)) causes.push_back(wandering(n, random.scaleBetween(60, 200), random));
    for (int c = random.whole(0, 2); c > 0; --c) {
        const std::size_t at = somewhere(n, random);
        moveFrom(causes[random.below(causes.size())], at, random.sign() * random.between(1.5, 4),
                 random.between(1, 5));
        out.changes.push_back({minuteAt(at), {}});
    }
    const char* const kinds[][2] = {{"Temp", "°C"}, {"Pressure", "bar"}, {"Flow", "m³/h"}, {"Current", "A"}};
    for (int q = random.whole(static_cast<int>(causes.size()) + 2, 12); q > 0; --q) {
        std::vector<double> weights;
        for (std::size_t c = 0; c < causes.size(); ++c)
            weights.push_back(random.chance(0.85) ? random.sign() * random.scaleBetween(0.3, 3) : 0);
        if (std::all_of(weights.begin(), weights.end(), [](double w) { return w == 0; })) weights[0] = 1;
        Minutes values = mixture(weights, causes);
        if (random.chance(0.2))
            for (double& v : values) v = 12 * std::exp(v / 12);  // not quite a straight line
        if (random.chance(0.5)) values = later(values, random.whole(1, 15));
        const auto& kind = kinds[random.below(4)];
        out.quantities.push_back({fmt::format("{} {}", kind[0], q), kind[1], std::move(values)});
    }
    return out;
}

/// Batches of unlike length with idle time between them, and no tag that says so.
Process batches(Random& random) {
    Process out;
    const std::size_t n = out.minutes = daysOf(random);
    const double usual = random.scaleBetween(360, 1500);
    Minutes heat(n, 0), react(n, 0), load(n, 0);
    for (std::size_t start = 0; start < n;) {
        const double length = usual * random.between(0.9, 1.15), size = random.between(0.9, 1.1);
        const std::size_t idle = static_cast<std::size_t>(random.scaleBetween(20, 300));
        for (std::size_t m = start; m < std::min(n, start + static_cast<std::size_t>(length)); ++m) {
            const double s = static_cast<double>(m - start) / length;
            load[m] = size * std::min({1.0, s / 0.05, (1 - s) / 0.08});
            heat[m] = s < 0.85 ? std::min(1.0, s / 0.3) : 0.2;
            react[m] = size * std::exp(-std::pow((s - 0.5) / 0.12, 2));
        }
        start += static_cast<std::size_t>(length) + idle;
    }
    std::vector<Minutes> causes{following(heat, 30), react, load,
                                wandering(n, random.scaleBetween(800, 4000), random)};
    for (double& v : causes[3]) v *= 0.15;
    if (random.chance(0.6)) {
        const std::size_t at = somewhere(n, random);
        moveFrom(causes[3], at, random.sign() * random.between(0.5, 1.2), random.between(1, 5));
        out.changes.push_back({minuteAt(at), {}});
    }
    const char* const kinds[][2] = {{"Jacket temp", "°C"},
                                    {"Vessel temp", "°C"},
                                    {"Pressure", "kPa"},
                                    {"Stirrer current", "A"},
                                    {"Level", "%"}};
    for (int q = random.whole(4, 9); q > 0; --q) {
        std::vector<double> weights{random.between(5, 60), random.between(-20, 20), random.between(-30, 60),
                                    8};
        Minutes values = mixture(weights, causes);
        if (random.chance(0.5)) values = following(values, random.between(1, 5));
        const auto& kind = kinds[random.below(5)];
        out.quantities.push_back({fmt::format("{} {}", kind[0], q), kind[1], std::move(values)});
    }
    return out;
}

/// Tanks that are filled and drained, each level read twice, with temperatures that follow the day.
Process tankFarm(Random& random) {
    Process out;
    const std::size_t n = out.minutes = daysOf(random);
    const Minutes weather = daily(n, random), season = wandering(n, 6000, random);
    for (int tank = random.whole(1, 4); tank > 0; --tank) {
        Minutes level(n), flow(n), temp(n);
        double now = random.between(20, 80), rate = 0;
        std::size_t until = 0;
        for (std::size_t m = 0; m < n; ++m) {
            if (m >= until || now > 95 || now < 5) {
                rate = random.chance(0.5) || now > 95 || now < 5 ? (now > 95  ? -1
                                                                    : now < 5 ? 1
                                                                              : random.sign()) *
                                                                       random.scaleBetween(0.02, 0.3)
                                                                 : 0;
                until = m + static_cast<std::size_t>(random.scaleBetween(60, 900));
            }
            level[m] = now += rate;
            flow[m] = 40 * rate;
            temp[m] = 25 + 3 * weather[m] * (1.2 - now / 120) + 2 * season[m];
        }
        if (random.chance(0.4)) {
            const std::size_t at = somewhere(n, random);
            moveFrom(level, at, random.sign() * random.between(4, 8), random.between(1, 3));
            out.changes.push_back({minuteAt(at), {}});
        }
        const double slope = random.chance(0.7) ? 1 : random.between(0.5, 0.9);
        Minutes second = level;
        for (double& v : second) v = slope * v + 2;
        out.quantities.push_back({fmt::format("Tank {} level", tank), "%", level});
        out.quantities.push_back(
            {fmt::format("Tank {} level by pressure", tank), slope == 1 ? "%" : "kPa", second});
        out.quantities.push_back({fmt::format("Tank {} temp", tank), "°C", following(temp, 60)});
        if (random.chance(0.5))
            out.quantities.push_back({fmt::format("Tank {} net flow", tank), "m³/h", flow});
    }
    return out;
}

/// Pumps that feed one header: each starts and stops, pressure and flow follow how many run.
Process pumps(Random& random) {
    Process out;
    const std::size_t n = out.minutes = daysOf(random);
    const int count = random.whole(2, 4);
    const Minutes demand = mixture({0.12, 0.1}, {daily(n, random), wandering(n, 400, random)});
    std::vector<Minutes> runs;
    Minutes running(n, 0);
    for (int p = 0; p < count; ++p) {
        Minutes run(n);
        bool on = random.chance(0.7);
        std::size_t until = 0;
        for (std::size_t m = 0; m < n; ++m) {
            if (m >= until) {
                if (m > 0) on = !on;
                until = m + static_cast<std::size_t>(on ? random.scaleBetween(600, 6000)
                                                        : random.scaleBetween(120, 1500));
            }
            run[m] = on;
        }
        run = following(run, 1.5);
        for (std::size_t m = 0; m < n; ++m) running[m] += run[m];
        runs.push_back(std::move(run));
    }
    Minutes pressure(n), flow(n);
    for (std::size_t m = 0; m < n; ++m) {
        flow[m] = 120 * std::pow(running[m], 0.8) * (1 + demand[m]);
        pressure[m] = 4 + 0.8 * running[m] - 1.5 * demand[m];
    }
    std::vector<Minutes> currents;
    for (int p = 0; p < count; ++p) {
        Minutes current(n);
        for (std::size_t m = 0; m < n; ++m)
            current[m] = runs[static_cast<std::size_t>(p)][m] * (40 + 15 * demand[m] - 2 * running[m]);
        currents.push_back(std::move(current));
    }
    if (random.chance(0.5)) {
        const std::size_t at = somewhere(n, random);  // a valve further open
        moveFrom(pressure, at, -random.between(0.4, 0.9), 3);
        moveFrom(flow, at, random.between(15, 40), 3);
        for (Minutes& c : currents)
            for (std::size_t m = at; m < n; ++m) c[m] *= 1.06;
        out.changes.push_back({minuteAt(at), {}});
    }
    out.quantities.push_back({"Header pressure", "bar", pressure});
    out.quantities.push_back({"Header flow", "m³/h", flow});
    Minutes far = pressure;
    for (std::size_t m = 0; m < n; ++m) far[m] -= 0.00001 * flow[m] * flow[m];
    out.quantities.push_back({"Far pressure", "bar", later(far, 1)});
    for (int p = 0; p < count; ++p) {
        Minutes& c = currents[static_cast<std::size_t>(p)];
        out.quantities.push_back({fmt::format("Motor temp {}", p + 1), "°C", following(c, 40)});
        out.quantities.push_back({fmt::format("Current {}", p + 1), "A", std::move(c)});
    }
    return out;
}

/// Steady for days, with a weak common cause; a rare state moves everything for some hours.
Process rareStates(Random& random) {
    Process out;
    const std::size_t n = out.minutes = daysOf(random);
    out.states.assign(n, 0);
    for (std::size_t m = 1440; m < n; m += static_cast<std::size_t>(random.between(3, 9) * 1440)) {
        const std::size_t to = std::min(n, m + static_cast<std::size_t>(random.between(90, 400)));
        std::fill(out.states.begin() + static_cast<std::ptrdiff_t>(m),
                  out.states.begin() + static_cast<std::ptrdiff_t>(to), 1);
    }
    Minutes state(n);
    for (std::size_t m = 0; m < n; ++m) state[m] = out.states[m];
    state = following(state, 6);
    std::vector<Minutes> causes{state, wandering(n, random.scaleBetween(200, 3000), random),
                                daily(n, random)};
    if (random.chance(0.5)) {
        const std::size_t at = somewhere(n, random);
        moveFrom(causes[1], at, random.sign() * random.between(3, 6), random.between(1, 5));
        out.changes.push_back({minuteAt(at), {}});
    }
    for (int q = random.whole(3, 8); q > 0; --q) {
        const std::vector<double> weights{random.sign() * random.between(5, 40),
                                          random.sign() * random.scaleBetween(0.5, 2),
                                          random.chance(0.5) ? random.scaleBetween(0.2, 1) : 0};
        out.quantities.push_back(
            {fmt::format("Signal {}", q), q % 2 ? "°C" : "mbar", mixture(weights, causes)});
    }
    return out;
}

}  // namespace

const char* nameOf(Family family) {
    constexpr std::array<const char*, kFamilies> kNames{"continuous", "batches", "tank farm", "pumps",
                                                        "rare states"};
    return kNames[static_cast<std::size_t>(family)];
}

Process processOf(Family family, Random& random) {
    constexpr std::array<Process (*)(Random&), kFamilies> kMakers{continuous, batches, tankFarm, pumps,
                                                                  rareStates};
    return kMakers[static_cast<std::size_t>(family)](random);
}

}  // namespace jacinth::zoo
