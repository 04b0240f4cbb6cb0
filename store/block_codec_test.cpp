#include "store/block_codec.h"

#include "store/study_file_fixture.h"

namespace jacinth {
namespace {

TEST(BlockCodec, EveryDoubleComesBackBitForBit) {
    Series s = wavy(1000);
    for (const double odd : {0.0, -0.0, 1e300, -1e-300, 0.1 + 0.2, 1.0 / 3, 123456789.123456, 1e9, 1e9 + 0.1})
        s.push(s.times.back() + kNanosecond, odd);
    s.quality.clear();
    s.push(s.times.back() + kSecond, 5, Quality::Bad);
    const Series back = decodeSamples(encodeSamples(s));
    ASSERT_EQ(back.times, s.times);
    EXPECT_EQ(std::memcmp(back.values.data(), s.values.data(), s.size() * 8), 0);
    EXPECT_EQ(back.view().qualityAt(s.size() - 1), Quality::Bad);
    EXPECT_EQ(back.view().qualityAt(0), Quality::Good);
}

TEST(BlockCodec, DecimalsAreSmallAndExact) {
    for (int decimals = 0; decimals <= 6; ++decimals) {
        const Series s = wavy(static_cast<int>(kBlockSamples), decimals);
        const Blob bytes = encodeSamples(s);
        EXPECT_EQ(decodeSamples(bytes).values, s.values);
        if (decimals <= 2) {
            EXPECT_LT(bytes.size(), 3 * s.size());
        }
    }
}

TEST(BlockCodec, CellsComeBack) {
    Series s = wavy(1000);
    s.quality.assign(s.size(), Quality::Good);
    for (std::size_t i = 64; i < 128; ++i) s.quality[i] = Quality::Bad;
    const auto cells = cellsOf(s), back = decodeCells(encodeCells(cells));
    ASSERT_EQ(back.size(), cells.size());
    for (std::size_t i = 0; i < cells.size(); ++i) {
        EXPECT_EQ(back[i].firstTime, cells[i].firstTime);
        EXPECT_EQ(back[i].lastTime, cells[i].lastTime);
        EXPECT_EQ(back[i].usable, cells[i].usable);
        if (cells[i].usable) {
            EXPECT_EQ(back[i].least, cells[i].least);
            EXPECT_EQ(back[i].sum, cells[i].sum);
        }
    }
}

TEST(BlockCodec, DamageIsSeen) {
    const Blob whole = encodeSamples(wavy(500));
    std::mt19937 random(5);
    int seen = 0;
    for (int i = 0; i < 2000; ++i) {
        Blob bytes = whole;
        bytes[random() % bytes.size()] ^= static_cast<std::uint8_t>(1 + random() % 255);
        if (i % 3 == 0) bytes.resize(random() % bytes.size());
        try {
            decodeSamples(bytes);
        } catch (const StoreError&) {
            ++seen;
        }
    }
    EXPECT_GT(seen, 1980);  // what is left are bits of zstd's headers that change nothing
}

}  // namespace
}  // namespace jacinth
