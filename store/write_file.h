// Small files as a whole: one that is written is there whole or not at all, and never in place of a study.
#pragma once

#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jacinth {

/// Writes beside the target and renames when all is on the disk. Fails, leaving what was there, where the
/// target is a study, is not a plain file, or the disk is full.
Status writeWhole(const std::string& path, std::string_view text);

/// All of a file; fails with why where it cannot be read.
Result<std::string> readWhole(const std::string& path);

/// Is the file a study (by its first bytes), or the journal of one?
bool isStudyFile(const std::string& path);

}  // namespace jacinth
