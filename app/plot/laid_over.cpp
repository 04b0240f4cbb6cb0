#include "app/plot/laid_over.h"

#include <algorithm>
#include <set>

#include "app/plot/tag_trace.h"
#include "store/judgement.h"
#include "work/mend/fix_in_hand.h"

namespace jacinth::app {
namespace {

bool isMended(const Session& session, TagId tag) {
    const auto& fixes = session.study().judgement().fixes(tag);
    return std::any_of(fixes.begin(), fixes.end(), [](const Fix& fix) { return fix.on; });
}

TraceSpec otherData(Session& session, const TraceSpec& of) {
    const bool mended = session.view().which() == Which::Mended;
    TraceSpec out = traceOf(session, of.tag, mended ? Which::AsLogged : Which::Mended);
    out.name = of.name + (mended ? " as logged" : " mended");
    out.colour = quietTrace(session.theme());
    out.style = mended ? Qt::SolidLine : Qt::DashLine;
    out.under = true;
    return out;
}

TraceSpec changeOf(Session& session, const TraceSpec& of) {
    TraceSpec out;
    out.name = of.name + ": what mending changed";
    out.unit = of.unit;
    out.colour = of.colour;
    out.bridging = {TagKind::Continuous, kWithoutEnd};
    out.ends = true;
    Session* s = &session;
    out.reading = [id = of.tag, s]() -> Reading {
        return [id, fixes = s->study().judgement().fixes(id)](Study& study, TimeRange range, int pixels) {
            return mendingChange(study, id, fixes, range, pixels);
        };
    };
    out.at = [id = of.tag, s](Instant t) {
        const Tag* tag = s->tag(id);
        try {
            return tag ? mendedBy(s->study(), *tag, s->study().judgement().fixes(id), t) : std::nan("");
        } catch (const StoreError&) {  // damaged there: no value
            return std::nan("");
        }
    };
    return out;
}

}  // namespace

std::vector<PaneSpec> withLaidOver(Session& session, std::vector<PaneSpec> panes) {
    const ViewState::LaidOver wanted = session.view().laidOver();
    if (!wanted.other && !wanted.change) return panes;
    PaneSpec changes;
    changes.zeroLine = true;
    changes.stretch = 0.7;
    std::set<TagId> known;
    for (PaneSpec& pane : panes) {
        std::vector<TraceSpec> others;
        for (const TraceSpec& trace : pane.traces) {
            if (!trace.tag || pane.folded || !isMended(session, trace.tag) || !known.insert(trace.tag).second)
                continue;
            if (wanted.other) others.push_back(otherData(session, trace));
            if (wanted.change) changes.traces.push_back(changeOf(session, trace));
        }
        std::move(others.begin(), others.end(), std::back_inserter(pane.traces));
    }
    if (!changes.traces.empty()) panes.push_back(std::move(changes));
    return panes;
}

}  // namespace jacinth::app
