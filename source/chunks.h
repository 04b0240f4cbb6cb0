// A text file in pieces that end at the end of a row, so that pieces can be read by several threads.
#pragma once

#include <memory>
#include <optional>

#include "source/gzip.h"

namespace jacinth {

/// Whole rows of a text. `held` keeps unpacked text alive; a mapped file needs none.
struct TextChunk {
    std::string_view text;
    std::shared_ptr<const std::string> held;
    double share = 0;  ///< of the file that is read with this piece, 0 to 1
};

class ChunkReader {
  public:
    /// `bytes`: a text or a gzip of one.
    ChunkReader(std::string_view bytes, char separator, std::size_t chunkBytes = kChunkBytes);
    /// The next piece; nothing at the end. Fails where a packed file is damaged.
    Result<std::optional<TextChunk>> next();

    static constexpr std::size_t kChunkBytes = 8 << 20;

  private:
    Result<std::optional<TextChunk>> nextUnpacked();

    std::string_view bytes_;
    char separator_;
    std::size_t chunkBytes_;
    std::size_t at_ = 0;
    std::unique_ptr<Gunzip> gunzip_;
    std::string rest_;  ///< unpacked, of the row that the last piece did not hold whole
    bool first_ = true;
};

/// Where the last whole row of a piece ends; 0 where the piece holds none. Line ends inside quotes end no
/// row.
std::size_t endOfRows(std::string_view piece, char separator);

}  // namespace jacinth
