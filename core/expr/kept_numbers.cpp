#include "core/expr/kept_numbers.h"

#include <algorithm>

namespace jacinth {

const Signal* KeptNumbers::find(const std::string& key) {
    const auto found = kept_.find(key);
    if (found == kept_.end()) return nullptr;
    found->second.asked = now_;
    return &found->second.signal;
}

void KeptNumbers::keep(const std::string& key, const Signal& signal) {
    Kept& kept = kept_[key];
    bytes_ += bytesOf(signal) - bytesOf(kept.signal);
    kept = {signal, now_};
}

void KeptNumbers::clear() {
    kept_.clear();
    bytes_ = 0;
}

void KeptNumbers::shrinkTo(std::size_t mostBytes) {
    while (bytes_ > mostBytes) {
        const auto oldest = std::min_element(kept_.begin(), kept_.end(), [](const auto& a, const auto& b) {
            return a.second.asked < b.second.asked;
        });
        if (oldest->second.asked == now_) return;
        bytes_ -= bytesOf(oldest->second.signal);
        kept_.erase(oldest);
    }
}

}  // namespace jacinth
