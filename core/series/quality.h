// Names of qualities, as files and tables have them.
#pragma once

#include "core/series/series.h"

namespace jacinth {

const char* qualityName(Quality quality);  ///< good, uncertain, bad, missing

}  // namespace jacinth
