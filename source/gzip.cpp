#include "source/gzip.h"

#include <zlib.h>

#include <algorithm>
#include <cstring>

namespace jacinth {
namespace {
constexpr int kGzipOnly = 15 + 16;  // largest window, gzip header and checksum
constexpr std::size_t kTail = 64 << 10;
constexpr std::size_t kBuffer = 256 << 10;
}  // namespace

bool isGzip(std::string_view bytes) {
    return bytes.size() >= 3 && bytes[0] == '\x1f' && bytes[1] == '\x8b' && bytes[2] == '\x08';
}

struct Gunzip::State {
    z_stream stream{};
    TextSource packed;
    std::uint64_t at = 0;  ///< of the source, behind what the buffer holds
    std::string buffer;
    std::size_t used = 0;  ///< of the buffer
    bool ended = false;

    std::string_view rest() const { return std::string_view(buffer).substr(used); }
};

Gunzip::Gunzip(const TextSource& packed) : state_(std::make_unique<State>()) {
    state_->packed = packed;
    inflateInit2(&state_->stream, kGzipOnly);
}

Gunzip::~Gunzip() {
    inflateEnd(&state_->stream);
}

std::uint64_t Gunzip::left() const {
    return state_->packed.size() - state_->at + state_->rest().size();
}

/// Moves what is left to the start of the buffer and reads on behind it.
Status Gunzip::fill() {
    State& s = *state_;
    s.buffer.erase(0, s.used);
    s.used = 0;
    auto more = s.packed.part(s.at, kBuffer - std::min(kBuffer, s.buffer.size()));
    if (!more) return more.error();
    s.at += more->size();
    s.buffer += *more;
    return Done{};
}

Result<std::size_t> Gunzip::read(std::string& out, std::size_t most) {
    State& s = *state_;
    z_stream& z = s.stream;
    const std::size_t before = out.size();
    out.resize(before + most);
    std::size_t got = 0;
    const auto end = [&](Error why) -> Result<std::size_t> {
        out.resize(before + got);
        return why;
    };
    while (got < most && !s.ended) {
        if (s.rest().size() < 3)
            if (const Status filled = fill(); !filled) return end(filled.error());
        const std::string_view in = s.rest();
        z.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(in.data()));
        z.avail_in = static_cast<uInt>(in.size());
        z.next_out = reinterpret_cast<Bytef*>(out.data() + before + got);
        z.avail_out = static_cast<uInt>(std::min<std::size_t>(most - got, 1 << 30));
        const uInt room = z.avail_out;
        const int code = inflate(&z, Z_NO_FLUSH);
        s.used += in.size() - z.avail_in;
        got += room - z.avail_out;
        if (code == Z_STREAM_END) {
            if (s.rest().size() < 3)
                if (const Status filled = fill(); !filled) return end(filled.error());
            // Another member may follow; anything else behind it is padding.
            if (isGzip(s.rest()))
                inflateReset(&z);
            else
                s.ended = true;
        } else if (code != Z_OK) {
            return end(code == Z_BUF_ERROR ? Error{"the packed file was cut off"}
                                           : Error{"the packed file is damaged"});
        }
    }
    out.resize(before + got);
    return got;
}

Result<GunzipCheck> checkGzip(const TextSource& packed) {
    Gunzip in(packed);
    GunzipCheck out;
    std::string piece;
    while (true) {
        piece.clear();
        const auto got = in.read(piece, 1 << 20);
        if (!got) return got.error();
        if (*got == 0) return out;
        out.size += *got;
        out.tail += piece;
        if (out.tail.size() > kTail) out.tail.erase(0, out.tail.size() - kTail);
    }
}

}  // namespace jacinth
