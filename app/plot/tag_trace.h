// A trace of a tag, as the shared view asks for it.
#pragma once

#include "app/plot/time_plot.h"

namespace jacinth::app {

/// Mended or as logged as the view says; `which` fixed where given.
TraceSpec traceOf(Session& session, std::int64_t tag, std::optional<Which> which = {});

/// The shown tags as panes, as they are laid out (see pane_layout).
std::vector<PaneSpec> panesOfShown(Session& session);

}  // namespace jacinth::app
