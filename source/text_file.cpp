#include "source/text_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>

namespace jacinth {
namespace {

std::int64_t changeTime(const struct stat& info) {
    return static_cast<std::int64_t>(info.st_mtim.tv_sec) * 1'000'000'000 + info.st_mtim.tv_nsec;
}

}  // namespace

Result<std::shared_ptr<const TextFile>> TextFile::open(const std::string& path) {
    // Without O_NONBLOCK the opening of a pipe would wait for whoever writes to it.
    const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
    if (descriptor < 0) return Error{fmt::format("{} cannot be read: {}", path, std::strerror(errno))};
    const std::shared_ptr<TextFile> out(new TextFile(descriptor, path));
    struct stat info {};
    if (::fstat(descriptor, &info) != 0)
        return Error{fmt::format("{} cannot be read: {}", path, std::strerror(errno))};
    if (S_ISDIR(info.st_mode)) return Error{fmt::format("{} is a folder, not a file", path)};
    if (!S_ISREG(info.st_mode))
        return Error{fmt::format("{} is a pipe, a socket or a device, not a file", path)};
    out->size_ = static_cast<std::uint64_t>(info.st_size);
    out->changedAt_ = changeTime(info);
    ::posix_fadvise(descriptor, 0, 0, POSIX_FADV_SEQUENTIAL);
    return std::shared_ptr<const TextFile>(out);
}

TextFile::~TextFile() {
    ::close(descriptor_);
}

Result<std::size_t> TextFile::read(std::uint64_t at, char* to, std::size_t most) const {
    const std::size_t wanted = at >= size_ ? 0 : std::min<std::uint64_t>(most, size_ - at);
    std::size_t got = 0;
    while (got < wanted) {
        const ssize_t n = ::pread(descriptor_, to + got, wanted - got, static_cast<off_t>(at + got));
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) return Error{fmt::format("{} cannot be read: {}", path_, std::strerror(errno))};
        if (n == 0)
            return Error{fmt::format("{} was shortened while it was read: {} of {} bytes are left", path_,
                                     at + got, size_)};
        got += static_cast<std::size_t>(n);
    }
    return got;
}

Status TextFile::unchanged() const {
    struct stat info {};
    if (::fstat(descriptor_, &info) == 0 && static_cast<std::uint64_t>(info.st_size) == size_ &&
        changeTime(info) == changedAt_)
        return Done{};
    return Error{fmt::format("{} was changed by another program while it was read", path_)};
}

std::uint64_t TextFile::sizeNow() const {
    struct stat info {};
    return ::fstat(descriptor_, &info) == 0 ? static_cast<std::uint64_t>(info.st_size) : 0;
}

Result<std::size_t> TextSource::read(std::uint64_t at, char* to, std::size_t most) const {
    if (file) return file->read(at, to, most);
    const std::size_t n = at >= text.size() ? 0 : std::min<std::size_t>(most, text.size() - at);
    if (n > 0) std::memcpy(to, text.data() + at, n);
    return n;
}

Result<std::string> TextSource::part(std::uint64_t at, std::size_t most) const {
    std::string out(at >= size() ? 0 : std::min<std::uint64_t>(most, size() - at), '\0');
    const auto got = read(at, out.data(), out.size());
    if (!got) return got.error();
    return out;
}

Status TextSource::unchanged() const {
    return file ? file->unchanged() : Status(Done{});
}

Result<TextSource> TextSource::at(const std::string& path) {
    auto file = TextFile::open(path);
    if (!file) return file.error();
    return TextSource{std::filesystem::path(path).filename().string(), {}, *file};
}

}  // namespace jacinth
