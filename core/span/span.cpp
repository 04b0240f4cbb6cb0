#include "core/span/span.h"

#include <fmt/format.h>

#include <algorithm>

namespace jacinth {

std::string factText(const Fact& fact) {
    if (const double* number = std::get_if<double>(&fact)) return fmt::format("{}", *number);
    return std::get<std::string>(fact);
}

double factNumber(const Facts& facts, const std::string& name, double otherwise) {
    const auto found = facts.find(name);
    if (found == facts.end()) return otherwise;
    const double* number = std::get_if<double>(&found->second);
    return number ? *number : otherwise;
}

std::string factText(const Facts& facts, const std::string& name) {
    const auto found = facts.find(name);
    return found == facts.end() ? std::string() : factText(found->second);
}

std::vector<TimeRange> joined(std::vector<TimeRange> ranges, Duration gap) {
    std::sort(ranges.begin(), ranges.end(),
              [](const TimeRange& a, const TimeRange& b) { return a.from < b.from; });
    std::vector<TimeRange> out;
    for (const TimeRange& r : ranges) {
        if (!out.empty() && r.from - out.back().to <= gap)
            out.back().to = std::max(out.back().to, r.to);
        else
            out.push_back(r);
    }
    return out;
}

std::vector<TimeRange> noShorterThan(std::vector<TimeRange> ranges, Duration least) {
    std::erase_if(ranges, [&](const TimeRange& r) { return r.length() < least; });
    return ranges;
}

std::vector<TimeRange> subtract(const std::vector<TimeRange>& whole, const std::vector<TimeRange>& holes) {
    std::vector<TimeRange> out;
    std::size_t h = 0;
    for (TimeRange w : whole) {
        while (h < holes.size() && holes[h].to <= w.from) ++h;
        for (std::size_t k = h; k < holes.size() && holes[k].from < w.to; ++k) {
            if (holes[k].from > w.from) out.push_back({w.from, holes[k].from});
            w.from = std::max(w.from, holes[k].to);
        }
        if (w.from < w.to) out.push_back(w);
    }
    return out;
}

std::vector<TimeRange> intersect(const std::vector<TimeRange>& a, const std::vector<TimeRange>& b) {
    std::vector<TimeRange> out;
    std::size_t i = 0, j = 0;
    while (i < a.size() && j < b.size()) {
        const Instant from = std::max(a[i].from, b[j].from), to = std::min(a[i].to, b[j].to);
        if (from < to) out.push_back({from, to});
        if (a[i].to < b[j].to)
            ++i;
        else
            ++j;
    }
    return out;
}

std::optional<Instant> momentIn(const std::vector<TimeRange>& ranges, Duration place) {
    for (const TimeRange& r : ranges) {
        if (place < r.length()) return r.from + place;
        place -= r.length();
    }
    return {};
}

Duration totalLength(const std::vector<TimeRange>& ranges) {
    Duration total{};
    for (const TimeRange& r : ranges) total += r.length();
    return total;
}

}  // namespace jacinth
