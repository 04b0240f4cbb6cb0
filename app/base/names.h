// What things of the study are called on screen.
#pragma once

#include <QString>

#include "store/study.h"

namespace jacinth::app {

/// The asset's name; empty for none.
inline QString assetName(const Study& study, AssetId id) {
    const Asset* asset = study.catalog().asset(id);
    return asset ? QString::fromStdString(asset->name) : QString();
}

/// `Kiln 3 · 5 Apr 06:00`; the words alone for what has none.
inline QString onAsset(const Study& study, AssetId id, const QString& words) {
    const QString name = assetName(study, id);
    return name.isEmpty() ? words : name + " · " + words;
}

/// `Kiln 3 · 12`: the asset and the number of a run. Joined, not filled into a pattern: a name may hold `%1`.
inline QString runName(const Study& study, const Span& run) {
    return assetName(study, run.asset) + " · " + QString::number(factNumber(run.facts, "number"));
}

}  // namespace jacinth::app
