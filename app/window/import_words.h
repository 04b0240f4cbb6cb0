// What is said of a file that is to be imported.
#pragma once

#include <QString>

#include "source/import_samples.h"

namespace jacinth::app {

QString sizeText(std::int64_t bytes);
/// `12 tags on 3 assets, wide`.
QString becomesWords(const ImportPreview& preview);
/// What has to be said before it can be imported, each on a line of its own; empty for nothing. `unitsOpen`:
/// it is not said yet what becomes of values in another unit.
QString questionsOf(const ImportPreview& preview, bool unitsOpen);

}  // namespace jacinth::app
