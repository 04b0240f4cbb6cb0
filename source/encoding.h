// How the characters of a text file are coded, and how it becomes UTF-8.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jacinth {

/// Latin1 is read as Windows-1252, which has it inside and is what files that call themselves Latin-1 hold.
enum class Encoding { Utf8, Latin1, Utf16Little, Utf16Big };
const char* encodingName(Encoding encoding);  ///< `utf-8`, `latin-1`, `utf-16le`, `utf-16be`
Result<Encoding> encodingNamed(const std::string& name);

/// The encoding that the start of a file shows: by its byte-order mark, by where its zero bytes stand, and
/// by whether it is valid UTF-8. A character cut off at the end of `bytes` does not count against UTF-8.
Encoding guessEncoding(std::string_view bytes);

/// All of a text as UTF-8, by the encoding that it shows (guessEncoding); without its byte-order mark.
std::string decoded(std::string_view bytes);

/// Turns bytes into UTF-8 piece by piece. The byte-order mark is dropped. A lone carriage return becomes a
/// line end where `carriageReturns` is set: files whose lines end that way have no line feed at all.
class Decoder {
  public:
    explicit Decoder(Encoding encoding, bool carriageReturns = false)
        : encoding_(encoding), carriageReturns_(carriageReturns) {}
    /// Appends the text of the next bytes; what a piece does not hold whole waits for the next one.
    void decode(std::string_view bytes, std::string& out);
    /// Appends what is left at the end: U+FFFD for a character that was cut off.
    void finish(std::string& out);

  private:
    void unit(std::uint32_t unit, std::string& out);
    Encoding encoding_;
    bool carriageReturns_;
    bool started_ = false;
    std::optional<unsigned char> half_;       ///< first byte of a 16-bit unit
    std::optional<std::uint32_t> surrogate_;  ///< the first of a pair
};

}  // namespace jacinth
