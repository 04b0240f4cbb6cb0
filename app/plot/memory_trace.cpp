#include "app/plot/memory_trace.h"

#include "core/series/value_at.h"

namespace jacinth::app {

TraceSpec memoryTrace(const std::shared_ptr<const Series>& series, const QString& name, const QString& unit,
                      const QColor& colour, const Bridging& bridging) {
    TraceSpec out;
    out.name = name;
    out.unit = unit;
    out.colour = colour;
    out.bridging = bridging;
    out.reading = [series]() -> Reading {
        return [series](Study&, TimeRange range, int pixels) {
            const SeriesView all = *series;
            std::size_t a = firstNotBefore(all.times, range.from), b = firstNotBefore(all.times, range.to);
            if (a > 0) --a;
            if (b < all.size()) ++b;
            ColumnBuilder builder(range, pixels);
            builder.add(SeriesView{all.times.subspan(a, b - a), all.values.subspan(a, b - a), {}});
            return builder.take();
        };
    };
    out.at = [series, bridging](Instant t) { return valueAt(*series, bridging, t); };
    return out;
}

}  // namespace jacinth::app
