#include "core/steps/step_explanation.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

namespace jacinth {
namespace {

constexpr double kLeftOver = 4.5;      // of its error, that a remainder may not be left with
constexpr double kWrongEffect = 0.05;  // of what a step does to another remainder
constexpr double kVisible = 10;        // a step of so many usual jumps has to show as one
constexpr double kBesideScore = 8;     // score
constexpr Duration kSameSample = kMinute;
constexpr std::size_t kMostTags = 5;

bool isBetter(const Explanation& a, const Explanation& than) {
    return than.tags.empty() || a.cost < than.cost;
}

bool has(const Explanation& e, std::size_t tag) {
    return std::find(e.tags.begin(), e.tags.end(), tag) != e.tags.end();
}

}  // namespace

Remainders::Steps Explanation::steps() const {
    Remainders::Steps out;
    for (std::size_t k = 0; k < tags.size(); ++k) out.emplace_back(tags[k], sizes[k]);
    return out;
}

double Explanation::sizeOf(std::size_t tag) const {
    return sizes[static_cast<std::size_t>(std::find(tags.begin(), tags.end(), tag) - tags.begin())];
}

StepExplainer::StepExplainer(const std::vector<TagScan>& asset, const BlockGrid& grid,
                             const Remainders& remainders)
    : asset_(asset), grid_(grid), remainders_(remainders) {
    for (const TagScan& s : asset) {
        const auto& levels = s.levels.levels();
        const auto empty =
            std::count_if(levels.begin(), levels.end(), [](double v) { return std::isnan(v); });
        sparse_.push_back(10 * static_cast<std::size_t>(empty) > levels.size());
    }
}

/// The samples around a block are there, and not as seldom as where changes alone are written.
bool StepExplainer::isSampled(std::size_t tag, std::size_t block) const {
    const auto& levels = asset_[tag].levels.levels();
    if (sparse_[tag]) return false;
    for (std::size_t b = block > 2 ? block - 2 : 0; b < std::min(levels.size(), block + 3); ++b)
        if (std::isnan(levels[b])) return false;
    return true;
}

/// A step that would be seen from one sample to the next, and is not.
bool StepExplainer::isContradicted(std::size_t tag, std::size_t block, double size) const {
    return std::abs(size) > kVisible * asset_[tag].usualJump && isSampled(tag, block) &&
           !jumpNear(tag, block, size);
}

std::optional<Jump> StepExplainer::jumpNear(std::size_t tag, std::size_t block, double size) const {
    std::optional<Jump> best;
    const Instant from = grid_.start(block > 4 ? block - 4 : 0), to = grid_.start(block + 5);
    const auto& jumps = asset_[tag].jumps;
    auto it = std::lower_bound(jumps.begin(), jumps.end(), from,
                               [](const Jump& j, Instant t) { return j.after < t; });
    for (; it != jumps.end() && it->before < to; ++it)
        if (const double share = it->size / size; share > 0.4 && share < 2.2)
            if (!best || it->score > best->score) best = *it;
    return best;
}

std::size_t StepExplainer::locate(std::size_t tag, std::size_t block, double size) const {
    if (const auto jump = jumpNear(tag, block, size)) return grid_.at(jump->after);
    constexpr std::size_t kWide = 12, kLook = 4;
    const std::vector<double>& levels = remainders_.levels(tag);
    if (block < kWide + kLook || block + kWide + kLook >= levels.size()) return block;
    std::size_t best = block;
    double least = INFINITY;
    for (std::size_t cut = block - kLook; cut <= block + kLook; ++cut) {
        const double before = medianOfKnown(levels, block - kWide, cut),
                     after = medianOfKnown(levels, cut + 1, block + kWide);
        double cost = 0;
        for (std::size_t i = block - kWide; i < block + kWide; ++i)
            if (!std::isnan(levels[i]) && i != cut)
                cost += std::min(std::abs(levels[i] - (i < cut ? before : after)), std::abs(size));
        if (cost < least) least = cost, best = cut;
    }
    return best;
}

std::size_t StepExplainer::mainOf(const Explanation& e, std::size_t block, std::size_t reach) const {
    std::size_t out = e.tags.front();
    double most = 0;
    for (std::size_t k = 0; k < e.tags.size(); ++k)
        if (const double s = std::abs(e.sizes[k]) / remainders_.error(e.tags[k], block, reach); s > most)
            most = s, out = e.tags[k];
    return out;
}

bool StepExplainer::processMoved(const Explanation& e, std::size_t block, std::size_t reach) const {
    bool beyond = true;
    for (std::size_t k = 0; k < e.tags.size(); ++k)
        beyond &= std::abs(e.sizes[k]) > 2 * remainders_.mostShareLeft(e.tags[k], reach) *
                                             remainders_.moved(e.tags[k], block, reach, e.steps());
    const auto jump = jumpNear(e.tags.front(), block, e.sizes.front());
    if (beyond || !jump) return false;
    for (std::size_t i = 0; i < asset_.size(); ++i) {
        if (has(e, i)) continue;
        const double own = remainders_.own(i, block, 0);
        if (!(std::abs(own) >= 3 * remainders_.usualOwn(i, 0))) continue;
        const auto other = jumpNear(i, block, own);
        if (other && other->sharp && other->score >= kBesideScore &&
            other->before <= jump->after + kSameSample && other->after >= jump->before - kSameSample)
            return true;
    }
    return false;
}

/// Twice: how sure a remainder is depends on how far its companions moved without the steps.
Explanation StepExplainer::fit(const Tags& tags, std::size_t block, std::size_t r) const {
    return fitOnce(tags, block, r, fitOnce(tags, block, r, {}).steps());
}

Explanation StepExplainer::fitOnce(const Tags& tags, std::size_t block, std::size_t r,
                                   const Remainders::Steps& without) const {
    const auto n = static_cast<Eigen::Index>(asset_.size());
    Eigen::MatrixXd x = Eigen::MatrixXd::Zero(2 * n, static_cast<Eigen::Index>(tags.size()));
    Eigen::VectorXd y = Eigen::VectorXd::Zero(2 * n);
    double cost = 0;
    for (Eigen::Index i = 0; i < n; ++i) {
        const auto tag = static_cast<std::size_t>(i);
        const double left = remainders_.left(tag, block, r), own = remainders_.own(tag, block, r);
        if (!std::isnan(left)) {
            const double e = remainders_.error(tag, block, r, without);
            y(i) = left / e;
            cost += 2 * std::log(e);
            for (std::size_t k = 0; k < tags.size(); ++k)
                x(i, static_cast<Eigen::Index>(k)) = remainders_.effect(tag, tags[k]) / e;
        }
        if (const double e = remainders_.usualOwn(tag, r); !std::isnan(own) && e > 0) {
            y(n + i) = own / e;
            for (std::size_t k = 0; k < tags.size(); ++k)
                if (tags[k] == tag) x(n + i, static_cast<Eigen::Index>(k)) = 1 / e;
        }
    }
    const Eigen::VectorXd sizes = x.colPivHouseholderQr().solve(y);
    Explanation out{tags, {}, cost + (y - x * sizes).squaredNorm()};
    out.sizes.assign(sizes.data(), sizes.data() + sizes.size());
    return out;
}

bool StepExplainer::leavesOver(const Explanation& e, std::size_t block, std::size_t r) const {
    const Remainders::Steps steps = e.steps();
    for (std::size_t i = 0; i < asset_.size(); ++i) {
        double left = remainders_.left(i, block, r);
        double square = std::pow(remainders_.error(i, block, r, steps), 2);
        if (std::isnan(left)) continue;
        for (const auto& [tag, size] : steps) {
            const double by = remainders_.effect(i, tag) * size;
            left -= by;
            square += std::pow(std::max(kWrongEffect, remainders_.shareLeft(i, r)) * by, 2);
        }
        if (std::abs(left) > std::max(kLeftOver, remainders_.threshold(i)) * std::sqrt(square)) return true;
    }
    return false;
}

bool StepExplainer::isPossible(const Explanation& e, std::size_t block, std::size_t r) const {
    for (std::size_t k = 0; k < e.tags.size(); ++k)
        if (!remainders_.hasCompanions(e.tags[k]) || std::isnan(remainders_.left(e.tags[k], block, r)) ||
            isContradicted(e.tags[k], block, e.sizes[k]))
            return false;
    return true;
}

Explanation StepExplainer::explain(std::size_t block, std::size_t reach) const {
    Explanation one, two;
    const auto consider = [&](const Tags& tags, Explanation& best) {
        if (Explanation e = fit(tags, block, reach); isPossible(e, block, reach) && isBetter(e, best))
            best = std::move(e);
    };
    const std::size_t n = asset_.size();
    for (std::size_t a = 0; a < n; ++a) consider({a}, one);
    if (!one.tags.empty() && !leavesOver(one, block, reach)) return one;
    for (std::size_t a = 0; a < n; ++a)
        for (std::size_t b = a + 1; b < n; ++b) consider({a, b}, two);
    return two.tags.empty() ? one : withMore(std::move(two), block, reach);
}

/// Tags added one by one until nothing is left over.
Explanation StepExplainer::withMore(Explanation e, std::size_t block, std::size_t reach) const {
    while (e.tags.size() < std::min(asset_.size(), kMostTags) && leavesOver(e, block, reach)) {
        Explanation next;
        for (std::size_t a = 0; a < asset_.size(); ++a) {
            if (has(e, a) || !remainders_.hasCompanions(a)) continue;
            Tags with = e.tags;
            with.push_back(a);
            if (Explanation f = fit(with, block, reach); isBetter(f, next)) next = std::move(f);
        }
        if (next.tags.empty()) break;
        e = std::move(next);
    }
    return e;
}

}  // namespace jacinth
