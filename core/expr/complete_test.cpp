#include "core/expr/complete.h"
#include "core/time/times_for_tests.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

class Complete : public ::testing::Test {
  protected:
    Complete() {
        names.roles["bearing_temp"] = {TagKind::Continuous, "°C", {}, {}};
        names.roles["bearing_vibration"] = {TagKind::Continuous, "mm/s", {}, {}};
        names.roles["burner_mode"] = {TagKind::State, "", {"Auto", "Manual"}, {}};
        names.paths["Kiln 3/Air-off RH"] = {TagKind::Continuous, "%", {}, {}};
        names.tracks = {"Stops", "Runs"};
        names.limits["Normal"] = {"bearing_temp"};
        names.derived = {"heat_loss"};
    }
    /// What is offered where the text has a bar.
    std::vector<std::string> offers(std::string text) {
        const std::size_t caret = text.find('|');
        text.erase(caret, 1);
        const Completions c = completeAt(text, static_cast<int>(caret), names);
        std::vector<std::string> out;
        for (const Completion& o : c.offers)
            out.push_back(text.substr(0, static_cast<std::size_t>(c.from)) + o.insert);
        return out;
    }
    std::string function(std::string text) {
        const std::size_t caret = text.find('|');
        text.erase(caret, 1);
        const FunctionInfo* f = functionAt(text, static_cast<int>(caret));
        return f ? f->name : "";
    }
    Names names;
};
using Texts = std::vector<std::string>;

TEST_F(Complete, RolesByWhatTheyBeginWithThenByWhatTheyHold) {
    EXPECT_EQ(offers("1 + @bea|"), (Texts{"1 + @bearing_temp", "1 + @bearing_vibration"}));
    EXPECT_EQ(offers("@|").size(), 3u);
    EXPECT_EQ(offers("@vib|"), (Texts{"@bearing_vibration"}));
    EXPECT_EQ(offers("@bearing_vibration|"), Texts{});
    EXPECT_EQ(offers("@zzz|"), Texts{});
}

TEST_F(Complete, FunctionsFactsAndDerivedTagsAsWords) {
    const Texts words = offers("med|");
    ASSERT_EQ(words.size(), 1u);
    EXPECT_EQ(words[0], "median(");
    EXPECT_EQ(offers("3 * heat|"), (Texts{"3 * heat_loss"}));
    EXPECT_EQ(offers("3 |"), Texts{});
}

TEST_F(Complete, StatesTracksLimitsAndPathsInTheirQuotes) {
    EXPECT_EQ(offers("@burner_mode is \"A|"),
              (Texts{"@burner_mode is \"Auto\"", "@burner_mode is \"Manual\""}));
    EXPECT_EQ(offers("@burner_mode is not |"),
              (Texts{"@burner_mode is not \"Auto\"", "@burner_mode is not \"Manual\""}));
    EXPECT_EQ(offers("@burner_mode in (\"Auto\", \"M|"), (Texts{"@burner_mode in (\"Auto\", \"Manual\""}));
    EXPECT_EQ(offers("inside(\"St|"), (Texts{"inside(\"Stops\""}));
    EXPECT_EQ(offers("mean(@bearing_temp since \"|").size(), 2u);
    EXPECT_EQ(offers("outside(\"|"), (Texts{"outside(\"Normal\""}));
    EXPECT_EQ(offers("1 > `air|"), (Texts{"1 > `Kiln 3/Air-off RH`"}));
}

TEST_F(Complete, TheFunctionAtTheCaret) {
    EXPECT_EQ(function("slo|pe(@bearing_temp over 6h)"), "slope");
    EXPECT_EQ(function("slope(@bearing|_temp over 6h)"), "slope");
    EXPECT_EQ(function("clip(slope(@x over 6h)|, 0, 1)"), "clip");
    EXPECT_EQ(function("clip((@x + 1)|, 0, 1)"), "clip");
    EXPECT_EQ(function("slope(@x over 6h) > |3"), "");
    EXPECT_EQ(function("|"), "");
}

}  // namespace
}  // namespace jacinth
