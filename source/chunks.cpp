#include "source/chunks.h"

#include <cstring>

#include "source/row_reader.h"

namespace jacinth {
namespace {
constexpr std::size_t kLongestRow = 64 << 20;  // a quote that is never closed must not swallow a whole file
}

std::size_t endOfRows(std::string_view piece, char separator) {
    if (!std::memchr(piece.data(), '"', piece.size())) return piece.rfind('\n') + 1;
    RowReader rows(piece, separator);
    std::size_t end = 0, before = 0;
    while (rows.next()) {
        before = end;
        end = rows.position();
    }
    // The last row is whole only where its line end was seen outside of quotes.
    const bool whole = end > 0 && piece[end - 1] == '\n' && !rows.openQuote();
    return whole ? end : before;
}

ChunkReader::ChunkReader(std::string_view bytes, char separator, std::size_t chunkBytes)
    : bytes_(bytes), separator_(separator), chunkBytes_(chunkBytes) {
    if (isGzip(bytes))
        gunzip_ = std::make_unique<Gunzip>(bytes);
    else
        bytes_ = withoutMark(bytes);
}

Result<std::optional<TextChunk>> ChunkReader::next() {
    if (gunzip_) return nextUnpacked();
    if (at_ >= bytes_.size()) return std::optional<TextChunk>();
    const std::string_view left = bytes_.substr(at_);
    std::size_t length = 0;
    for (std::size_t most = chunkBytes_; length == 0; most *= 2) {
        const bool all = most >= left.size();
        length = all ? left.size() : endOfRows(left.substr(0, most), separator_);
        if (length == 0 && most >= kLongestRow) length = most;
    }
    TextChunk out;
    out.text = left.substr(0, length);
    at_ += length;
    out.share = static_cast<double>(at_) / static_cast<double>(bytes_.size());
    return std::optional<TextChunk>(std::move(out));
}

Result<std::optional<TextChunk>> ChunkReader::nextUnpacked() {
    auto text = std::make_shared<std::string>(std::move(rest_));
    rest_.clear();
    std::size_t length = 0;
    for (std::size_t most = chunkBytes_; length == 0; most *= 2) {
        const auto got = gunzip_->read(*text, most - std::min(most, text->size()));
        if (!got) return got.error();
        if (first_ && withoutMark(*text).size() != text->size()) text->erase(0, 3);
        first_ = false;
        if (text->empty()) return std::optional<TextChunk>();
        const bool all = text->size() < most;
        length = all ? text->size() : endOfRows(*text, separator_);
        if (length == 0 && most >= kLongestRow) length = text->size();
    }
    rest_ = text->substr(length);
    TextChunk out;
    out.text = std::string_view(*text).substr(0, length);
    out.share = 1 - static_cast<double>(gunzip_->left()) / static_cast<double>(bytes_.size());
    out.held = std::move(text);
    return std::optional<TextChunk>(std::move(out));
}

}  // namespace jacinth
