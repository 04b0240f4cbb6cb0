#include "cli/output_file.h"

#include <fmt/format.h>
#include <unistd.h>

#include <filesystem>
#include <iostream>

#include "cli/command.h"
#include "store/write_file.h"

namespace jacinth::cli {
namespace {

bool isAllowed(const std::string& path) {
    if (!::isatty(STDIN_FILENO) || !::isatty(STDERR_FILENO)) return false;
    std::cerr << path << " exists already. Replace it? [y/N] ";
    std::string answer;
    std::getline(std::cin, answer);
    return answer == "y" || answer == "Y" || answer == "yes";
}

}  // namespace

std::shared_ptr<OutputFile> addOutputFile(CLI::App& command, bool required) {
    auto out = std::make_shared<OutputFile>();
    auto* path = command.add_option(
        "--out", out->path, required ? "File to write" : "File to write; standard output where not given");
    if (required) path->required();
    command.add_flag("--force", out->force, "Replace the file where there is one");
    return out;
}

void checkOutputFile(const OutputFile& out) {
    std::error_code none;
    if (out.path.empty() || out.force || !std::filesystem::is_regular_file(out.path, none)) return;
    if (isStudyFile(out.path)) throw Refusal{fmt::format("{} is a study and is not overwritten", out.path)};
    if (!isAllowed(out.path)) throw Refusal{fmt::format("{} exists already; --force replaces it", out.path)};
}

}  // namespace jacinth::cli
