// Order statistics of a window that slides.
#include "core/expr/window_sliders.h"

namespace jacinth {
namespace {

constexpr double kMostSteps = 65'536;

/// The nearest whole number, by the quickest way: it need not be exact for what is not nearly whole.
double nearestWhole(double v) {
    return static_cast<double>(static_cast<std::int64_t>(v + (v < 0 ? -0.5 : 0.5)));
}

/// Least and greatest; no branches that random values would have guessed wrong.
std::pair<double, double> extremesOf(std::span<const double> values) {
    double least = values.front(), greatest = values.front();
    for (const double v : values) {
        least = std::min(least, v);
        greatest = std::max(greatest, v);
    }
    return {least, greatest};
}

/// Which step of 1 / scale each value is, from `first` on. Stops at a value that is not the nearest double to
/// one; says whether there was none.
bool stepsOf(std::span<const double> values, double scale, double first, std::vector<std::uint32_t>& out) {
    for (std::size_t i = 0; i < values.size(); ++i) {
        const double whole = nearestWhole(values[i] * scale);
        if (whole / scale != values[i]) return false;
        out[i] = static_cast<std::uint32_t>(whole - first);
    }
    return true;
}

}  // namespace

Middle::Middle(const SampleView& s, double q) : q_(q) {
    if (!s.values.empty() && !rankByDigits(s.values)) rankBySorting(s.values);
    while (levels_ < kLevels && (sorted_.size() >> (kShift * levels_)) > 0) ++levels_;
    for (std::size_t l = 0; l < levels_; ++l) counts_[l].assign((sorted_.size() >> (kShift * l)) + 1, 0);
    ones_ = counts_[0].data();
    strides_ = counts_[1].data();
}

bool Middle::rankByDigits(std::span<const double> values) {
    const auto [least, greatest] = extremesOf(values);
    const double largest = std::max(std::abs(least), std::abs(greatest));
    rank_.resize(values.size());
    // A greater power of ten may not give back what a smaller one did: each is tried on all values. Most of
    // those that do not fit fail at one of the first.
    for (double scale = 1; scale <= 1e6 && largest * scale < 1e15; scale *= 10) {
        if (!((greatest - least) * scale < kMostSteps)) return false;
        const double first = nearestWhole(least * scale);
        if (!stepsOf(values, scale, first, rank_)) continue;
        sorted_.resize(static_cast<std::size_t>(nearestWhole(greatest * scale) - first) + 1);
        for (std::size_t i = 0; i < sorted_.size(); ++i)
            sorted_[i] = (first + static_cast<double>(i)) / scale;
        return true;
    }
    return false;
}

void Middle::rankBySorting(std::span<const double> values) {
    sorted_.assign(values.begin(), values.end());
    std::sort(sorted_.begin(), sorted_.end());
    sorted_.erase(std::unique(sorted_.begin(), sorted_.end()), sorted_.end());
    rank_.clear();
    rank_.reserve(values.size());
    for (const double v : values)
        rank_.push_back(static_cast<std::uint32_t>(std::lower_bound(sorted_.begin(), sorted_.end(), v) -
                                                   sorted_.begin()));
}

void Middle::seek(std::int64_t k) {
    const auto aligned = [&](std::size_t level) {
        return (place_ & ((std::size_t{1} << (kShift * level)) - 1)) == 0;
    };
    const auto count = [&](std::size_t level, std::size_t place) {
        return counts_[level][place >> (kShift * level)];
    };
    while (below_ > k) {
        std::size_t level = 0;
        while (level + 1 < levels_ && aligned(level + 1) && below_ - count(level + 1, place_ - 1) > k)
            ++level;
        below_ -= count(level, place_ - 1);
        place_ -= std::size_t{1} << (kShift * level);
    }
    for (;;) {
        std::size_t level = 0;
        while (level + 1 < levels_ && aligned(level + 1) && below_ + count(level + 1, place_) <= k) ++level;
        if (level == 0 && below_ + count(0, place_) > k) break;
        below_ += count(level, place_);
        place_ += std::size_t{1} << (kShift * level);
    }
}

}  // namespace jacinth
