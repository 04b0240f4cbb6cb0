#include "core/shape/feedback.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace jacinth {
namespace {

/// With lines over what is missing, and the nearest value at the ends; empty where all is.
std::vector<double> bridged(const std::vector<double>& values) {
    std::vector<double> out = values;
    std::size_t last = values.size();
    for (std::size_t i = 0; i < values.size(); ++i) {
        if (!std::isfinite(values[i])) continue;
        const std::size_t from = last == values.size() ? 0 : last + 1;
        for (std::size_t k = from; k < i; ++k) {
            const double share =
                last == values.size() ? 1 : static_cast<double>(k - last) / static_cast<double>(i - last);
            out[k] = last == values.size() ? values[i] : values[last] + share * (values[i] - values[last]);
        }
        last = i;
    }
    if (last == values.size()) return {};
    for (std::size_t k = last + 1; k < out.size(); ++k) out[k] = values[last];
    return out;
}

double atPlace(const std::vector<double>& values, double place) {
    const auto below = static_cast<std::size_t>(place);
    if (below + 1 >= values.size()) return values.back();
    const double share = place - static_cast<double>(below);
    return values[below] + share * (values[below + 1] - values[below]);
}

}  // namespace

std::vector<double> comparable(const std::vector<std::vector<double>>& tags, std::size_t points, bool level,
                               const std::vector<double>& scale) {
    std::vector<double> out;
    out.reserve(tags.size() * points);
    for (std::size_t t = 0; t < tags.size(); ++t) {
        const std::vector<double> whole = bridged(tags[t]);
        if (whole.empty() || points < 2) {
            out.resize(out.size() + points, 0.0);
            continue;
        }
        std::vector<double> values(points);
        for (std::size_t i = 0; i < points; ++i)
            values[i] = atPlace(whole, static_cast<double>(i) * static_cast<double>(whole.size() - 1) /
                                           static_cast<double>(points - 1));
        double mean = 0, spread = 0;
        for (const double v : values) mean += v / static_cast<double>(points);
        for (const double v : values) spread += (v - mean) * (v - mean) / static_cast<double>(points);
        spread = std::sqrt(spread);
        const bool flat = spread <= 1e-12 * std::max(1.0, std::abs(mean));
        for (const double v : values)
            out.push_back(level ? (scale[t] > 0 ? v / scale[t] : 0) : flat ? 0 : (v - mean) / spread);
    }
    return out;
}

double shapeDistance(const std::vector<double>& a, const std::vector<double>& b) {
    double sum = 0;
    for (std::size_t i = 0; i < a.size(); ++i) sum += (a[i] - b[i]) * (a[i] - b[i]);
    return a.empty() ? 0 : std::sqrt(sum / static_cast<double>(a.size()));
}

std::vector<double> scoresAfter(const std::vector<double>& example,
                                const std::vector<std::vector<double>>& hits,
                                const std::vector<HitVerdict>& verdicts) {
    std::vector<double> out;
    for (std::size_t i = 0; i < hits.size(); ++i) {
        double near = shapeDistance(hits[i], example), far = std::numeric_limits<double>::infinity();
        for (std::size_t k = 0; k < hits.size(); ++k) {
            if (k == i || verdicts[k] == HitVerdict::Open) continue;
            const double away = shapeDistance(hits[i], hits[k]);
            double& least = verdicts[k] == HitVerdict::Accepted ? near : far;
            least = std::min(least, away);
        }
        out.push_back(far < near ? near * near / std::max(far, 1e-9) : near);
    }
    return out;
}

}  // namespace jacinth
