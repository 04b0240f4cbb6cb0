#include "zoo/sensors.h"

#include <Eigen/Dense>
#include <algorithm>

#include "core/stats/stats.h"

namespace jacinth::zoo {
namespace {

double at(const Minutes& values, Instant t) {
    const double m = toSeconds(t - Instant{}) / 60;
    const std::size_t i = std::min(static_cast<std::size_t>(m), values.size() - 1);
    const double next = values[std::min(i + 1, values.size() - 1)];
    return values[i] + (next - values[i]) * (m - static_cast<double>(i));
}

bool inside(const std::vector<TimeRange>& ranges, Instant t) {
    return std::any_of(ranges.begin(), ranges.end(), [&](const TimeRange& r) { return r.contains(t); });
}

}  // namespace

double Sensor::noise() const {
    return std::sqrt(white * white + slow * slow + rounding * rounding / 12 + deadband * deadband / 12);
}

std::vector<Sensor> sensorsFor(const Process& process, Random& random) {
    const Duration spacing = static_cast<std::int64_t>(random.scaleBetween(20, 300)) * kSecond;
    std::vector<Sensor> out;
    for (const Quantity& q : process.quantities) {
        Sensor s;
        s.spacing =
            random.chance(0.7) ? spacing : static_cast<std::int64_t>(random.scaleBetween(20, 300)) * kSecond;
        const double noise = standardDeviation(q.values) * random.scaleBetween(0.005, 0.05);
        const double slow = random.chance(0.5) ? random.between(0.2, 0.7) : 0;
        s.slow = noise * std::sqrt(slow);
        s.white = noise * std::sqrt(1 - slow);
        s.memory = random.scaleBetween(10, 300);
        if (random.chance(0.3)) s.rounding = noise * random.scaleBetween(0.5, 3);
        if (random.chance(0.2)) s.deadband = noise * random.scaleBetween(1, 3);
        const Duration whole = static_cast<std::int64_t>(process.minutes) * kMinute;
        for (int g = random.whole(0, 2); g > 0; --g) {
            const Instant from = Instant{} + scaled(whole, random.between(0.05, 0.95));
            s.gaps.push_back({from, from + scaled(kHour, random.scaleBetween(0.5, 24))});
        }
        s.seed = static_cast<std::uint64_t>(random.share() * 1e15);
        out.push_back(s);
    }
    return out;
}

Series read(const Minutes& values, const Sensor& sensor, const Error& error) {
    Random random(sensor.seed);
    const double kept = std::exp(-toSeconds(sensor.spacing) / 60 / sensor.memory);
    double slow = random.normal(), written = 1e300;
    Instant last{};
    Series out;
    const Instant end = Instant{} + static_cast<std::int64_t>(values.size()) * kMinute;
    for (Instant t{}; t < end; t += scaled(sensor.spacing, random.between(0.85, 1.15))) {
        slow = kept * slow + std::sqrt(1 - kept * kept) * random.normal();
        double v = at(values, t) + sensor.slow * slow + sensor.white * random.normal() + error(t);
        if (inside(sensor.gaps, t)) continue;
        if (sensor.deadband > 0 && std::abs(v - written) < sensor.deadband && t - last < 30 * kMinute)
            continue;
        written = v;
        last = t;
        if (sensor.rounding > 0) v = std::round(v / sensor.rounding) * sensor.rounding;
        out.push(t, v);
    }
    return out;
}

std::vector<double> unexplained(const Process& process, const std::vector<Sensor>& sensors) {
    constexpr std::size_t kEvery = 7, kBefore = 10;
    const auto rows = static_cast<Eigen::Index>((process.minutes - kBefore) / kEvery);
    const std::size_t n = process.quantities.size();
    std::vector<double> out;
    for (std::size_t i = 0; i < n; ++i) {
        Eigen::MatrixXd x(rows, static_cast<Eigen::Index>(2 * n - 2));
        Eigen::VectorXd y(rows), noise(x.cols());
        Eigen::Index column = 0;
        for (std::size_t k = 0; k < n; ++k) {
            const Minutes& values = process.quantities[k].values;
            for (Eigen::Index r = 0; r < rows; ++r) {
                const std::size_t m = kBefore + static_cast<std::size_t>(r) * kEvery;
                if (k == i) {
                    y(r) = values[m];
                } else {
                    x(r, column) = values[m];
                    x(r, column + 1) = values[m - kBefore];
                }
            }
            if (k == i) continue;
            noise(column) = noise(column + 1) = std::pow(sensors[k].noise(), 2);
            column += 2;
        }
        x.rowwise() -= x.colwise().mean().eval();
        y.array() -= y.mean();
        Eigen::MatrixXd normal = x.transpose() * x;
        normal.diagonal() += static_cast<double>(rows) * noise;
        const Eigen::VectorXd b = normal.ldlt().solve(x.transpose() * y);
        const double left = (y - x * b).squaredNorm() / static_cast<double>(rows) +
                            (b.array().square() * noise.array()).sum();
        out.push_back(std::sqrt(std::pow(sensors[i].noise(), 2) + left));
    }
    return out;
}

}  // namespace jacinth::zoo
