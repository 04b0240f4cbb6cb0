// Excursions counted: by week, phase, asset, tag or a fact of their runs; and whether they became more.
#pragma once

#include "core/stats/change.h"
#include "work/limits/screening.h"

namespace jacinth {

enum class CountBy { Week, Phase, ByAsset, ByTag, RunFact, AssetGroup };

struct ExcursionCount {
    std::string name;         ///< of a week its first day
    std::size_t count = 0;    ///< excursions that begin there
    double hours = 0;         ///< outside the limits there; over phases and weeks shared out where they cross
    std::size_t runs = 0;     ///< runs that have one
    std::size_t allRuns = 0;  ///< runs there are
    Instant from{};           ///< of a week
};

/// Weeks in order of time (calendar weeks of the plant's zone, Monday first, also those without any); all
/// else by hours, most first. `fact` names the fact of runs for CountBy::RunFact, that of assets for
/// CountBy::AssetGroup.
std::vector<ExcursionCount> countExcursions(const Study& study, const std::vector<Span>& runs,
                                            const std::vector<KeptExcursion>& excursions, CountBy by,
                                            const std::string& fact = {});

/// Facts that distinguish runs: texts with 2 to 30 different values.
std::vector<std::string> countableFacts(const std::vector<Span>& runs);

/// The change of the number of excursions a run, over the runs in order of their start.
struct ExcursionChange {
    CountChange change;
    Instant at{}, from{}, to{};  ///< starts of the runs that the indices stand for
};
std::optional<ExcursionChange> changeOverTime(const std::vector<Span>& runs,
                                              const std::vector<KeptExcursion>& excursions);

/// An area in unit × h with three digits; large ones with separators: `12 300 °C·h`.
std::string areaText(double area, const std::string& unit);

}  // namespace jacinth
