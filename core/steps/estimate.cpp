#include "core/steps/estimate.h"

#include <algorithm>
#include <cmath>

namespace jacinth {

Estimate together(const std::vector<Estimate>& of) {
    double weights = 0, sum = 0, surest = 0;
    for (const Estimate& e : of) {
        weights += 1 / (e.error * e.error);
        sum += e.size / (e.error * e.error);
        if (surest == 0 || e.error < surest) surest = e.error;
    }
    const double size = sum / weights;
    double square = 0;
    for (const Estimate& e : of) square += (e.size - size) * (e.size - size) / (e.error * e.error);
    const double apart = of.size() > 1 ? std::sqrt(square / static_cast<double>(of.size() - 1)) : 0;
    return {size, std::max(surest, apart / std::sqrt(weights))};
}

}  // namespace jacinth
