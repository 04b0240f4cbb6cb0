// Sizes with their errors, and several of them made one.
#pragma once

#include <vector>

namespace jacinth {

/// A size and its standard error.
struct Estimate {
    double size = 0, error = 0;
};

/// The mean by certainty; its error is that of the surest one or, where they disagree by more than their
/// errors say, as much as they do (Birge 1932). They may share samples.
Estimate together(const std::vector<Estimate>& of);

}  // namespace jacinth
