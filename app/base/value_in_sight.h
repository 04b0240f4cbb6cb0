// The value of a tag at a moment, for what is shown under the pointer, at a cursor or at a handle.
#pragma once

#include "app/base/session.h"

namespace jacinth::app {

/// NaN also where the samples there are damaged and cannot be read: what is shown then has no value.
inline double valueInSight(Session& session, const Tag& tag, Instant t, Which which) {
    try {
        return session.study().valueAt(tag, t, which);
    } catch (const StoreError&) {
        return std::nan("");
    }
}

}  // namespace jacinth::app
