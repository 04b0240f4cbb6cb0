#include "source/name_mapping.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

using Facts_ = std::map<std::string, std::string>;

MappedName mapped(const std::string& pattern, const std::string& name, const std::string& assetName = {}) {
    const auto mapping = NameMapping::from({pattern, assetName, {}, false});
    EXPECT_TRUE(mapping) << mapping.error().message;
    const auto out = (*mapping)->map(name, "");
    EXPECT_TRUE(out) << out.error().message;
    return out ? *out : MappedName{};
}

std::string refusal(const NameSettings& settings) {
    const auto mapping = NameMapping::from(settings);
    return mapping ? "" : mapping.error().message;
}

TEST(NameMapping, HierarchicalNamesBecomeAssetsWithGroups) {
    const MappedName m = mapped("{area}/{line}/{asset}/{tag}", "Site 2/Line 4/Pump 7/Flow [m³/h]");
    EXPECT_EQ(m.asset, "Pump 7");
    EXPECT_EQ(m.tag, "Flow");
    EXPECT_EQ(m.unit, "m³/h");
    EXPECT_EQ(m.assetFacts, (Facts_{{"area", "Site 2"}, {"line", "Line 4"}}));
    EXPECT_TRUE(m.tagFacts.empty());
}

TEST(NameMapping, AssetsCanBeCalledByTheirGroupsToo) {
    EXPECT_EQ(mapped("{area}/{line}/{asset}/{tag}", "A/L 4/Pump 1/Flow", "{line} {asset}").asset,
              "L 4 Pump 1");
    EXPECT_EQ(refusal({"{asset}/{tag}", "{line} {asset}", {}, false}),
              "`{asset}/{tag}` has no field {line}, which names assets");
}

TEST(NameMapping, InstrumentNamesKeepTheirEnding) {
    const MappedName m = mapped("{asset}-{tag}.{kind}", "FIC-101.PV");
    EXPECT_EQ(m.asset, "FIC");
    EXPECT_EQ(m.tag, "101.PV") << "the measured value and the set point are two tags";
    EXPECT_EQ(m.tagFacts, (Facts_{{"kind", "PV"}}));
    EXPECT_EQ(mapped("{asset}.{tag}", "FIC-101.PV").asset, "FIC-101");
    EXPECT_EQ(mapped("{asset}.{tag}", "FIC-101.PV").tag, "PV");
    const auto alone = NameMapping::from({"{tag}.{kind}", "", {}, false});
    ASSERT_TRUE(alone);
    EXPECT_EQ((*alone)->map("FIC-101.PV", "Unit 3")->asset, "Unit 3");
    EXPECT_EQ((*alone)->map("FIC-101.PV", "")->asset, "");
}

TEST(NameMapping, TheLastFieldTakesTheRest) {
    EXPECT_EQ(mapped("{asset}/{tag}", "Press 1/oil/inlet/temp").tag, "oil/inlet/temp");
    EXPECT_EQ(mapped("raw.{asset}.{tag}", "raw.P1.a.b").tag, "a.b");
    EXPECT_EQ(mapped("{asset}.{tag}_avg", "P1.Flow_avg").tag, "Flow");
    EXPECT_EQ(mapped("{role}@{asset}:{tag}", "flow@P 1:FT-7").role, "flow");
}

TEST(NameMapping, NamesOfAnotherFormAreRejectedWithTheReason) {
    const auto mapping = NameMapping::from({"{area}/{line}/{asset}/{tag}", "", {}, false});
    ASSERT_TRUE(mapping);
    for (const char* name : {"Pump 7/Flow", "a//c/d", "/b/c/d", "a/b/c/"})
        EXPECT_EQ((*mapping)->map(name, "").error().message,
                  "`" + std::string(name) + "` is not of the form {area}/{line}/{asset}/{tag}");
}

TEST(NameMapping, PatternsThatDecideNothingAreRefused) {
    EXPECT_EQ(refusal({"{asset}", "", {}, false}), "`{asset}` has no {tag}");
    EXPECT_NE(refusal({"{asset}{tag}", "", {}, false}).find("nothing stands between {asset} and {tag}"),
              std::string::npos);
    EXPECT_NE(refusal({"{asset}/{tag}/{tag}", "", {}, false}).find("twice"), std::string::npos);
    EXPECT_NE(refusal({"{asset/{tag}", "", {}, false}).find("without a name"), std::string::npos);
    EXPECT_NE(refusal({"{asset}/{tag", "", {}, false}).find("not closed"), std::string::npos);
    EXPECT_NE(refusal({"{}/{tag}", "", {}, false}).find("without a name"), std::string::npos);
    EXPECT_NE(refusal({"asset}/{tag}", "", {}, false}).find("without a"), std::string::npos);
}

TEST(NameMapping, ATableSaysWhatEachNameBecomes) {
    const auto table = readNameTable(
        "name;asset;tag;role;unit;area;tag:loop\nFIC-101.PV;Pump 1;Flow;flow;m³/h;North;101\nTI7;Pump "
        "1;Temp;;;;\n");
    ASSERT_TRUE(table) << table.error().message;
    NameSettings settings{"", "", *table, false};
    auto mapping = NameMapping::from(settings);
    ASSERT_TRUE(mapping);
    const MappedName flow = *(*mapping)->map("FIC-101.PV", "");
    EXPECT_EQ(flow, (MappedName{"Pump 1", "Flow", "m³/h", "flow", {{"area", "North"}}, {{"loop", "101"}}}));
    EXPECT_EQ((*mapping)->map("TI7 [°C]", "")->unit, "°C");
    EXPECT_EQ((*mapping)->map("Press 1/Oil", "")->asset, "Press 1") << "not in the table: as ever";
    settings.onlyTable = true;
    EXPECT_EQ((*NameMapping::from(settings))->map("Press 1/Oil", "").error().message,
              "`Press 1/Oil` is not in the table of names");
    // As it is kept in the study.
    const NameSettings again = nameSettingsFrom(nameSettingsText(settings));
    EXPECT_EQ(again.table, settings.table);
    EXPECT_TRUE(again.onlyTable);
    EXPECT_TRUE(nameSettingsFrom("{\"pattern\": \"{asset}\"}").isEmpty());
    EXPECT_TRUE(nameSettingsFrom("[[[").isEmpty());
}

TEST(NameMapping, TablesThatCannotBeReadSayWhy) {
    EXPECT_EQ(readNameTable("").error().message, "the table of names is empty");
    EXPECT_EQ(readNameTable("name,asset\n").error().message, "the table of names has no column `tag`");
    EXPECT_EQ(readNameTable("name,tag\na,b\na,c\n").error().message, "line 3: `a` stands twice");
    EXPECT_EQ(readNameTable("name,tag\na\n").error().message, "line 2: 1 fields where the header has 2");
    EXPECT_EQ(readNameTable("name,tag\n,b\n").error().message, "line 2: a row needs a name and a tag");
}

TEST(NameMapping, APatternIsProposedWhereTheUsualCutWouldBeWrong) {
    EXPECT_EQ(proposedPattern({"S 1/L 1/P 1/Flow", "S 1/L 2/P 9/Temp [°C]"}), "{area}/{line}/{asset}/{tag}");
    EXPECT_EQ(proposedPattern({"S/P 1/Flow", "S/P 2/Flow"}), "{area}/{asset}/{tag}");
    EXPECT_EQ(proposedPattern({"FIC-101.PV", "TI-7.PV"}), "{asset}.{tag}");
    EXPECT_EQ(proposedPattern({"Kiln 1/Temp", "Kiln 2/Temp"}), "");
    EXPECT_EQ(proposedPattern({"a/b/c", "a/b"}), "");
    EXPECT_EQ(proposedPattern({}), "");
}

TEST(NameMapping, WhatWouldBecomeOneIsNamed) {
    const auto of = [](const std::vector<std::string>& names) {
        std::vector<std::pair<std::string, MappedName>> out;
        for (const std::string& n : names) out.emplace_back(n, mapped("{line}/{asset}/{tag}", n));
        return clashesOf(out);
    };
    EXPECT_TRUE(of({"L 1/P 1/Flow", "L 1/P 1/Temp", "L 2/P 2/Flow"}).empty());
    const auto two = of({"L 1/P 1/Flow", "L 2/P 1/Temp", "L 2/P 1/Level"});
    ASSERT_EQ(two.size(), 1u);
    EXPECT_NE(two[0].find("P 1 is in line L 1 and in L 2"), std::string::npos) << two[0];
    EXPECT_EQ(of({"L 1/P 1/Flow", "L 2/P 1/Flow"}).size(), 2u);
}

}  // namespace
}  // namespace jacinth
