#include "app/survey/kept_lanes.h"

#include "app/base/label_menu.h"
#include "store/tracks.h"
#include "work/survey/kept_spans.h"

namespace jacinth::app {
namespace {

constexpr double kNear = 4;  // pixels to a span that is thinner than the pointer

/// Those of the lane, as they stand in the study.
std::vector<Span> spansOf(const Study& study, const PaneSpec& lane) {
    std::vector<Span> out = study.tracks().spans(lane.lane);
    std::erase_if(out, [&](const Span& s) { return s.asset != lane.laneOf; });
    return out;
}

/// The one under the pointer, or just beside it; of several the shortest: peaks stand on wider ones.
std::optional<Span> spanAt(const std::vector<Span>& spans, const TimePlot& plot, double x) {
    std::optional<Span> best;
    double least = kNear;
    for (const Span& s : spans) {
        const double from = plot.xOf(s.start), to = plot.xOf(s.end);
        const double away = x < from ? from - x : x > to ? x - to : 0;
        const bool shorter = best && away == least && s.end - s.start < best->end - best->start;
        if (away < least || shorter) best = s, least = away;
    }
    return best;
}

}  // namespace

std::vector<PaneSpec> lanesOfKept(Session& session) {
    std::vector<PaneSpec> out;
    for (const Track& track : keptTracks(session.study(), session.view().asset())) {
        PaneSpec& lane = out.emplace_back();
        lane.lane = track.id;
        lane.laneOf = session.view().asset();
        lane.title = QString::fromStdString(track.name);
    }
    return out;
}

void addLaneActions(QMenu& menu, Session& session, const TimePlot& plot, const PaneSpec& lane,
                    const QPoint& at) {
    const std::vector<Span> all = spansOf(session.study(), lane);
    if (const auto here = spanAt(all, plot, at.x())) {
        menu.addSection(QString("%1 · %2").arg(QString::fromStdString(session.zone().shortText(here->start)),
                                               QString::fromStdString(sayDuration(here->end - here->start))));
        addLabelMenu(
            menu, "Label it as", session, [here = *here] { return std::vector<Span>{here}; }, lane.title);
        menu.addAction("Look at it", &session, [&session, range = here->range(), tag = here->tag] {
            session.lookAt(session.view().asset(), tag);
            session.view().goTo(range.from, range.to);
        });
    }
    menu.addSection(lane.title + QString(": %1 spans").arg(all.size()));
    addLabelMenu(
        menu, QString("Label all %1 as").arg(all.size()), session, [all] { return all; }, lane.title);
    menu.addAction("Remove " + lane.title, &session, [&session, track = lane.lane] {
        session.tryChange([&] { session.report(removeKept(session.study(), track)); });
    });
}

}  // namespace jacinth::app
