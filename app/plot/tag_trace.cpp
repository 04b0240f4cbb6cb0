#include "app/plot/tag_trace.h"

#include "app/base/preferences.h"
#include "app/base/value_in_sight.h"
#include "app/plot/pane_layout.h"
#include "work/derived/derived_expressions.h"

namespace jacinth::app {

TraceSpec traceOf(Session& session, TagId id, std::optional<Which> which) {
    TraceSpec out;
    const Tag* tag = session.tag(id);
    if (!tag) return out;
    out.tag = id;
    out.name = QString::fromStdString(tag->name);
    out.unit = QString::fromStdString(tag->unit);
    out.colour = session.tagColour(id);
    out.bridging = tag->bridging();
    out.ends = !derivedText(session.study(), id).empty();
    Session* s = &session;
    out.reading = [s, id, which]() -> Reading {
        return [id, now = which.value_or(s->view().which())](Study& study, TimeRange range, int pixels) {
            const Tag* t = study.catalog().tag(id);
            return t ? study.columns(*t, range, pixels, now) : std::vector<Summary>{};
        };
    };
    out.at = [s, id, which](Instant t) {
        const Tag* known = s->tag(id);
        return known ? valueInSight(*s, *known, t, which.value_or(s->view().which())) : std::nan("");
    };
    return out;
}

Instant edgeAt(Session& session, const TimePlot& plot, TagId id, Instant t) {
    constexpr int kNear = 6;  // pixels
    const Instant second = std::chrono::floor<std::chrono::seconds>(t);
    const Tag* tag = session.tag(id);
    if (!tag || !Preferences::load().snap) return second;
    Duration near = plot.timeAt(kNear) - plot.timeAt(0);
    // Zoomed far out every moment is near to a sample: the next one is found close by.
    if (tag->spacing > Duration::zero()) near = std::min(near, 4 * tag->spacing);
    std::optional<Instant> best;
    try {
        const Series around = session.study().read(*tag, {t - near, t + near + kNanosecond}, Which::AsLogged);
        for (const Instant at : around.times)
            if (std::chrono::abs(at - t) <= near &&
                (!best || std::chrono::abs(at - t) < std::chrono::abs(*best - t)))
                best = at;
    } catch (const StoreError&) {  // damaged there: nothing to go to
    }
    return best.value_or(second);
}

std::vector<PaneSpec> panesOfShown(Session& session) {
    std::vector<PaneSpec> out;
    for (const PaneLayout::Pane& p : paneLayout(session).panes) {
        PaneSpec& pane = out.emplace_back();
        pane.folded = p.folded;
        for (const TagId id : p.tags) {
            const Tag* tag = session.tag(id);
            if (tag->kind == TagKind::State) {
                pane.states = id;
                continue;
            }
            TraceSpec trace = traceOf(session, id);
            // Two assets' tags of one role need their assets' names.
            if (tag->asset != session.view().asset()) trace.name = QString::fromStdString(tag->path());
            pane.traces.push_back(std::move(trace));
        }
        pane.stretch = pane.traces.size() > 1 ? 1.3 : 1;
    }
    return out;
}

}  // namespace jacinth::app
