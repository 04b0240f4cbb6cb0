#include "app/plot/pane_layout.h"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/base/parse_json.h"
#include "store/json_body.h"

namespace jacinth::app {
namespace {

constexpr std::size_t kMostInPane = 4;

bool isState(Session& session, TagId id) {
    const Tag* t = session.tag(id);
    return t && t->kind == TagKind::State;
}

/// Adds a tag to the first pane that `fits`, or to a new one.
template <typename Fits>
void place(PaneLayout& layout, TagId tag, std::size_t most, Fits fits) {
    const auto found = std::find_if(layout.panes.begin(), layout.panes.end(), [&](const PaneLayout::Pane& p) {
        return p.tags.size() < most && fits(p.tags.front());
    });
    if (found != layout.panes.end())
        found->tags.push_back(tag);
    else
        layout.panes.push_back({{tag}, false});
}

void placeByUnit(Session& session, PaneLayout& layout, TagId id) {
    const Tag* tag = session.tag(id);
    place(layout, id, kMostInPane, [&](TagId first) {
        const Tag* other = session.tag(first);
        return tag && other && !tag->unit.empty() && tag->unit == other->unit && !isState(session, first);
    });
}

void store(Session& session, const PaneLayout& layout) {
    std::vector<ViewState::ArrangedPane> panes;
    std::vector<TagId> shown;
    for (const PaneLayout::Pane& p : layout.panes) {
        panes.push_back({p.tags, p.folded});
        shown.insert(shown.end(), p.tags.begin(), p.tags.end());
    }
    session.view().setArrangement(std::move(panes));
    session.view().setShown(std::move(shown));
}

void dropEmpty(PaneLayout& layout) {
    std::erase_if(layout.panes, [](const PaneLayout::Pane& p) { return p.tags.empty(); });
}

void takeOut(PaneLayout& layout, TagId tag) {
    for (PaneLayout::Pane& p : layout.panes) std::erase(p.tags, tag);
}

nlohmann::json layoutsOf(Session& session) {
    auto j = parseJson(session.study().setting("layouts", "{}"));
    return j.is_object() ? j : nlohmann::json::object();
}

}  // namespace

PaneLayout paneLayout(Session& session) {
    const auto& shown = session.view().shown();
    PaneLayout out;
    std::vector<TagId> placed, states;
    for (const ViewState::ArrangedPane& p : session.view().arrangement()) {
        PaneLayout::Pane pane{{}, p.folded};
        for (const TagId id : p.tags)
            if (session.tag(id) && std::find(shown.begin(), shown.end(), id) != shown.end()) {
                pane.tags.push_back(id);
                placed.push_back(id);
            }
        if (!pane.tags.empty()) out.panes.push_back(std::move(pane));
    }
    for (const TagId id : shown) {
        if (!session.tag(id) || std::find(placed.begin(), placed.end(), id) != placed.end()) continue;
        if (isState(session, id))
            states.push_back(id);
        else
            placeByUnit(session, out, id);
    }
    for (const TagId id : states) out.panes.push_back({{id}, false});
    // Bands stand below the panes, whatever order they were shown in.
    std::stable_partition(out.panes.begin(), out.panes.end(),
                          [&](const PaneLayout::Pane& p) { return !isState(session, p.tags.front()); });
    return out;
}

void arrange(Session& session, Arrange how) {
    PaneLayout out;
    for (const TagId id : session.view().shown()) {
        const Tag* tag = session.tag(id);
        if (!tag) continue;
        if (how == Arrange::EachItsOwn || isState(session, id))
            out.panes.push_back({{id}, false});
        else if (how == Arrange::ByUnit)
            placeByUnit(session, out, id);
        else
            place(out, id, 6, [&](TagId first) {
                const Tag* other = session.tag(first);
                return other && tag->system() == other->system() && !isState(session, first);
            });
    }
    store(session, out);
}

void showAssetBySystem(Session& session) {
    std::vector<TagId> all;
    for (const Tag& t : session.study().catalog().tags())
        if (t.asset == session.view().asset()) all.push_back(t.id);
    session.view().setShown(std::move(all));
    arrange(session, Arrange::BySystem);
}

void putIntoPane(Session& session, TagId tag, int pane) {
    PaneLayout layout = paneLayout(session);
    const bool into = pane >= 0 && pane < static_cast<int>(layout.panes.size()) && !isState(session, tag) &&
                      !isState(session, layout.panes[static_cast<std::size_t>(pane)].tags.front());
    takeOut(layout, tag);
    if (into)
        layout.panes[static_cast<std::size_t>(pane)].tags.push_back(tag);
    else
        layout.panes.push_back({{tag}, false});
    dropEmpty(layout);
    store(session, layout);
}

void movePane(Session& session, int pane, int by) {
    PaneLayout layout = paneLayout(session);
    const int to = pane + by;
    if (pane < 0 || to < 0 || std::max(pane, to) >= static_cast<int>(layout.panes.size())) return;
    std::swap(layout.panes[static_cast<std::size_t>(pane)], layout.panes[static_cast<std::size_t>(to)]);
    store(session, layout);
}

void foldPane(Session& session, int pane, bool folded) {
    PaneLayout layout = paneLayout(session);
    if (pane < 0 || pane >= static_cast<int>(layout.panes.size())) return;
    layout.panes[static_cast<std::size_t>(pane)].folded = folded;
    store(session, layout);
}

void hideTag(Session& session, TagId tag) {
    PaneLayout layout = paneLayout(session);
    takeOut(layout, tag);
    dropEmpty(layout);
    store(session, layout);
}

QStringList savedLayouts(Session& session) {
    QStringList out;
    const auto all = layoutsOf(session);  // a temporary would be gone before its items
    for (const auto& [name, panes] : all.items()) out << QString::fromStdString(name);
    return out;
}

void saveLayout(Session& session, const QString& name) {
    auto all = layoutsOf(session);
    auto panes = nlohmann::json::array();
    for (const PaneLayout::Pane& p : paneLayout(session).panes) {
        auto roles = nlohmann::json::array();
        for (const TagId id : p.tags) roles.push_back(session.tag(id)->role);
        panes.push_back({{"roles", roles}, {"folded", p.folded}});
    }
    all[name.toStdString()] = panes;
    session.study().setSetting("layouts", all.dump());
}

void useLayout(Session& session, const QString& name) {
    const auto all = layoutsOf(session);
    const auto found = all.find(name.toStdString());
    if (found == all.end()) return;
    PaneLayout layout;
    for (const auto& p : *found) {
        JsonBody body(p);
        PaneLayout::Pane pane{{}, body.flag("folded", false)};
        for (const auto& role : body.member("roles"))
            if (role.is_string())
                if (const Tag* t =
                        session.study().catalog().tagInRole(session.view().asset(), role.get<std::string>()))
                    pane.tags.push_back(t->id);
        layout.panes.push_back(std::move(pane));
    }
    dropEmpty(layout);
    if (!layout.panes.empty()) store(session, layout);
}

}  // namespace jacinth::app
