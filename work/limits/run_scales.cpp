#include "work/limits/run_scales.h"

namespace jacinth {

RunScales::RunScales(Study& study, TrackId track, const LimitSpec& spec, std::vector<PhaseSlot> slots,
                     Which which)
    : study_(study), spec_(spec), slots_(std::move(slots)), which_(which) {
    if (spec_.lineUp == LineUp::Phases) phases_ = phasesOf(study, track);
}

RunScale RunScales::of(const Span& run) const {
    switch (spec_.lineUp) {
        case LineUp::Start:
            return scaleFromStart(run.range());
        case LineUp::End:
            return scaleFromEnd(run.range());
        case LineUp::Phases: {
            const auto found = phases_.find(run.id);
            if (found == phases_.end()) return {};
            return scaleByPhases(run.range(), found->second, slots_);
        }
        case LineUp::Indicator: {
            const Tag* tag = study_.catalog().tagInRole(run.asset, spec_.indicator);
            if (!tag) return {};
            return scaleByIndicator(study_.readForFigures(*tag, {run.start, run.end + kNanosecond}, which_),
                                    run.range());
        }
    }
    return {};
}

Result<std::vector<PhaseSlot>> slotsFor(const Study& study, TrackId track, const LimitSpec& spec,
                                        const std::vector<SpanId>& golden) {
    if (spec.lineUp != LineUp::Phases) return std::vector<PhaseSlot>{};
    const PhasesOfRuns all = phasesOf(study, track);
    std::vector<std::vector<RunPhase>> chosen;
    for (const SpanId run : golden)
        if (const auto found = all.find(run); found != all.end()) chosen.push_back(found->second);
    std::vector<PhaseSlot> slots = phaseSlots(chosen);
    if (slots.empty())
        return Error{"these runs have no phases yet; say what the phases are and find the runs again"};
    return slots;
}

}  // namespace jacinth
