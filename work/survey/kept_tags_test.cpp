// Kept tags: what they were made from, that they say when it has changed, and making them again.
#include "work/survey/kept_tags.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/time/times_for_tests.h"
#include "store/derived_catalog.h"
#include "store/history.h"
#include "store/sample_store.h"
#include "work/base/study_fixture.h"
#include "work/derived/derived_expressions.h"
#include "work/mend/mending.h"
#include "work/survey/tag_parts.h"

namespace jacinth {
namespace {

constexpr int kDays = 8;

class KeptTags : public NewStudy {
  protected:
    void fill() override {
        const auto asset = study->catalog().addAsset("Kiln 1");
        const auto temp = study->catalog().addTag(asset, "Temp", "°C", TagKind::Continuous);
        study->samples().write(temp, daily(0, kDays));
        study->catalog().setSpacing(temp, kHour);
    }
    /// A wave a day on a slow rise, hour by hour.
    static Series daily(int from, int to) {
        Series s;
        for (int h = from * 24; h < to * 24; ++h)
            s.push(at(h * kHour), 50 + 0.01 * h + 5 * std::sin(2 * M_PI * h / 24));
        return s;
    }
    Tag tag(const std::string& name) { return *study->catalog().tagAt("Kiln 1/" + name); }
    void keepParts(TimeRange over, Which which = Which::Mended) {
        PartsSpec spec;
        spec.every = kHour;
        spec.kind = PartsKind::Added;
        const auto parts = partsOf(*study, tag("Temp"), over, spec, which);
        ASSERT_TRUE(parts) << parts.error().message;
        ASSERT_TRUE(keepDerived(*study, partsToKeep(tag("Temp"), *parts, spec)));
    }
    void keepDays(Which which = Which::Mended) {
        const Period day{Period::Unit::Day, kDay};
        const auto grid = gridOf(*study, tag("Temp"), study->record(), day, Take::Mean, which);
        ASSERT_TRUE(grid);
        ASSERT_TRUE(keepDerived(*study, gridToKeep(tag("Temp"), *grid, day, Take::Mean, "Temp by day")));
    }
    KeptTag kept(const std::string& name) {
        for (const KeptTag& k : keptTags(*study))
            if (k.tag.name == name) return k;
        ADD_FAILURE() << name << " is not kept";
        return {};
    }
    std::vector<double> values(const std::string& name) {
        return study->read(tag(name), study->record(), Which::AsLogged).values;
    }
    void again(const std::string& name) {
        const auto made = makeAgain(*study, tag(name).id);
        ASSERT_TRUE(made) << made.error().message;
        const auto ids = keepDerived(*study, *made);
        ASSERT_TRUE(ids) << ids.error().message;
    }
    void shift(double by) {
        ASSERT_TRUE(enterFix(*study, {{}, tag("Temp").id, ShiftFix{by}, at(0), at(kDays * kDay), true, "w"}));
    }
};

TEST_F(KeptTags, SayFromWhatAndHow) {
    keepParts(study->record());
    keepDays();
    ASSERT_EQ(keptTags(*study).size(), 4u);
    const KeptTag trend = kept("Temp trend");
    EXPECT_EQ(trend.from, "Kiln 1/Temp");
    EXPECT_EQ(trend.how, "trend by LOESS, mean of every 1h, cycle 1d, added");
    EXPECT_GT(trend.at, *fromIso("2024-01-01T00:00:00Z"));
    EXPECT_FALSE(trend.behind);
    EXPECT_EQ(trend.cannotBeMade, "");
    EXPECT_EQ(kept("Temp by day").how, "mean of every day");
}

TEST_F(KeptTags, AreBehindAfterAFixOrAnImportAndAreMadeAgain) {
    keepDays();
    const auto before = values("Temp by day");
    ASSERT_EQ(before.size(), static_cast<std::size_t>(kDays));
    shift(3);
    EXPECT_TRUE(kept("Temp by day").behind);
    EXPECT_EQ(values("Temp by day"), before);  // as it was kept
    again("Temp by day");
    EXPECT_FALSE(kept("Temp by day").behind);
    for (std::size_t i = 0; i < before.size(); ++i)
        EXPECT_NEAR(values("Temp by day")[i], before[i] + 3, 1e-9);
    EXPECT_EQ(study->history().undoName(), "keep Temp by day");
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(values("Temp by day"), before);
    EXPECT_TRUE(kept("Temp by day").behind);
    // The record grows: what reached to its end does so again.
    {
        WriteBatch t(*study);
        study->samples().write(tag("Temp").id, daily(kDays, kDays + 2));
        t.commit();
    }
    again("Temp by day");
    EXPECT_EQ(values("Temp by day").size(), static_cast<std::size_t>(kDays + 2));
}

TEST_F(KeptTags, PartsAreMadeAgainTogetherAsTheyWere) {
    keepParts(between(0, 6 * kDay));
    const auto trend = values("Temp trend"), cycle = values("Temp cycle");
    shift(3);
    again("Temp cycle");
    ASSERT_EQ(values("Temp trend").size(), trend.size());  // the same stretch, not the whole record
    for (std::size_t i = 0; i < trend.size(); ++i) {
        EXPECT_NEAR(values("Temp trend")[i], trend[i] + 3, 1e-6);
        EXPECT_NEAR(values("Temp cycle")[i], cycle[i], 1e-6);
    }
    for (const KeptTag& k : keptTags(*study)) EXPECT_FALSE(k.behind) << k.tag.name;
    EXPECT_TRUE(study->check().empty());
}

TEST_F(KeptTags, WhatChangedBetweenReadingAndKeepingIsNoticed) {
    const Period day{Period::Unit::Day, kDay};
    const auto grid = gridOf(*study, tag("Temp"), study->record(), day, Take::Mean, Which::Mended);
    shift(3);  // by another window, while the first still shows what it read
    ASSERT_TRUE(keepDerived(*study, gridToKeep(tag("Temp"), *grid, day, Take::Mean, "Temp by day")));
    EXPECT_TRUE(kept("Temp by day").behind);
    again("Temp by day");
    EXPECT_FALSE(kept("Temp by day").behind);
}

TEST_F(KeptTags, APartThatWasRemovedDoesNotComeBack) {
    keepParts(study->record());
    ASSERT_TRUE(removeDerived(*study, tag("Temp trend").id));
    again("Temp cycle");
    EXPECT_FALSE(study->catalog().find("Kiln 1/Temp trend"));
    EXPECT_EQ(keptTags(*study).size(), 2u);
}

TEST_F(KeptTags, OfLoggedSamplesAreNotBehindAfterAFix) {
    keepDays(Which::AsLogged);
    shift(3);
    EXPECT_FALSE(kept("Temp by day").behind);
    const auto before = values("Temp by day");
    again("Temp by day");
    EXPECT_EQ(values("Temp by day"), before);
}

TEST_F(KeptTags, WhatCannotBeMadeAgainSaysWhy) {
    keepDays();
    const TagId id = tag("Temp by day").id;
    const auto define = [&](nlohmann::json definition) {
        study->change("x", "", {}, [&] { study->derived().putDefinition(id, definition); });
        EXPECT_FALSE(makeAgain(*study, id));
        return kept("Temp by day").cannotBeMade;
    };
    EXPECT_EQ(define({{"from", "Kiln 1/Temp"}, {"period", "day"}, {"figure", "mean"}}),
              "over which time it was made is not on record");
    EXPECT_EQ(define({{"from", "Kiln 1/Temp"}}), "how it was made is not on record");
    EXPECT_EQ(define({{"from", "Kiln 9/Temp"}, {"period", "day"}, {"figure", "mean"}}),
              "`Kiln 9/Temp` is not there any more");
    EXPECT_EQ(define({{"from", 7}, {"period", "day"}}), "`from` is not a text");
    EXPECT_EQ(define({{"from", "Kiln 1/Temp"}, {"way", "LOESS"}, {"every", "soon"}, {"period", "1d"}}),
              "`every` is not a length of time");
    EXPECT_NE(define({{"from", "Kiln 1/Temp"}, {"period", "day"}, {"figure", "middle"}}), "");
    // One by expression, and a logged one, are not kept tags.
    ASSERT_TRUE(defineDerived(*study, {"Warm", "", "@temp > 50", "Kiln 1"}));
    EXPECT_FALSE(makeAgain(*study, tag("Warm").id));
    EXPECT_FALSE(makeAgain(*study, tag("Temp").id));
    EXPECT_FALSE(makeAgain(*study, TagId(99)));
    EXPECT_EQ(keptTags(*study).size(), 1u);
}

}  // namespace
}  // namespace jacinth
