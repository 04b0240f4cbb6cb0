// Makes a study of any size straight through the store, on two threads: 24 tags of three kilns every second
// or so, values that wander, one single sample far off (for what must never be lost at any zoom). Usage:
// large_study PATH [--samples N] (1000000000 unless said)
#include <fmt/format.h>

#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <future>

#include "bench/figures.h"
#include "store/sample_store.h"
#include "store/study.h"

using namespace jacinth;
using namespace jacinth::bench;

namespace {

constexpr int kTags = 24;
constexpr std::size_t kPiece = 1'048'576;  // samples of one tag made at a time

/// A small quick generator (xorshift, Marsaglia 2003).
struct Random {
    std::uint64_t state;
    std::uint64_t operator()() {
        state ^= state << 13;
        state ^= state >> 7;
        return state ^= state << 17;
    }
};

struct Maker {
    Random random{1};
    Instant t{};
    std::int64_t hundredths = 5000;

    Series make(std::size_t n, double level) {
        Series s;
        s.reserve(n);
        for (std::size_t i = 0; i < n; ++i) {
            const std::uint64_t r = random();
            t += kSecond + static_cast<std::int64_t>(r % 21) * 10 * kMillisecond - 100 * kMillisecond;
            hundredths += static_cast<std::int64_t>(r >> 32) % 9 - 4;
            hundredths -= hundredths / 4096;  // drawn back to 0, so that it does not wander off
            s.push(t, static_cast<double>(static_cast<std::int64_t>(level * 100) + hundredths) / 100);
        }
        return s;
    }
};

}  // namespace

int main(int argc, char** argv) {
    Figures out(argc, argv);
    if (argc < 2 || argv[1][0] == '-') {
        std::fprintf(stderr, "large_study PATH [--samples N]\n");
        return 2;
    }
    double wanted = 1e9;
    for (int i = 2; i + 1 < argc; ++i)
        if (std::strcmp(argv[i], "--samples") == 0) wanted = std::atof(argv[i + 1]);
    const std::string path = argv[1];
    for (const char* end : {"", "-wal", "-shm"}) std::filesystem::remove(path + end);
    auto made = Study::create(path);
    if (!made) {
        std::fprintf(stderr, "%s\n", made.error().message.c_str());
        return 1;
    }
    Study& study = **made;
    study.setSetting("plant", "Corvane Maltings");
    std::vector<TagId> tags;
    std::vector<Maker> makers(kTags);
    {
        WriteBatch t(study);
        for (int i = 0; i < kTags; ++i) {
            const AssetId asset = study.catalog().addAsset(fmt::format("Kiln {}", i / 8 + 1));
            tags.push_back(
                study.catalog().addTag(asset, fmt::format("Probe {}", i % 8 + 1), "°C", TagKind::Continuous));
            makers[static_cast<std::size_t>(i)] = {{0x9E3779B97F4A7C15ull + static_cast<std::uint64_t>(i)},
                                                   *fromIso("2024-01-01T00:00:00Z")};
        }
        t.commit();
    }
    const auto each = static_cast<std::size_t>(wanted / kTags);
    const double seconds = secondsOf([&] {
        for (std::size_t at = 0; at < each; at += kPiece) {
            const std::size_t n = std::min(kPiece, each - at);
            for (std::size_t first = 0; first < kTags; first += 2) {
                std::array<PreparedWrite, 2> writes;
                const auto work = [&](std::size_t k) {
                    PreparedWrite& w = writes[k];
                    w.content = makers[first + k].make(n, 20 + 10.0 * static_cast<double>(first + k));
                    // The one sample that must be seen: in the first tag, half way.
                    if (first + k == 0 && at <= each / 2 && each / 2 < at + n)
                        w.content.values[each / 2 - at] = 5000;
                    SampleStore::code(w);
                };
                auto other = std::async(std::launch::async, work, 1);
                work(0);
                other.get();
                WriteBatch t(study);
                for (std::size_t k = 0; k < 2; ++k) {
                    writes[k].tag = tags[first + k];
                    writes[k].generation = static_cast<std::int64_t>(at / kPiece);
                    if (!study.samples().apply(writes[k])) return;
                }
                t.commit();
            }
        }
        WriteBatch t(study);
        for (const TagId tag : tags) study.catalog().setSpacing(tag, kSecond);
        t.commit();
        study.foldJournal();
    });
    const double samples = static_cast<double>(each * kTags);
    out.add("samples written", samples / 1e6, "million",
            fmt::format("{:.1f} million a second", samples / seconds / 1e6));
    out.add("bytes a sample, all in", static_cast<double>(std::filesystem::file_size(path)) / samples, "B");
}
