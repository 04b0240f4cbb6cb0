#include "store/coded_times.h"

#include <algorithm>

#include "core/series/series.h"
#include "store/block_codec.h"

namespace jacinth {

std::shared_ptr<const CodedTimes::Entry> CodedTimes::of(std::span<const Instant> times) {
    const Key key{times.front(), times.back(), times.size()};
    {
        const std::lock_guard lock(mutex_);
        const auto known = known_.find(key);
        if (known != known_.end() &&
            std::equal(times.begin(), times.end(), known->second->times.begin(), known->second->times.end()))
            return known->second;
    }
    auto made = std::make_shared<Entry>();
    made->times.assign(times.begin(), times.end());
    made->bytes = encodeTimes(times);
    made->spacing = medianSpacing(times);
    const std::lock_guard lock(mutex_);
    return known_[key] = made;
}

}  // namespace jacinth
