#include "core/shape/shape_search.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <queue>

#include "core/base/missing.h"
#include "core/shape/sliding_products.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr std::size_t kShortest = 4;
constexpr double kMostMissing = 0.1;
constexpr double kLengthStep = 0.02;
constexpr std::size_t kRestart = 1024;  // running sums start again that often: errors do not add up
constexpr double kFar = std::numeric_limits<double>::infinity();

/// Lines over what is missing; at the ends the nearest value. How many are missing up to each place.
struct Bridged {
    std::vector<double> values;
    std::vector<std::size_t> missingBefore;  ///< one longer than values
    double noise = 0;

    explicit Bridged(const ShapeTag& tag) : values(tag.values), missingBefore{0}, noise(tag.noise) {
        std::size_t known = values.size();  // place of the last known one
        for (std::size_t i = 0; i < values.size(); ++i) {
            missingBefore.push_back(missingBefore.back() + !std::isfinite(values[i]));
            if (!std::isfinite(values[i])) continue;
            if (known == values.size())
                std::fill(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(i), values[i]);
            else
                for (std::size_t k = known + 1; k < i; ++k)
                    values[k] = values[known] + (values[i] - values[known]) * static_cast<double>(k - known) /
                                                    static_cast<double>(i - known);
            known = i;
        }
        const double last = known < values.size() ? values[known] : 0;
        for (std::size_t k = known < values.size() ? known + 1 : 0; k < values.size(); ++k) values[k] = last;
    }
    bool tooFew(std::size_t from, std::size_t n) const {
        return static_cast<double>(missingBefore[from + n] - missingBefore[from]) >
               kMostMissing * static_cast<double>(n);
    }
};

struct Moments {
    double mean = 0, deviation = 0;  ///< population
};

Moments momentsOf(const std::vector<double>& x) {
    Moments out;
    for (const double v : x) out.mean += v;
    out.mean /= static_cast<double>(x.size());
    double squares = 0;
    for (const double v : x) squares += (v - out.mean) * (v - out.mean);
    out.deviation = std::sqrt(squares / static_cast<double>(x.size()));
    return out;
}

/// The example at another length: by lines between its values.
std::vector<double> atLength(const std::vector<double>& x, std::size_t n) {
    std::vector<double> out(n);
    for (std::size_t i = 0; i < n; ++i) {
        const double at =
            static_cast<double>(i) * static_cast<double>(x.size() - 1) / static_cast<double>(n - 1);
        const auto k = std::min(static_cast<std::size_t>(at), x.size() - 2);
        out[i] = x[k] + (x[k + 1] - x[k]) * (at - static_cast<double>(k));
    }
    return out;
}

std::vector<std::size_t> lengthsFor(std::size_t n, double stretch) {
    std::vector<std::size_t> out{n};
    const int steps = static_cast<int>(stretch / kLengthStep + 1e-9);
    for (int step = 1; step <= steps; ++step)
        for (const double factor : {1 - step * kLengthStep, 1 + step * kLengthStep}) {
            const auto length = static_cast<std::size_t>(std::lround(static_cast<double>(n) * factor));
            if (length >= kShortest && std::find(out.begin(), out.end(), length) == out.end())
                out.push_back(length);
        }
    return out;
}

/// Squared distances of every stretch of one tag, added to those of the others.
void addDistances(const Bridged& tag, const std::vector<double>& example, bool level,
                  std::vector<double>& sum) {
    const std::size_t n = example.size();
    const auto count = static_cast<double>(n);
    const Moments own = momentsOf(example);
    const bool flatExample = !(own.deviation > 0) || own.deviation < tag.noise;
    // About its own mean nothing of the precision is lost to the level.
    const Moments all = momentsOf(tag.values);
    std::vector<double> x = tag.values, q = example;
    for (double& v : x) v -= all.mean;
    for (double& v : q) v -= level ? all.mean : own.mean;
    const std::vector<double> products = slidingProducts(x, q);
    double squaresOfExample = 0;
    for (const double v : q) squaresOfExample += v * v;
    double s = 0, ss = 0;
    for (std::size_t i = 0; i < products.size(); ++i) {
        if (i % kRestart == 0) {
            s = ss = 0;
            for (std::size_t j = i; j < i + n; ++j) s += x[j], ss += x[j] * x[j];
        } else {
            const double out = x[i - 1], in = x[i + n - 1];
            s += in - out, ss += in * in - out * out;
        }
        if (tag.tooFew(i, n)) {
            sum[i] = kFar;
            continue;
        }
        if (level) {
            const double scale = own.deviation > 0 ? own.deviation : 1;
            sum[i] += std::max(0.0, ss - 2 * products[i] + squaresOfExample) / count / (scale * scale);
            continue;
        }
        const double mean = s / count, deviation = std::sqrt(std::max(0.0, ss / count - mean * mean));
        const bool flat = !(deviation > 0) || deviation < tag.noise;
        if (flat || flatExample)
            sum[i] += flat && flatExample ? 0 : 1;
        else
            sum[i] += std::max(0.0, 2 * (1 - products[i] / (count * deviation * own.deviation)));
    }
}

/// For every middle the nearest stretch about it.
struct Profile {
    std::vector<double> distance;
    std::vector<std::uint32_t> length;
};

/// The nearest first; then the nearest that is not too close to one that was taken.
std::vector<ShapeHit> nearest(const Profile& profile, std::size_t apart, std::size_t most) {
    struct Block {
        double distance;
        std::size_t at, block;
        bool operator<(const Block& other) const { return distance > other.distance; }
    };
    const std::size_t size = profile.distance.size(), width = std::max<std::size_t>(1, apart);
    std::vector<ShapeHit> hits;
    std::vector<std::size_t> middles;
    const auto tooClose = [&](std::size_t at) {
        return std::any_of(middles.begin(), middles.end(),
                           [&](std::size_t m) { return (at > m ? at - m : m - at) < apart; });
    };
    std::priority_queue<Block> queue;
    const auto offer = [&](std::size_t block, bool check) {
        Block best{kFar, 0, block};
        for (std::size_t i = block * width; i < std::min(size, (block + 1) * width); ++i)
            if (profile.distance[i] < best.distance && !(check && tooClose(i)))
                best.distance = profile.distance[i], best.at = i;
        if (std::isfinite(best.distance)) queue.push(best);
    };
    for (std::size_t block = 0; block * width < size; ++block) offer(block, false);
    while (!queue.empty() && hits.size() < most) {
        const Block best = queue.top();
        queue.pop();
        if (tooClose(best.at)) {
            offer(best.block, true);
            continue;
        }
        middles.push_back(best.at);
        const std::size_t length = profile.length[best.at];
        hits.push_back({best.at - length / 2, length, best.distance});
        offer(best.block, true);
    }
    return hits;
}

Status checkTags(const std::vector<ShapeTag>& record, const std::vector<ShapeTag>& example) {
    if (record.empty() || record.size() != example.size())
        return Error{"the example and the record need the same tags"};
    for (std::size_t k = 0; k < record.size(); ++k) {
        if (record[k].values.size() != record[0].values.size() ||
            example[k].values.size() != example[0].values.size())
            return Error{"the tags differ in length"};
        const Bridged own(example[k]);
        if (example[k].values.size() >= kShortest && own.tooFew(0, example[k].values.size()))
            return Error{"more than a tenth of the example is missing"};
    }
    if (example[0].values.size() < kShortest)
        return Error{"the example is too short: it has fewer than four values"};
    const bool flat = std::all_of(example.begin(), example.end(), [](const ShapeTag& tag) {
        const Moments m = momentsOf(Bridged(tag).values);
        return !(m.deviation > 0) || m.deviation < tag.noise;
    });
    if (flat) return Error{"the example is flat: nothing can look like it"};
    return Done{};
}

}  // namespace

double noiseOf(const std::vector<double>& values) {
    std::vector<double> differences;
    for (std::size_t i = 1; i < values.size(); ++i)
        if (const double d = std::abs(values[i] - values[i - 1]); std::isfinite(d)) differences.push_back(d);
    return differences.empty() ? kMissing : 1.4826 * median(std::move(differences)) / std::sqrt(2.0);
}

Result<std::vector<ShapeHit>> findShape(const std::vector<ShapeTag>& record,
                                        const std::vector<ShapeTag>& example, const ShapeSpec& spec,
                                        const Progress& progress) {
    if (const Status good = checkTags(record, example); !good) return good.error();
    const std::size_t n = example[0].values.size(), size = record[0].values.size();
    std::vector<Bridged> tags;
    for (const ShapeTag& tag : record) tags.emplace_back(tag);
    Profile profile{std::vector<double>(size, kFar), std::vector<std::uint32_t>(size, 0)};
    const std::vector<std::size_t> lengths = lengthsFor(n, spec.stretch);
    for (std::size_t v = 0; v < lengths.size(); ++v) {
        const std::size_t length = lengths[v];
        if (progress.stopped(static_cast<double>(v) / static_cast<double>(lengths.size())))
            return Error::cancelled();
        if (length > size) continue;
        std::vector<double> sum(size - length + 1, 0.0);
        for (std::size_t k = 0; k < tags.size(); ++k)
            addDistances(tags[k], atLength(Bridged(example[k]).values, length), spec.level, sum);
        for (std::size_t i = 0; i < sum.size(); ++i) {
            const double d = std::sqrt(sum[i] / static_cast<double>(tags.size()));
            double& best = profile.distance[i + length / 2];
            if (!(d < best)) continue;
            best = d;
            profile.length[i + length / 2] = static_cast<std::uint32_t>(length);
        }
    }
    return nearest(profile, (n + 1) / 2, spec.most);
}

}  // namespace jacinth
