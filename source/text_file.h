// Where the bytes of an import come from: a file on disk, read piece by piece, or a text made in memory.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jacinth {

/// A file opened for reading. Reads are positioned, so that one object serves several threads. The file is
/// read, not mapped: a file that another program shortens meanwhile gives an error and not a fault.
class TextFile {
  public:
    /// Refuses folders, pipes, sockets and devices at once: only a plain file has a length and an end.
    static Result<std::shared_ptr<const TextFile>> open(const std::string& path);
    ~TextFile();
    TextFile(const TextFile&) = delete;
    TextFile& operator=(const TextFile&) = delete;

    std::uint64_t size() const { return size_; }  ///< in bytes, when it was opened
    /// Reads up to `most` bytes at `at`. Fewer only at the end; fails where the file has become shorter or
    /// cannot be read.
    Result<std::size_t> read(std::uint64_t at, char* to, std::size_t most) const;
    /// Fails where the file is no longer as it was when it was opened (length or time of change).
    Status unchanged() const;
    std::uint64_t sizeNow() const;  ///< 0 where it cannot be said

  private:
    TextFile(int descriptor, std::string path) : descriptor_(descriptor), path_(std::move(path)) {}
    int descriptor_;
    std::string path_;
    std::uint64_t size_ = 0;
    std::int64_t changedAt_ = 0;  ///< ns, as the file system has it
};

/// What an import reads: a name to show, and the text, in memory or in a file.
struct TextSource {
    std::string name;
    std::string_view text;                 ///< where there is no file
    std::shared_ptr<const TextFile> file;  ///< where there is one

    std::uint64_t size() const { return file ? file->size() : text.size(); }
    Result<std::size_t> read(std::uint64_t at, char* to, std::size_t most) const;
    /// Up to `most` bytes from `at` as a string.
    Result<std::string> part(std::uint64_t at, std::size_t most) const;
    Status unchanged() const;
    /// A source over the file at `path`, named by the last part of the path.
    static Result<TextSource> at(const std::string& path);
};

}  // namespace jacinth
