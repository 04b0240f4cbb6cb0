// Rules and proofs in their texts, what is wrong with a text, and studies of the format before versions.
#include "store/rule_body.h"

#include <gtest/gtest.h>

#include "core/time/times_for_tests.h"
#include "store/database.h"
#include "store/history.h"
#include "store/row_sums.h"
#include "store/schema.h"
#include "store/study_file_fixture.h"

namespace jacinth {
namespace {

Rule full() {
    Rule r{"Rough", "mean(@vib over {hours}h) > {limit}"};
    r.spec = {36 * kHour, 6 * kHour, kHour, 30 * kMinute};
    r.settings = {{"hours", 6}, {"limit", 3.25}};
    r.failures = "fan bearing";
    r.masks = {"Stops", "@step is \"Idle\""};
    r.severity = 4;
    r.meaning = "worn", r.advice = "change it", r.note = "sooner", r.who = "M. L.";
    r.made = at(12345);
    return r;
}

TEST(RuleBody, ComesBackWhole) {
    const Rule rule = full();
    Rule back{rule.name, rule.text};
    ASSERT_TRUE(readRuleBody(ruleBodyOf(rule), back));
    EXPECT_TRUE(saysTheSame(rule, back));
    EXPECT_EQ(std::tuple(back.severity, back.meaning, back.advice, back.note, back.who, back.made),
              std::tuple(rule.severity, rule.meaning, rule.advice, rule.note, rule.who, rule.made));
}

TEST(RuleBody, WhatIsAbsentIsAsInANewRule) {
    Rule back{"a", "@x > 1"};
    ASSERT_TRUE(readRuleBody("{}", back));
    EXPECT_TRUE(saysTheSame(back, Rule{"a", "@x > 1"}));
    EXPECT_EQ(back.severity, 2);
}

TEST(RuleBody, AWrongMemberIsRefusedAndChangesNothing) {
    for (const char* wrong :
         {"", "[]", "{", "{\"most\":-1}", "{\"most\":\"48h\"}", "{\"severity\":5}", "{\"severity\":0}",
          "{\"settings\":{\"limit\":\"3\"}}", "{\"settings\":[1]}", "{\"masks\":\"Stops\"}",
          "{\"masks\":[1]}", "{\"meaning\":7}", "{\"offDelay\":1.5}"}) {
        Rule back = full();
        const bool good = static_cast<bool>(readRuleBody(wrong, back));
        // An empty text is an empty object.
        EXPECT_EQ(good, std::string(wrong).empty()) << wrong;
        if (!good) EXPECT_TRUE(saysTheSame(back, full())) << wrong;
    }
}

KeptProof proofKept() {
    KeptProof k;
    k.proof.failures = {{AssetId(1), at(10 * kDay), true, true, false, 30 * kHour, {}},
                        {AssetId(2), at(20 * kDay), true, false, true, {}, {}},
                        {AssetId(3), at(30 * kDay), false, false, false, {}, "no data"}};
    k.proof.alarms = {{AssetId(1), between(8 * kDay, 9 * kDay), Verdict::True},
                      {AssetId(2), between(12 * kDay, 13 * kDay), Verdict::False},
                      {AssetId(2), between(14 * kDay, 15 * kDay), Verdict::NearMiss},
                      {AssetId(2), between(20 * kDay - kHour, 20 * kDay), Verdict::Late}};
    k.proof.countingTime = 100 * kDay;
    k.mended = false;
    k.asset = "Kiln 1", k.who = "A. K.", k.made = at(7);
    k.madeFrom = {{"failures", "abc"}, {"asset Kiln 1", "{}"}};
    countVerdicts(k.proof);
    return k;
}

TEST(ProofBody, ComesBackWithItsFiguresCountedAgain) {
    const KeptProof k = proofKept();
    KeptProof back;
    ASSERT_TRUE(readProofBody(proofBodyOf(k), back));
    EXPECT_EQ(back.proof.caught, 1);
    EXPECT_EQ(back.proof.missed, 1);
    EXPECT_EQ(back.proof.untestable, 1);
    EXPECT_EQ(back.proof.nearMisses, 1);
    EXPECT_EQ(back.proof.falsePerAssetMonth, k.proof.falsePerAssetMonth);
    EXPECT_EQ(back.proof.medianWarningHours, 30);
    EXPECT_TRUE(back.proof.failures[1].late);
    EXPECT_EQ(back.proof.failures[2].reason, "no data");
    EXPECT_EQ(back.proof.alarms[3].range, k.proof.alarms[3].range);
    EXPECT_EQ(std::tuple(back.mended, back.asset, back.who, back.made, back.madeFrom),
              std::tuple(k.mended, k.asset, k.who, k.made, k.madeFrom));
}

TEST(ProofBody, AWrongOneIsRefused) {
    for (const char* wrong :
         {"{}", "{\"failures\":[],\"alarms\":7}", "{\"failures\":[{\"time\":\"now\"}],\"alarms\":[]}",
          "{\"failures\":[],\"alarms\":[{\"asset\":1,\"from\":1,\"to\":2,\"verdict\":\"perhaps\"}]}",
          "{\"failures\":[],\"alarms\":[],\"counting\":-5}"}) {
        KeptProof back;
        EXPECT_FALSE(readProofBody(wrong, back)) << wrong;
        EXPECT_TRUE(back.proof.failures.empty()) << wrong;
    }
}

TEST_F(StudyTest, RulesOfTheFormatBeforeVersionsAreTheFirstVersions) {
    const std::string old = (dir / "old-rules.jacinth").string();
    {
        Database db(old, Database::Mode::Create);
        createTablesOf(db, 5);
        db.run(
            "INSERT INTO rule(name, text, body) VALUES('wear', '@vib > 4', '{\"least\":3600000000000}');"
            "INSERT INTO rule(name, text, body) VALUES('heat', '@temp > 60', '{}');"
            "INSERT INTO history(name, changes) VALUES('a tag', CAST('T tag ...' AS BLOB));"
            "INSERT INTO history(name, changes) VALUES('keep a rule', CAST('T rule ...' AS BLOB));"
            "INSERT INTO history(name, changes) VALUES('a fix', CAST('T fix ...' AS BLOB))");
    }
    auto s = std::move(*Study::open(old));
    const auto rules = s->judgement().rules();
    ASSERT_EQ(rules.size(), 2u);
    EXPECT_EQ(rules[1].name, "wear");
    EXPECT_EQ(rules[1].version, 1);
    EXPECT_EQ(rules[1].spec.least, kHour);
    EXPECT_EQ(rules[1].spec.most, 48 * kHour);
    // A step that changed rules names a table that is another one now: it and those before are forgotten.
    EXPECT_EQ(s->history().undoName(), "a fix");
    EXPECT_EQ(s->check(), std::vector<std::string>{});
    s->change("next", "", {}, [&] { s->judgement().putRule({"wear", "@vib > 5"}); });
    EXPECT_EQ(s->judgement().ruleVersions("wear").size(), 2u);
    ASSERT_TRUE(s->history().undo());
    EXPECT_EQ(s->judgement().ruleNamed("wear")->text, "@vib > 4");
}

TEST_F(StudyTest, ARuleIsRemovedWithItsProofsAndComesBackWithThem) {
    RuleId first, second;
    study->change("rules", "", {}, [&] {
        first = study->judgement().putRule({"wear", "@vib > 4"});
        second = study->judgement().putRule({"wear", "@vib > 5"});
        for (const RuleId id : {first, second, second}) {
            KeptProof k = proofKept();
            k.rule = id;
            study->judgement().putProof(k);
        }
    });
    EXPECT_EQ(study->judgement().proofs(second).size(), 2u);
    study->change("remove", "", {}, [&] { study->judgement().removeRule("wear", 2); });
    EXPECT_TRUE(study->judgement().proofs(second).empty());
    EXPECT_EQ(study->judgement().proofs(first).size(), 1u);
    EXPECT_EQ(study->judgement().ruleNamed("wear")->version, 1);
    EXPECT_EQ(study->check(), std::vector<std::string>{});
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->judgement().proofs(second).size(), 2u);
    // A proof whose rule is gone is found by the check.
    {
        Database db(path, Database::Mode::ReadWrite);
        addRowSumFunction(db);
        keepRowSums(db);
        db.run("DELETE FROM rule WHERE version = 1");
    }
    reopen();
    const auto faults = study->check();
    ASSERT_EQ(faults.size(), 1u);
    EXPECT_NE(faults[0].find("proofs are of no rule"), std::string::npos) << faults[0];
}

}  // namespace
}  // namespace jacinth
