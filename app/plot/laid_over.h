// As logged, mended, and their difference over any plot of tags, where the view asks for it.
#pragma once

#include "app/plot/time_plot.h"

namespace jacinth::app {

/// The panes with what the view lays over them: for tags with fixes that are on, the other data beneath their
/// traces, and a last pane with what mending changed. The panes that were given keep their places, and their
/// traces theirs.
std::vector<PaneSpec> withLaidOver(Session& session, std::vector<PaneSpec> panes);

}  // namespace jacinth::app
