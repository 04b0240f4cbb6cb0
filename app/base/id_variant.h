// Ids in the data of items and combo boxes.
#pragma once

#include <QVariant>

#include "core/base/id.h"

namespace jacinth::app {

template <typename Kind>
QVariant toVariant(Id<Kind> id) {
    return QVariant::fromValue<qlonglong>(id.number);
}

/// None where the data is none.
template <typename AnyId>
AnyId idFrom(const QVariant& data) {
    return AnyId(data.toLongLong());
}

}  // namespace jacinth::app
