#include "work/base/asset_groups.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/base/natural_order.h"
#include "core/base/text.h"
#include "core/expr/ast.h"
#include "store/catalog.h"

namespace jacinth {
namespace {

std::string valueIn(const Asset& asset, const std::string& fact) {
    const auto found = asset.facts.find(fact);
    if (found != asset.facts.end()) return factText(found->second);
    return fact == kKindOfAsset ? asset.kind : std::string();
}

}  // namespace

std::vector<std::string> factsToGroupBy(const Study& study) {
    std::map<std::string, std::pair<std::size_t, std::set<std::string>>> known;  // assets, and values
    std::set<std::string> kinds;
    const auto& assets = study.catalog().assets();
    for (const Asset& a : assets) {
        kinds.insert(a.kind);
        for (const auto& [name, fact] : a.facts) {
            auto& [count, values] = known[name];
            ++count;
            values.insert(factText(fact));
        }
    }
    std::vector<std::string> out;
    for (const auto& [name, of] : known)
        if (of.first > 1 && of.second.size() < of.first) out.push_back(name);
    if (!known.contains(kKindOfAsset) && kinds.size() > 1 && kinds.size() < assets.size())
        out.emplace_back(kKindOfAsset);
    std::sort(out.begin(), out.end());
    return out;
}

AssetGroups::AssetGroups(const Study& study, std::string fact) : fact_(std::move(fact)) {
    std::map<std::string, std::vector<AssetId>> byValue;
    for (const Asset& a : study.catalog().assets())
        byValue[fact_.empty() ? std::string() : valueIn(a, fact_)].push_back(a.id);
    for (auto& [value, assets] : byValue) {
        std::stable_sort(assets.begin(), assets.end(), [&](AssetId a, AssetId b) {
            return naturallyBefore(study.catalog().asset(a)->name, study.catalog().asset(b)->name);
        });
        groups_.push_back({value, std::move(assets)});
    }
    std::stable_sort(groups_.begin(), groups_.end(), [](const Group& a, const Group& b) {
        if (a.value.empty() || b.value.empty()) return !a.value.empty() && b.value.empty();
        return naturallyBefore(a.value, b.value);
    });
    for (std::size_t i = 0; i < groups_.size(); ++i)
        for (const AssetId id : groups_[i].assets) {
            places_[id] = i;
            order_.emplace(id, order_.size());
        }
}

bool AssetGroups::isBefore(AssetId a, AssetId b) const {
    const auto place = [&](AssetId id) {
        const auto found = order_.find(id);
        return found == order_.end() ? order_.size() : found->second;
    };
    return place(a) < place(b);
}

std::size_t AssetGroups::placeOf(AssetId asset) const {
    const auto found = places_.find(asset);
    return found == places_.end() ? groups_.size() : found->second;
}

std::string AssetGroups::valueOf(AssetId asset) const {
    const std::size_t place = placeOf(asset);
    return place < groups_.size() ? groups_[place].value : std::string();
}

std::string AssetGroups::nameOf(const Group& group) const {
    return group.value.empty() ? (fact_.empty() ? "all assets" : "without " + fact_) : group.value;
}

std::string AssetGroups::nameOf(AssetId asset) const {
    const std::size_t place = placeOf(asset);
    return place < groups_.size() ? nameOf(groups_[place]) : std::string();
}

std::string groupTitle(const Grouping& grouping) {
    if (!grouping.only) return {};
    return grouping.only->empty() ? "assets without " + grouping.fact : grouping.fact + " " + *grouping.only;
}

std::vector<AssetId> assetsIn(const Study& study, const Grouping& grouping) {
    std::vector<AssetId> out;
    for (const Asset& a : study.catalog().assets())
        if (!grouping.only || valueIn(a, grouping.fact) == *grouping.only) out.push_back(a.id);
    return out;
}

bool isIn(const Study& study, const Grouping& grouping, AssetId asset) {
    if (!grouping.only) return true;
    const Asset* a = study.catalog().asset(asset);
    return a && valueIn(*a, grouping.fact) == *grouping.only;
}

Result<Grouping> groupingNamed(const Study& study, const std::string& text) {
    const std::size_t is = text.find('=');
    if (is == std::string::npos || is == 0)
        return Error{fmt::format("a group is a fact and its value, like area=North, not `{}`", text)};
    const std::string fact(trimmed(std::string_view(text).substr(0, is))),
        value(trimmed(std::string_view(text).substr(is + 1)));
    std::vector<std::string> facts{kKindOfAsset}, values;
    for (const Asset& a : study.catalog().assets())
        for (const auto& [name, known] : a.facts) facts.push_back(name);
    if (std::find(facts.begin(), facts.end(), fact) == facts.end())
        return Error{fmt::format("no asset has the fact `{}`{}", fact, sayNearest(fact, facts))};
    const AssetGroups groups(study, fact);
    for (const AssetGroups::Group& g : groups.all()) values.push_back(g.value);
    if (std::find(values.begin(), values.end(), value) == values.end())
        return Error{value.empty() ? fmt::format("every asset has the fact `{}`", fact)
                                   : fmt::format("no asset is in the {} `{}`{}", fact, value,
                                                 sayNearest(value, values))};
    return Grouping{fact, value};
}

}  // namespace jacinth
