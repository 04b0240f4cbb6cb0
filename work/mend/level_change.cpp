#include "work/mend/level_change.h"

#include <cmath>

#include "work/mend/mending.h"

namespace jacinth {
namespace {

constexpr std::size_t kFewest = 3;

Result<RobustLevel> levelIn(const Study& study, const Fix& fix, TimeRange range) {
    const Tag* tag = study.catalog().tag(fix.tag);
    if (!tag) return Error{"the tag is not in this study"};
    const Series read = study.readForFigures(*tag, range, fixesBefore(study, fix));
    const SeriesView inside = read.view().within(range);
    std::vector<double> values;
    for (std::size_t i = 0; i < inside.size(); ++i)
        if (inside.usable(i)) values.push_back(inside.values[i]);
    if (values.size() < kFewest)
        return Error{"there are too few samples from " + study.zone().text(range.from) + " to " +
                     study.zone().text(range.to) + " for a level"};
    return robustLevel(std::move(values));
}

}  // namespace

double toErrorDigits(double size, double error) {
    if (!(error > 0) || !std::isfinite(error)) return size;
    const double digit = std::floor(std::log10(error));
    return digit >= 0 ? std::round(size / std::pow(10, digit)) * std::pow(10, digit)
                      : std::round(size * std::pow(10, -digit)) / std::pow(10, -digit);
}

double LevelChange::takenOutBy() const {
    return -toErrorDigits(size, error);
}

Result<LevelChange> levelChange(const Study& study, const Fix& fix, TimeRange before, TimeRange after) {
    const auto a = levelIn(study, fix, before);
    if (!a) return a.error();
    const auto b = levelIn(study, fix, after);
    if (!b) return b.error();
    return LevelChange{*a, *b, b->value - a->value, std::hypot(a->error, b->error)};
}

Result<LevelChange> levelChangeAtEnds(const Study& study, const Fix& fix, Duration margin) {
    const Instant end = fix.to + kNanosecond;
    // Within a short stretch the two sides share what there is.
    const Duration inside = std::min(margin, (end - fix.from) / 2);
    const auto start = levelChange(study, fix, {fix.from - margin, fix.from}, {fix.from, fix.from + inside});
    if (!start) return start.error();
    const Tag* tag = study.catalog().tag(fix.tag);
    const auto extent = study.reader(tag->id).extent(tag->id);
    if (!extent || end >= extent->to) return start;
    const auto back = levelChange(study, fix, {end, end + margin}, {end - inside, end});
    if (!back) return start;
    // Two measures of one step; each weighs by how sure it is, alike where neither says.
    const double a = start->error > 0 ? 1 / (start->error * start->error) : 1;
    const double b = back->error > 0 ? 1 / (back->error * back->error) : 1;
    LevelChange out = *start;
    out.size = (a * start->size + b * back->size) / (a + b);
    out.error =
        start->error > 0 && back->error > 0 ? 1 / std::sqrt(a + b) : std::max(start->error, back->error);
    return out;
}

}  // namespace jacinth
