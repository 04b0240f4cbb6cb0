// The benches of the window, one row each: what the rail, the menus and the keys are made from.
#pragma once

#include <QStringList>
#include <span>

#include "app/base/bench.h"

namespace jacinth::app {

struct BenchRow {
    BenchId id;
    const char* name;        ///< on the rail and in the menus
    const char* icon;        ///< a file of app/icons without its ending
    const char* key;         ///< shortcut, in the portable form
    QStringList (*pages)();  ///< names of its pages, for the menu; null for a bench without pages
    Bench* (*make)(Session&);
};

/// In the order of the rail, which is that of BenchId.
std::span<const BenchRow> benchTable();

}  // namespace jacinth::app
