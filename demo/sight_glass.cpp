#include "demo/sight_glass.h"

#include <fmt/format.h>
#include <png.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <filesystem>

#include "core/time/zone.h"

namespace jacinth::demo {
namespace {

namespace fs = std::filesystem;

constexpr unsigned kSide = 96;  // pixels
constexpr int kShades = 64;     // of the palette, from black over red and orange to near white
constexpr Duration kBefore = 2 * kHour, kAfter = kHour;

using Picture = std::array<std::uint8_t, kSide * kSide>;

std::array<png_color, kShades> palette() {
    std::array<png_color, kShades> out{};
    for (int i = 0; i < kShades; ++i) {
        const double heat = static_cast<double>(i) / (kShades - 1);
        const auto channel = [&](double from, double to) {
            return static_cast<png_byte>(
                std::lround(255 * std::clamp((heat - from) / (to - from), 0.0, 1.0)));
        };
        out[static_cast<std::size_t>(i)] = {channel(0, 0.45), channel(0.3, 0.85), channel(0.75, 1.15)};
    }
    return out;
}

/// Three tongues that sway, behind a round pane; without flame the lining glows on a little.
Picture drawFrame(double flame, Random& random) {
    std::array<std::array<double, 4>, 3> tongues{};  // x, y, width, height
    for (auto& t : tongues)
        t = {random.uniform(30, 66), random.uniform(52, 66), random.uniform(7, 12), random.uniform(18, 30)};
    Picture out{};
    for (unsigned y = 0; y < kSide; ++y)
        for (unsigned x = 0; x < kSide; ++x) {
            const double fromMiddle = std::hypot(x - 47.5, y - 47.5);
            if (fromMiddle > 45) continue;  // the frame of the pane
            double heat = 0.10;
            for (const auto& [tx, ty, wide, high] : tongues)
                heat += 0.75 * flame * std::exp(-std::pow((x - tx) / wide, 2) - std::pow((y - ty) / high, 2));
            out[y * kSide + x] =
                static_cast<std::uint8_t>(std::lround(std::clamp(heat, 0.0, 1.0) * (kShades - 1)));
        }
    return out;
}

Status writePng(const fs::path& path, const Picture& picture) {
    static const std::array<png_color, kShades> colours = palette();
    std::FILE* file = std::fopen(path.c_str(), "wb");
    if (!file) return Error{fmt::format("{} cannot be written: {}", path.string(), std::strerror(errno))};
    png_structp png = png_create_write_struct(PNG_LIBPNG_VER_STRING, nullptr, nullptr, nullptr);
    png_infop info = png_create_info_struct(png);
    bool good = false;
    if (setjmp(png_jmpbuf(png)) == 0) {
        png_init_io(png, file);
        png_set_compression_level(png, 4);
        png_set_IHDR(png, info, kSide, kSide, 8, PNG_COLOR_TYPE_PALETTE, PNG_INTERLACE_NONE,
                     PNG_COMPRESSION_TYPE_DEFAULT, PNG_FILTER_TYPE_DEFAULT);
        png_set_PLTE(png, info, colours.data(), kShades);
        png_write_info(png, info);
        for (unsigned y = 0; y < kSide; ++y) png_write_row(png, picture.data() + y * kSide);
        png_write_end(png, info);
        good = true;
    }
    png_destroy_write_struct(&png, &info);
    good = std::fclose(file) == 0 && good;
    return good ? Status(Done{}) : Status(Error{fmt::format("{} cannot be written", path.string())});
}

/// How bright the flame is: nothing while it is out, else by the gas that it gets.
double flameAt(const KilnHistory& kiln, TimeRange record, Instant t) {
    for (const FlameLoss& loss : kiln.flameLosses)
        if (loss.range.contains(t)) return 0;
    const auto tick = static_cast<std::size_t>((t - record.from) / kTick);
    if (tick >= kiln.gas.size() || kiln.gas[tick] <= 1) return 0;
    const float most = *std::max_element(kiln.gas.begin(), kiln.gas.end());
    return 0.55 + 0.45 * static_cast<double>(kiln.gas[tick] / most);
}

}  // namespace

SightGlass sightGlassOf(const Truth& truth) {
    SightGlass best;
    for (const KilnHistory& kiln : truth.kilns) {
        SightGlass here{kiln.kiln, {}, {}};
        for (const FlameLoss& loss : kiln.flameLosses)
            if (here.losses.size() < 2 && !loss.stopped) here.losses.push_back(loss);
        if (here.losses.size() > best.losses.size()) best = here;
    }
    const TimeRange record = truth.spec.record();
    for (const FlameLoss& loss : best.losses) {
        const TimeRange around{std::max(record.from, loss.range.from - kBefore),
                               std::min(record.to, loss.range.to + kAfter)};
        if (!best.filmed.empty() && around.from < best.filmed.back().to)
            best.filmed.back().to = around.to;
        else
            best.filmed.push_back(around);
    }
    return best;
}

std::string sightGlassFolder(const std::string& studyPath) {
    fs::path path(studyPath);
    while (path.has_extension()) path.replace_extension();
    return path.string() + "-sight-glass";
}

Result<std::size_t> writeSightGlass(const Truth& truth, const std::string& folder, const Progress& progress) {
    const SightGlass camera = sightGlassOf(truth);
    const Zone zone = *Zone::named("Europe/Oslo");
    std::error_code trouble;
    fs::create_directories(folder, trouble);
    if (trouble) return Error{fmt::format("{}: {}", folder, trouble.message())};
    Random random = Random(truth.spec.seed).branch(700);
    std::size_t count = 0;
    for (const TimeRange& stretch : camera.filmed)
        for (Instant t = stretch.from; t < stretch.to; t += kFrameEvery) {
            const auto& kiln = truth.kilns[static_cast<std::size_t>(camera.kiln - 1)];
            const Picture picture = drawFrame(flameAt(kiln, truth.spec.record(), t), random);
            const WallTime wall = zone.wall(t + kCameraAhead);
            const std::string name = fmt::format("sight-glass-{:04}{:02}{:02}-{:02}{:02}{:02}.png", wall.year,
                                                 wall.month, wall.day, wall.hour, wall.minute, wall.second);
            if (const Status written = writePng(fs::path(folder) / name, picture); !written)
                return written.error();
            if (++count % 50 == 0 && progress.stopped(static_cast<double>(count) / 2160))
                return Error::cancelled();
        }
    return count;
}

}  // namespace jacinth::demo
