#include "core/relate/saturation.h"

#include <fmt/format.h>

#include <Eigen/Cholesky>
#include <Eigen/QR>
#include <algorithm>
#include <array>
#include <boost/math/distributions/chi_squared.hpp>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>
#include <numbers>

namespace jacinth {
namespace {

constexpr std::size_t kBlock = 60;
constexpr double kFails = 0.01;  // a diagnostic test

struct Candidate {
    IndicatorKind kind;
    std::size_t row;
    bool operator==(const Candidate&) const = default;
};

/// A level of all rows is the constant, and a trend that begins at the last row is nothing.
bool isCandidate(const Candidate& c, std::size_t rows) {
    const std::size_t from = c.kind == IndicatorKind::Point ? 0 : 1;
    const std::size_t to = c.kind == IndicatorKind::Trend ? rows - 1 : rows;
    return c.row >= from && c.row < to;
}

Eigen::VectorXd columnOf(const Candidate& c, Eigen::Index n) {
    Eigen::VectorXd out = Eigen::VectorXd::Zero(n);
    const auto row = static_cast<Eigen::Index>(c.row);
    switch (c.kind) {
        case IndicatorKind::Point:
            out[row] = 1;
            break;
        case IndicatorKind::Level:
            out.tail(n - row).setOnes();
            break;
        case IndicatorKind::Trend:
            for (Eigen::Index i = row; i < n; ++i) out[i] = static_cast<double>(i - row);
            break;
    }
    return out;
}

/// The level at which a candidate of a kind is tested so that about alpha of them survive on white noise.
/// Points do so at alpha itself. Levels and trends beside each other make each other significant: at 0.05,
/// 0.01 and 0.001 there survived 0.85, 1.27 and 1.5 times as many (400 seeded runs of 100 rows; alike with 50
/// and 200). Between those values straight in the logarithms.
double ownLevel(IndicatorKind kind, double alpha) {
    if (kind == IndicatorKind::Point) return alpha;
    struct Known {
        double wanted, own;
    };
    constexpr std::array<Known, 3> known{{{0.05, 0.06}, {0.01, 0.0078}, {0.001, 0.00065}}};
    const std::size_t i = alpha > known[1].wanted ? 0 : 1;
    const double part = std::log(alpha / known[i].wanted) / std::log(known[i + 1].wanted / known[i].wanted);
    return std::min(0.5, known[i].own * std::pow(known[i + 1].own / known[i].own, part));
}

/// The variance of a standard normal value that is known to lie within ±c: rows that are left over when the
/// points outside are taken out vary less than all of them (Johansen & Nielsen 2009).
double varianceWithin(double c) {
    const double density = std::exp(-c * c / 2) / std::sqrt(2 * std::numbers::pi);
    return 1 - 2 * c * density / std::erf(c / std::numbers::sqrt2);
}

/// y and candidates with what the regressors explain taken away, and candidates dropped one by one. Keeps the
/// inverse of the candidates' cross products: dropping one costs k².
class Elimination {
  public:
    Elimination(const Eigen::VectorXd& y, const Eigen::MatrixXd& base, std::vector<Candidate> candidates,
                const SaturationSpec& spec)
        : spec_(spec), base_(base.cols()), rows_(y.size()), candidates_(std::move(candidates)), y_(y) {
        columns_.resize(rows_, static_cast<Eigen::Index>(candidates_.size()));
        Eigen::Index kept = 0;
        std::vector<Candidate> usable;
        for (const Candidate& c : candidates_) {
            const Eigen::VectorXd raw = columnOf(c, rows_);
            Eigen::VectorXd column = raw - base * (base.transpose() * raw);
            column -= base * (base.transpose() * column);  // twice, so that rounding does not stay
            const double norm = column.norm();
            if (norm < 1e-7 * raw.norm()) continue;  // the regressors say the same
            columns_.col(kept++) = column / norm;
            usable.push_back(c);
        }
        columns_.conservativeResize(rows_, kept);
        candidates_ = std::move(usable);
        dropCombinations();
        factor();
    }

    /// Drops the least significant until all are significant at their own level.
    void run() {
        while (!candidates_.empty()) {
            const std::size_t least = leastSignificant({});
            if (least == candidates_.size()) return;
            drop(least);
        }
    }

    /// The same, but keeps those without which the remainder fails a test that it passes now.
    void runWithDiagnostics() {
        whole_ = true;
        std::vector<bool> held(candidates_.size(), false);
        const Diagnostics now = diagnosticsOf(remainder());
        while (!candidates_.empty()) {
            const std::size_t least = leastSignificant(held);
            if (least == candidates_.size()) return;
            const Elimination before = *this;
            drop(least);
            const Diagnostics then = diagnosticsOf(remainder());
            const bool fails = (now.autocorrelation >= kFails && then.autocorrelation < kFails) ||
                               (now.normality >= kFails && then.normality < kFails);
            if (fails) {
                *this = before;
                held[least] = true;
            } else {
                held.erase(held.begin() + static_cast<std::ptrdiff_t>(least));
            }
        }
    }

    const std::vector<Candidate>& left() const { return candidates_; }

    /// The rows near a candidate at which it would leave the least beside the others; its own where that is
    /// one of them. Blocks know only some rows, and what they keep stands beside the right one.
    std::size_t bestRow(std::size_t place, std::size_t reach, const Eigen::MatrixXd& base) const {
        const Candidate own = candidates_[place];
        Elimination others = *this;
        others.drop(place);
        const Eigen::VectorXd left = others.y_ - others.columns_ * others.b_;
        const auto rows = static_cast<std::size_t>(rows_);
        const std::size_t from = own.row > reach ? own.row - reach : 0,
                          to = std::min(rows, own.row + reach + 1);
        std::size_t best = own.row;
        double most = -1;
        for (std::size_t row = from; row < to; ++row) {
            const Candidate moved{own.kind, row};
            if (!isCandidate(moved, rows) || std::find(others.candidates_.begin(), others.candidates_.end(),
                                                       moved) != others.candidates_.end())
                continue;
            const Eigen::VectorXd raw = columnOf(moved, rows_);
            const Eigen::VectorXd column = raw - base * (base.transpose() * raw);
            const Eigen::VectorXd shared = others.columns_.transpose() * column;
            const double free = column.squaredNorm() - shared.dot(others.inverse_ * shared);
            if (free < 1e-9 * raw.squaredNorm()) continue;
            const double along = column.dot(left), gain = along * along / free;
            if (gain > most) most = gain, best = row;
        }
        return best;
    }

  private:
    Eigen::Index degrees() const { return rows_ - base_ - columns_.cols(); }

    std::vector<double> remainder() const {
        const Eigen::VectorXd left = y_ - columns_ * b_;
        return {left.begin(), left.end()};
    }

    /// Candidates that others in the block say already: their inverse would be noise.
    void dropCombinations() {
        if (columns_.cols() == 0) return;
        Eigen::ColPivHouseholderQR<Eigen::MatrixXd> qr(columns_);
        qr.setThreshold(1e-6);
        if (qr.rank() == columns_.cols()) return;
        std::vector<Eigen::Index> keep(qr.colsPermutation().indices().data(),
                                       qr.colsPermutation().indices().data() + qr.rank());
        std::sort(keep.begin(), keep.end());
        std::vector<Candidate> usable;
        Eigen::MatrixXd columns(rows_, static_cast<Eigen::Index>(keep.size()));
        for (std::size_t i = 0; i < keep.size(); ++i) {
            usable.push_back(candidates_[static_cast<std::size_t>(keep[i])]);
            columns.col(static_cast<Eigen::Index>(i)) = columns_.col(keep[i]);
        }
        candidates_ = std::move(usable);
        columns_ = std::move(columns);
    }

    void factor() {
        const Eigen::Index k = columns_.cols();
        inverse_ = (columns_.transpose() * columns_).ldlt().solve(Eigen::MatrixXd::Identity(k, k));
        b_ = inverse_ * (columns_.transpose() * y_);
        squares_ = (y_ - columns_ * b_).squaredNorm();
    }

    /// The one furthest below what its own level asks for; the number of candidates where none is.
    std::size_t leastSignificant(const std::vector<bool>& held) const {
        const double degreesLeft = static_cast<double>(degrees()), s2 = squares_ / degreesLeft;
        std::size_t least = candidates_.size();
        double lowest = 1;
        for (std::size_t i = 0; i < candidates_.size(); ++i) {
            if (!held.empty() && held[i]) continue;
            const auto j = static_cast<Eigen::Index>(i);
            const double limit = critical(candidates_[i].kind, degreesLeft);
            const bool others = whole_ && candidates_[i].kind == IndicatorKind::Point;
            const double variance = s2 / (others ? varianceWithin(limit) : 1) * inverse_(j, j);
            const double share = std::abs(b_[j]) / std::sqrt(variance) / limit;
            if (share < lowest) lowest = share, least = i;
        }
        return least;
    }

    double critical(IndicatorKind kind, double degreesLeft) const {
        const double alpha = spec_.alpha / static_cast<double>(spec_.kinds.size());
        return boost::math::quantile(
            boost::math::complement(boost::math::students_t(degreesLeft), ownLevel(kind, alpha) / 2));
    }

    void drop(std::size_t place) {
        const auto j = static_cast<Eigen::Index>(place), k = columns_.cols();
        const Eigen::VectorXd column = inverse_.col(j);
        const double own = inverse_(j, j), b = b_[j];
        inverse_ -= column * column.transpose() / own;
        b_ -= column * (b / own);
        squares_ += b * b / own;
        const auto without = [&](auto& matrix, bool rows) {
            if (rows)
                matrix.middleRows(j, k - 1 - j) = matrix.middleRows(j + 1, k - 1 - j).eval();
            else
                matrix.middleCols(j, k - 1 - j) = matrix.middleCols(j + 1, k - 1 - j).eval();
        };
        without(inverse_, true);
        without(inverse_, false);
        without(columns_, false);
        b_.segment(j, k - 1 - j) = b_.segment(j + 1, k - 1 - j).eval();
        inverse_.conservativeResize(k - 1, k - 1);
        columns_.conservativeResize(rows_, k - 1);
        b_.conservativeResize(k - 1);
        candidates_.erase(candidates_.begin() + static_cast<std::ptrdiff_t>(place));
    }

    const SaturationSpec& spec_;
    Eigen::Index base_, rows_;
    std::vector<Candidate> candidates_;
    Eigen::VectorXd y_;
    Eigen::MatrixXd columns_, inverse_;
    Eigen::VectorXd b_;
    double squares_ = 0;
    bool whole_ = false;  ///< no other block has candidates: what is not here is not a point

  public:
    Elimination& operator=(const Elimination& other) {
        base_ = other.base_, rows_ = other.rows_, candidates_ = other.candidates_, y_ = other.y_;
        columns_ = other.columns_, inverse_ = other.inverse_, b_ = other.b_, squares_ = other.squares_,
        whole_ = other.whole_;
        return *this;
    }
    Elimination(const Elimination&) = default;
};

std::vector<Candidate> allCandidates(std::size_t rows, const SaturationSpec& spec) {
    std::vector<Candidate> out;
    for (const IndicatorKind kind : spec.kinds)
        for (std::size_t row = 0; row < rows; ++row)
            if (isCandidate({kind, row}, rows)) out.push_back({kind, row});
    return out;
}

/// Neighbours go to different blocks.
std::vector<std::vector<Candidate>> dealt(const std::vector<Candidate>& candidates, std::size_t most) {
    const std::size_t blocks = (candidates.size() + most - 1) / most;
    std::vector<std::vector<Candidate>> out(blocks);
    for (std::size_t i = 0; i < candidates.size(); ++i) out[i % blocks].push_back(candidates[i]);
    return out;
}

/// What is left in one model: dropped, moved to the rows where they explain most, and dropped again.
std::vector<Candidate> inOneModel(const Eigen::VectorXd& y, const Eigen::MatrixXd& base,
                                  std::vector<Candidate> left, const SaturationSpec& spec) {
    constexpr std::size_t kReach = 12;
    constexpr int kRounds = 3;
    const auto reduce = [&] {
        Elimination whole(y, base, left, spec);
        whole.runWithDiagnostics();
        left = whole.left();
    };
    reduce();
    for (int round = 0; round < kRounds; ++round) {
        bool moved = false;
        for (std::size_t i = 0; i < left.size(); ++i) {
            const Elimination whole(y, base, left, spec);
            if (whole.left().size() != left.size()) break;  // one of them is a combination of others
            const std::size_t row = whole.bestRow(i, kReach, base);
            moved = moved || row != left[i].row;
            left[i].row = row;
        }
        if (!moved) break;
    }
    reduce();
    return left;
}

Status checkSpec(std::size_t rows, const SaturationSpec& spec) {
    if (rows < 20) return Error{fmt::format("{} rows are too few; at least 20 are needed", rows)};
    if (rows > 20'000)
        return Error{
            fmt::format("{} rows are too many; at most 20 000 are searched: take a longer step", rows)};
    if (!(spec.alpha > 0 && spec.alpha <= 0.2)) return Error{"the significance lies above 0 and up to 0.2"};
    return Done{};
}

}  // namespace

const char* indicatorKindName(IndicatorKind kind) {
    switch (kind) {
        case IndicatorKind::Point:
            return "point";
        case IndicatorKind::Level:
            return "level";
        case IndicatorKind::Trend:
            return "trend";
    }
    return "";
}

Result<IndicatorKind> indicatorKindNamed(const std::string& name) {
    for (const IndicatorKind kind : {IndicatorKind::Point, IndicatorKind::Level, IndicatorKind::Trend})
        if (name == indicatorKindName(kind)) return kind;
    return Error{fmt::format("`{}` is not a kind of indicator: point, level or trend", name)};
}

Diagnostics diagnosticsOf(std::span<const double> remainder) {
    const auto n = static_cast<double>(remainder.size());
    if (n < 8) return {};
    double mean = 0, m2 = 0, m3 = 0, m4 = 0;
    for (const double r : remainder) mean += r / n;
    for (const double r : remainder) {
        const double d = r - mean;
        m2 += d * d / n, m3 += d * d * d / n, m4 += d * d * d * d / n;
    }
    if (!(m2 > 0)) return {};
    const auto upper = [](double x, double degrees) {
        return boost::math::cdf(boost::math::complement(boost::math::chi_squared(degrees), x));
    };
    const double skew = m3 / std::pow(m2, 1.5), kurtosis = m4 / (m2 * m2);
    Diagnostics out;
    out.normality = upper(n / 6 * (skew * skew + (kurtosis - 3) * (kurtosis - 3) / 4), 2);
    const std::size_t lags = std::min<std::size_t>(10, remainder.size() / 5);
    double q = 0;
    for (std::size_t lag = 1; lag <= lags; ++lag) {
        double sum = 0;
        for (std::size_t i = lag; i < remainder.size(); ++i)
            sum += (remainder[i] - mean) * (remainder[i - lag] - mean);
        const double r = sum / (n * m2);
        q += r * r / (n - static_cast<double>(lag));
    }
    out.autocorrelation = upper(n * (n + 2) * q, static_cast<double>(lags));
    return out;
}

Result<Relation> saturate(std::span<const double> y, const std::vector<Regressor>& x,
                          const SaturationSpec& spec, const Progress& progress) {
    if (const Status good = checkSpec(y.size(), spec); !good) return good.error();
    auto before = leastSquares(y, x);
    if (!before) return before.error();
    const auto n = static_cast<Eigen::Index>(y.size()), k = static_cast<Eigen::Index>(x.size());
    Eigen::MatrixXd design(n, k);
    for (Eigen::Index j = 0; j < k; ++j)
        design.col(j) =
            Eigen::Map<const Eigen::VectorXd>(x[static_cast<std::size_t>(j)].values.data(), n).normalized();
    const Eigen::HouseholderQR<Eigen::MatrixXd> qr(design);
    const Eigen::MatrixXd base = qr.householderQ() * Eigen::MatrixXd::Identity(n, k);
    const Eigen::VectorXd target = Eigen::Map<const Eigen::VectorXd>(before->remainder.data(), n);
    const std::size_t most =
        std::min(kBlock, static_cast<std::size_t>(std::max<Eigen::Index>(2, (n - k) / 4 + 1)));
    std::vector<Candidate> left = allCandidates(y.size(), spec);
    Relation out;
    out.candidates = left.size();
    out.expectedByChance = spec.kinds.empty() ? 0 : spec.alpha * static_cast<double>(y.size());
    double done = 0.0;
    while (left.size() > most) {
        std::vector<Candidate> kept;
        const auto blocks = dealt(left, most);
        for (std::size_t i = 0; i < blocks.size(); ++i) {
            if (progress.stopped(done + (1 - done) * 0.8 * static_cast<double>(i) /
                                            static_cast<double>(blocks.size())))
                return Error::cancelled();
            Elimination block(target, base, blocks[i], spec);
            block.run();
            kept.insert(kept.end(), block.left().begin(), block.left().end());
        }
        done += (1 - done) * 0.8;
        std::sort(kept.begin(), kept.end(), [](const Candidate& a, const Candidate& b) {
            return std::pair(a.kind, a.row) < std::pair(b.kind, b.row);
        });
        if (kept.size() >= left.size()) break;  // nothing more to be dropped that way
        left = std::move(kept);
    }
    left = inOneModel(target, base, std::move(left), spec);
    std::sort(left.begin(), left.end(), [](const Candidate& a, const Candidate& b) { return a.row < b.row; });
    std::vector<Regressor> with = x;
    for (const Candidate& c : left) {
        const Eigen::VectorXd column = columnOf(c, n);
        with.push_back(
            {fmt::format("{} {}", indicatorKindName(c.kind), c.row), {column.begin(), column.end()}});
    }
    auto after = leastSquares(y, with);
    if (!after) return after.error();
    for (std::size_t i = 0; i < left.size(); ++i) {
        const Coefficient& c = after->coefficients[x.size() + i];
        out.found.push_back({left[i].kind, left[i].row, c.value, c.error, c.t});
    }
    out.diagnosticsBefore = diagnosticsOf(before->remainder);
    out.diagnosticsAfter = diagnosticsOf(after->remainder);
    out.before = std::move(*before);
    out.after = std::move(*after);
    return out;
}

}  // namespace jacinth
