#include "source/title_lines.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <vector>

#include "core/base/text.h"
#include "source/row_reader.h"
#include "source/text_layout.h"

namespace jacinth {
namespace {

bool holdsData(const std::vector<std::string_view>& fields) {
    return std::any_of(fields.begin(), fields.end(), [](std::string_view f) {
        TimeFormEvidence seen;
        seen.add(trimmed(f), 0);
        return finiteNumber(trimmed(f)).has_value() || readNumber(trimmed(f), true).has_value() ||
               seen.mostAreTimes();
    });
}

/// The line of the header where `separator` cuts the lines below it into as many fields; none where they
/// differ.
std::optional<std::size_t> headerLine(const std::vector<std::string_view>& lines, char separator) {
    constexpr std::size_t kLikeIt = 3;
    std::vector<std::size_t> counts;
    for (const std::string_view line : lines) counts.push_back(countOutsideQuotes(line, separator));
    if (counts.size() <= kLikeIt || counts.back() == 0) return {};
    std::size_t first = counts.size();
    while (first > 0 && (counts[first - 1] == counts.back() || trimmed(lines[first - 1]).empty())) --first;
    while (first < lines.size() && trimmed(lines[first]).empty()) ++first;
    if (lines.size() - first <= kLikeIt) return {};
    if (std::all_of(lines.begin(), lines.begin() + static_cast<std::ptrdiff_t>(first),
                    [](std::string_view line) { return trimmed(line).empty(); }))
        return 0;  // blank lines are passed over anyway
    for (std::size_t i = 0; i < first; ++i)
        if (counts[i] >= counts.back()) return {};
    RowReader header(lines[first], separator);
    return header.next() && !holdsData(header.fields()) ? std::optional(first) : std::nullopt;
}

}  // namespace

std::size_t countOutsideQuotes(std::string_view line, char c) {
    bool quoted = false;
    std::size_t n = 0;
    for (const char x : line) {
        if (x == '"') quoted = !quoted;
        n += !quoted && x == c;
    }
    return n;
}

std::string_view withoutLines(std::string_view text, std::int64_t lines) {
    for (; lines > 0; --lines) {
        const std::size_t end = text.find('\n');
        if (end == std::string_view::npos) return {};
        text.remove_prefix(end + 1);
    }
    return text;
}

std::int64_t titleLinesIn(std::string_view text, const std::string& separator) {
    constexpr std::size_t kLookedAt = 60;
    std::vector<std::string_view> lines;
    while (!text.empty() && lines.size() < kLookedAt) {
        const std::size_t end = text.find('\n');
        if (end == std::string_view::npos && !lines.empty()) break;  // it may be cut off
        lines.push_back(text.substr(0, end));
        text.remove_prefix(end == std::string_view::npos ? text.size() : end + 1);
    }
    while (!lines.empty() && trimmed(lines.back()).empty()) lines.pop_back();
    const std::string known = separator == "tab" || separator == "\\t" ? "\t" : separator;
    for (const char c : known.empty() ? std::string(";\t|,") : known.substr(0, 1))
        if (const auto header = headerLine(lines, c)) return static_cast<std::int64_t>(*header);
    return 0;
}

Result<std::int64_t> titleLinesOf(std::string_view text, const std::string& said,
                                  const std::string& separator) {
    if (trimmed(said).empty()) return titleLinesIn(text, separator);
    const auto lines = finiteNumber(trimmed(said));
    if (!lines || *lines < 0 || *lines > 1000 || *lines != std::floor(*lines))
        return Error{fmt::format("`{}` is not a number of title lines, from 0 to 1000", said)};
    return static_cast<std::int64_t>(*lines);
}

}  // namespace jacinth
