// How wide and high the parts of a TimePlot are, in pixels.
#pragma once

namespace jacinth::app {

inline constexpr int kPlotLeft = 54;      ///< left of the panes, for the first scale's numbers
inline constexpr int kNarrowRight = 10;   ///< right of panes without a second scale
inline constexpr int kWideRight = 46;     ///< for each further scale
inline constexpr int kFoldedHeight = 18;  ///< of a pane that shows its names alone
inline constexpr int kAxisHeight = 22;    ///< of the time axis
inline constexpr int kBandHeight = 20;    ///< of states and lanes
inline constexpr int kPaneGap = 6;
inline constexpr int kLevelPull = 4;  ///< a handle pulled up or down by less was pulled sideways

}  // namespace jacinth::app
