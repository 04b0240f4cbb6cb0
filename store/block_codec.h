// Samples to bytes and back. docs/study-format.md describes the bytes for other readers.
#pragma once

#include "core/series/summary.h"
#include "store/database.h"

namespace jacinth {

inline constexpr std::size_t kBlockSamples = 8192;
inline constexpr std::size_t kCellSamples = 64;
inline constexpr std::size_t kCoarseSamples = 512;
inline constexpr std::size_t kQuarterSamples = 2048;

/// Times as differences of differences, values as decimal integers where that is exact and else as shuffled
/// bits; then zstd with its checksum. Exact for every double, NaN payloads aside. Not empty.
Blob encodeSamples(const SeriesView& samples);
/// The same with the times coded before, by encodeTimes: tags of one source share theirs.
Blob encodeSamples(const SeriesView& samples, const Blob& codedTimes);
Blob encodeTimes(std::span<const Instant> times);

/// Throws StoreError where the bytes are damaged: wrong checksum, wrong length, times that do not rise.
Series decodeSamples(std::span<const std::uint8_t> bytes);

/// The summaries of every kCellSamples samples of a block.
std::vector<Summary> cellsOf(const SeriesView& samples);
/// Cells of kCoarseSamples from those of kCellSamples.
std::vector<Summary> coarseCells(std::span<const Summary> cells);
/// Cells of kQuarterSamples from those of kCoarseSamples.
std::vector<Summary> quarterCells(std::span<const Summary> coarse);
Blob encodeCells(std::span<const Summary> cells);
std::vector<Summary> decodeCells(std::span<const std::uint8_t> bytes);

/// A block as the index knows it.
struct BlockFigures {
    std::int64_t id = 0;
    Summary summary;
    Duration spacing{};  ///< median of its samples
};
Blob encodeBlockFigures(std::span<const BlockFigures> blocks);
std::vector<BlockFigures> decodeBlockFigures(std::span<const std::uint8_t> bytes);

}  // namespace jacinth
