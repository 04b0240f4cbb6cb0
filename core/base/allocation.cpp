#include "core/base/allocation.h"

#include <malloc.h>

namespace jacinth {

void keepFreedMemory() {
    constexpr int kLargest = 32 << 20;  // glibc takes no greater threshold
    mallopt(M_MMAP_THRESHOLD, kLargest);
    mallopt(M_TRIM_THRESHOLD, 2 * kLargest);
}

void giveBackFreedMemory() {
    ::malloc_trim(0);
}

}  // namespace jacinth
