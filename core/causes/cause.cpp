#include "core/causes/cause.h"

#include <algorithm>
#include <cmath>

namespace jacinth {

const char* causeKindName(CauseKind kind) {
    switch (kind) {
        case CauseKind::Step:
            return "step";
        case CauseKind::Drift:
            return "drift";
        case CauseKind::Process:
            return "process";
        case CauseKind::Event:
            return "event";
        case CauseKind::Asset:
            return "asset";
        case CauseKind::Gradual:
            return "gradual";
    }
    return "";
}

std::vector<CauseEffect> effectsOn(TagId tag, std::span<const Cause> causes, TimeRange in) {
    std::vector<CauseEffect> out;
    for (const Cause& cause : causes)
        for (const CauseEffect& effect : cause.effects)
            if (effect.tag == tag && effect.range.from < in.to && effect.range.to > in.from)
                out.push_back(effect);
    return out;
}

std::optional<Explained> bestExplained(std::span<const Explained> by) {
    constexpr double kLeastShare = 0.5, kAlike = 0.05, kAsFar = 0.6;
    double most = 0, furthest = 0;
    for (const Explained& e : by) most = std::max(most, e.share);
    if (most < kLeastShare) return {};
    const auto alike = [&](const Explained& e) { return e.share >= std::max(kLeastShare, most - kAlike); };
    for (const Explained& e : by)
        if (alike(e) && !std::isnan(e.push)) furthest = std::max(furthest, std::abs(e.push));
    std::optional<Explained> best;
    for (const Explained& e : by) {
        if (!alike(e) || std::abs(e.push) < kAsFar * furthest) continue;
        if (!best || e.kind < best->kind || (e.kind == best->kind && e.share > best->share)) best = e;
    }
    return best;
}

}  // namespace jacinth
