#include "core/steps/companions.h"

#include <Eigen/Dense>
#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "core/base/missing.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr std::array kLags{-1, 0, 1, 2, 4, 8};  // in blocks
constexpr Duration kReach = 3 * kHour;
constexpr std::size_t kMostRows = 3000;
constexpr int kRounds = 7, kHuberRounds = 4;
constexpr double kTukey = 4.685, kHuber = 1.345;
constexpr double kModelError = 0.05;  // of what is predicted
constexpr double kExplains = 0.95;    // companions that leave more of the usual differences explain nothing

using Levels = std::vector<const std::vector<double>*>;

double levelAt(const std::vector<double>& levels, std::size_t block, int lag) {
    const auto i = static_cast<std::ptrdiff_t>(block) - lag;
    return i < 0 || i >= static_cast<std::ptrdiff_t>(levels.size()) ? kMissing
                                                                    : levels[static_cast<std::size_t>(i)];
}

/// Variance of a block's level that its neighbours do not share.
double noiseOf(const std::vector<double>& levels) {
    std::vector<double> second;
    for (std::size_t i = 2; i < levels.size(); ++i)
        if (const double d = levels[i] - 2 * levels[i - 1] + levels[i - 2]; !std::isnan(d))
            second.push_back(std::abs(d));
    return second.empty() ? 0 : std::pow(1.4826 * median(std::move(second)), 2) / 6;
}

/// One that is seldom known where the other is would leave few rows for all.
bool sharesTime(const std::vector<double>& a, const std::vector<double>& b) {
    std::size_t known = 0, both = 0;
    for (std::size_t i = 0; i < a.size(); ++i) {
        known += !std::isnan(a[i]);
        both += !std::isnan(a[i]) && !std::isnan(b[i]);
    }
    return 4 * both > 3 * known;
}

/// The rows of a regression: where the tag and all regressors are known, now and a reach before.
struct Rows {
    std::vector<CompanionTerm> terms;
    Eigen::MatrixXd x;
    Eigen::VectorXd y, noise;
    Eigen::VectorXd unit;          // by which each column was divided: tags are of unlike units
    std::vector<bool> secondHalf;  // by days
};

Rows rowsOf(const Levels& levels, std::size_t tag, const BlockGrid& grid) {
    Rows out;
    for (std::size_t other = 0; other < levels.size(); ++other)
        if (other != tag && sharesTime(*levels[tag], *levels[other]))
            for (const int lag : kLags) out.terms.push_back({other, lag, 0});
    const auto reach = static_cast<std::size_t>(std::max<std::int64_t>(1, kReach / grid.width));
    const std::size_t n = levels[tag]->size(), step = std::max<std::size_t>(1, n / kMostRows);
    std::vector<double> values;
    std::vector<double> ys;
    for (std::size_t i = reach; i < n; i += step) {
        const double y = (*levels[tag])[i] - (*levels[tag])[i - reach];
        if (std::isnan(y)) continue;
        const std::size_t start = values.size();
        bool known = true;
        for (const CompanionTerm& t : out.terms) {
            const double x = levelAt(*levels[t.tag], i, t.lag) - levelAt(*levels[t.tag], i - reach, t.lag);
            if (std::isnan(x)) {
                known = false;
                break;
            }
            values.push_back(x);
        }
        if (!known) {
            values.resize(start);
            continue;
        }
        ys.push_back(y);
        out.secondHalf.push_back((grid.width * static_cast<std::int64_t>(i)) / kDay % 2 == 1);
    }
    const auto rows = static_cast<Eigen::Index>(ys.size()),
               columns = static_cast<Eigen::Index>(out.terms.size());
    out.x = Eigen::Map<const Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>>(
        values.data(), rows, columns);
    out.y = Eigen::Map<const Eigen::VectorXd>(ys.data(), rows);
    out.noise.resize(columns);
    out.unit = Eigen::VectorXd::Ones(columns);
    for (Eigen::Index c = 0; c < columns && rows > 0; ++c) {
        if (const double size = out.x.col(c).lpNorm<Eigen::Infinity>(); size > 0) out.unit(c) = size;
        out.x.col(c) /= out.unit(c);
        out.noise(c) =
            2 * noiseOf(*levels[out.terms[static_cast<std::size_t>(c)].tag]) / out.unit(c) / out.unit(c);
    }
    return out;
}

/// Robust standard deviation; by the 90 % quantile where that says much more, as with a tag that mostly
/// stands at one value.
double robustSize(const Eigen::VectorXd& x, const std::vector<bool>* of = nullptr, bool which = false) {
    std::vector<double> sizes;
    for (Eigen::Index i = 0; i < x.size(); ++i)
        if (!of || (*of)[static_cast<std::size_t>(i)] == which) sizes.push_back(std::abs(x(i)));
    return usualSize(std::move(sizes));
}

double biweight(double left, double scale) {
    const double u = left / (kTukey * scale);
    return std::abs(u) < 1 ? std::pow(1 - u * u, 2) : 0;
}

/// Huber's weights first, which keep what moves far and binds the tags to each other, then Tukey's, which
/// leave out what contradicts that. Rows of the half not to learn from have none.
Eigen::VectorXd solve(const Rows& rows, double ridge, const std::vector<bool>* half, bool which) {
    const Eigen::Index n = rows.y.size();
    Eigen::VectorXd b = Eigen::VectorXd::Zero(rows.x.cols()), left = rows.y, weights(n);
    // What can be learned from nothing but noise is noise: a floor keeps the scale above 0.
    const double floor = 1e-9 * rows.y.lpNorm<Eigen::Infinity>() + std::numeric_limits<double>::min();
    for (int round = 0; round < kRounds; ++round) {
        const double scale = std::max(floor, robustSize(left, half, which));
        for (Eigen::Index i = 0; i < n; ++i) {
            const bool learns = !half || (*half)[static_cast<std::size_t>(i)] == which;
            weights(i) = !learns ? 0
                         : round < kHuberRounds
                             ? std::min(1.0, kHuber * scale / std::abs(left(i)))
                             : biweight(left(i), std::hypot(scale, kModelError * (rows.y(i) - left(i))));
        }
        const Eigen::MatrixXd weighted = weights.asDiagonal() * rows.x;
        Eigen::MatrixXd normal = rows.x.transpose() * weighted;
        normal.diagonal() += ridge * weights.sum() * rows.noise;
        normal.diagonal().array() +=
            1e-12 * normal.diagonal().maxCoeff() + std::numeric_limits<double>::min();
        b = normal.ldlt().solve(weighted.transpose() * rows.y);
        left = rows.y - rows.x * b;
    }
    return b;
}

/// What the companions say of a block; NaN where one is not known.
double predicted(const Levels& levels, const std::vector<CompanionTerm>& terms, std::size_t block) {
    double out = 0;
    for (const CompanionTerm& t : terms) out += t.coefficient * levelAt(*levels[t.tag], block, t.lag);
    return out;
}

std::vector<CompanionTerm> termsOf(const Levels& levels, std::size_t tag, const BlockGrid& grid) {
    Rows rows = rowsOf(levels, tag, grid);
    if (rows.x.cols() == 0 || rows.y.size() < 4 * rows.x.cols() + 40) return {};
    double best = INFINITY, ridge = 1;
    for (const double factor : {0.3, 1.0, 10.0}) {
        double sum = 0;
        for (const bool which : {false, true}) {
            const Eigen::VectorXd b = solve(rows, factor, &rows.secondHalf, which);
            sum += robustSize(rows.y - rows.x * b, &rows.secondHalf, !which);
        }
        if (sum < best) best = sum, ridge = factor;
    }
    if (!(best < 2 * kExplains * robustSize(rows.y))) return {};
    const Eigen::VectorXd b = solve(rows, ridge, nullptr, false);
    for (std::size_t c = 0; c < rows.terms.size(); ++c)
        rows.terms[c].coefficient = b(static_cast<Eigen::Index>(c)) / rows.unit(static_cast<Eigen::Index>(c));
    return rows.terms;
}

/// Levels with gaps filled by what companions say, joined to those before and after.
std::vector<double> filled(const Levels& levels, std::size_t tag, const std::vector<CompanionTerm>& terms) {
    constexpr std::size_t kBeside = 12;
    std::vector<double> out = *levels[tag];
    const std::vector<double>& own = *levels[tag];
    const auto offset = [&](std::size_t from, std::size_t to) {
        std::vector<double> apart;
        for (std::size_t i = from; i < to; ++i)
            if (const double d = own[i] - predicted(levels, terms, i); !std::isnan(d)) apart.push_back(d);
        return apart.empty() ? kMissing : median(std::move(apart));
    };
    for (std::size_t from = 0; from < own.size() && !terms.empty();) {
        std::size_t to = from;
        while (to < own.size() && std::isnan(own[to])) ++to;
        if (to == from) {
            ++from;
            continue;
        }
        double before = offset(from > kBeside ? from - kBeside : 0, from),
               after = offset(to, std::min(own.size(), to + kBeside));
        if (std::isnan(before)) before = after;
        if (std::isnan(after)) after = before;
        for (std::size_t i = from; i < to; ++i) {
            const double share = static_cast<double>(i - from + 1) / static_cast<double>(to - from + 1);
            out[i] = predicted(levels, terms, i) + before + (after - before) * share;
        }
        from = to;
    }
    return out;
}

}  // namespace

double usualSize(std::vector<double> sizes) {
    if (sizes.empty()) return kMissing;
    std::sort(sizes.begin(), sizes.end());
    return std::max(1.4826 * quantileOfSorted(sizes, 0.5), 0.7 / 1.645 * quantileOfSorted(sizes, 0.9));
}

double Companions::effectOf(std::size_t tag) const {
    double sum = 0;
    for (const CompanionTerm& t : terms)
        if (t.tag == tag) sum += t.coefficient;
    return sum;
}

std::vector<Companions> companionsOf(const Levels& levels, const BlockGrid& grid) {
    std::vector<Companions> out(levels.size());
    std::vector<std::vector<double>> whole;
    for (std::size_t tag = 0; tag < levels.size(); ++tag) {
        out[tag].terms = termsOf(levels, tag, grid);
        whole.push_back(filled(levels, tag, out[tag].terms));
    }
    Levels known;
    for (const auto& of : whole) known.push_back(&of);
    for (std::size_t tag = 0; tag < levels.size(); ++tag) {
        std::vector<double> left = *levels[tag];
        for (std::size_t i = 0; i < left.size(); ++i) left[i] -= predicted(known, out[tag].terms, i);
        out[tag].remainder = LevelDifference(std::move(left), grid);
    }
    return out;
}

}  // namespace jacinth
