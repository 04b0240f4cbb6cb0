// Damage to a file, by a seed.
#pragma once

#include <fmt/format.h>

#include <fstream>
#include <random>
#include <string>

namespace jacinth::test {

inline std::string bytesOf(const std::string& path) {
    std::ifstream file(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(file), {}};
}

/// Writes the file with one damage: a flipped bit, an odd byte, a few bytes lost, a page lost, two pages
/// exchanged, or the end cut off. Says what it did.
inline std::string writeDamaged(std::string bytes, unsigned seed, const std::string& path) {
    constexpr std::size_t kPage = 4096;
    std::mt19937 random(seed);
    const std::size_t pages = bytes.size() / kPage;
    // Every page has its turn, whatever its size in the whole.
    const std::size_t page = seed % pages, at = page * kPage + random() % kPage;
    std::string what;
    switch (random() % 10) {
        case 0:
            what = fmt::format("16 bytes lost at {}", at);
            std::fill_n(bytes.begin() + static_cast<std::ptrdiff_t>(at),
                        std::min<std::size_t>(16, bytes.size() - at), '\0');
            break;
        case 1:
            what = fmt::format("page {} lost", page);
            std::fill_n(bytes.begin() + static_cast<std::ptrdiff_t>(page * kPage), kPage, '\0');
            break;
        case 2: {
            const std::size_t other = random() % pages;
            what = fmt::format("pages {} and {} exchanged", page, other);
            if (page != other)
                std::swap_ranges(bytes.begin() + static_cast<std::ptrdiff_t>(page * kPage),
                                 bytes.begin() + static_cast<std::ptrdiff_t>((page + 1) * kPage),
                                 bytes.begin() + static_cast<std::ptrdiff_t>(other * kPage));
            break;
        }
        case 3:
            what = fmt::format("cut off at {}", at);
            bytes.resize(at);
            break;
        case 4:
        case 5:
            what = fmt::format("byte {} made another", at);
            bytes[at] = static_cast<char>(random());
            break;
        default: {
            const unsigned bit = random() % 8;
            what = fmt::format("bit {} of byte {} flipped", bit, at);
            bytes[at] = static_cast<char>(bytes[at] ^ (1 << bit));
        }
    }
    std::ofstream(path, std::ios::binary) << bytes;
    return what;
}

}  // namespace jacinth::test
