// How far the record is labelled, by week and by run; and which days are worth labelling next.
#include "work/label/overview.h"

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "core/time/times_for_tests.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/label/labels.h"

namespace jacinth {
namespace {

constexpr int kDays = 24;

/// Two presses with `Temp`, an hour a sample, from Monday 5 January 1970 00:00 UTC on: 20, but 60 on Press 2
/// from day 10 to 12. Press 3 has no tags.
class Overview : public NewStudy {
  protected:
    void fill() override {
        for (const int press : {1, 2}) {
            const AssetId asset = study->catalog().addAsset("Press " + std::to_string(press));
            const TagId temp = study->catalog().addTag(asset, "Temp", "°C", TagKind::Continuous);
            Series s;
            for (int h = 0; h < kDays * 24; ++h) {
                const bool hot = press == 2 && h >= 10 * 24 && h < 12 * 24;
                s.push(day(0) + h * kHour, (hot ? 60 : 20) + (h * 7 % 5) * 0.1);
            }
            study->samples().write(temp, s);
            study->catalog().setSpacing(temp, kHour);
        }
        (void)study->catalog().addAsset("Press 3");
        labels = study->tracks().put("Labels", track_kind::kLabels);
    }
    static Instant day(int n) { return at((4 + n) * kDay); }
    AssetId press(int n) const { return study->catalog().assetNamed("Press " + std::to_string(n))->id; }
    void mark(int asset, Instant from, Instant to, const std::string& kind, const std::string& by,
              const Facts& more = {}) {
        Facts facts = more;
        if (!kind.empty()) facts[label_fact::kKind] = kind;
        facts[label_fact::kBy] = by;
        study->change("mark", "", {}, [&] {
            study->tracks().addSpan(labels, {{}, press(asset), {}, from, to, facts});
        });
    }
    TrackId labels;
};

TEST_F(Overview, WeeksBeginOnMondaysAndEndWithTheRecord) {
    const LabelOverview o = overviewByWeek(*study);
    ASSERT_EQ(o.rows.size(), 2u) << "an asset without tags has no row";
    const auto& weeks = o.rows[0].stretches;
    ASSERT_EQ(weeks.size(), 4u);
    EXPECT_EQ(weeks[0].range, (TimeRange{day(0), day(7)}));
    EXPECT_EQ(weeks[1].range, (TimeRange{day(7), day(14)}));
    EXPECT_EQ(weeks[3].range.from, day(21));
    EXPECT_EQ(weeks[3].range.to, study->record().to);
    for (const LabelledStretch& w : weeks) {
        EXPECT_EQ(w.marks, 0);
        EXPECT_EQ(w.covered, Duration::zero());
    }
    EXPECT_TRUE(o.byKind.empty());
}

TEST_F(Overview, MarksAreCountedWhereTheyLie) {
    mark(1, day(1), day(2), "surge", "A");
    mark(1, day(1) + 12 * kHour, day(3), "surge", "B");  // over half of the first
    mark(1, day(6), day(8), "", "A");                    // over the border of two weeks, without a name
    mark(2, day(9), day(10), "sweep", "B",
         {{label_fact::kCertainty, std::string("unsure")}, {"cause", std::string("belt")}});
    const LabelOverview o = overviewByWeek(*study);
    const LabelledStretch &first = o.rows[0].stretches[0], &second = o.rows[0].stretches[1];
    EXPECT_EQ(first.marks, 3);
    EXPECT_EQ(first.covered, 2 * kDay + kDay) << "what lies under two marks counts once";
    EXPECT_EQ(first.unnamed, 1);
    EXPECT_EQ(first.kinds, (std::set<std::string>{"surge"}));
    EXPECT_EQ(first.people, (std::set<std::string>{"A", "B"}));
    EXPECT_EQ(second.marks, 1);
    EXPECT_EQ(second.covered, kDay);
    const LabelledStretch& other = o.rows[1].stretches[1];
    EXPECT_EQ(other.unsure, 1);
    EXPECT_EQ(o.rows[1].stretches[0].marks, 0) << "marks of another asset";
    EXPECT_EQ(o.byKind.at("surge").marks, 2);
    EXPECT_EQ(o.byKind.at("surge").length, 2 * kDay + 12 * kHour);
    EXPECT_EQ(o.byKind.at("").marks, 1);
    EXPECT_EQ(o.byWho.at("B").marks, 2);
    EXPECT_EQ(o.byFact.at("cause").at("belt").marks, 1);
    EXPECT_FALSE(o.byFact.contains(label_fact::kKind)) << "only what the site gave";
}

TEST_F(Overview, AMarkThatEndsWhereAWeekBeginsIsNotInIt) {
    mark(1, day(6), day(7), "surge", "A");
    const auto weeks = overviewByWeek(*study).rows[0].stretches;
    EXPECT_EQ(weeks[0].marks, 1);
    EXPECT_EQ(weeks[1].marks, 0);
}

TEST_F(Overview, ByRunEachRunIsAStretch) {
    EXPECT_FALSE(overviewByRun(*study)) << "there are none yet";
    study->change("runs", "", {}, [&] {
        const TrackId runs = study->tracks().put("Runs", track_kind::kRuns);
        for (int r = 0; r < 3; ++r)
            study->tracks().addSpan(runs,
                                    {{}, press(2), {}, day(2 * r), day(2 * r + 1), {{"number", r + 1.0}}});
    });
    mark(2, day(2) + kHour, day(2) + 3 * kHour, "surge", "A");
    const auto o = overviewByRun(*study);
    ASSERT_TRUE(o) << o.error().message;
    ASSERT_EQ(o->rows.size(), 2u);
    EXPECT_TRUE(o->rows[0].stretches.empty());
    ASSERT_EQ(o->rows[1].stretches.size(), 3u);
    EXPECT_EQ(o->rows[1].stretches[1].name, "2");
    EXPECT_EQ(o->rows[1].stretches[1].covered, 2 * kHour);
    EXPECT_EQ(o->rows[1].stretches[0].marks, 0);
}

TEST_F(Overview, TheDayThatIsUnlikeAllOthersIsWorthLabelling) {
    const auto unlike = [&](const std::vector<DayWorthLabelling>& days) {
        return days.front().asset == press(2) && days.front().day.from >= day(10) &&
               days.front().day.from < day(12);
    };
    const auto before = daysWorthLabelling(*study, 5, Which::Mended);
    ASSERT_TRUE(before);
    ASSERT_EQ(before->size(), 5u);
    EXPECT_TRUE(unlike(*before));
    EXPECT_FALSE(before->front().hasOther) << "nothing is labelled yet";
    mark(1, day(3), day(3) + kHour, "usual", "A");
    const auto after = daysWorthLabelling(*study, 5, Which::Mended);
    ASSERT_TRUE(after);
    EXPECT_TRUE(unlike(*after));
    EXPECT_TRUE(after->front().hasOther);
    EXPECT_EQ(after->front().otherAsset, press(1));
    EXPECT_EQ(after->front().otherDay.from, day(3));
    for (const DayWorthLabelling& d : *after)
        EXPECT_FALSE(d.asset == press(1) && d.day.from == day(3)) << "it is labelled";
}

TEST_F(Overview, DaysLikeAnUnsureOneComeFirst) {
    mark(1, day(3), day(3) + kHour, "usual", "A");
    mark(2, day(10) + kHour, day(10) + 2 * kHour, "hot?", "A",
         {{label_fact::kCertainty, std::string("unsure")}});
    const auto days = daysWorthLabelling(*study, 6, Which::Mended);
    ASSERT_TRUE(days);
    EXPECT_TRUE(days->front().likeUnsure);
    EXPECT_EQ(days->front().asset, press(2));
    EXPECT_EQ(days->front().day.from, day(11)) << "the other hot day";
    EXPECT_EQ(days->front().otherDay.from, day(10));
}

TEST_F(Overview, LookingForThemCanBeStopped) {
    const auto stopped = daysWorthLabelling(*study, 5, Which::Mended, [](double) { return false; });
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().kind, ErrorKind::Cancelled);
}

}  // namespace
}  // namespace jacinth
