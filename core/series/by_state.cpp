#include "core/series/by_state.h"

#include <algorithm>
#include <cmath>

namespace jacinth {
namespace {

/// Walks the held states along rising times.
class StateAt {
  public:
    StateAt(const SeriesView& states, const Bridging& held) : states_(states), held_(held) {}

    int operator()(Instant t) {
        while (next_ < states_.size() && states_.times[next_] <= t) {
            if (states_.usable(next_)) last_ = next_, known_ = true;
            if (states_.ends(next_)) known_ = false;
            ++next_;
        }
        if (!known_) return -1;
        if (held_.longestGap != kWithoutEnd && t - states_.times[last_] > held_.longestGap) return -1;
        return static_cast<int>(states_.values[last_]);
    }

  private:
    const SeriesView& states_;
    const Bridging& held_;
    std::size_t next_ = 0, last_ = 0;
    bool known_ = false;
};

}  // namespace

std::vector<StateValues> splitByState(const SeriesView& values, const SeriesView& states,
                                      const Bridging& held, int count, TimeRange range) {
    std::vector<StateValues> out(static_cast<std::size_t>(std::max(0, count)));
    for (int s = 0; s < count; ++s) out[static_cast<std::size_t>(s)].state = s;
    StateAt stateAt(states, held);
    for (std::size_t i = firstNotBefore(values.times, range.from);
         i < values.size() && values.times[i] < range.to; ++i) {
        if (!values.usable(i)) continue;
        const int s = stateAt(values.times[i]);
        if (s >= 0 && s < count) out[static_cast<std::size_t>(s)].sorted.push_back(values.values[i]);
    }
    for (StateValues& v : out) std::sort(v.sorted.begin(), v.sorted.end());
    std::size_t before = states.size();
    const auto close = [&](Instant end) {
        if (before == states.size()) return;
        if (held.longestGap != kWithoutEnd) end = std::min(end, states.times[before] + held.longestGap);
        const Duration d = std::min(end, range.to) - std::max(states.times[before], range.from);
        const int s = static_cast<int>(states.values[before]);
        if (d > Duration::zero() && s >= 0 && s < count) out[static_cast<std::size_t>(s)].time += d;
    };
    for (std::size_t i = 0; i < states.size(); ++i) {
        if (!states.usable(i) && !states.ends(i)) continue;
        close(states.times[i]);
        before = states.ends(i) ? states.size() : i;
    }
    close(range.to);
    return out;
}

std::vector<TimeRange> whenInCluster(const SeriesView& values, const SeriesView& states, const Bridging& held,
                                     int state, double low, double high, Duration longestGap) {
    std::vector<TimeRange> out;
    StateAt stateAt(states, held);
    bool open = false;
    Instant last{};
    for (std::size_t i = 0; i < values.size(); ++i) {
        if (!values.usable(i)) continue;
        const Instant t = values.times[i];
        const bool in = values.values[i] >= low && values.values[i] <= high && stateAt(t) == state;
        if (open && (!in || t - last > longestGap)) {
            out.back().to = t - last > longestGap ? last : t;
            open = false;
        }
        if (in && !open) {
            out.push_back({t, t});
            open = true;
        }
        if (in) last = t;
    }
    if (open) out.back().to = last;
    return out;
}

}  // namespace jacinth
