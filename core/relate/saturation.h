// A relation between tags, and the moments at which it does not hold: indicators for single points, level
// shifts and trend breaks, chosen out of more candidates than there are rows.
#pragma once

#include "core/base/progress.h"
#include "core/relate/least_squares.h"

namespace jacinth {

/// 1 at one row; 1 from a row on; rising by 1 per row from a row on (0 there).
enum class IndicatorKind { Point, Level, Trend };
const char* indicatorKindName(IndicatorKind kind);  ///< point, level, trend
Result<IndicatorKind> indicatorKindNamed(const std::string& name);

struct SaturationSpec {
    /// About alpha times the number of rows survive by chance, over all kinds together.
    double alpha = 0.01;
    std::vector<IndicatorKind> kinds{IndicatorKind::Point, IndicatorKind::Level};
};

struct FoundIndicator {
    IndicatorKind kind = IndicatorKind::Point;
    std::size_t row = 0;  ///< at which it begins
    double size = 0, error = 0, t = 0;
};

/// What the remainder still tells: probabilities of it where the remainder is independent and normal.
struct Diagnostics {
    double autocorrelation = 1;  ///< Ljung & Box (1978) over the first ten lags, or a fifth of the rows
    double normality = 1;        ///< Jarque & Bera (1980)
};
Diagnostics diagnosticsOf(std::span<const double> remainder);

struct Relation {
    LeastSquares before, after;  ///< without indicators; with those found (they come last)
    Diagnostics diagnosticsBefore, diagnosticsAfter;
    std::vector<FoundIndicator> found;  ///< by row
    std::size_t candidates = 0;
    double expectedByChance = 0;  ///< how many of `found` chance would give
};

/// Indicator saturation (Hendry, Johansen & Santos 2008 for points; Castle, Doornik, Hendry & Pretis 2015 for
/// levels; Doornik, Hendry & Pretis for trends). The regressors stay in every model. The candidates are dealt
/// out to blocks, neighbours to different ones; from each block the least significant is dropped until all
/// that are left are significant; what the blocks keep is put together and dealt with alike until it is one
/// model, in which they move by up to twelve rows to where they explain most. In that model a candidate is
/// kept, too, where without it the remainder would fail a diagnostic test (p < 0.01) that it passes with it.
///
/// Levels and trends that stand beside each other make each other significant, so that at a plain alpha more
/// of them survive than points would: their own level comes from simulation on white noise
/// (ownLevel in the .cpp). Rows are in order of time and equally far apart; from 20 to 20 000 of them. Fails
/// for fewer or more, for an alpha outside (0, 0.2], where the regressors fail leastSquares, and where it is
/// stopped. About n² multiplications for each block of 60 candidates.
Result<Relation> saturate(std::span<const double> y, const std::vector<Regressor>& x,
                          const SaturationSpec& spec, const Progress& progress = {});

}  // namespace jacinth
