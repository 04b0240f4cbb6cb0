// Figures over windows that one evaluation leaves for the next, so that a text which changed a little is
// evaluated as quickly as what changed in it.
#pragma once

#include <cstdint>
#include <string>
#include <unordered_map>

#include "core/expr/signal.h"

namespace jacinth {

/// Of one asset over one range. Whoever holds it clears it when a tag has changed, and uses it from one
/// thread at a time.
class KeptNumbers {
  public:
    /// Null where it is not kept. Lasts until the next keep().
    const Signal* find(const std::string& key);
    void keep(const std::string& key, const Signal& signal);
    void clear();

    std::size_t bytes() const { return bytes_; }
    std::size_t size() const { return kept_.size(); }
    /// Begins another evaluation: what is not asked for from now on is the first to be forgotten.
    void begin() { ++now_; }
    /// Forgets what was not asked for the longest, until so many bytes are left; what the evaluation that
    /// began last asked for stays.
    void shrinkTo(std::size_t mostBytes);

  private:
    struct Kept {
        Signal signal;
        std::uint64_t asked = 0;
    };
    static std::size_t bytesOf(const Signal& s) {
        return s.times.size() * sizeof(Instant) + s.values.size() * sizeof(double);
    }
    std::unordered_map<std::string, Kept> kept_;
    std::size_t bytes_ = 0;
    std::uint64_t now_ = 0;
};

}  // namespace jacinth
