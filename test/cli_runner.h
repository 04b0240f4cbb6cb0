// Runs jacinth-cli as a user would and keeps what it said.
#pragma once

#include <fcntl.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <chrono>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>
#include <string>
#include <thread>
#include <vector>

#include "core/time/instant.h"

namespace jacinth::test {

namespace fs = std::filesystem;

struct Said {
    int code = 0;
    std::string out, err;
    nlohmann::json json() const { return nlohmann::json::parse(out); }
};

inline std::string quoted(const std::string& text) {
    std::string out = "'";
    for (const char c : text) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
    return out + "'";
}

inline Said run(const std::vector<std::string>& arguments) {
    static int serial = 0;
    const fs::path err = fs::temp_directory_path() /
                         ("jacinth-err-" + std::to_string(::getpid()) + "-" + std::to_string(++serial));
    std::string command = quoted(JACINTH_CLI);
    for (const std::string& a : arguments) command += " " + quoted(a);
    command += " 2>" + quoted(err.string());
    Said said;
    FILE* pipe = ::popen(command.c_str(), "r");
    std::array<char, 65536> buffer;
    while (const std::size_t n = std::fread(buffer.data(), 1, buffer.size(), pipe))
        said.out.append(buffer.data(), n);
    const int status = ::pclose(pipe);
    said.code = WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
    std::ifstream file(err);
    said.err.assign(std::istreambuf_iterator<char>(file), {});
    fs::remove(err);
    return said;
}

/// Starts jacinth-cli and kills it after a while; true when it was still running.
inline bool runAndKill(const std::vector<std::string>& arguments, std::chrono::microseconds after) {
    const pid_t child = ::fork();
    if (child == 0) {
        const int quiet = ::open("/dev/null", O_WRONLY);
        ::dup2(quiet, 1);
        ::dup2(quiet, 2);
        std::vector<char*> argv{const_cast<char*>(JACINTH_CLI)};
        for (const std::string& a : arguments) argv.push_back(const_cast<char*>(a.c_str()));
        argv.push_back(nullptr);
        ::execv(JACINTH_CLI, argv.data());
        ::_exit(127);
    }
    std::this_thread::sleep_for(after);
    int status = 0;
    const bool running = ::waitpid(child, &status, WNOHANG) == 0;
    ::kill(child, SIGKILL);
    if (running) ::waitpid(child, &status, 0);
    return running;
}

inline nlohmann::json demoTruth() {
    std::ifstream file(std::string(JACINTH_DEMO_FOLDER) + "/truth.json");
    return nlohmann::json::parse(file);
}

inline Instant instantOf(const nlohmann::json& iso) {
    return *fromIso(iso.get<std::string>());
}

/// A folder of the test's own, gone afterwards.
class Folder {
  public:
    explicit Folder(const std::string& name)
        : path_(fs::temp_directory_path() / ("jacinth-" + name + "-" + std::to_string(::getpid()))) {
        fs::remove_all(path_);
        fs::create_directories(path_);
    }
    ~Folder() { fs::remove_all(path_); }
    std::string operator/(const std::string& name) const { return (path_ / name).string(); }
    std::string path() const { return path_.string(); }

  private:
    fs::path path_;
};

inline void write(const std::string& path, const std::string& text) {
    std::ofstream(path) << text;
}

inline void copyDemo(const std::string& to) {
    fs::copy_file(std::string(JACINTH_DEMO_FOLDER) + "/demo.jacinth", to);
}

}  // namespace jacinth::test
