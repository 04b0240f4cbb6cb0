// What tags are, and facts: on several at once, all or none, as one step.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "work/base/study_fixture.h"
#include "work/base/whole_fact.h"
#include "work/settings/facts.h"
#include "work/settings/tag_settings.h"

namespace jacinth {
namespace {

class StudySettings : public NewStudy {
  protected:
    void fill() override {
        for (const char* name : {"Press 1", "Press 2"}) {
            const auto asset = study->catalog().addAsset(name);
            for (const char* tag : {"Temp", "Flow"}) {
                const auto id = study->catalog().addTag(asset, tag, "", TagKind::Continuous);
                Series s;
                for (int i = 0; i < 10; ++i) s.push(at(i * kMinute), i % 3);
                study->samples().write(id, s);
            }
        }
    }
    Tag tag(const std::string& name) { return *study->catalog().tagAt(name); }
    std::string refusal(const std::vector<TagId>& tags, const TagSettings& settings) {
        const Status done = changeTags(*study, tags, settings);
        return done ? "" : done.error().message;
    }
};

TEST_F(StudySettings, OfSeveralTagsAreOneStep) {
    TagSettings s;
    s.unit = "K";
    s.longestGap = std::optional<Duration>(20 * kMinute);
    ASSERT_TRUE(changeTags(*study, {tag("Press 1/Temp").id, tag("Press 2/Temp").id}, s));
    EXPECT_EQ(study->history().undoName(), "settings of 2 tags");
    for (const char* name : {"Press 1/Temp", "Press 2/Temp"}) {
        EXPECT_EQ(tag(name).unit, "K");
        EXPECT_EQ(tag(name).longestGap, 20 * kMinute);
    }
    EXPECT_EQ(tag("Press 1/Flow").unit, "");
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(tag("Press 2/Temp").unit, "");
    // A role on tags of different assets is fine, and expressions use it at once.
    TagSettings role;
    role.role = "heat";
    ASSERT_TRUE(changeTags(*study, {tag("Press 1/Temp").id, tag("Press 2/Temp").id}, role));
    EXPECT_EQ(study->catalog().tagInRole(tag("Press 2/Temp").asset, "heat")->name, "Temp");
}

TEST_F(StudySettings, ATagWithAFixThatNeedsNumbersDoesNotBecomeOneOfStates) {
    TagSettings states;
    states.kind = TagKind::State;
    Fix shift;
    shift.tag = tag("Press 1/Temp").id;
    shift.from = at(0), shift.to = at(5 * kMinute);
    shift.body = ShiftFix{2};
    shift.on = false;
    FixId id;
    study->change("shift", "", {}, [&] { id = study->judgement().addFix(shift); });
    EXPECT_NE(refusal({shift.tag}, states).find("a shift lies on Press 1/Temp"), std::string::npos);
    Fix borrow = shift;
    borrow.tag = tag("Press 2/Temp").id;
    borrow.body = BorrowFix{tag("Press 1/Flow").id};
    study->change("borrow", "", {}, [&] { study->judgement().addFix(borrow); });
    EXPECT_NE(refusal({tag("Press 1/Flow").id}, states).find("borrows the numbers of Press 1/Flow"),
              std::string::npos);
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(refusal({tag("Press 1/Flow").id}, states), "");
    study->change("remove", "", {}, [&] { study->judgement().removeFix(id); });
    EXPECT_EQ(refusal({shift.tag}, states), "");
}

TEST_F(StudySettings, WhatCannotBeLeavesAllTagsAsTheyWere) {
    TagSettings role;
    role.role = "heat";
    role.unit = "K";
    EXPECT_NE(refusal({tag("Press 1/Temp").id, tag("Press 1/Flow").id}, role).find("heat"),
              std::string::npos);
    role.role = "flow";
    EXPECT_NE(refusal({tag("Press 2/Temp").id, tag("Press 1/Temp").id}, role).find("has the role"),
              std::string::npos);
    for (const char* name : {"", "2nd", "air temp", "a-b"}) {
        role.role = name;
        EXPECT_NE(refusal({tag("Press 1/Temp").id}, role), "") << name;
    }
    TagSettings gap;
    gap.unit = "K";
    gap.longestGap = std::optional<Duration>(0);
    EXPECT_NE(refusal({tag("Press 1/Temp").id}, gap), "");
    TagSettings states;
    states.unit = "K";
    states.states = {"On"};
    EXPECT_NE(refusal({tag("Press 1/Temp").id}, states), "");
    TagSettings none;
    none.unit = "K";
    EXPECT_NE(refusal({tag("Press 1/Temp").id, TagId(4711)}, none), "");
    for (const Tag& t : study->catalog().tags()) EXPECT_EQ(t.unit, "") << t.path();
    EXPECT_EQ(study->history().undoName(), "");
}

TEST_F(StudySettings, NumbersBecomeStatesAndStatesTheirNumbersAgain) {
    const std::vector<TagId> both{tag("Press 1/Flow").id, tag("Press 2/Flow").id};
    TagSettings states;
    states.kind = TagKind::State;
    states.states = {"Manual"};
    ASSERT_TRUE(changeTags(*study, both, states));
    EXPECT_EQ(tag("Press 1/Flow").states, (std::vector<std::string>{"0", "1", "2", "Manual"}));
    TagSettings numbers;
    numbers.kind = TagKind::Continuous;
    ASSERT_TRUE(changeTags(*study, both, numbers));
    const Series s = study->read(tag("Press 2/Flow"), study->record(), Which::AsLogged);
    ASSERT_EQ(s.size(), 10u);
    for (std::size_t i = 0; i < s.size(); ++i) EXPECT_EQ(s.values[i], static_cast<double>(i % 3));
    EXPECT_TRUE(study->check().empty());
}

TEST(WholeFacts, AreWithinTheirBoundsOrWhatStandsForThem) {
    const auto severity = [](Fact fact) {
        return wholeFact({{"severity", std::move(fact)}}, "severity", 1, 4, 1);
    };
    EXPECT_EQ(severity(3.0), 3);
    EXPECT_EQ(severity(2.6), 3);
    for (const double odd : {0.0, -1.0, 5.0, 1e308, std::nan(""), std::numeric_limits<double>::infinity()})
        EXPECT_EQ(severity(odd), 1) << odd;
    EXPECT_EQ(severity(std::string("4")), 1);
    EXPECT_EQ(wholeFact({}, "severity", 1, 4, 2), 2);
    EXPECT_EQ(runOfSpan({{"run", 9007199254740992.0}}), SpanId(9007199254740992));
    EXPECT_EQ(runOfSpan({{"run", 1e300}}), SpanId(0));
}

TEST_F(StudySettings, FactsAreNumbersOrTextsOnAllOrNone) {
    EXPECT_EQ(std::get<double>(*factChange(*study, "load", "42,5")->value), 42.5);
    EXPECT_EQ(std::get<double>(*factChange(*study, "load", "-4e3")->value), -4000);
    EXPECT_EQ(std::get<std::string>(*factChange(*study, "load", "1,2,3")->value), "1,2,3");
    EXPECT_EQ(std::get<std::string>(*factChange(*study, "load", "nan")->value), "nan");
    EXPECT_FALSE(factChange(*study, "load", "")->value);
    EXPECT_FALSE(factChange(*study, " ", "1"));
    EXPECT_EQ(factChangeFrom(*study, "a=b=c")->name, "a");
    EXPECT_EQ(std::get<std::string>(*factChangeFrom(*study, "a=b=c")->value), "b=c");
    EXPECT_FALSE(factChangeFrom(*study, "no sign"));
    const auto one = study->catalog().assetNamed("Press 1")->id;
    const std::vector<FactOwner> owners{one, tag("Press 2/Temp").id};
    ASSERT_TRUE(changeFacts(*study, owners,
                            {*factChange(*study, "load", "42,5"), *factChange(*study, "line", "north")}));
    for (const FactOwner& owner : owners) {
        EXPECT_EQ(factNumber(*factsOf(*study, owner), "load"), 42.5);
        EXPECT_EQ(factText(*factsOf(*study, owner), "line"), "north");
    }
    EXPECT_FALSE(changeFacts(*study, {owners[0], SpanId(99)}, {*factChange(*study, "load", "1")}));
    EXPECT_EQ(factNumber(*factsOf(*study, owners[0]), "load"), 42.5);
    ASSERT_TRUE(changeFacts(*study, owners, {*factChange(*study, "load", "")}));
    EXPECT_FALSE(factsOf(*study, owners[1])->contains("load"));
    ASSERT_TRUE(study->history().undo());
    ASSERT_TRUE(study->history().undo());
    EXPECT_TRUE(factsOf(*study, owners[0])->empty());
}

}  // namespace
}  // namespace jacinth
