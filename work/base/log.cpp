#include "work/base/log.h"

#include <spdlog/sinks/rotating_file_sink.h>
#include <spdlog/sinks/stdout_sinks.h>
#include <spdlog/spdlog.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>

namespace jacinth {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t kMostBytes = 2'000'000;
constexpr std::size_t kOlderFiles = 2;

std::shared_ptr<spdlog::logger> logger;
std::string file;

fs::path stateFolder() {
    if (const char* state = std::getenv("XDG_STATE_HOME"); state && *state) return state;
    if (const char* home = std::getenv("HOME"); home && *home) return fs::path(home) / ".local/state";
    return {};
}

spdlog::level::level_enum levelOf(LogLevel level) {
    switch (level) {
        case LogLevel::Debug:
            return spdlog::level::debug;
        case LogLevel::Info:
            return spdlog::level::info;
        case LogLevel::Warning:
            return spdlog::level::warn;
        case LogLevel::Error:
            break;
    }
    return spdlog::level::err;
}

spdlog::sink_ptr fileSink(const std::string& program) {
    const fs::path folder = stateFolder();
    if (folder.empty()) return nullptr;
    std::error_code trouble;
    fs::create_directories(folder / "jacinth", trouble);
    const std::string path = (folder / "jacinth" / (program + ".log")).string();
    try {
        auto sink = std::make_shared<spdlog::sinks::rotating_file_sink_mt>(path, kMostBytes, kOlderFiles);
        file = path;
        return sink;
    } catch (const spdlog::spdlog_ex&) {
        return nullptr;
    }
}

}  // namespace

void startLog(const std::string& program, bool verbose) {
    std::vector<spdlog::sink_ptr> sinks;
    if (auto sink = fileSink(program)) sinks.push_back(std::move(sink));
    if (verbose) sinks.push_back(std::make_shared<spdlog::sinks::stderr_sink_mt>());
    if (sinks.empty()) return;
    auto made = std::make_shared<spdlog::logger>(program, sinks.begin(), sinks.end());
    made->set_pattern("%Y-%m-%dT%H:%M:%S.%eZ %P %l %v", spdlog::pattern_time_type::utc);
    made->set_level(verbose ? spdlog::level::debug : spdlog::level::info);
    made->flush_on(spdlog::level::info);
    made->set_error_handler([](const std::string&) {});
    logger = std::move(made);
}

std::string logFile() {
    return file;
}

void log(LogLevel level, const std::string& message) {
    if (!logger) return;
    std::string line = message;
    std::replace_if(
        line.begin(), line.end(), [](unsigned char c) { return c < 0x20 || c == 0x7F; }, ' ');
    logger->log(levelOf(level), "{}", line);
}

}  // namespace jacinth
