// How far two people's labels agree over time.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/base/id.h"
#include "core/time/instant.h"

namespace jacinth {

/// What one person says of a stretch of an asset.
struct SaidOf {
    AssetId asset;
    TimeRange range;
    std::string kind;
};

/// A stretch about which they differ; an empty kind: says nothing.
struct Difference {
    AssetId asset;
    TimeRange range;
    std::string one, two;
};

struct Agreement {
    double kappa = 0;  ///< NaN where neither says anything, or both say one and the same of all time
    double observed = 0, byChance = 0;         ///< shares of the time
    Duration both{}, one{}, two{}, neither{};  ///< time that is labelled by both, by one alone, by none
    std::vector<Difference> differences;  ///< by asset, then time; neighbours that say the same are joined
};

/// Cohen's kappa (1960) over time: the time of each asset is cut at the edges of all labels; each piece
/// weighs its length; the categories are the kinds, and none. Where labels of one person overlap, all their
/// kinds together are one category. What lies outside of `looked`, the time of each asset that counts, is
/// left out.
Agreement agreementOf(const std::vector<SaidOf>& one, const std::vector<SaidOf>& two,
                      const std::map<AssetId, TimeRange>& looked);

}  // namespace jacinth
