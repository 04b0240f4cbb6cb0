#include "source/encoding.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "core/base/text.h"
#include "core/base/utf8.h"

namespace jacinth {
namespace {

constexpr std::array<const char*, 4> kNames{"utf-8", "latin-1", "utf-16le", "utf-16be"};
constexpr std::uint32_t kReplacement = 0xFFFD;

// Windows-1252 from 0x80 to 0x9F; the rest is the same as Latin-1. 0 where it has no character.
constexpr std::array<std::uint16_t, 32> kWindows{
    0x20AC, 0,      0x201A, 0x0192, 0x201E, 0x2026, 0x2020, 0x2021, 0x02C6, 0x2030, 0x0160,
    0x2039, 0x0152, 0,      0x017D, 0,      0,      0x2018, 0x2019, 0x201C, 0x201D, 0x2022,
    0x2013, 0x2014, 0x02DC, 0x2122, 0x0161, 0x203A, 0x0153, 0,      0x017E, 0x0178};

}  // namespace

const char* encodingName(Encoding encoding) {
    return kNames[static_cast<std::size_t>(encoding)];
}

Result<Encoding> encodingNamed(const std::string& name) {
    const std::string lower = lowerCase(name);
    for (std::size_t i = 0; i < kNames.size(); ++i)
        if (lower == kNames[i]) return static_cast<Encoding>(i);
    if (lower == "utf8") return Encoding::Utf8;
    if (lower == "utf-16") return Encoding::Utf16Little;
    if (lower == "latin1" || lower == "iso-8859-1" || lower == "windows-1252") return Encoding::Latin1;
    return Error{
        fmt::format("`{}` is not an encoding that can be read; {} are", name, fmt::join(kNames, ", "))};
}

Encoding guessEncoding(std::string_view bytes) {
    if (bytes.substr(0, 2) == "\xFF\xFE") return Encoding::Utf16Little;
    if (bytes.substr(0, 2) == "\xFE\xFF") return Encoding::Utf16Big;
    if (bytes.substr(0, 3) == "\xEF\xBB\xBF") return Encoding::Utf8;
    // Tables are mostly ASCII, of which UTF-16 has every second byte zero.
    std::array<std::size_t, 2> zeros{};
    for (std::size_t i = 0; i < bytes.size(); ++i) zeros[i % 2] += bytes[i] == 0;
    const std::size_t half = bytes.size() / 2;
    if (half >= 2) {
        if (zeros[1] * 10 > half * 7 && zeros[0] * 10 < half) return Encoding::Utf16Little;
        if (zeros[0] * 10 > half * 7 && zeros[1] * 10 < half) return Encoding::Utf16Big;
    }
    return isUtf8(bytes, true) ? Encoding::Utf8 : Encoding::Latin1;
}

void Decoder::unit(std::uint32_t c, std::string& out) {
    if (surrogate_) {
        if (c >= 0xDC00 && c <= 0xDFFF) {
            appendUtf8(0x10000 + ((*surrogate_ - 0xD800) << 10) + (c - 0xDC00), out);
            surrogate_.reset();
            return;
        }
        appendUtf8(kReplacement, out);
        surrogate_.reset();
    }
    if (c >= 0xD800 && c <= 0xDBFF)
        surrogate_ = c;
    else if (c >= 0xDC00 && c <= 0xDFFF)
        appendUtf8(kReplacement, out);
    else
        appendUtf8(carriageReturns_ && c == '\r' ? '\n' : c, out);
}

void Decoder::decode(std::string_view bytes, std::string& out) {
    const std::size_t before = out.size();
    switch (encoding_) {
        case Encoding::Utf8:
            out += bytes;
            if (carriageReturns_)
                std::replace(out.begin() + static_cast<std::ptrdiff_t>(before), out.end(), '\r', '\n');
            break;
        case Encoding::Latin1:
            for (const char c : bytes) {
                const auto u = static_cast<unsigned char>(c);
                const std::uint32_t mapped = u < 0x80 || u >= 0xA0 ? u : kWindows[u - 0x80];
                unit(mapped ? mapped : kReplacement, out);
            }
            break;
        case Encoding::Utf16Little:
        case Encoding::Utf16Big:
            for (const char c : bytes) {
                const auto u = static_cast<unsigned char>(c);
                if (!half_) {
                    half_ = u;
                    continue;
                }
                unit(encoding_ == Encoding::Utf16Little ? *half_ | (u << 8) : (*half_ << 8) | u, out);
                half_.reset();
            }
            break;
    }
    if (!started_ && out.size() >= before + 3) {
        started_ = true;
        if (out.compare(before, 3, "\xEF\xBB\xBF") == 0) out.erase(before, 3);
    }
}

void Decoder::finish(std::string& out) {
    if (surrogate_ || half_) appendUtf8(kReplacement, out);
    surrogate_.reset();
    half_.reset();
}

std::string decoded(std::string_view bytes) {
    Decoder decoder(guessEncoding(bytes));
    std::string out;
    decoder.decode(bytes, out);
    decoder.finish(out);
    return out;
}

}  // namespace jacinth
