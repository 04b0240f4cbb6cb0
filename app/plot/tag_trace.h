// A trace of a tag, as the shared view asks for it.
#pragma once

#include "app/plot/time_plot.h"

namespace jacinth::app {

/// Mended or as logged as the view says; `which` fixed where given.
TraceSpec traceOf(Session& session, TagId tag, std::optional<Which> which = {});

/// Where an edge goes that was dragged to `t` in a plot: to the nearest sample of the tag within a few
/// pixels, as the user prefers it; else, and without a tag, to the whole second.
Instant edgeAt(Session& session, const TimePlot& plot, TagId tag, Instant t);

/// The shown tags as panes, as they are laid out (see pane_layout).
std::vector<PaneSpec> panesOfShown(Session& session);

}  // namespace jacinth::app
