#include "work/report/report.h"

#include <gtest/gtest.h>
#include <unistd.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/label/labels.h"
#include "work/limits/screening.h"
#include "work/mend/mending.h"
#include "work/runs/find_runs.h"

namespace jacinth {
namespace {

class ReportTest : public ::testing::Test {
  protected:
    void SetUp() override {
        path = ::testing::TempDir() + "report-" + std::to_string(::getpid()) + ".jacinth";
        std::filesystem::remove(path);
        study = std::move(*Study::create(path));
        study->setSetting("zone", "Europe/Oslo");
        study->setSetting("plant", "Corvane <Maltings>");
        WriteBatch t(*study);
        const auto asset = study->catalog().addAsset("Kiln 1");
        tag = study->catalog().addTag(asset, "Temp", "°C", TagKind::Continuous);
        Series s;
        const Instant start = *fromIso("2026-03-01T00:00:00Z");
        for (int i = 0; i < 1000; ++i) {
            const int run = i / 100;
            const double level = run == 7 && i % 100 > 40 ? 59 : 50 + run * 0.1;
            s.push(start + i * kMinute, i % 100 < 80 ? level : 0);
        }
        study->samples().write(tag, s);
        study->catalog().setSpacing(tag, kMinute);
        t.commit();
    }
    void TearDown() override {
        study.reset();
        for (const char* end : {"", "-wal", "-shm"}) std::filesystem::remove(path + end);
    }
    std::string path;
    std::unique_ptr<Study> study;
    TagId tag;
};

TEST_F(ReportTest, CountsByGroupAndListsOneAlone) {
    const auto other = study->catalog().addAsset("Kiln 2");
    study->catalog().addTag(other, "Temp", "°C", TagKind::Continuous);
    study->catalog().setAssetFacts(study->catalog().tag(tag)->asset, {{"area", std::string("North")}});
    study->catalog().setAssetFacts(other, {{"area", std::string("South")}});
    const TrackId labels = study->tracks().put("Labels", track_kind::kLabels);
    const auto add = [&](AssetId asset, const char* kind) {
        study->tracks().addSpan(
            labels, {{}, asset, {}, study->record().from, study->record().to, {{"kind", std::string(kind)}}});
    };
    study->change("labels", "", {}, [&] {
        add(study->catalog().tag(tag)->asset, "surge in the north");
        add(other, "leak in the south");
    });
    const std::string whole = *reportHtml(*study, {}, {"area", {}});
    EXPECT_NE(whole.find("By area"), std::string::npos);
    EXPECT_NE(
        whole.find("<td>North</td><td>1</td><td>1</td><td>0</td><td>0</td><td>0</td><td>1</td><td>0</td>"),
        std::string::npos)
        << whole;
    EXPECT_NE(whole.find("leak in the south"), std::string::npos);
    const std::string north = *reportHtml(*study, {}, {"area", "North"});
    EXPECT_NE(north.find("Listed is what is on area North alone."), std::string::npos);
    EXPECT_NE(north.find("surge in the north"), std::string::npos);
    EXPECT_EQ(north.find("leak in the south"), std::string::npos);
    EXPECT_EQ(reportHtml(*study)->find("By area"), std::string::npos);
}

TEST_F(ReportTest, AnEmptyStudyHasAReportToo) {
    const std::string html = *reportHtml(*study);
    EXPECT_TRUE(html.starts_with("<!doctype html>"));
    EXPECT_TRUE(html.ends_with("</html>\n"));
    EXPECT_NE(html.find("Corvane &lt;Maltings&gt;"), std::string::npos);
    EXPECT_EQ(html.find("Excursions"), std::string::npos);
}

TEST_F(ReportTest, HoldsWhatTheStudyHolds) {
    const RunSearch search{"@temp > 10", 30 * kMinute};
    const auto track = keepRuns(*study, "Runs", search, *findRuns(*study, search));
    std::vector<SpanId> golden;
    for (const Span& s : study->tracks().spans(track)) golden.push_back(s.id);
    golden.erase(golden.begin() + 7);
    study->change("golden", "", {}, [&] { study->judgement().setGoldenRuns(track, golden, "quiet"); });
    const auto set = makeLimits(*study, "spring limits", track, {"temp"}, {5 * kMinute});
    ASSERT_TRUE(set);
    keepLimits(*study, *set);
    keepExcursions(*study, track, {10 * kMinute, kMinute},
                   screenTrack(*study, track, set->name, {10 * kMinute, kMinute}));
    Fix f;
    f.tag = tag, f.from = study->record().from, f.to = f.from + kHour, f.body = ShiftFix{0.25},
    f.why = "offset & drift";
    ASSERT_TRUE(enterFix(*study, f));
    ASSERT_TRUE(addLabelled(*study, {{}, AssetId(1), tag, f.from, f.to, {}}, "normal", "quiet start"));
    study->change("f", "", {}, [&] {
        study->tracks().addSpan(study->tracks().put("Failures", track_kind::kFailures),
                                {{}, AssetId(1), {}, f.from + 13 * kHour, f.from + 13 * kHour, {}});
        study->judgement().putRule({"hot", "@temp > 55", {3 * kHour, 10 * kMinute, {}}});
    });
    const std::string html = *reportHtml(*study);
    for (const char* wanted :
         {"Golden limits spring limits", "<svg", "outside for", "Excursions (", "offset &amp; drift", "+0.25",
          "quiet start", "Rule hot", "@temp &gt; 55", "1 of 1 testable failures caught"})
        EXPECT_NE(html.find(wanted), std::string::npos) << wanted;
}

TEST_F(ReportTest, ARuleThatNoLongerFitsSaysSoInTheReport) {
    study->change("r", "", {}, [&] { study->judgement().putRule({"old", "@gone > 1", {}}); });
    EXPECT_NE(reportHtml(*study)->find("`gone` is not a role of Kiln"), std::string::npos);
}

TEST_F(ReportTest, AProofReadsAsText) {
    Proof p;
    p.failures = {{AssetId(1), *fromIso("2026-03-02T10:00:00Z"), true, true, false, 20 * kHour, {}},
                  {AssetId(1), *fromIso("2026-03-05T10:00:00Z"), true, false, false, {}, {}},
                  {AssetId(1), *fromIso("2026-03-07T10:00:00Z"), false, false, false, {}, "no data"}};
    p.alarms = {
        {AssetId(1), {*fromIso("2026-03-04T00:00:00Z"), *fromIso("2026-03-04T01:00:00Z")}, Verdict::False}};
    p.caught = 1, p.missed = 1, p.untestable = 1, p.falseAlarms = 1;
    p.catchRate = wilson(1, 2);
    p.cameTrueShare = wilson(1, 2);
    const std::string text = proofText(*study, p);
    EXPECT_NE(text.find("caught, 20 h before"), std::string::npos);
    EXPECT_NE(text.find("missed"), std::string::npos);
    EXPECT_NE(text.find("untestable: no data"), std::string::npos);
    EXPECT_NE(text.find("false alarm, 1 h"), std::string::npos);
    EXPECT_NE(
        text.find("1 of 2 testable failures caught (9 – 91 %); 1 OF 3 RECORDED FAILURES COULD NOT BE TESTED"),
        std::string::npos);
}

TEST_F(ReportTest, LabelsAndFixesThatMakeNoSenseAreRefused) {
    EXPECT_FALSE(addLabelled(*study, {{}, AssetId(1), {}, at(10), at(10), {}}, "normal", ""));
    EXPECT_FALSE(addLabelled(*study, {{}, AssetId(1), {}, at(10), at(20), {}}, "gremlins", ""));
    EXPECT_FALSE(removeLabels(*study, {SpanId(99)}));
    EXPECT_FALSE(switchFix(*study, FixId(99), true));
    EXPECT_FALSE(removeFix(*study, FixId(99)));
    Fix f;
    f.tag = TagId(99);
    EXPECT_FALSE(enterFix(*study, f));
    f.tag = tag, f.from = at(10), f.to = at(5);
    EXPECT_FALSE(enterFix(*study, f));
    EXPECT_TRUE(study->history().ledger().empty());
}

}  // namespace
}  // namespace jacinth
