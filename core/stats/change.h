// Whether counts in order of time changed once, when, and how sure that is.
#pragma once

#include <cstddef>
#include <optional>
#include <span>

namespace jacinth {

/// One change of the rate of counts. Indices are of the first count after the change.
struct CountChange {
    std::size_t at = 0;
    std::size_t from = 0, to = 0;  ///< 95 % range of `at`, both included
    double before = 0, after = 0;  ///< mean counts
    double probability = 1;        ///< of a change as clear as this among counts in random order
};

/// The split into two Poisson rates with the greatest likelihood (Worsley 1986). The range holds every split
/// whose log-likelihood is within 1.92·φ of it (half the 95 % point of chi-square with one degree; φ, at
/// least 1, is Pearson's dispersion about the two rates, so that counts that come in clumps give a wide
/// range). The
/// probability is by permutation: the share of 999 random orders (fixed seed, so the same counts always give
/// the same) that split as clearly, counting the order given; it holds for counts that are no Poisson ones
/// too. At least 3 counts on either side; nothing for fewer than 6, or for counts that are all the same.
std::optional<CountChange> changeInCounts(std::span<const double> counts);

}  // namespace jacinth
