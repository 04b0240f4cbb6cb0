#include "source/gzip.h"

#include <zlib.h>

#include <algorithm>

namespace jacinth {
namespace {
constexpr int kGzipOnly = 15 + 16;  // largest window, gzip header and checksum
constexpr std::size_t kTail = 64 << 10;
}  // namespace

bool isGzip(std::string_view bytes) {
    return bytes.size() >= 3 && bytes[0] == '\x1f' && bytes[1] == '\x8b' && bytes[2] == '\x08';
}

struct Gunzip::State {
    z_stream stream{};
    std::string_view packed;
    bool ended = false;
};

Gunzip::Gunzip(std::string_view packed) : state_(std::make_unique<State>()) {
    state_->packed = packed;
    inflateInit2(&state_->stream, kGzipOnly);
}

Gunzip::~Gunzip() {
    inflateEnd(&state_->stream);
}

std::size_t Gunzip::left() const {
    return state_->packed.size();
}

Result<std::size_t> Gunzip::read(std::string& out, std::size_t most) {
    z_stream& z = state_->stream;
    const std::size_t before = out.size();
    out.resize(before + most);
    std::size_t got = 0;
    while (got < most && !state_->ended) {
        const std::size_t in = std::min<std::size_t>(state_->packed.size(), 1 << 30);
        z.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(state_->packed.data()));
        z.avail_in = static_cast<uInt>(in);
        z.next_out = reinterpret_cast<Bytef*>(out.data() + before + got);
        z.avail_out = static_cast<uInt>(std::min<std::size_t>(most - got, 1 << 30));
        const uInt room = z.avail_out;
        const int code = inflate(&z, Z_NO_FLUSH);
        state_->packed.remove_prefix(in - z.avail_in);
        got += room - z.avail_out;
        if (code == Z_STREAM_END) {
            // Another member may follow; anything else behind it is padding.
            if (isGzip(state_->packed))
                inflateReset(&z);
            else
                state_->ended = true;
        } else if (code != Z_OK) {
            out.resize(before + got);
            return code == Z_BUF_ERROR ? Error{"the packed file was cut off"}
                                       : Error{"the packed file is damaged"};
        }
    }
    out.resize(before + got);
    return got;
}

Result<GunzipCheck> checkGzip(std::string_view packed) {
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
