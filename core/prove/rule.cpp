#include "core/prove/rule.h"

namespace jacinth {

bool saysTheSame(const Rule& a, const Rule& b) {
    return a.text == b.text && a.spec == b.spec && a.settings == b.settings && a.failures == b.failures &&
           a.masks == b.masks;
}

}  // namespace jacinth
