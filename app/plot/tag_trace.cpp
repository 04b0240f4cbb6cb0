#include "app/plot/tag_trace.h"

namespace jacinth::app {

TraceSpec traceOf(Session& session, std::int64_t id, std::optional<Which> which) {
    TraceSpec out;
    const Tag* tag = session.tag(id);
    if (!tag) return out;
    out.tag = id;
    out.name = QString::fromStdString(tag->name);
    out.unit = QString::fromStdString(tag->unit);
    out.colour = session.tagColour(id);
    out.bridging = tag->bridging();
    Session* s = &session;
    out.reading = [s, id, which]() -> Reading {
        return [id, now = which.value_or(s->view().which())](Study& study, TimeRange range, int pixels) {
            const Tag* t = study.catalog().tag(id);
            return t ? study.columns(*t, range, pixels, now) : std::vector<Summary>{};
        };
    };
    out.at = [s, id, which](Instant t) {
        const Tag* known = s->tag(id);
        return known ? s->study().valueAt(*known, t, which.value_or(s->view().which())) : std::nan("");
    };
    return out;
}

std::vector<PaneSpec> panesOfShown(Session& session, PaneGrouping grouping) {
    std::vector<PaneSpec> panes, bands;
    for (const std::int64_t id : session.view().shown()) {
        const Tag* tag = session.tag(id);
        if (!tag) continue;
        if (tag->kind == TagKind::State) {
            PaneSpec band;
            band.states = id;
            bands.push_back(std::move(band));
            continue;
        }
        TraceSpec trace = traceOf(session, id);
        // Two assets' tags of one role need their assets' names.
        if (tag->asset != session.view().asset()) trace.name = QString::fromStdString(tag->path());
        const auto same = std::find_if(panes.begin(), panes.end(), [&](const PaneSpec& p) {
            return grouping == PaneGrouping::ByUnit && !trace.unit.isEmpty() &&
                   p.traces[0].unit == trace.unit && p.traces.size() < 4;
        });
        if (same != panes.end())
            same->traces.push_back(std::move(trace));
        else
            panes.push_back(PaneSpec{{std::move(trace)}});
    }
    for (PaneSpec& p : panes) p.stretch = p.traces.size() > 1 ? 1.3 : 1;
    for (PaneSpec& b : bands) panes.push_back(std::move(b));
    return panes;
}

}  // namespace jacinth::app
