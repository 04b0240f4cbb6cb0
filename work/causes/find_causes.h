// The causes that stand behind the excursions of a track of runs.
#pragma once

#include "core/causes/cause.h"
#include "work/limits/screening.h"

namespace jacinth {

/// An excursion and what explains it.
struct ExplainedExcursion {
    SpanId run;
    std::string role;
    TagId tag;
    Excursion excursion;
    int cause = 0;     ///< the id of a cause; 0: unexplained
    double share = 0;  ///< how much of its area that cause explains
};

struct FoundCauses {
    std::vector<Cause> causes;  ///< those that explain something, by id
    std::vector<ExplainedExcursion> excursions;
    /// Hours of the excursions of a cause, or with 0 of those that nothing explains; and how many they are.
    double hours(int cause) const;
    std::size_t count(int cause) const;
    const Cause* cause(int id) const;
};

/// Screens the runs of the track by the limits of that name (all where empty) and says for each excursion
/// which cause explains it: what is gone of its area when the effect of the cause is taken away and both
/// limits count, or for an event, what lies in its time. Excursions that were dismissed are left out. Fails
/// where it is stopped. Beside reading the runs twice it searches the record for steps.
Result<FoundCauses> findCauses(Study& study, TrackId track, const std::string& limits, const ScreenSpec& spec,
                               Which which = Which::Mended, const Progress& progress = {});

/// The same excursions, looked for again without some of the causes (their ids): the effects are taken away
/// before the runs are screened, and excursions in the time of an event do not count. What is left is
/// explained by the other causes, which keep their ids.
Result<FoundCauses> withoutCauses(Study& study, const FoundCauses& found, const std::vector<int>& without,
                                  TrackId track, const std::string& limits, const ScreenSpec& spec,
                                  Which which = Which::Mended, const Progress& progress = {});

}  // namespace jacinth
