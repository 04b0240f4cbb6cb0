#include "core/label/evidence.h"

#include <algorithm>
#include <array>
#include <cctype>

#include "core/stats/stats.h"

namespace jacinth {
namespace {

bool isDigit(char c) {
    return std::isdigit(static_cast<unsigned char>(c)) != 0;
}

/// Reads numbers of fixed widths, with at most one sign between two of them.
class DigitReader {
  public:
    DigitReader(std::string_view text, std::size_t at) : text_(text), at_(at) {}
    bool take(int width, int& out) {
        out = 0;
        for (int i = 0; i < width; ++i) {
            if (at_ >= text_.size() || !isDigit(text_[at_])) return false;
            out = out * 10 + (text_[at_++] - '0');
        }
        return true;
    }
    void skipSign() {
        if (at_ < text_.size() && std::string_view("-_.:T h").find(text_[at_]) != std::string_view::npos)
            ++at_;
    }
    bool digitFollows() const { return at_ < text_.size() && isDigit(text_[at_]); }
    char next() const { return at_ < text_.size() ? text_[at_] : '\0'; }
    /// Decimals after a point, a comma, or a sign that the name had to take for one.
    Duration takeFraction() {
        if (std::string_view(".,_-").find(next()) == std::string_view::npos || next() == '\0') return {};
        std::size_t at = at_ + 1;
        std::int64_t ns = 0, unit = 100'000'000;
        const std::size_t first = at;
        for (; at < text_.size() && isDigit(text_[at]) && unit > 0; ++at, unit /= 10)
            ns += (text_[at] - '0') * unit;
        if (at == first) return {};
        at_ = at;
        return Duration(ns);
    }

  private:
    std::string_view text_;
    std::size_t at_;
};

std::optional<Instant> timeFrom(std::string_view name, std::size_t at, const Zone& zone) {
    DigitReader digits(name, at);
    WallTime wall;
    if (!digits.take(4, wall.year)) return {};
    for (int* part : {&wall.month, &wall.day, &wall.hour, &wall.minute, &wall.second}) {
        digits.skipSign();
        if (!digits.take(2, *part)) return {};
    }
    if (wall.year < 1970 || wall.year > 2200 || !wall.valid()) return {};
    wall.fraction = digits.takeFraction();
    if (digits.digitFollows()) return {};  // a longer number, of something else
    if (digits.next() == 'Z') return Instant(wall.sinceLocalEpoch());
    const WallInstant found = zone.instant(wall);
    return found.kind == WallKind::Skipped ? std::nullopt : std::optional(found.instant);
}

}  // namespace

std::optional<Instant> timeInName(std::string_view name, const Zone& zone) {
    for (std::size_t at = 0; at < name.size(); ++at) {
        const bool starts = isDigit(name[at]) && (at == 0 || !isDigit(name[at - 1]));
        if (!starts) continue;
        if (const auto found = timeFrom(name, at, zone)) return found;
    }
    return {};
}

std::vector<Frame> framesByTime(const std::vector<std::string>& names, const Zone& zone) {
    std::vector<Frame> out;
    for (const std::string& name : names)
        if (const auto t = timeInName(name, zone)) out.push_back({*t, name});
    std::sort(out.begin(), out.end(), [](const Frame& a, const Frame& b) {
        return a.time != b.time ? a.time < b.time : a.file < b.file;
    });
    return out;
}

int frameAt(const std::vector<Frame>& frames, Instant t, Duration longest) {
    const auto after = std::upper_bound(frames.begin(), frames.end(), t,
                                        [](Instant at, const Frame& f) { return at < f.time; });
    if (after == frames.begin()) return -1;
    const auto seen = std::prev(after);
    return t - seen->time <= longest ? static_cast<int>(seen - frames.begin()) : -1;
}

Duration stayOf(const std::vector<Frame>& frames) {
    if (frames.size() < 2) return 12 * kHour;
    std::vector<double> seconds;
    for (std::size_t i = 1; i < frames.size(); ++i)
        seconds.push_back(toSeconds(frames[i].time - frames[i - 1].time));
    return std::max<Duration>(10 * kMinute, fromSeconds(2 * median(std::move(seconds))));
}

}  // namespace jacinth
