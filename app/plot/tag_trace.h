// A trace of a tag, as the shared view asks for it.
#pragma once

#include "app/plot/time_plot.h"

namespace jacinth::app {

/// Mended or as logged as the view says; `which` fixed where given.
TraceSpec traceOf(Session& session, std::int64_t tag, std::optional<Which> which = {});

enum class PaneGrouping { ByUnit, EachItsOwn };

/// The shown tags as panes, in the order of showing: tags of one unit together (four at most) or each in its
/// own; states as bands below.
std::vector<PaneSpec> panesOfShown(Session& session, PaneGrouping grouping);

}  // namespace jacinth::app
