// The tree of the plant panel: rows of groups, assets and tags, drawn with their sketches, and dragged by id.
#pragma once

#include <QTreeWidget>
#include <functional>

#include "app/base/session.h"

namespace jacinth::app {

/// What a row of the tree carries.
namespace plant_role {
inline constexpr int kTag = Qt::UserRole, kAsset = Qt::UserRole + 1, kDerived = Qt::UserRole + 2,
                     kGroup = Qt::UserRole + 3,  ///< its value
    kCount = Qt::UserRole + 4;                   ///< of assets, on rows of groups alone
}  // namespace plant_role

/// Small pictures of tags over the time in view.
struct Sketches {
    std::function<const std::vector<Summary>&(TagId)> of;
    std::function<TimeRange()> view;
};
/// Drawn row by row: there may be ten thousand.
QTreeWidget* makePlantTree(Session& session, Sketches sketches);

/// A row for a tag below its asset's.
QTreeWidgetItem* addTagItem(QTreeWidgetItem* asset, const Session& session, const Tag& tag);

}  // namespace jacinth::app
