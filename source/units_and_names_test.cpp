// What becomes of samples in another unit than their tag's, and of names that are not `Asset/Tag`.
#include <cmath>

#include "source/import_events.h"
#include "source/import_fixture.h"
#include "store/judgement.h"

namespace jacinth {
namespace {

TEST_F(ImportTest, AnotherUnitIsAQuestionAndNotMixedIn) {
    import("time,K 1/a [°C],K 1/b [pieces]\n2026-03-01,20,1\n");
    const std::string fahrenheit = "time,K 1/a [°F]\n2026-03-02,212\n",
                      boxes = "time,K 1/b [boxes]\n2026-03-02,7\n";
    const auto refused = importSamples(*study, {"f.csv", fahrenheit}, {});
    ASSERT_FALSE(refused);
    EXPECT_EQ(
        refused.error().message,
        "K 1/a is in °C, and f.csv has it in °F; say whether to convert its values or to take its numbers as "
        "they are");
    EXPECT_EQ(read("K 1/a").size(), 1u);
    EXPECT_EQ(study->imports().all().size(), 1u);
    const auto preview = previewImport(study.get(), {"f.csv", fahrenheit}, {});
    ASSERT_TRUE(preview);
    ASSERT_EQ(preview->units.size(), 1u);
    EXPECT_EQ(preview->units[0].path, "K 1/a");
    EXPECT_TRUE(preview->units[0].convertible);
    LayoutHints convert;
    convert.units = OtherUnits::Convert;
    const ImportResult done = import(fahrenheit, convert);
    EXPECT_EQ(done.notes, std::vector<std::string>{"K 1/a: converted from °F to °C"});
    EXPECT_DOUBLE_EQ(read("K 1/a").values[1], 100);
    EXPECT_NE(importSamples(*study, {"f.csv", boxes}, convert).error().message.find("cannot be converted"),
              std::string::npos);
    LayoutHints keep;
    keep.units = OtherUnits::Keep;
    import(boxes, keep);
    EXPECT_DOUBLE_EQ(read("K 1/b").values[1], 7);
    import("time,K 1/a [degC]\n2026-03-03,21\n");
    EXPECT_DOUBLE_EQ(read("K 1/a").values[2], 21) << "another spelling is the same unit";
}

TEST_F(ImportTest, ATagInTwoUnitsWithinAFileIsBroughtToOne) {
    const std::string text =
        "time,tag,value\n2026-03-01,K 1/a [°C],20\n2026-03-02,K 1/a [°F],212\n2026-03-03,K 1/a [°C],22\n";
    EXPECT_FALSE(importSamples(*study, {"f.csv", text}, {}));
    LayoutHints convert;
    convert.units = OtherUnits::Convert;
    import(text, convert);
    const Series s = read("K 1/a");
    ASSERT_EQ(s.size(), 3u);
    EXPECT_DOUBLE_EQ(s.values[1], 100);
    EXPECT_EQ(study->catalog().tagAt("K 1/a")->unit, "°C");
}

TEST_F(ImportTest, ReadingsInAnotherUnitAreAQuestionToo) {
    import("time,K 1/a [°C]\n2026-03-01,20\n2026-03-05,20\n");
    const std::string text =
        "time,tag,value,unit\n2026-03-02T00:00Z,K 1/a,212,°F\n2026-03-03T00:00Z,K 1/a,20,degC\n";
    const auto refused = importEvents(*study, {"readings.csv", text}, "readings", {});
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().message.find("line 2: K 1/a is in °C, and its reading in °F"),
              std::string::npos)
        << refused.error().message;
    LayoutHints convert;
    convert.units = OtherUnits::Convert;
    ASSERT_TRUE(importEvents(*study, {"readings.csv", text}, "readings", convert));
    const auto readings = study->judgement().checkReadings(study->catalog().tagAt("K 1/a")->id);
    ASSERT_EQ(readings.size(), 2u);
    EXPECT_DOUBLE_EQ(readings[0].value, 100);
    EXPECT_DOUBLE_EQ(readings[1].value, 20);
}

TEST_F(ImportTest, NamesBecomeAssetsAndGroupsByAPattern) {
    LayoutHints hints;
    hints.names.pattern = "{area}/{line}/{asset}/{tag}";
    import("time,North/Line 1/Pump 7/Flow [m³/h],South/Line 4/Pump 9/Flow [m³/h]\n2026-03-01,1,2\n", hints);
    const Asset pump = *study->catalog().assetNamed("Pump 7");
    EXPECT_EQ(factText(pump.facts, "area"), "North");
    EXPECT_EQ(factText(pump.facts, "line"), "Line 1");
    EXPECT_EQ(study->catalog().tagAt("Pump 9/Flow")->unit, "m³/h");
    EXPECT_EQ(nameSettingsFrom(study->setting(kNamesSetting)).pattern, hints.names.pattern);
    // What the engineer says of an asset stays.
    study->change("fact", "", {}, [&] {
        study->catalog().setAssetFacts(pump.id, {{"area", std::string("East")}});
    });
    import("time,North/Line 1/Pump 7/Temp\n2026-03-01,1\n", hints);
    EXPECT_EQ(factText(study->catalog().assetNamed("Pump 7")->facts, "area"), "East");
    const auto two =
        importSamples(*study, {"f.csv", "time,A/L 1/Fan/x,B/L 2/Fan/y\n2026-03-01,1,2\n"}, hints);
    ASSERT_FALSE(two);
    EXPECT_NE(two.error().message.find("Fan is in"), std::string::npos) << two.error().message;
    hints.names.assetName = "{line} {asset}";
    import("time,A/L 1/Fan/x,B/L 2/Fan/y\n2026-03-01,1,2\n", hints);
    EXPECT_TRUE(study->catalog().find("L 2 Fan/y"));
    EXPECT_FALSE(importSamples(*study, {"f.csv", "time,Fan/x\n2026-03-01,1\n"}, hints));
}

TEST_F(ImportTest, ANameFarDownALongFileThatWouldBeAnotherTagIsSaidBeforeAnythingIsStored) {
    LayoutHints hints;
    hints.names.pattern = "{area}/{asset}/{tag}";
    std::string text = "time,tag,value\n";
    for (int i = 0; i < 300'000; ++i)
        text += fmt::format("{},North/Pump {}/Flow,1\n", toIso(at(i * kSecond)), i % 7);
    text += toIso(at(kDay)) + ",South/Pump 3/Flow,1\n";
    ASSERT_GT(text.size(), ChunkReader::kChunkBytes);
    EXPECT_TRUE(previewImport(nullptr, {"f.csv", text}, hints)) << "the first rows are fine";
    const std::string why = refusal(text, hints);
    EXPECT_NE(why.find("North/Pump 3/Flow and South/Pump 3/Flow would both be Pump 3/Flow"),
              std::string::npos)
        << why;
    EXPECT_NE(why.find("Nothing of it was imported"), std::string::npos);
}

TEST_F(ImportTest, NamesOfALongFileThatFitNoPatternAreRejectedRowByRow) {
    LayoutHints hints;
    hints.names.pattern = "{asset}-{tag}.{kind}";
    const auto done = importSamples(
        *study,
        {"f.csv", "time,tag,value\n2026-03-01,P1-F.PV,1\n2026-03-01,oddly,2\n2026-03-01,P1-F.SP,3\n", {}},
        hints);
    ASSERT_TRUE(done) << done.error().message;
    EXPECT_EQ(done->badRowCount, 1);
    EXPECT_EQ(done->badRows[0].reason, "`oddly` is not of the form {asset}-{tag}.{kind}");
    EXPECT_EQ(read("P1/F.PV").values, std::vector<double>{1});
    EXPECT_EQ(read("P1/F.SP").values, std::vector<double>{3});
    EXPECT_EQ(factText(study->catalog().tagAt("P1/F.SP")->facts, "kind"), "SP");
}

}  // namespace
}  // namespace jacinth
