// Files that commands write: where to, and whether a file that is there may go.
#pragma once

#include <CLI/CLI.hpp>
#include <memory>
#include <string>

namespace jacinth::cli {

struct OutputFile {
    std::string path;  ///< empty: standard output
    bool force = false;
};

/// Adds --out and --force to a command.
std::shared_ptr<OutputFile> addOutputFile(CLI::App& command, bool required);

/// Refuses where an ordinary file is there and is not to be replaced: without --force it is asked about on a
/// terminal, and else refused. A study is never replaced. To be asked before long work.
void checkOutputFile(const OutputFile& out);

}  // namespace jacinth::cli
