// Many files at once: what each of them is, and in which order they go in.
#pragma once

#include <string>
#include <vector>

#include "core/base/result.h"

namespace jacinth {

/// A file of an import, and what its rows are.
struct PlannedFile {
    std::string path;
    std::string eventKind;  ///< see eventKinds(); empty for samples
    bool operator==(const PlannedFile&) const = default;
};

/// The kind of table that a file of this name is likely to be (`failures.csv`, `Shift_Log.csv.gz`), where its
/// header has the columns of that kind; empty for samples.
std::string eventKindOf(const std::string& path);

/// Every text file at these paths, folders included: samples first, then events, which name the assets and
/// tags that came with the samples. Each in the order of its path. Fails on a path that cannot be read.
Result<std::vector<PlannedFile>> planImport(const std::vector<std::string>& paths);

}  // namespace jacinth
