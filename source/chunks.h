// A text file in pieces of whole lines, unpacked and in UTF-8, so that pieces can be read by several threads.
#pragma once

#include <memory>
#include <optional>

#include "source/encoding.h"
#include "source/gzip.h"

namespace jacinth {

/// Whole lines of a text; the last one of the file may lack its line end. Only the bytes between two line
/// feeds are counted here: reading the rows must account for as many lines.
struct TextChunk {
    std::string_view text;
    std::shared_ptr<const std::string> held;  ///< what `text` looks at
    std::int64_t lines = 0;                   ///< in `text`
    double share = 0;                         ///< of the file that is read with this piece, 0 to 1
};

/// How the bytes of a source become text.
struct TextCoding {
    Encoding encoding = Encoding::Utf8;
    bool carriageReturns = false;  ///< lines end with a lone carriage return
    bool packed = false;           ///< with gzip
};
/// Looks at the start, the middle and the end of the source. Fails where it cannot be read.
Result<TextCoding> codingOf(const TextSource& source);

/// The text of a source from its start, unpacked and decoded.
class TextStream {
  public:
    TextStream(const TextSource& source, TextCoding coding);
    /// Appends about `most` bytes of text; false at the end.
    Result<bool> read(std::string& out, std::size_t most);
    double share() const;

  private:
    TextSource source_;
    TextCoding coding_;
    Decoder decoder_;
    std::unique_ptr<Gunzip> gunzip_;
    std::uint64_t at_ = 0;
    bool ended_ = false;
    std::string bytes_;
};

class ChunkReader {
  public:
    ChunkReader(const TextSource& source, TextCoding coding, std::size_t chunkBytes = kChunkBytes);
    /// The next piece; nothing at the end. Fails where a packed file is damaged, where the file changed
    /// meanwhile, and at a line longer than kLongestLine.
    Result<std::optional<TextChunk>> next();

    static constexpr std::size_t kChunkBytes = 8 << 20;
    static constexpr std::size_t kLongestLine = 16 << 20;

  private:
    std::string name_;
    TextStream stream_;
    std::size_t chunkBytes_;
    std::string rest_;  ///< of the line that the last piece did not hold whole
    std::int64_t line_ = 0;
    bool ended_ = false;
};

}  // namespace jacinth
