// Text files packed with gzip (RFC 1952), unpacked piece by piece.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jacinth {

/// Does a file begin like one packed with gzip?
bool isGzip(std::string_view bytes);

/// Unpacks from memory (a mapped file costs none). Several members one after the other are one text.
class Gunzip {
  public:
    explicit Gunzip(std::string_view packed);
    ~Gunzip();
    /// Appends up to `most` bytes of text to `out`; how many, 0 at the end. Fails where the file is damaged
    /// or cut off.
    Result<std::size_t> read(std::string& out, std::size_t most);
    std::size_t left() const;  ///< packed bytes not used yet

  private:
    struct State;
    std::unique_ptr<State> state_;
};

/// Unpacks all of it without keeping it: the size of the text and its last bytes (64 KiB at most), or what is
/// wrong with the file.
struct GunzipCheck {
    std::uint64_t size = 0;
    std::string tail;
};
Result<GunzipCheck> checkGzip(std::string_view packed);

}  // namespace jacinth
