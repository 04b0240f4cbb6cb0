// The assets of a plant in a choice, and what “the whole fleet” means while one group is looked at alone.
#pragma once

#include <QComboBox>

#include "app/base/session.h"

namespace jacinth::app {

/// All assets, group by group as the plant panel has them.
std::vector<Asset> assetsInOrder(Session& session);

/// The assets from item `from` on, each with its id as data. What is chosen stays; of a thousand assets that
/// are there already nothing is filled again, which would take a tenth of a second.
void fillAssetChoice(QComboBox* box, Session& session, int from = 0);

/// `area North` while that group is looked at alone, else `whole`.
QString fleetWords(Session& session, const QString& whole = "the whole fleet");

/// Names one of its items so.
void nameFleet(QComboBox* box, int item, Session& session, const QString& whole = "the whole fleet");

}  // namespace jacinth::app
