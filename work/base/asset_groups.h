// Assets gathered by a fact: area, line, type, or what kind of asset they are.
#pragma once

#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

#include "store/study.h"

namespace jacinth {

/// Stands for Asset::kind among the facts to group by, where no fact has that name.
inline constexpr const char* kKindOfAsset = "kind";

/// How the plant is grouped, and which of the groups is looked at alone.
struct Grouping {
    std::string fact;                 ///< empty: not grouped
    std::optional<std::string> only;  ///< a group's value; none: all of the plant
    bool operator==(const Grouping&) const = default;
};

/// Facts that gather assets: known of two or more, with fewer values than assets that have it, by name. And
/// `kind`, where there are several kinds and one of them has two.
std::vector<std::string> factsToGroupBy(const Study& study);

/// The assets of a study by one fact.
class AssetGroups {
  public:
    struct Group {
        std::string value;  ///< empty: of those without the fact
        std::vector<AssetId> assets;
    };
    AssetGroups(const Study& study, std::string fact);

    const std::string& fact() const { return fact_; }
    /// In the order of their values, numbers in them by size; those without the fact last. One group of all
    /// where the fact is empty. Assets in the order of their names.
    const std::vector<Group>& all() const { return groups_; }
    /// The place of the asset's group among them; the number of groups for an asset that is not there.
    std::size_t placeOf(AssetId asset) const;
    /// Group by group, in each in the order of the names.
    bool isBefore(AssetId a, AssetId b) const;
    std::string valueOf(AssetId asset) const;
    /// `North`, or `without area`.
    std::string nameOf(const Group& group) const;
    std::string nameOf(AssetId asset) const;

  private:
    std::string fact_;
    std::vector<Group> groups_;
    std::unordered_map<AssetId, std::size_t> places_, order_;  ///< of its group; of itself among all
};

/// What is looked at alone, in words: `area North`, `assets without area`; empty where that is all.
std::string groupTitle(const Grouping& grouping);

/// The assets looked at; all where the grouping has no `only`.
std::vector<AssetId> assetsIn(const Study& study, const Grouping& grouping);
bool isIn(const Study& study, const Grouping& grouping, AssetId asset);

/// `area=North`, as a command is told it; `area=` is those without. Fails where no asset has that fact or
/// value, naming what is nearest.
Result<Grouping> groupingNamed(const Study& study, const std::string& text);

}  // namespace jacinth
