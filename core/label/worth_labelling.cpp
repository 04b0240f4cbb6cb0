#include "core/label/worth_labelling.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace jacinth {
namespace {

double medianOf(std::vector<double> values) {
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

/// Scaled figures; those without spread are left out.
std::vector<std::vector<double>> scaledFigures(const std::vector<StretchFigures>& stretches) {
    std::vector<std::vector<double>> out(stretches.size());
    const std::size_t count = stretches.empty() ? 0 : stretches.front().figures.size();
    for (std::size_t f = 0; f < count; ++f) {
        std::vector<double> known;
        for (const StretchFigures& s : stretches)
            if (std::isfinite(s.figures[f])) known.push_back(s.figures[f]);
        if (known.size() < 3) continue;
        const double middle = medianOf(known);
        for (double& v : known) v = std::abs(v - middle);
        const double spread = 1.4826 * medianOf(known);
        if (spread <= 0) continue;
        for (std::size_t i = 0; i < stretches.size(); ++i)
            out[i].push_back((stretches[i].figures[f] - middle) / spread);
    }
    return out;
}

/// Infinite where they have nothing in common.
double apart(const std::vector<double>& a, const std::vector<double>& b) {
    double sum = 0;
    std::size_t count = 0;
    for (std::size_t i = 0; i < a.size(); ++i)
        if (std::isfinite(a[i]) && std::isfinite(b[i])) sum += (a[i] - b[i]) * (a[i] - b[i]), ++count;
    return count == 0 ? std::numeric_limits<double>::infinity() : std::sqrt(sum / static_cast<double>(count));
}

}  // namespace

std::vector<WorthLabelling> worthLabelling(const std::vector<StretchFigures>& stretches, std::size_t most) {
    const auto figures = scaledFigures(stretches);
    const std::vector<double> middle(figures.empty() ? 0 : figures.front().size(), 0.0);
    std::vector<WorthLabelling> unlike, alike;
    std::vector<double> toUnsure;
    for (std::size_t i = 0; i < stretches.size(); ++i) {
        if (stretches[i].labelled) continue;
        WorthLabelling far{i, std::numeric_limits<double>::infinity(), false, i},
            near{i, far.distance, true, i};
        for (std::size_t k = 0; k < stretches.size(); ++k) {
            if (!stretches[k].labelled) continue;
            const double d = apart(figures[i], figures[k]);
            if (d < far.distance) far.distance = d, far.nearest = k;
            if (stretches[k].unsure && d < near.distance) near.distance = d, near.nearest = k;
        }
        if (!std::isfinite(far.distance)) far.distance = apart(figures[i], middle);
        if (std::isfinite(far.distance)) unlike.push_back(far);
        if (!std::isfinite(near.distance)) continue;
        alike.push_back(near);
        toUnsure.push_back(near.distance);
    }
    const double usual = toUnsure.empty() ? 0 : medianOf(toUnsure);
    std::erase_if(alike, [&](const WorthLabelling& w) { return w.distance >= usual; });
    std::stable_sort(alike.begin(), alike.end(),
                     [](const auto& a, const auto& b) { return a.distance < b.distance; });
    std::stable_sort(unlike.begin(), unlike.end(),
                     [](const auto& a, const auto& b) { return a.distance > b.distance; });
    if (alike.size() > most / 2) alike.resize(most / 2);
    for (const WorthLabelling& w : unlike) {
        if (alike.size() >= most) break;
        if (std::none_of(alike.begin(), alike.end(), [&](const auto& a) { return a.stretch == w.stretch; }))
            alike.push_back(w);
    }
    return alike;
}

}  // namespace jacinth
