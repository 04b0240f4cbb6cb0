#include "core/steps/process_jumps.h"

#include <algorithm>
#include <cmath>

namespace jacinth {
namespace {

constexpr double kEachScore = 5, kProcessScore = 8;
constexpr Duration kOneMoment = 5 * kMinute;
constexpr int kAlikeMoments = 4;
constexpr double kAlikeApart = 0.4;

struct JumpsAtOnce {
    ProcessJump jump;
    std::vector<double> sizes;  // of each tag, in what is usual of its jumps
    std::size_t count = 0;
};

void add(JumpsAtOnce& event, const TagScan& scan, std::size_t tag, const Jump& jump) {
    const Jump*& known = event.jump.jumps[tag];
    if (known && known->score >= jump.score) return;
    event.count += known == nullptr;
    known = &jump;
    event.sizes[tag] = jump.size / scan.usualJump;
}

std::vector<JumpsAtOnce> eventsOf(const std::vector<TagScan>& asset) {
    std::vector<std::pair<const Jump*, std::size_t>> all;
    for (std::size_t i = 0; i < asset.size(); ++i)
        for (const Jump& j : asset[i].jumps)
            if (j.score >= kEachScore && !j.unknown) all.emplace_back(&j, i);
    std::sort(all.begin(), all.end(),
              [](const auto& a, const auto& b) { return a.first->after < b.first->after; });
    std::vector<JumpsAtOnce> out;
    for (const auto& [jump, tag] : all) {
        if (out.empty() || jump->before > out.back().jump.time + kOneMoment) {
            out.emplace_back().jump.time = jump->after;
            out.back().jump.jumps.resize(asset.size());
            out.back().sizes.resize(asset.size());
        }
        add(out.back(), asset[tag], tag, *jump);
    }
    std::erase_if(out, [](const JumpsAtOnce& e) {
        double square = 0;
        for (const Jump* j : e.jump.jumps)
            if (j) square += j->score * j->score;
        return e.count < 2 || square < kProcessScore * kProcessScore;
    });
    return out;
}

/// How the plant works: other moments look the same.
bool isHabit(const JumpsAtOnce& e, const std::vector<JumpsAtOnce>& events) {
    int alike = 0;
    for (const JumpsAtOnce& o : events) {
        double square = 0, apart = 0;
        for (std::size_t i = 0; i < e.sizes.size(); ++i) {
            square += e.sizes[i] * e.sizes[i];
            apart += std::pow(e.sizes[i] - o.sizes[i], 2);
        }
        alike += &o != &e && apart < kAlikeApart * kAlikeApart * square;
    }
    return alike >= kAlikeMoments;
}

}  // namespace

std::vector<ProcessJump> unusualProcessJumps(const std::vector<TagScan>& asset) {
    std::vector<ProcessJump> out;
    const std::vector<JumpsAtOnce> events = eventsOf(asset);
    for (const JumpsAtOnce& e : events)
        if (!isHabit(e, events)) out.push_back(e.jump);
    return out;
}

}  // namespace jacinth
