// A text file as bytes: mapped from disk, or made in memory by the demo plant.
#pragma once

#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jacinth {

/// The whole of a file, read only, mapped into memory: a file larger than memory costs none.
class MappedFile {
  public:
    static Result<MappedFile> open(const std::string& path);
    ~MappedFile();
    MappedFile(MappedFile&& other) noexcept;
    MappedFile(const MappedFile&) = delete;
    MappedFile& operator=(const MappedFile&) = delete;
    std::string_view text() const { return {data_, size_}; }

  private:
    MappedFile() = default;
    const char* data_ = nullptr;
    std::size_t size_ = 0;
};

/// What an import reads: a name to show, and the text.
struct TextSource {
    std::string name;
    std::string_view text;
};

}  // namespace jacinth
