// The program's own log: what it did and what went wrong, for whoever has to find out later. It holds no
// samples and no secrets.
#pragma once

#include <string>

namespace jacinth {

enum class LogLevel { Debug, Info, Warning, Error };

/// Writes to `jacinth/PROGRAM.log` in the user's state folder ($XDG_STATE_HOME, else ~/.local/state), from
/// Info on; three files of 2 MB at most. With `verbose` all of it, also to standard error. Where the file
/// cannot be written there is none: a log never stops the work. Before this is called nothing is logged.
void startLog(const std::string& program, bool verbose);
/// Path of the file; empty where there is none.
std::string logFile();
/// From any thread. One line; control characters are written as spaces.
void log(LogLevel level, const std::string& message);

}  // namespace jacinth
