#include "core/mend/fix.h"

#include <fmt/format.h>

#include <cmath>

#include "core/stats/stats.h"

namespace jacinth {

const char* fixKindName(FixKind kind) {
    return kind == FixKind::Shift ? "shift" : "ramp";
}

Result<FixKind> fixKindNamed(const std::string& name) {
    if (name == "shift") return FixKind::Shift;
    if (name == "ramp") return FixKind::Ramp;
    return Error{fmt::format("`{}` is not a kind of fix; shift and ramp are", name)};
}

double Fix::changeAt(Instant t) const {
    if (!on || t < from || t > to) return 0;
    if (kind == FixKind::Shift || to == from) return startBy;
    return startBy + (endBy - startBy) * (toNanoseconds(t - from) / toNanoseconds(to - from));
}

Status validateFix(const Fix& fix) {
    if (fix.to < fix.from) return Error{"the fix ends before it starts"};
    if (fix.kind == FixKind::Ramp && fix.to == fix.from) return Error{"a ramp needs a start and a later end"};
    if (!std::isfinite(fix.startBy) || !std::isfinite(fix.endBy)) return Error{"the amount is not a number"};
    return Done{};
}

void applyFixes(std::span<const Fix> fixes, Series& series) {
    for (const Fix& fix : fixes) {
        if (!fix.on) continue;
        for (std::size_t i = firstNotBefore(series.times, fix.from);
             i < series.size() && series.times[i] <= fix.to; ++i)
            series.values[i] += fix.changeAt(series.times[i]);
    }
}

double changeAt(std::span<const Fix> fixes, Instant t) {
    double sum = 0;
    for (const Fix& fix : fixes) sum += fix.changeAt(t);
    return sum;
}

Result<RampFit> fitRamp(const SeriesView& series, const Bridging& bridging, TimeRange stretch,
                        std::span<const CheckReading> readings, std::optional<double> fixedStart) {
    std::vector<double> along, off;  // position in the stretch, 0 to 1; reading − value
    for (const CheckReading& r : readings) {
        if (r.time < stretch.from || r.time > stretch.to) continue;
        const double value = valueAt(series, bridging, r.time);
        if (!std::isfinite(value)) continue;
        along.push_back(toNanoseconds(r.time - stretch.from) / toNanoseconds(stretch.length()));
        off.push_back(r.value - value);
    }
    const std::size_t needed = fixedStart ? 1 : 2;
    if (stretch.length() <= Duration::zero() || along.size() < needed)
        return Error{fmt::format("{} check reading{} in this stretch; a ramp needs {}", along.size(),
                                 along.size() == 1 ? "" : "s", needed)};
    RampFit fit;
    fit.readings = static_cast<int>(along.size());
    if (fixedStart) {
        double sxx = 0, sxy = 0;
        for (std::size_t i = 0; i < along.size(); ++i) {
            sxx += along[i] * along[i];
            sxy += along[i] * (off[i] - *fixedStart);
        }
        if (sxx <= 0) return Error{"the only check reading lies at the fixed start"};
        fit.startBy = *fixedStart;
        fit.endBy = *fixedStart + sxy / sxx;
    } else {
        const Line line = fitLine(along, off);
        if (!std::isfinite(line.slope)) return Error{"the check readings all lie at one moment"};
        fit.startBy = line.intercept;
        fit.endBy = line.intercept + line.slope;
    }
    double before = 0, after = 0;
    for (std::size_t i = 0; i < along.size(); ++i) {
        const double left = off[i] - (fit.startBy + (fit.endBy - fit.startBy) * along[i]);
        before += off[i] * off[i];
        after += left * left;
    }
    fit.misfitBefore = std::sqrt(before / static_cast<double>(along.size()));
    fit.misfitAfter = std::sqrt(after / static_cast<double>(along.size()));
    return fit;
}

}  // namespace jacinth
