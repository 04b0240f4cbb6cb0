// Two people's labels of a study, held against each other.
#pragma once

#include "core/label/agreement.h"
#include "store/study.h"

namespace jacinth {

/// Who has labelled anything, by name.
std::vector<std::string> whoLabelled(const Study& study);

/// Of their labels of a kind, over all assets that either labelled (or one), in a range (the record where
/// empty). Fails on a name that has labelled nothing; it says who has.
Result<Agreement> agreementBetween(const Study& study, const std::string& one, const std::string& two,
                                   AssetId asset = {}, TimeRange range = {});

}  // namespace jacinth
