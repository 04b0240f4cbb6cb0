#include "source/text_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

namespace jacinth {

Result<MappedFile> MappedFile::open(const std::string& path) {
    const int file = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (file < 0) return Error{fmt::format("{} cannot be read: {}", path, std::strerror(errno))};
    struct stat info {};
    const bool plain = ::fstat(file, &info) == 0 && S_ISREG(info.st_mode);
    MappedFile out;
    if (plain && info.st_size > 0) {
        void* data = ::mmap(nullptr, static_cast<std::size_t>(info.st_size), PROT_READ, MAP_PRIVATE, file, 0);
        if (data != MAP_FAILED) {
            ::madvise(data, static_cast<std::size_t>(info.st_size), MADV_SEQUENTIAL);
            out.data_ = static_cast<const char*>(data);
            out.size_ = static_cast<std::size_t>(info.st_size);
        }
    }
    ::close(file);
    if (!plain) return Error{fmt::format("{} is no file", path)};
    if (info.st_size > 0 && !out.data_) return Error{fmt::format("{} cannot be read", path)};
    return out;
}

MappedFile::~MappedFile() {
    if (data_) ::munmap(const_cast<char*>(data_), size_);
}

MappedFile::MappedFile(MappedFile&& other) noexcept : data_(other.data_), size_(other.size_) {
    other.data_ = nullptr;
    other.size_ = 0;
}

}  // namespace jacinth
