// Small files as a whole: one that is written is there whole or not at all, and never in place of a study.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jacinth {

/// Writes beside the target and renames when all is on the disk. Fails, leaving what was there, where the
/// target is a study, is not a plain file, or the disk is full.
Status writeWhole(const std::string& path, std::string_view text);

/// What is read into memory as one piece: labels, rules, settings.
inline constexpr std::int64_t kMostReadWhole = std::int64_t{1} << 30;

/// All of a file; fails with why where it cannot be read, is not an ordinary file (a pipe or a device may
/// have no end), or is larger than `most` bytes.
Result<std::string> readWhole(const std::string& path, std::int64_t most = kMostReadWhole);

/// Fails, with the reason, unless the path leads to an ordinary file that may be read. Opens nothing.
Status checkPlainFile(const std::string& path);

/// Is the file a study (by its first bytes, or because it is open as a database in this process, where only
/// SQLite may open it), or the journal of one?
bool isStudyFile(const std::string& path);

}  // namespace jacinth
