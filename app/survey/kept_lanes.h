// Lanes under the traces: the spans that the user keeps (peaks, clusters), and what can be done with them.
#pragma once

#include <QMenu>

#include "app/plot/time_plot.h"

namespace jacinth::app {

/// A lane for each track of kept spans that has some on the current asset.
std::vector<PaneSpec> lanesOfKept(Session& session);

/// Fills a menu for a lane of a plot: label the span that lies there, or all of the lane; look at it; remove
/// the lane. `at` is where the pointer is, in the plot.
void addLaneActions(QMenu& menu, Session& session, const TimePlot& plot, const PaneSpec& lane,
                    const QPoint& at);

}  // namespace jacinth::app
