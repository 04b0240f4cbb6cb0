#include "core/steps/remainders.h"

#include <algorithm>
#include <cmath>
#include <functional>

#include "core/base/missing.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr double kLeastThreshold = 4.5;
constexpr double kByChance = 0.02;         // peaks above the threshold, a tag and record
constexpr double kLeastModelError = 0.02;  // of what companions say
constexpr std::size_t kApart = 12;

/// Levels without hours of equal values, where the tag is seldom equal for so long: a stuck sensor says
/// nothing.
std::vector<double> withoutStuck(std::vector<double> levels) {
    constexpr std::size_t kLeast = 6;
    std::vector<std::pair<std::size_t, std::size_t>> equal;
    std::vector<double> lengths;
    for (std::size_t from = 0; from < levels.size();) {
        std::size_t to = from + 1;
        while (to < levels.size() && levels[to] == levels[from]) ++to;
        if (!std::isnan(levels[from])) {
            equal.emplace_back(from, to);
            lengths.push_back(static_cast<double>(to - from));
        }
        from = to;
    }
    if (lengths.empty()) return levels;
    const double least = std::max<double>(kLeast, 3 * quantile(std::move(lengths), 0.98));
    for (const auto& [from, to] : equal)
        if (static_cast<double>(to - from) >= least)
            std::fill(levels.begin() + static_cast<std::ptrdiff_t>(from),
                      levels.begin() + static_cast<std::ptrdiff_t>(to), kMissing);
    return levels;
}

/// Empty blocks bridged by lines where no more than an hour is empty: a logger that writes changes alone.
std::vector<double> bridged(std::vector<double> levels, const BlockGrid& grid) {
    const auto most = static_cast<std::size_t>(kHour / grid.width);
    for (std::size_t from = 1; from < levels.size(); ++from) {
        if (!std::isnan(levels[from]) || std::isnan(levels[from - 1])) continue;
        std::size_t to = from;
        while (to < levels.size() && std::isnan(levels[to])) ++to;
        if (to == levels.size()) break;
        const double start = levels[from - 1], by = levels[to] - start,
                     n = static_cast<double>(to - from + 1);
        for (std::size_t i = from; i < to && to - from <= most; ++i)
            levels[i] = start + by * static_cast<double>(i - from + 1) / n;
    }
    return levels;
}

/// NaN where there are too few.
double usualOf(const std::vector<double>& differences) {
    std::vector<double> sizes;
    for (const double d : differences)
        if (!std::isnan(d)) sizes.push_back(std::abs(d));
    return sizes.size() < 20 ? kMissing : usualSize(std::move(sizes));
}

/// An exponential tail above the median of the peaks, the largest 3 % left out: those may be steps. Its mean
/// excess, cut at its 94 % quantile, is 0.82 of the whole one.
double thresholdOf(const std::vector<double>& score) {
    std::vector<double> peaks;
    for (const std::size_t block : peaksOf(score, kApart)) peaks.push_back(score[block]);
    if (peaks.size() < 30) return kLeastThreshold;
    std::sort(peaks.begin(), peaks.end());
    const double from = quantileOfSorted(peaks, 0.5), to = quantileOfSorted(peaks, 0.97);
    double sum = 0, count = 0;
    for (const double s : peaks)
        if (s > from && s <= to) sum += s - from, ++count;
    const double excess = count > 0 ? sum / count / 0.82 : 0;
    return std::max(kLeastThreshold,
                    from + excess * std::log(0.5 * static_cast<double>(peaks.size()) / kByChance));
}

}  // namespace

std::vector<std::size_t> peaksOf(const std::vector<double>& score, std::size_t apart) {
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < score.size(); ++i) {
        if (!(score[i] > 0)) continue;
        if (!out.empty() && i - out.back() <= apart) {
            if (score[i] > score[out.back()]) out.back() = i;
        } else {
            out.push_back(i);
        }
    }
    return out;
}

Remainders::Remainders(const std::vector<TagScan>& asset, const BlockGrid& grid) : grid_(grid) {
    for (std::size_t r = 0; r < kReaches; ++r)
        blocks_[r] =
            static_cast<std::size_t>(std::max<std::int64_t>(1, LevelDifference::kReaches[r] / grid.width));
    std::vector<std::vector<double>> own;
    std::vector<const std::vector<double>*> pointers;
    for (const TagScan& s : asset) own.push_back(bridged(withoutStuck(s.remainder.levels()), grid));
    for (const auto& of : own) pointers.push_back(&of);
    companions_ = companionsOf(pointers, grid);
    for (std::size_t i = 0; i < asset.size(); ++i) {
        Tag& tag = tags_.emplace_back();
        tag.levels = {own[i], companions_[i].remainder.levels()};
        for (const Of of : {kOwn, kLeft}) {
            calculate(tag, of, 0, grid.count());
            for (std::size_t r = 0; r < kReaches; ++r) {
                tag.usual[of][r] = std::max(usualOf(tag.difference[of][r]), asset[i].resolution / 6);
            }
        }
    }
    for (std::size_t i = 0; i < asset.size(); ++i) {
        for (std::size_t other = 0; other < asset.size(); ++other)
            if (const double e = companions_[i].effectOf(other); e != 0)
                tags_[i].effects.emplace_back(other, e);
        for (std::size_t r = 0; r < kReaches; ++r) tags_[i].share[r] = shareThatRemains(i, r);
        for (std::size_t b = 0; b < grid.count(); ++b) tags_[i].score.push_back(scoreOf(i, b));
        tags_[i].threshold = thresholdOf(tags_[i].score);
    }
}

void Remainders::calculate(Tag& tag, Of of, std::size_t from, std::size_t to) const {
    const std::vector<double>& levels = tag.levels[of];
    for (std::size_t r = 0; r < kReaches; ++r) {
        tag.difference[of][r].resize(levels.size(), kMissing);
        const std::size_t n = blocks_[r];
        for (std::size_t b = from; b < to; ++b)
            tag.difference[of][r][b] =
                b < n || b + 1 + n > levels.size()
                    ? kMissing
                    : medianOfKnown(levels, b + 1, b + 1 + n, 0.5) - medianOfKnown(levels, b - n, b, 0.5);
    }
}

double Remainders::moved(std::size_t tag, std::size_t block, std::size_t reach, const Steps& without) const {
    double sum = 0;
    for (const auto& [of, effect] : tags_[tag].effects) {
        double d = own(of, block, reach);
        for (const auto& [stepped, size] : without)
            if (stepped == of) d -= size;
        if (!std::isnan(d)) sum += std::pow(effect * d, 2);
    }
    return std::sqrt(sum);
}

Remainders::Share Remainders::shareThatRemains(std::size_t tag, std::size_t reach) const {
    std::vector<std::pair<double, double>> byMove;
    for (std::size_t b = 0; b < grid_.count(); ++b)
        if (const double l = left(tag, b, reach), m = moved(tag, b, reach); m > 0 && !std::isnan(l))
            byMove.emplace_back(m, std::abs(l) / m);
    const std::size_t far = std::max<std::size_t>(30, byMove.size() / 50);
    if (byMove.size() < 2 * far) return {kLeastModelError, kLeastModelError};
    std::nth_element(byMove.begin(), byMove.begin() + static_cast<std::ptrdiff_t>(far), byMove.end(),
                     std::greater<>());
    std::vector<double> shares;
    for (std::size_t i = 0; i < far; ++i) shares.push_back(byMove[i].second);
    std::sort(shares.begin(), shares.end());
    return {std::max(kLeastModelError, quantileOfSorted(shares, 0.75)),
            std::max(kLeastModelError, quantileOfSorted(shares, 0.98))};
}

double Remainders::error(std::size_t tag, std::size_t block, std::size_t reach, const Steps& without) const {
    return std::hypot(usual(tag, reach), tags_[tag].share[reach].usual * moved(tag, block, reach, without));
}

double Remainders::scoreOf(std::size_t tag, std::size_t block) const {
    double out = 0;
    for (std::size_t r = 0; r < kReaches; ++r)
        if (const double s = std::abs(left(tag, block, r)) / error(tag, block, r); s > out) out = s;
    return out;
}

void Remainders::takeOut(std::size_t tag, std::size_t block, double size) {
    const std::size_t n = grid_.count();
    for (const Of of : {kOwn, kLeft}) {
        std::vector<double>& levels = tags_[tag].levels[of];
        levels[block] = kMissing;  // it holds some of both
        for (std::size_t b = block + 1; b < n; ++b) levels[b] -= size;
    }
    for (std::size_t other = 0; other < count(); ++other)
        for (const CompanionTerm& t : companions_[other].terms) {
            if (t.tag != tag) continue;
            const auto from = static_cast<std::ptrdiff_t>(block) + t.lag;
            for (std::size_t b = static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, from + 1)); b < n; ++b)
                tags_[other].levels[kLeft][b] += t.coefficient * size;
        }
    const std::size_t reach = blocks_[kReaches - 1] + 10;  // and the longest lag
    const std::size_t from = block > reach ? block - reach : 0, to = std::min(n, block + reach);
    for (Tag& of : tags_)
        for (const Of what : {kOwn, kLeft}) calculate(of, what, from, to);
    for (std::size_t i = 0; i < count(); ++i)
        for (std::size_t b = from; b < to; ++b) tags_[i].score[b] = scoreOf(i, b);
}

}  // namespace jacinth
