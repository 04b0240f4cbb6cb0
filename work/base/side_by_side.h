// Work that reads the study for many roles, on as many threads as there are processors.
#pragma once

#include <functional>

#include "store/study.h"

namespace jacinth {

/// Calls `work(study, i)` for every i below `count`, spread over threads, each with its own read-only
/// connection to the file: what is not committed yet is not seen. With one processor, or where the file
/// cannot be opened again, one after another with the study given. What `work` throws is thrown here.
void forEachSideBySide(Study& study, std::size_t count, const std::function<void(Study&, std::size_t)>& work);

}  // namespace jacinth
