#include "work/base/on_step.h"

#include "core/series/value_at.h"

namespace jacinth {

std::vector<double> valuesOnStep(const Study& study, const Tag& tag, TimeRange range, Duration step,
                                 Which which) {
    const Series read = study.readForFigures(tag, range, which);
    ValueWalk walk(read, tag.bridging());
    std::vector<double> out;
    for (Instant t = range.from; t < range.to; t += step) out.push_back(walk.at(t));
    return out;
}

}  // namespace jacinth
