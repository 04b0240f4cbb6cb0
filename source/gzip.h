// Text files packed with gzip (RFC 1952), unpacked piece by piece.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>

#include "source/text_file.h"

namespace jacinth {

/// Does a file begin like one packed with gzip?
bool isGzip(std::string_view bytes);

/// Unpacks a source from its start. Several members one after the other are one text. Holds a buffer of 256
/// KiB, whatever the size of the file.
class Gunzip {
  public:
    explicit Gunzip(const TextSource& packed);
    ~Gunzip();
    /// Appends up to `most` bytes of text to `out`; how many, 0 at the end. Fails where the file is damaged
    /// or cut off.
    Result<std::size_t> read(std::string& out, std::size_t most);
    std::uint64_t left() const;  ///< packed bytes not used yet

  private:
    struct State;
    Status fill();
    std::unique_ptr<State> state_;
};

/// Unpacks all of it without keeping it: the size of the text and its last bytes (64 KiB at most), or what is
/// wrong with the file.
struct GunzipCheck {
    std::uint64_t size = 0;
    std::string tail;
};
Result<GunzipCheck> checkGzip(const TextSource& packed);

}  // namespace jacinth
