// What people at the plant wrote down, as tables: true most of the time, late now and then, with a slip here
// and there.
#pragma once

#include "demo/plant.h"

namespace jacinth::demo {

struct WrittenTable {
    std::string kind;  ///< failures, work-orders, stops, readings, log, alarms, batches
    std::string text;  ///< CSV
};
std::vector<WrittenTable> writtenDown(const Truth& truth);

}  // namespace jacinth::demo
