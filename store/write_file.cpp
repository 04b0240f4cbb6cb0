#include "store/write_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <cstring>
#include <fstream>

#include "store/file_locks.h"
#include "store/schema.h"

namespace jacinth {
namespace {

/// The application id stands at byte 68 of an SQLite file, with the high byte first.
constexpr std::size_t kApplicationIdAt = 68;

Error failed(const std::string& path) {
    return Error{fmt::format("{} cannot be written: {}", path, std::strerror(errno))};
}

Status checkPlain(const std::string& path, const struct stat& info) {
    if (S_ISDIR(info.st_mode)) return Error{fmt::format("{} is a folder, not a file", path)};
    if (!S_ISREG(info.st_mode))
        return Error{fmt::format("{} is a pipe, a socket or a device, not a file", path)};
    return Done{};
}

Status writeAll(int file, const std::string& path, std::string_view text) {
    while (!text.empty()) {
        const ssize_t n = ::write(file, text.data(), text.size());
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) return failed(path);
        text.remove_prefix(static_cast<std::size_t>(n));
    }
    return ::fsync(file) == 0 ? Status(Done{}) : Status(failed(path));
}

}  // namespace

bool isStudyFile(const std::string& path) {
    for (const std::string_view end : {"-wal", "-shm", "-journal"})
        if (path.size() > end.size() && path.ends_with(end) &&
            isStudyFile(path.substr(0, path.size() - end.size())))
            return true;
    if (isOpenInThisProcess(path)) return true;
    std::array<char, 100> head{};
    std::ifstream file(path, std::ios::binary);
    if (!file.read(head.data(), head.size()) || std::memcmp(head.data(), "SQLite format 3", 16) != 0)
        return false;
    std::uint32_t id = 0;
    for (std::size_t i = 0; i < 4; ++i)
        id = (id << 8) | static_cast<unsigned char>(head[kApplicationIdAt + i]);
    return id == static_cast<std::uint32_t>(kApplicationId);
}

Result<std::string> readWhole(const std::string& path, std::int64_t most) {
    // Not to wait for the other end of a pipe.
    const int file = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
    if (file < 0) return Error{fmt::format("{} cannot be read: {}", path, std::strerror(errno))};
    const struct Guard {
        int file;
        ~Guard() { ::close(file); }
    } guard{file};
    struct stat info {};
    if (::fstat(file, &info) != 0)
        return Error{fmt::format("{} cannot be read: {}", path, std::strerror(errno))};
    if (const Status plain = checkPlain(path, info); !plain) return plain.error();
    if (info.st_size > most)
        return Error{fmt::format("{} is too large to be read as a whole ({} MB; at most {} MB)", path,
                                 info.st_size >> 20, most >> 20)};
    std::string text(static_cast<std::size_t>(info.st_size), '\0');
    std::size_t at = 0;
    while (at < text.size()) {
        const ssize_t n = ::read(file, text.data() + at, text.size() - at);
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) return Error{fmt::format("{} cannot be read: {}", path, std::strerror(errno))};
        if (n == 0) break;
        at += static_cast<std::size_t>(n);
    }
    text.resize(at);
    return text;
}

Status checkPlainFile(const std::string& path) {
    struct stat info {};
    if (::stat(path.c_str(), &info) != 0)
        return Error{fmt::format("{} cannot be read: {}", path, std::strerror(errno))};
    if (const Status plain = checkPlain(path, info); !plain) return plain;
    if (::access(path.c_str(), R_OK) != 0)
        return Error{fmt::format("{} cannot be read: {}", path, std::strerror(errno))};
    return Done{};
}

Status writeWhole(const std::string& path, std::string_view text) {
    struct stat info {};
    const bool there = ::stat(path.c_str(), &info) == 0;
    if (there && S_ISREG(info.st_mode) && isStudyFile(path))
        return Error{fmt::format("{} is a study and is not overwritten", path)};
    if (there && !S_ISREG(info.st_mode)) {
        // A terminal, a pipe or /dev/null takes what comes.
        if (S_ISDIR(info.st_mode)) return Error{fmt::format("{} is a folder", path)};
        const int file = ::open(path.c_str(), O_WRONLY | O_CLOEXEC);
        if (file < 0) return failed(path);
        const Status written = writeAll(file, path, text);
        ::close(file);
        return !written && errno == EINVAL ? Status(Done{}) : written;  // nothing to sync there
    }
    const std::string beside = fmt::format("{}.part-{}", path, ::getpid());
    const int file = ::open(beside.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
    if (file < 0) return failed(path);
    Status written = writeAll(file, path, text);
    if (::close(file) != 0 && written) written = failed(path);
    if (written && ::rename(beside.c_str(), path.c_str()) != 0) written = failed(path);
    if (!written) ::unlink(beside.c_str());
    return written;
}

}  // namespace jacinth
