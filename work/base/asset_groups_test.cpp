#include "work/base/asset_groups.h"

#include <gtest/gtest.h>

#include "store/catalog.h"
#include "work/base/study_fixture.h"

namespace jacinth {
namespace {

class GroupsOfAssets : public NewStudy {
  protected:
    AssetId add(const char* name, Facts facts) {
        const AssetId id = study->catalog().addAsset(name);
        study->catalog().setAssetFacts(id, facts);
        return id;
    }
    void fill() override {
        pump1 = add("Pump 1", {{"area", std::string("North")}, {"line", 10.0}, {"serial", std::string("a")}});
        pump2 = add("Pump 2", {{"area", std::string("South")}, {"line", 2.0}, {"serial", std::string("b")}});
        pump3 = add("Pump 3", {{"area", std::string("North")}, {"line", 2.0}});
        tank = add("Tank 1", {});
    }
    std::vector<std::string> namesBy(const std::string& fact) {
        std::vector<std::string> out;
        const AssetGroups groups(*study, fact);
        for (const auto& g : groups.all())
            out.push_back(groups.nameOf(g) + " " + std::to_string(g.assets.size()));
        return out;
    }
    std::string refusal(const std::string& text) {
        const auto found = groupingNamed(*study, text);
        return found ? "it was found" : found.error().message;
    }
    AssetId pump1, pump2, pump3, tank;
};

using Texts = std::vector<std::string>;

TEST_F(GroupsOfAssets, AreByFactsThatGather) {
    EXPECT_EQ(factsToGroupBy(*study), (Texts{"area", "kind", "line"}));  // a serial number gathers nothing
    EXPECT_EQ(namesBy("area"), (Texts{"North 2", "South 1", "without area 1"}));
    EXPECT_EQ(namesBy("line"), (Texts{"2 2", "10 1", "without line 1"}));
    EXPECT_EQ(namesBy("kind"), (Texts{"Pump 3", "Tank 1"}));
    EXPECT_EQ(namesBy(""), (Texts{"all assets 4"}));
    const AssetGroups areas(*study, "area");
    EXPECT_TRUE(areas.isBefore(pump3, pump2)) << "the north before the south";
    EXPECT_TRUE(areas.isBefore(pump1, pump3));
    EXPECT_FALSE(areas.isBefore(AssetId(99), tank));
    EXPECT_EQ(areas.placeOf(pump3), 0u);
    EXPECT_EQ(areas.placeOf(tank), 2u);
    EXPECT_EQ(areas.placeOf(AssetId(99)), 3u);
    EXPECT_EQ(areas.nameOf(AssetId(99)), "");
    EXPECT_EQ(areas.valueOf(pump2), "South");
}

TEST_F(GroupsOfAssets, OneIsLookedAtAlone) {
    const Grouping north = *groupingNamed(*study, "area=North"), none = *groupingNamed(*study, " area = ");
    EXPECT_EQ(assetsIn(*study, north), (std::vector<AssetId>{pump1, pump3}));
    EXPECT_EQ(assetsIn(*study, none), (std::vector<AssetId>{tank}));
    EXPECT_EQ(groupTitle(north), "area North");
    EXPECT_EQ(groupTitle(none), "assets without area");
    EXPECT_EQ(groupTitle({}), "");
    EXPECT_TRUE(isIn(*study, north, pump1));
    EXPECT_FALSE(isIn(*study, north, pump2));
    EXPECT_FALSE(isIn(*study, north, AssetId(99)));
    EXPECT_TRUE(isIn(*study, {}, AssetId(99)));
    EXPECT_EQ(assetsIn(*study, *groupingNamed(*study, "line=2")), (std::vector<AssetId>{pump2, pump3}));
}

TEST_F(GroupsOfAssets, NamesThatAreNotThereAreSaid) {
    EXPECT_EQ(refusal("area=Nort"), "no asset is in the area `Nort`; nearest is `North`");
    EXPECT_EQ(refusal("aria=North"), "no asset has the fact `aria`; nearest is `area`");
    EXPECT_EQ(refusal("kind="), "every asset has the fact `kind`");
    EXPECT_EQ(refusal("North"), "a group is a fact and its value, like area=North, not `North`");
    EXPECT_EQ(refusal("=North"), "a group is a fact and its value, like area=North, not `=North`");
}

}  // namespace
}  // namespace jacinth
