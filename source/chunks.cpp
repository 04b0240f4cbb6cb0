#include "source/chunks.h"

#include <fmt/format.h>

#include <algorithm>

namespace jacinth {
namespace {

constexpr std::size_t kLookedAt = 256 << 10;

bool endsLinesWithCarriageReturns(std::string_view text) {
    return text.find('\n') == std::string_view::npos && std::count(text.begin(), text.end(), '\r') > 1;
}

/// Without the halves of characters at the ends of a part cut out of the middle.
std::string_view wholeCharacters(std::string_view part) {
    const auto isTail = [](char c) { return (static_cast<unsigned char>(c) & 0xC0) == 0x80; };
    for (int i = 0; i < 3 && !part.empty() && isTail(part.front()); ++i) part.remove_prefix(1);
    return part;
}

}  // namespace

Result<TextCoding> codingOf(const TextSource& source) {
    auto start = source.part(0, kLookedAt);
    if (!start) return start.error();
    TextCoding out;
    out.packed = isGzip(*start);
    if (out.packed) {
        Gunzip in(source);
        std::string text;
        // Damage further on is found when all of it is read.
        if (const auto got = in.read(text, kLookedAt); !got && text.empty()) return got.error();
        *start = std::move(text);
    }
    out.encoding = guessEncoding(*start);
    if (!out.packed && out.encoding == Encoding::Utf8)
        for (const std::uint64_t at :
             {source.size() / 2, source.size() - std::min<std::uint64_t>(source.size(), kLookedAt)}) {
            const auto part = source.part(at, kLookedAt);
            if (!part) return part.error();
            if (guessEncoding(wholeCharacters(*part)) == Encoding::Latin1) out.encoding = Encoding::Latin1;
        }
    Decoder decoder(out.encoding);
    std::string text;
    decoder.decode(*start, text);
    out.carriageReturns = endsLinesWithCarriageReturns(text);
    return out;
}

TextStream::TextStream(const TextSource& source, TextCoding coding)
    : source_(source), coding_(coding), decoder_(coding.encoding, coding.carriageReturns) {
    if (coding.packed) gunzip_ = std::make_unique<Gunzip>(source);
}

double TextStream::share() const {
    const double all = static_cast<double>(std::max<std::uint64_t>(source_.size(), 1));
    return gunzip_ ? 1 - static_cast<double>(gunzip_->left()) / all : static_cast<double>(at_) / all;
}

Result<bool> TextStream::read(std::string& out, std::size_t most) {
    if (ended_) return false;
    bytes_.clear();
    if (gunzip_) {
        const auto got = gunzip_->read(bytes_, most);
        if (!got) return got.error();
    } else {
        bytes_.resize(std::min<std::uint64_t>(most, source_.size() - at_));
        const auto got = source_.read(at_, bytes_.data(), bytes_.size());
        if (!got) return got.error();
        at_ += *got;
    }
    if (bytes_.empty()) {
        ended_ = true;
        decoder_.finish(out);
        return false;
    }
    decoder_.decode(bytes_, out);
    return true;
}

namespace {

/// By memchr, which looks at many bytes at once.
std::int64_t linesIn(std::string_view text) {
    std::int64_t ends = 0;
    for (std::size_t at = 0; (at = text.find('\n', at)) != std::string_view::npos; ++at) ++ends;
    return ends + (text.back() != '\n');
}

}  // namespace

ChunkReader::ChunkReader(const TextSource& source, TextCoding coding, std::size_t chunkBytes)
    : name_(source.name), stream_(source, coding), chunkBytes_(chunkBytes) {}

Result<std::optional<TextChunk>> ChunkReader::next() {
    auto text = std::make_shared<std::string>(std::move(rest_));
    rest_.clear();
    std::size_t length = 0;
    while (length == 0) {
        while (!ended_ && text->size() < chunkBytes_) {
            const auto more = stream_.read(*text, chunkBytes_ - text->size());
            if (!more) return more.error();
            ended_ = !*more;
        }
        if (ended_) {
            length = text->size();
            break;
        }
        length = text->rfind('\n') + 1;
        if (length > 0) break;
        if (text->size() > kLongestLine)
            return Error{fmt::format("{} is not a table: line {} is longer than {} MB", name_, line_ + 1,
                                     kLongestLine >> 20)};
        const auto more = stream_.read(*text, chunkBytes_);
        if (!more) return more.error();
        ended_ = !*more;
    }
    if (length == 0) return std::optional<TextChunk>();
    rest_ = text->substr(length);
    TextChunk out;
    out.text = std::string_view(*text).substr(0, length);
    out.lines = linesIn(out.text);
    out.share = stream_.share();
    out.held = std::move(text);
    line_ += out.lines;
    return std::optional<TextChunk>(std::move(out));
}

}  // namespace jacinth
