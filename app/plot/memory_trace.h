// Traces of what was calculated and is not (yet) on record.
#pragma once

#include "app/plot/time_plot.h"

namespace jacinth::app {

/// A trace of a series in memory; shared, so that drawing it on the reading thread copies nothing.
TraceSpec memoryTrace(const std::shared_ptr<const Series>& series, const QString& name, const QString& unit,
                      const QColor& colour, const Bridging& bridging);

}  // namespace jacinth::app
