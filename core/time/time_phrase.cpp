#include "core/time/time_phrase.h"

#include <fmt/format.h>

#include <array>
#include <cctype>
#include <charconv>
#include <optional>
#include <vector>

namespace jacinth {
namespace {

constexpr std::array<const char*, 12> kMonths{"jan", "feb", "mar", "apr", "may", "jun",
                                              "jul", "aug", "sep", "oct", "nov", "dec"};

std::vector<std::string> wordsOf(std::string_view text) {
    std::vector<std::string> out;
    std::string word;
    for (const char c : text) {
        if (std::isspace(static_cast<unsigned char>(c)) || c == ',') {
            if (!word.empty()) out.push_back(std::move(word));
            word.clear();
        } else {
            word += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
        }
    }
    if (!word.empty()) out.push_back(word);
    return out;
}

std::optional<int> wholeNumber(std::string_view text) {
    int v = 0;
    const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), v);
    if (code != std::errc() || end != text.data() + text.size()) return {};
    return v;
}

std::optional<int> monthOf(const std::string& word) {
    for (std::size_t i = 0; i < kMonths.size(); ++i)
        if (word.size() >= 3 && word.substr(0, 3) == kMonths[i]) return static_cast<int>(i) + 1;
    return {};
}

std::optional<Duration> unitOf(std::string word) {
    if (word.size() > 1 && word.back() == 's') word.pop_back();
    if (word == "minute" || word == "min") return kMinute;
    if (word == "hour") return kHour;
    if (word == "day") return kDay;
    if (word == "week") return kWeek;
    if (word == "month") return 30 * kDay;
    if (word == "year") return 365 * kDay;
    return {};
}

bool takeClock(const std::string& word, WallTime& wall) {
    const std::size_t colon = word.find(':');
    if (colon == std::string::npos) return false;
    const auto hour = wholeNumber(std::string_view(word).substr(0, colon));
    std::string_view rest = std::string_view(word).substr(colon + 1);
    const std::size_t second = rest.find(':');
    const auto minute = wholeNumber(rest.substr(0, second));
    const auto seconds =
        second == std::string_view::npos ? std::optional<int>(0) : wholeNumber(rest.substr(second + 1));
    if (!hour || !minute || !seconds) return false;
    wall.hour = *hour, wall.minute = *minute, wall.second = *seconds;
    return true;
}

struct Moment {
    Instant instant;
    bool wholeDay;
};

/// A date, a clock time, or both, at the front of `words`; what was used is taken off.
std::optional<Moment> takeMoment(std::vector<std::string>& words, const Zone& zone, TimeRange record,
                                 TimeRange current) {
    if (words.empty()) return {};
    if (const auto iso = fromIso(words[0]); iso && words[0].size() > 10) {
        words.erase(words.begin());
        return Moment{*iso, false};
    }
    WallTime wall = zone.wall(current.from);
    wall.hour = wall.minute = wall.second = 0;
    wall.fraction = {};
    std::size_t used = 0;
    bool dated = false, yearGiven = false;
    if (const auto iso = fromIso(words[0]); iso && words[0].size() == 10) {
        wall.year = *wholeNumber(std::string_view(words[0]).substr(0, 4));
        wall.month = *wholeNumber(std::string_view(words[0]).substr(5, 2));
        wall.day = *wholeNumber(std::string_view(words[0]).substr(8, 2));
        dated = yearGiven = true;
        used = 1;
    } else if (words.size() > 1 && wholeNumber(words[0]) && monthOf(words[1])) {
        wall.day = *wholeNumber(words[0]);
        wall.month = *monthOf(words[1]);
        wall.year = zone.wall(record.to).year;
        dated = true;
        used = 2;
        if (words.size() > 2 && words[2].size() == 4 && wholeNumber(words[2])) {
            wall.year = *wholeNumber(words[2]);
            yearGiven = true;
            used = 3;
        }
    }
    const bool clock = used < words.size() && takeClock(words[used], wall);
    if (clock) ++used;
    if ((!dated && !clock) || !wall.valid()) return {};
    Instant t = zone.instant(wall).instant;
    if (dated && !yearGiven && t > record.to) {
        --wall.year;
        if (wall.valid()) t = zone.instant(wall).instant;
    }
    words.erase(words.begin(), words.begin() + static_cast<std::ptrdiff_t>(used));
    return Moment{t, !clock};
}

}  // namespace

Result<TimeRange> parseTimePhrase(std::string_view text, const Zone& zone, TimeRange record,
                                  TimeRange current) {
    const Error wrong{fmt::format(
        "`{}` is not a time; write it like `4 Apr 06:00 +2d`, `4 Apr to 9 Apr`, `last 3 weeks` or `all`",
        text)};
    std::vector<std::string> words = wordsOf(text);
    if (words.empty()) return wrong;
    if (words[0] == "all" && words.size() == 1) return record;
    if (words[0] == "last") {
        words.erase(words.begin());
        Duration length{};
        if (words.size() == 2 && wholeNumber(words[0]) && unitOf(words[1]))
            length = *wholeNumber(words[0]) * *unitOf(words[1]);
        else if (words.size() == 1 && unitOf(words[0]))
            length = *unitOf(words[0]);
        else if (words.size() == 1)
            length = parseDuration(words[0]) ? *parseDuration(words[0]) : Duration{};
        if (length <= Duration::zero()) return wrong;
        return TimeRange{record.to - length, record.to};
    }
    const auto from = takeMoment(words, zone, record, current);
    if (!from) return wrong;
    const Instant day = from->wholeDay ? zone.addDays(from->instant, 1) : from->instant + current.length();
    if (words.empty()) return TimeRange{from->instant, day};
    if (words[0][0] == '+') {
        std::string length = words[0].substr(1);
        for (std::size_t i = 1; i < words.size(); ++i) length += words[i];
        const auto d = parseDuration(length);
        if (!d || *d <= Duration::zero()) return wrong;
        return TimeRange{from->instant, from->instant + *d};
    }
    if (words[0] != "to" && words[0] != "-" && words[0] != "–" && words[0] != "→") return wrong;
    words.erase(words.begin());
    const auto to = takeMoment(words, zone, record, {from->instant, from->instant});
    if (!to || !words.empty()) return wrong;
    const Instant end = to->wholeDay ? zone.addDays(to->instant, 1) : to->instant;
    if (end <= from->instant) return Error{"the end lies before the start"};
    return TimeRange{from->instant, end};
}

std::string timePhrase(const Zone& zone, TimeRange range) {
    const Duration minutes = (range.length() + kMinute / 2) / kMinute * kMinute;
    if (minutes == Duration::zero())
        return zone.preciseText(range.from) + " +" + formatDuration(range.length() / kSecond * kSecond);
    std::string length =
        formatDuration(minutes >= 2 * kDay ? (minutes + kHour / 2) / kHour * kHour : minutes);
    return zone.text(range.from) + " +" + length;
}

}  // namespace jacinth
