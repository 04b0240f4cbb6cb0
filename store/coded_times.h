// Times of blocks that are coded once for all tags that have them: the columns of a wide file.
#pragma once

#include <map>
#include <memory>
#include <mutex>
#include <span>
#include <tuple>
#include <vector>

#include "core/time/instant.h"
#include "store/database.h"

namespace jacinth {

/// For the blocks of one batch; may be asked from several threads. Keeps a copy of every stretch of times it
/// is asked for: about 70 kB a block.
class CodedTimes {
  public:
    struct Entry {
        std::vector<Instant> times;
        Blob bytes;          ///< as encodeTimes gives them
        Duration spacing{};  ///< median
    };
    std::shared_ptr<const Entry> of(std::span<const Instant> times);

  private:
    using Key = std::tuple<Instant, Instant, std::size_t>;  ///< first, last, count
    std::mutex mutex_;
    std::map<Key, std::shared_ptr<const Entry>> known_;
};

}  // namespace jacinth
