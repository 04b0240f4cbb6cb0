// Which of the shown tags stand in which pane, in what order, and which panes are folded.
#pragma once

#include <QStringList>

#include "app/base/session.h"

namespace jacinth::app {

/// Tag ids, pane by pane; a folded pane is one line high.
struct PaneLayout {
    struct Pane {
        std::vector<TagId> tags;
        bool folded = false;
    };
    std::vector<Pane> panes;
};

/// The panes of the shown tags: as arranged by hand where they are, and by unit otherwise. State tags are
/// bands of their own below.
PaneLayout paneLayout(Session& session);

/// Arranges the shown tags: tags of one unit together, each in its own pane, or by system. A tag's
/// system is its fact `system`, or else the first word of its role: air_on_temp and air_off_temp are of the
/// air.
enum class Arrange { ByUnit, EachItsOwn, BySystem };
void arrange(Session& session, Arrange how);
/// Shows all of the asset's tags, by system, in one step.
void showAssetBySystem(Session& session);

/// Puts a tag (shown or not yet) into a pane; −1 or beyond the last: into a new one at the end.
void putIntoPane(Session& session, TagId tag, int pane);
void movePane(Session& session, int pane, int by);
void foldPane(Session& session, int pane, bool folded);
void hideTag(Session& session, TagId tag);

/// Layouts saved in the study, as roles, so that they serve every asset.
QStringList savedLayouts(Session& session);
void saveLayout(Session& session, const QString& name);
void useLayout(Session& session, const QString& name);

}  // namespace jacinth::app
