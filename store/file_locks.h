// The locks by which several programs share a study.
//
// SQLite locks a file with fcntl locks of the process. The kernel releases all of them as soon as anything in
// the process closes any descriptor of that file: a file dialog that looks at a study's first bytes is
// enough. Another program then believes that nobody has the study open, and removes its journal. Here
// SQLite's locks are placed on a descriptor of our own, as locks of the open file (Linux: F_OFD_SETLK), which
// only closing that one descriptor releases. They conflict with the locks of other programs as before.
#pragma once

#include <string>

namespace jacinth {

/// Makes SQLite use such locks in this process; to be called before the first file is opened. Where the
/// kernel or the file system has none, SQLite's own stay in use. Calling it again does nothing. From any
/// thread.
void useLocksOfOpenFiles();

/// Does SQLite have this file open in this process? By the file itself, whatever path leads to it. From any
/// thread.
bool isOpenInThisProcess(const std::string& path);

/// Are there files that SQLite has open in this process under this path, none of which is the file that is
/// there now? What is written to them would be lost.
bool isReplacedOnDisk(const std::string& path);

}  // namespace jacinth
