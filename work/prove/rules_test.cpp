// Rules kept in versions, their files, and the proofs that are kept with them.
#include "work/prove/rules.h"

#include "store/history.h"
#include "store/judgement.h"
#include "work/prove/combining.h"
#include "work/prove/example_rules.h"
#include "work/prove/look_at_alarm.h"
#include "work/prove/proofs.h"
#include "work/prove/proving_fixture.h"

namespace jacinth {
namespace {

class Rules : public Proving {
  protected:
    Rule kept(Rule rule) {
        const auto id = keepRule(*study, std::move(rule));
        EXPECT_TRUE(id) << id.error().message;
        return id ? *newest(*id) : Rule{};
    }
    std::optional<Rule> newest(RuleId id) {
        for (const Rule& r : study->judgement().rules())
            if (r.id == id) return r;
        return {};
    }
    std::string whyNot(Rule rule) {
        const auto id = keepRule(*study, std::move(rule));
        return id ? "it was kept" : id.error().message;
    }
    /// What somebody said about the alarm.
    std::string labelOf(const AlarmVerdict& alarm) {
        Proof only;
        only.alarms = {alarm};
        return labelsOfAlarms(*study, only).front();
    }
    Rule high() {
        Rule r{"High", "@vib > {limit}"};
        r.settings = {{"limit", 3}};
        return r;
    }
};

TEST_F(Rules, EveryChangeIsAVersionAndWordsAreNot) {
    Rule rule = high();
    rule.note = "first";
    EXPECT_EQ(kept(rule).version, 1);
    rule.settings["limit"] = 4;
    rule.note = "fewer false alarms";
    const Rule second = kept(rule);
    EXPECT_EQ(second.version, 2);
    EXPECT_EQ(second.who, study->who());
    EXPECT_GT(second.made, Instant());
    rule.advice = "look at the fan";
    const Rule same = kept(rule);
    EXPECT_EQ(same.id, second.id) << "it says the same";
    EXPECT_EQ(same.advice, "look at the fan");
    const auto versions = study->judgement().ruleVersions("High");
    ASSERT_EQ(versions.size(), 2u);
    EXPECT_EQ(versions[0].settings.at("limit"), 3);
    EXPECT_EQ(versions[0].note, "first");
    EXPECT_EQ(study->judgement().rules().size(), 1u);
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->judgement().ruleNamed("High")->advice, "");
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->judgement().ruleNamed("High")->version, 1);
    ASSERT_TRUE(study->history().redo());
    EXPECT_EQ(study->judgement().ruleNamed("High")->settings.at("limit"), 4);
}

TEST_F(Rules, EverythingOfARuleComesBack) {
    Rule rule = high();
    rule.spec = {36 * kHour, 6 * kHour, kHour, 30 * kMinute};
    rule.failures = "Failures";
    rule.masks = {"Stops", "@vib < 0"};
    rule.severity = 4;
    rule.meaning = "worn";
    kept(rule);
    const Rule back = *study->judgement().ruleNamed("High");
    EXPECT_TRUE(saysTheSame(rule, back));
    EXPECT_EQ(back.severity, 4);
    EXPECT_EQ(back.meaning, "worn");
    const ProveRequest request = requestOf(back);
    EXPECT_EQ(request.spec, rule.spec);
    EXPECT_EQ(request.masks, rule.masks);
    EXPECT_EQ(proved(request).caught, 3);
}

TEST_F(Rules, WhatCannotBeKeptIsSaidAndNothingIsKept) {
    Rule rule = high();
    rule.name = " ";
    EXPECT_NE(whyNot(rule).find("cannot be empty"), std::string::npos);
    rule = high();
    rule.settings.clear();
    EXPECT_EQ(whyNot(rule), "the setting {limit} has no number");
    EXPECT_NE(whyNot({"Mean", "mean(@vib over 2h)"}).find("a rule is a condition"), std::string::npos);
    EXPECT_NE(whyNot({"Gone", "@gone > 1"}), "it was kept");
    rule = high();
    rule.spec.least = 72 * kHour;
    EXPECT_EQ(whyNot(rule), "the least warning is longer than the most");
    rule = high();
    rule.failures = "Failure";
    EXPECT_NE(whyNot(rule).find("nearest is `Failures`"), std::string::npos);
    rule = high();
    rule.severity = 9;
    EXPECT_EQ(whyNot(rule), "a severity is 1 to 4");
    EXPECT_TRUE(study->judgement().rules().empty());
    EXPECT_EQ(ruleNamed(*study, "Hihg").error().message, "`Hihg` is not a rule of this study");
    kept(high());
    EXPECT_EQ(ruleNamed(*study, "Hihg").error().message,
              "`Hihg` is not a rule of this study; nearest is `High`");
    EXPECT_EQ(ruleNamed(*study, "High", 7).error().message, "the rule `High` has no version 7");
}

TEST_F(Rules, AreRenamedAndRemovedWithTheirProofs) {
    const Rule first = kept(high());
    Rule rule = high();
    rule.settings["limit"] = 4;
    const Rule second = kept(rule);
    ASSERT_TRUE(keepProofOf(*study, first, requestOf(first), proved(requestOf(first))));
    ASSERT_TRUE(keepProofOf(*study, second, requestOf(second), proved(requestOf(second))));
    kept({"Low", "@vib < 0.5"});
    EXPECT_EQ(renameRule(*study, "High", "Low").error().message, "a rule `Low` is there already");
    ASSERT_TRUE(renameRule(*study, "High", "Rough"));
    EXPECT_EQ(study->judgement().ruleVersions("Rough").size(), 2u);
    ASSERT_TRUE(removeRule(*study, "Rough", 1));
    EXPECT_TRUE(study->judgement().proofs(first.id).empty());
    EXPECT_EQ(study->judgement().proofs(second.id).size(), 1u);
    ASSERT_TRUE(removeRule(*study, "Rough"));
    EXPECT_FALSE(study->judgement().ruleNamed("Rough"));
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->judgement().proofs(second.id).size(), 1u) << "its proof comes back with it";
    EXPECT_FALSE(removeRule(*study, "Nothing"));
}

TEST_F(Rules, GoOutAndInAsAFile) {
    Rule rule = high();
    rule.spec.offDelay = 90 * kMinute;
    rule.masks = {"Stops"};
    rule.advice = "look";
    kept(rule);
    kept({"Low", "@vib < 0.5"});
    const std::string text = rulesText(study->judgement().rules());
    const auto read = readRules(text);
    ASSERT_TRUE(read) << read.error().message;
    ASSERT_EQ(read->size(), 2u);
    EXPECT_TRUE(saysTheSame((*read)[0], *study->judgement().ruleNamed("High")));
    ASSERT_TRUE(removeRule(*study, "High"));
    ASSERT_TRUE(takeRules(*study, *read));
    EXPECT_EQ(study->judgement().ruleNamed("High")->advice, "look");
    EXPECT_EQ(study->judgement().ruleVersions("Low").size(), 1u) << "it says the same as before";
    EXPECT_EQ(rulesText(study->judgement().rules()), text);
}

TEST_F(Rules, AWrongFileIsSaidAndNothingIsTaken) {
    const auto why = [](const char* text) {
        const auto rules = readRules(text);
        return rules ? std::string("they were read") : rules.error().message;
    };
    EXPECT_EQ(why("{}"), "these are not rules: an array in JSON");
    EXPECT_EQ(why("[{\"name\": \"a\"}]"), "rule 1: it needs a name and a rule");
    EXPECT_EQ(why("[{\"name\": \"a\", \"rule\": \"@x > 1\", \"most\": 48}]"),
              "rule 1: `most` is not a time like 12h");
    EXPECT_NE(
        why("[{\"name\": \"a\", \"rule\": \"@x > 1\", \"settings\": {\"x\": \"1\"}}]").find("not a number"),
        std::string::npos);
    const auto rules =
        readRules("[{\"name\": \"a\", \"rule\": \"@vib > 1\"}, {\"name\": \"b\", \"rule\": \"@no > 1\"}]");
    ASSERT_TRUE(rules);
    EXPECT_TRUE(takeRules(*study, *rules).error().message.starts_with("b: "));
    EXPECT_TRUE(study->judgement().rules().empty()) << "not even the first";
}

TEST_F(Rules, AProofSaysWhatHasChangedSince) {
    const Rule rule = kept(high());
    const ProveRequest request = requestOf(rule);
    const Proof before = proved(request);
    ASSERT_TRUE(keepProofOf(*study, rule, request, before));
    const auto old = [&] { return outOfDate(*study, rule, *lastProof(*study, rule.id)); };
    EXPECT_EQ(old(), std::vector<std::string>{});
    const Proof back = lastProof(*study, rule.id)->proof;
    EXPECT_EQ(
        std::tuple(back.caught, back.missed, back.untestable, back.falseAlarms, back.falsePerAssetMonth),
        std::tuple(before.caught, before.missed, before.untestable, before.falseAlarms,
                   before.falsePerAssetMonth));
    // A label that has nothing to do with alarms changes nothing.
    const AssetId second = study->catalog().assetNamed("Kiln 2")->id;
    const TagId vib = study->catalog().tagAt("Kiln 2/Vib")->id;
    study->change("fix", "", {}, [&] {
        study->judgement().addFix({{}, vib, ShiftFix{-3}, at(5 * kDay), at(6 * kDay), true, "test"});
    });
    EXPECT_EQ(old(), std::vector<std::string>{"Kiln 2/Vib has other fixes"});
    const Proof after = proved(request);
    EXPECT_EQ(whatDiffers(*study, before, after), std::vector<std::string>{"1 fewer false alarm"});
    study->change("failure", "", {}, [&] {
        study->tracks().addSpan(study->tracks().named("Failures")->id,
                                {{}, second, {}, at(20 * kDay), at(20 * kDay), {}});
    });
    EXPECT_EQ(old().size(), 2u);
    const auto lines = whatDiffers(*study, after, proved(request));
    ASSERT_EQ(lines.size(), 1u);
    EXPECT_TRUE(lines[0].starts_with("Kiln 2, ") && lines[0].ends_with("is new, and missed")) << lines[0];
}

TEST_F(Rules, ALookedAtAlarmIsLabelledOnceAndCountedApart) {
    const ProveRequest request = requestOf(high());
    const auto falseOne = [&] {
        for (const AlarmVerdict& a : proved(request).alarms)
            if (a.verdict == Verdict::False || a.verdict == Verdict::NearMiss) return a;
        return AlarmVerdict{};
    };
    const AlarmVerdict alarm = falseOne();
    ASSERT_TRUE(alarm.asset);
    ASSERT_TRUE(labelAlarm(*study, alarm, kNearMiss, "High"));
    EXPECT_EQ(falseOne().verdict, Verdict::NearMiss);
    EXPECT_EQ(labelOf(alarm), kNearMiss);
    ASSERT_TRUE(labelAlarm(*study, alarm, kFalseBySensor, "High"));
    EXPECT_EQ(labelOf(alarm), kFalseBySensor) << "in place of the first";
    EXPECT_EQ(study->tracks().spansOf(track_kind::kLabels).size(), 1u);
    EXPECT_EQ(falseOne().verdict, Verdict::False);
    EXPECT_TRUE(findKind(study->judgement().labelBook(), kFalseBySensor)->normal);
    ASSERT_TRUE(labelAlarm(*study, alarm, kTrueAfterAll, "High"));
    EXPECT_EQ(proved(request).falseAlarms, 0);
    ASSERT_TRUE(labelAlarm(*study, alarm, "", ""));
    EXPECT_EQ(labelOf(alarm), "");
    EXPECT_TRUE(study->tracks().spansOf(track_kind::kLabels).empty());
    EXPECT_FALSE(labelAlarm(*study, alarm, "bearing", "High")) << "says nothing about an alarm";
    for (int i = 0; i < 4; ++i) ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(labelsOfAlarms(*study, proved(request)),
              std::vector<std::string>(proved(request).alarms.size()));
}

TEST_F(Rules, SeveralBecomeOne) {
    const std::vector<Rule> rules{high(), {"Flow", "@flow > 1"}, {"Low", "@vib < 0.5"}};
    EXPECT_EQ(*atLeastOf(rules, 1), "(@vib > 3) or (@flow > 1) or (@vib < 0.5)");
    EXPECT_EQ(
        *atLeastOf(rules, 2),
        "((@vib > 3) and (@flow > 1)) or ((@vib > 3) and (@vib < 0.5)) or ((@flow > 1) and (@vib < 0.5))");
    EXPECT_EQ(*atLeastOf(rules, 3), "((@vib > 3) and (@flow > 1) and (@vib < 0.5))");
    EXPECT_EQ(atLeastOf(rules, 4).error().message, "at least 1 and at most 3 of them can be asked for");
    EXPECT_FALSE(atLeastOf({rules[0]}, 1));
    // What one of two catches alone, both catch together.
    const std::vector<Rule> two{high(), {"Second", "`Kiln 2/Vib` > 3 and @vib > 3"}};
    ProveRequest request = asking(*atLeastOf(two, 1));
    EXPECT_EQ(proved(request).caught, 3);
    request.rule = *atLeastOf(two, 2);
    EXPECT_EQ(proved(request).caught, 1);
    EXPECT_EQ(limitsAsRule(*study, "Normal").error().message, "`Normal` is not a set of golden limits");
}

TEST_F(Rules, ExamplesAreOfferedWhereTheirRolesAre) {
    EXPECT_TRUE(exampleRules(*study).empty()) << "this plant has no bearing_vibration";
    const AssetId first = study->catalog().assetNamed("Kiln 1")->id;
    study->change("tag", "", {},
                  [&] { study->catalog().addTag(first, "Bearing vibration", "mm/s", TagKind::Continuous); });
    const auto examples = exampleRules(*study);
    EXPECT_EQ(examples.size(), 3u);
    for (const Rule& r : examples) EXPECT_TRUE(keepRule(*study, r)) << r.name;
}

}  // namespace
}  // namespace jacinth
