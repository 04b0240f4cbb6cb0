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
    out.read = [s, id, which](TimeRange range, int pixels) {
        const Tag* t = s->tag(id);
        return t ? s->study().columns(*t, range, pixels, which.value_or(s->view().which()))
                 : std::vector<Summary>{};
    };
    out.at = [s, id, which](Instant t) {
        const Tag* known = s->tag(id);
        return known ? s->study().valueAt(*known, t, which.value_or(s->view().which())) : std::nan("");
    };
    return out;
}

}  // namespace jacinth::app
