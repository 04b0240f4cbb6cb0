#include "store/block_codec.h"

#include <zstd.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cstring>
#include <memory>
#include <numeric>
#include <optional>

namespace jacinth {
namespace {

constexpr std::uint8_t kVersion = 1;
constexpr std::uint8_t kBits = 255;  // value coding: bits, not decimals
constexpr std::array<double, 7> kPowers{1, 10, 100, 1e3, 1e4, 1e5, 1e6};
constexpr std::size_t kMostSamples = 1 << 20;  // a damaged count must not ask for memory without bound

[[noreturn]] void damaged() {
    throw StoreError("a block of samples is damaged");
}

std::uint64_t zigzag(std::int64_t v) {
    return (static_cast<std::uint64_t>(v) << 1) ^ static_cast<std::uint64_t>(v >> 63);
}
std::int64_t unzigzag(std::uint64_t v) {
    return static_cast<std::int64_t>(v >> 1) ^ -static_cast<std::int64_t>(v & 1);
}

class Writer {
  public:
    void byte(std::uint8_t v) { *roomFor(1)++ = v; }
    void varint(std::uint64_t v) {
        std::uint8_t*& at = roomFor(10);
        for (; v >= 0x80; v >>= 7) *at++ = static_cast<std::uint8_t>(v | 0x80);
        *at++ = static_cast<std::uint8_t>(v);
    }
    void signedVarint(std::int64_t v) { varint(zigzag(v)); }
    void real(double v) {
        std::uint8_t*& at = roomFor(8);
        std::memcpy(at, &v, 8);
        at += 8;
    }
    void bytes(std::span<const std::uint8_t> more) {
        std::uint8_t*& at = roomFor(more.size());
        if (!more.empty()) std::memcpy(at, more.data(), more.size());
        at += more.size();
    }
    Blob take() {
        out_.resize(static_cast<std::size_t>(at_ - out_.data()));
        return std::move(out_);
    }

  private:
    std::uint8_t*& roomFor(std::size_t n) {
        const auto used = static_cast<std::size_t>(at_ - out_.data());
        if (out_.size() - used < n) {
            out_.resize(std::max<std::size_t>(used + n, out_.size() * 2));
            at_ = out_.data() + used;
        }
        return at_;
    }
    Blob out_ = Blob(256);
    std::uint8_t* at_ = out_.data();
};

class Reader {
  public:
    explicit Reader(std::span<const std::uint8_t> bytes) : bytes_(bytes) {}
    std::uint8_t byte() {
        if (at_ >= bytes_.size()) damaged();
        return bytes_[at_++];
    }
    std::uint64_t varint() {
        std::uint64_t v = 0;
        for (int shift = 0; shift < 64; shift += 7) {
            const std::uint8_t b = byte();
            v |= static_cast<std::uint64_t>(b & 0x7F) << shift;
            if (b < 0x80) return v;
        }
        damaged();
    }
    std::int64_t signedVarint() { return unzigzag(varint()); }
    double real() {
        if (bytes_.size() - at_ < 8) damaged();
        double v = 0;
        std::memcpy(&v, bytes_.data() + at_, 8);
        at_ += 8;
        return v;
    }
    std::span<const std::uint8_t> take(std::size_t n) {
        if (bytes_.size() - at_ < n) damaged();
        at_ += n;
        return bytes_.subspan(at_ - n, n);
    }
    std::span<const std::uint8_t> rest() { return take(bytes_.size() - at_); }
    bool atEnd() const { return at_ == bytes_.size(); }

  private:
    std::span<const std::uint8_t> bytes_;
    std::size_t at_ = 0;
};

void appendCompressed(Writer& out, const Blob& plain) {
    thread_local const std::unique_ptr<ZSTD_CCtx, decltype(&ZSTD_freeCCtx)> context(ZSTD_createCCtx(),
                                                                                    &ZSTD_freeCCtx);
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_compressionLevel, 1);
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_checksumFlag, 1);
    Blob packed(ZSTD_compressBound(plain.size()));
    const std::size_t size =
        ZSTD_compress2(context.get(), packed.data(), packed.size(), plain.data(), plain.size());
    if (ZSTD_isError(size)) throw StoreError("compressing a block failed");
    out.varint(size);
    out.bytes(std::span(packed).first(size));
}

Blob takeCompressed(Reader& in) {
    const auto packed = in.take(in.varint());
    const unsigned long long size = ZSTD_getFrameContentSize(packed.data(), packed.size());
    if (size == ZSTD_CONTENTSIZE_ERROR || size == ZSTD_CONTENTSIZE_UNKNOWN || size > kMostSamples * 32)
        damaged();
    Blob plain(size);
    thread_local const std::unique_ptr<ZSTD_DCtx, decltype(&ZSTD_freeDCtx)> context(ZSTD_createDCtx(),
                                                                                    &ZSTD_freeDCtx);
    const std::size_t got =
        ZSTD_decompressDCtx(context.get(), plain.data(), plain.size(), packed.data(), packed.size());
    if (ZSTD_isError(got) || got != size) damaged();
    return plain;
}

/// The nearest integer of |v| < 2^51, ties to even: adding 1.5·2^52 leaves no room for a fraction.
inline double roundedSmall(double v) {
    constexpr double kShift = 6755399441055744.0;
    return (v + kShift) - kShift;
}

bool exactWith(std::span<const double> values, int decimals) {
    const double power = kPowers[decimals];
    bool exact = true;
    for (const double v : values) exact &= roundedSmall(v * power) / power == v;
    return exact;
}

/// The least number of decimals with which every value is exactly an integer over a power of ten; -1 for
/// none.
int decimalsOf(std::span<const double> values) {
    int decimals = 0;
    for (const double v : values) {
        if (!(std::abs(v) <= 1e9) || (v == 0 && std::signbit(v))) return -1;
        while (roundedSmall(v * kPowers[decimals]) / kPowers[decimals] != v)
            if (++decimals == static_cast<int>(kPowers.size())) return -1;
    }
    // More decimals can undo exactness of an earlier value: check once all at the final number.
    return exactWith(values, decimals) ? decimals : -1;
}

/// a / b where that is whole. By a product of doubles, checked in integers: division of integers is the
/// slowest thing in coding a block.
inline std::optional<std::int64_t> quotient(std::int64_t a, std::int64_t b) {
    const auto guess =
        static_cast<std::int64_t>(roundedSmall(static_cast<double>(a) / static_cast<double>(b)));
    if (a < (std::int64_t{1} << 52) && guess * b == a) return guess;
    return a % b == 0 ? std::optional(a / b) : std::nullopt;
}

Blob timesToBytes(std::span<const Instant> times) {
    Writer w;
    std::int64_t unit = 0;
    for (std::size_t i = 1; i < times.size() && unit != 1; ++i)
        if (const std::int64_t step = (times[i] - times[i - 1]).count(); unit == 0 || !quotient(step, unit))
            unit = std::gcd(unit, step);
    unit = std::max<std::int64_t>(1, unit);
    w.signedVarint(epochNanoseconds(times[0]));
    w.varint(static_cast<std::uint64_t>(unit));
    std::int64_t before = 0;
    for (std::size_t i = 1; i < times.size(); ++i) {
        const std::int64_t step = *quotient((times[i] - times[i - 1]).count(), unit);
        w.signedVarint(step - before);
        before = step;
    }
    return w.take();
}

void bytesToTimes(const Blob& bytes, std::size_t n, std::vector<Instant>& times) {
    Reader r(bytes);
    times.resize(n);
    times[0] = fromEpochNanoseconds(r.signedVarint());
    const auto unit = static_cast<std::int64_t>(r.varint());
    std::int64_t step = 0;
    for (std::size_t i = 1; i < n; ++i) {
        step += r.signedVarint();
        times[i] = times[i - 1] + Duration(step * unit);
        if (times[i] <= times[i - 1]) damaged();
    }
}

Blob valuesToBytes(std::span<const double> values) {
    Writer w;
    const int decimals = decimalsOf(values);
    if (decimals >= 0) {
        w.byte(static_cast<std::uint8_t>(decimals));
        std::int64_t before = 0;
        for (const double v : values) {
            const auto integer = static_cast<std::int64_t>(roundedSmall(v * kPowers[decimals]));
            w.signedVarint(integer - before);
            before = integer;
        }
        return w.take();
    }
    // Bits of each value against the one before, all first bytes together, then all second bytes, …
    w.byte(kBits);
    std::vector<std::uint64_t> bits(values.size());
    for (std::size_t i = 0; i < values.size(); ++i)
        bits[i] =
            std::bit_cast<std::uint64_t>(values[i]) ^ (i ? std::bit_cast<std::uint64_t>(values[i - 1]) : 0);
    for (int shift = 56; shift >= 0; shift -= 8)
        for (const std::uint64_t b : bits) w.byte(static_cast<std::uint8_t>(b >> shift));
    return w.take();
}

void bytesToValues(std::span<const std::uint8_t> bytes, std::size_t n, std::vector<double>& values) {
    Reader r(bytes);
    values.resize(n);
    const std::uint8_t coding = r.byte();
    if (coding == kBits) {
        std::vector<std::uint64_t> bits(n);
        for (int shift = 56; shift >= 0; shift -= 8)
            for (std::uint64_t& b : bits) b |= static_cast<std::uint64_t>(r.byte()) << shift;
        std::uint64_t before = 0;
        for (std::size_t i = 0; i < n; ++i) values[i] = std::bit_cast<double>(before ^= bits[i]);
        return;
    }
    if (coding >= kPowers.size()) damaged();
    std::int64_t integer = 0;
    for (std::size_t i = 0; i < n; ++i) {
        integer += r.signedVarint();
        values[i] = static_cast<double>(integer) / kPowers[coding];
    }
}

/// Runs of equal quality: length, quality. Nothing at all where every sample is good.
Blob qualityToBytes(const SeriesView& s) {
    Writer w;
    for (std::size_t i = 0; i < s.quality.size();) {
        std::size_t k = i;
        while (k < s.quality.size() && s.quality[k] == s.quality[i]) ++k;
        w.varint(k - i);
        w.byte(static_cast<std::uint8_t>(s.quality[i]));
        i = k;
    }
    return w.take();
}

void bytesToQuality(const Blob& bytes, std::size_t n, std::vector<Quality>& quality) {
    if (bytes.empty()) return;
    Reader r(bytes);
    while (quality.size() < n) {
        const std::uint64_t length = r.varint();
        const std::uint8_t q = r.byte();
        if (length == 0 || length > n - quality.size() || q > 3) damaged();
        quality.insert(quality.end(), length, static_cast<Quality>(q));
    }
}

std::vector<Summary> mergedBy(std::span<const Summary> cells, std::size_t n) {
    std::vector<Summary> out;
    for (std::size_t i = 0; i < cells.size(); ++i) {
        if (i % n == 0) out.emplace_back();
        out.back().merge(cells[i]);
    }
    return out;
}

}  // namespace

Blob encodeTimes(std::span<const Instant> times) {
    Writer out;
    appendCompressed(out, timesToBytes(times));
    return out.take();
}

Blob encodeSamples(const SeriesView& s) {
    return encodeSamples(s, encodeTimes(s.times));
}

Blob encodeSamples(const SeriesView& s, const Blob& codedTimes) {
    Writer out;
    out.byte(kVersion);
    out.varint(s.size());
    out.bytes(codedTimes);
    appendCompressed(out, valuesToBytes(s.values));
    const bool allGood =
        std::all_of(s.quality.begin(), s.quality.end(), [](Quality q) { return q == Quality::Good; });
    appendCompressed(out, allGood ? Blob{} : qualityToBytes(s));
    return out.take();
}

Series decodeSamples(std::span<const std::uint8_t> bytes) {
    Reader in(bytes);
    if (in.byte() != kVersion) damaged();
    const std::uint64_t n = in.varint();
    if (n == 0 || n > kMostSamples) damaged();
    Series s;
    bytesToTimes(takeCompressed(in), n, s.times);
    bytesToValues(takeCompressed(in), n, s.values);
    bytesToQuality(takeCompressed(in), n, s.quality);
    if (!in.atEnd()) damaged();
    return s;
}

std::vector<Summary> cellsOf(const SeriesView& s) {
    std::vector<Summary> cells((s.size() + kCellSamples - 1) / kCellSamples);
    for (std::size_t i = 0; i < s.size(); ++i)
        cells[i / kCellSamples].add(s.times[i], s.values[i], s.usable(i));
    return cells;
}

std::vector<Summary> coarseCells(std::span<const Summary> cells) {
    return mergedBy(cells, kCoarseSamples / kCellSamples);
}

std::vector<Summary> quarterCells(std::span<const Summary> coarse) {
    return mergedBy(coarse, kQuarterSamples / kCoarseSamples);
}

Blob encodeCells(std::span<const Summary> cells) {
    Writer w;
    std::vector<double> figures;
    Instant before{};
    for (const Summary& c : cells) {
        w.signedVarint((c.firstTime - before).count());
        w.varint(static_cast<std::uint64_t>((c.lastTime - c.firstTime).count()));
        w.varint(c.count);
        w.varint(c.usable);
        before = c.lastTime;
        if (c.usable == 0) continue;
        for (const double v : {c.first, c.last, c.least, c.greatest}) figures.push_back(v);
    }
    const Blob coded = valuesToBytes(figures);
    w.bytes(coded);
    for (const Summary& c : cells)
        if (c.usable) w.real(c.sum);
    Writer out;
    out.byte(kVersion);
    out.varint(cells.size());
    appendCompressed(out, w.take());
    return out.take();
}

std::vector<Summary> decodeCells(std::span<const std::uint8_t> bytes) {
    Reader in(bytes);
    if (in.byte() != kVersion) damaged();
    const std::uint64_t n = in.varint();
    if (n > kMostSamples) damaged();
    const Blob plain = takeCompressed(in);
    Reader r(plain);
    std::vector<Summary> cells(n);
    std::size_t known = 0;
    Instant before{};
    for (Summary& c : cells) {
        c.firstTime = before + Duration(r.signedVarint());
        c.lastTime = c.firstTime + Duration(static_cast<std::int64_t>(r.varint()));
        c.count = static_cast<std::uint32_t>(r.varint());
        c.usable = static_cast<std::uint32_t>(r.varint());
        before = c.lastTime;
        known += c.usable > 0;
    }
    // The figures' coding does not carry its length: its values are counted off, the sums follow in plain
    // form.
    const std::size_t sums = known * 8;
    const auto rest = r.rest();
    if (rest.size() < sums) damaged();
    std::vector<double> figures;
    if (known) bytesToValues(rest.first(rest.size() - sums), known * 4, figures);
    Reader tail(rest.last(sums));
    std::size_t i = 0;
    for (Summary& c : cells) {
        if (c.usable == 0) continue;
        c.first = figures[i], c.last = figures[i + 1], c.least = figures[i + 2], c.greatest = figures[i + 3];
        i += 4;
        c.sum = tail.real();
    }
    return cells;
}

Blob encodeBlockFigures(std::span<const BlockFigures> blocks) {
    Writer plain;
    std::vector<Summary> summaries;
    std::int64_t before = 0;
    for (const BlockFigures& b : blocks) {
        plain.signedVarint(b.id - before);
        plain.signedVarint(b.spacing.count());
        before = b.id;
        summaries.push_back(b.summary);
    }
    Writer out;
    out.byte(kVersion);
    appendCompressed(out, plain.take());
    out.bytes(encodeCells(summaries));
    return out.take();
}

std::vector<BlockFigures> decodeBlockFigures(std::span<const std::uint8_t> bytes) {
    Reader in(bytes);
    if (in.byte() != kVersion) damaged();
    const Blob plain = takeCompressed(in);
    const std::vector<Summary> summaries = decodeCells(in.rest());
    Reader r(plain);
    std::vector<BlockFigures> out;
    out.reserve(summaries.size());
    std::int64_t id = 0;
    for (const Summary& s : summaries) {
        id += r.signedVarint();
        out.push_back({id, s, Duration(r.signedVarint())});
    }
    return out;
}

}  // namespace jacinth
