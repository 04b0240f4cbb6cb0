// A series in parts: trend, cycle and remainder, added or multiplied.
#pragma once

#include <functional>
#include <span>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/base/result.h"

namespace jacinth {

/// All of the length of what was taken apart; NaN where a part is not known. Added: trend + cycle + remainder
/// is the series; multiplied: trend · cycle · remainder is.
struct Parts {
    std::vector<double> trend, cycle, remainder;
    bool multiplied = false;
};

/// Classical decomposition: trend is the centred moving average over one period (2×m where the period is
/// even), so half a period at either end has none; the cycle is the mean of what is left at each place in the
/// period, centred (sum 0, or mean 1 when multiplied). `y` evenly spaced, no NaN, two periods at least. Fails
/// for less, for a period below 2, and when multiplied for values that are not above 0.
Result<Parts> classicalParts(std::span<const double> y, int period, bool multiplied);

/// How LOESS smooths the parts (Cleveland et al. 1990). 0 means: as the paper recommends for the period.
struct LoessSpans {
    int cycle = 7;        ///< samples of one place in the period; odd, 3 at least
    int trend = 0;        ///< samples; odd; 0: the least odd number not below 1.5·period / (1 − 1.5/cycle)
    int lowPass = 0;      ///< samples; odd; 0: the least odd number above the period
    bool robust = false;  ///< bisquare weights against outliers: 15 outer rounds of 2, else one of 5
    /// Work out the smooth at every so many samples and draw lines between them; 0: at each, but at a tenth
    /// of the span where the series is so long that this would take seconds.
    int jump = 0;
};

/// STL, after the authors' published procedure; keeps the ends. Multiplied: of the logarithm, and back.
/// Stops between rounds. Conditions as for classicalParts.
Result<Parts> loessParts(std::span<const double> y, int period, bool multiplied, const LoessSpans& spans = {},
                         const Progress& progress = {});

/// Autocorrelation at lags 0 … most, of the series less its mean, divided by that at 0. `y` without NaN.
std::vector<double> autocorrelation(std::span<const double> y, std::size_t most);

/// The period that the autocorrelation shows, in samples: the lag of its first peak, after it first fell
/// below 0, that is at least 0.85 of the highest, up to a third of the series, of the series less its line.
/// `strength` is the value there. 0 where no peak is above 0.1 and above twice 1/√n.
struct PeriodGuess {
    int period = 0;
    double strength = 0;
};
PeriodGuess proposePeriod(std::span<const double> y);

/// Which of two ways of putting parts together fits better, and why.
struct KindProposal {
    bool multiplied = false;
    double repeatsAdded = 0, repeatsMultiplied = 0;  ///< autocorrelation of the remainder at the period
    double growsAdded = 0, growsMultiplied = 0;      ///< correlation of the remainder's size with the trend
    std::string reason;                              ///< one sentence for the user
};
/// Takes the series apart both ways (LOESS) and compares what the remainders still hold: |repetition at the
/// period| + |growth of its size with the level|; the lower sum wins, multiplied only where it also leaves no
/// more of the series unexplained. Added where values are not all above 0.
Result<KindProposal> proposeKind(std::span<const double> y, int period);

}  // namespace jacinth
