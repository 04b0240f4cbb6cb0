// What things of the study are called on screen.
#pragma once

#include <QString>

#include "store/study.h"

namespace jacinth::app {

/// `Kiln 3 · 12`: the asset and the number of a run. Joined, not filled into a pattern: a name may hold `%1`.
inline QString runName(const Study& study, const Span& run) {
    const Asset* asset = study.catalog().asset(run.asset);
    return QString::fromStdString(asset ? asset->name : "") + " · " +
           QString::number(factNumber(run.facts, "number"));
}

}  // namespace jacinth::app
