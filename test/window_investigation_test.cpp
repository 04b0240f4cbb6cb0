// The whole investigation through the window, and the same by command line: the figures must be the same.
#include <QCoreApplication>
#include <cmath>
#include <memory>

#include "app/base/tables.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/window_driver.h"
#include "work/limits/screening.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

/// Four quiet runs of each of three kilns, by their number.
std::map<std::string, std::vector<int>> quietRuns() {
    std::map<std::string, std::vector<int>> out;
    const json truth = demoTruth();
    for (const json& r : truth["runs"]) {
        const std::string asset = r["asset"];
        if (asset != "Kiln 1" && asset != "Kiln 3" && asset != "Kiln 6") continue;
        if (r["offPath"].is_null() && r["complete"] && !r["interrupted"] && r["lookAlike"].is_null() &&
            out[asset].size() < 4)
            out[asset].push_back(r["number"]);
    }
    return out;
}

SpanId runId(Study& study, const std::string& asset, int number) {
    for (const Span& s : study.tracks().spansOf(track_kind::kRuns))
        if (study.catalog().asset(s.asset)->name == asset && factNumber(s.facts, "number") == number)
            return s.id;
    return {};
}

/// One investigation by mouse and keys, held at every step against the command line on a twin of the study.
class WindowInvestigation : public ::testing::Test {
  protected:
    WindowInvestigation() {
        copyDemo(study);
        copyDemo(twin);
        d = std::make_unique<WindowDriver>(study);
    }

    void findRuns() {
        d->bench(app::BenchId::Screen);
        d->type("runsWhere", "@kiln_step is not \"Idle\"");
        d->click("findRuns");
        const auto cliRuns = run({"runs", "find", twin, "--track", "Runs", "--where",
                                  "@kiln_step is not \"Idle\"", "--least", "1h", "--json"})
                                 .json();
        const auto found = d->study().tracks().spansOf(track_kind::kRuns);
        ASSERT_EQ(found.size(), cliRuns.size());
        EXPECT_EQ(found.size(), demoTruth()["runs"].size());
        for (std::size_t i = 0; i < found.size(); ++i) EXPECT_EQ(toIso(found[i].start), cliRuns[i]["start"]);
    }

    /// By clicking in the golden row of the sheet.
    void chooseGoldenRuns() {
        d->click("screenSheet");
        std::vector<std::string> cliGolden{"golden", "set", twin, "--track", "Runs"};
        for (const auto& [asset, numbers] : quietRuns()) {
            d->clickAsset(QString::fromStdString(asset));
            for (const int number : numbers) {
                const SpanId id = runId(d->study(), asset, number);
                app::RunSheet* sheet = d->window().screen()->sheet();
                d->clickAt(sheet, sheet->cellCentre(id, sheet->rowCount()));
                cliGolden.insert(cliGolden.end(), {"--run", std::to_string(id.number)});
            }
        }
        const auto track = d->study().tracks().firstOf(track_kind::kRuns)->id;
        EXPECT_EQ(d->study().judgement().goldenRuns(track).size(), 12u);
        ASSERT_EQ(run(cliGolden).code, 0);
    }

    void screen() {
        d->type("limitTags", "air_on_temp, air_off_temp, fan_current");
        d->click("buildLimits");
        ASSERT_EQ(run({"limits", "build", twin, "--name", "L", "--track", "Runs", "--tag", "air_on_temp",
                       "--tag", "air_off_temp", "--tag", "fan_current"})
                      .code,
                  0);
        const auto cliExcursions =
            run({"screen", twin, "--limits", "L", "--ignore", "20m", "--join", "10m", "--json"}).json();
        excursions = excursionsOf(d->study());
        ASSERT_EQ(excursions.size(), cliExcursions.size()) << d->statusText().toStdString();
        ASSERT_GT(excursions.size(), 20u);
        for (std::size_t i = 0; i < excursions.size(); ++i) {
            EXPECT_EQ(toIso(excursions[i].span.start), cliExcursions[i]["start"]);
            EXPECT_EQ(toIso(excursions[i].span.end), cliExcursions[i]["end"]);
            EXPECT_DOUBLE_EQ(excursions[i].peak, cliExcursions[i]["peak"].get<double>());
            EXPECT_EQ(excursions[i].severity, cliExcursions[i]["severity"].get<int>());
        }
    }

    /// In the sheet: its run and tag are chosen then.
    void clickTheWorst() {
        const auto worst =
            std::max_element(excursions.begin(), excursions.end(),
                             [](const auto& a, const auto& b) { return a.severity < b.severity; });
        const Tag worstTag = *d->study().catalog().tag(worst->span.tag);
        d->clickAsset(QString::fromStdString(worstTag.assetName));
        app::RunSheet* sheet = d->window().screen()->sheet();
        int row = 0;
        for (const Tag& t : d->study().catalog().tags()) {
            if (t.asset != worstTag.asset ||
                (t.role != "air_on_temp" && t.role != "air_off_temp" && t.role != "fan_current"))
                continue;
            if (t.id == worstTag.id) break;
            ++row;
        }
        d->clickAt(sheet, sheet->cellCentre(worst->run, row));
        EXPECT_EQ(d->view().run(), worst->run);
        EXPECT_EQ(d->view().tag(), worstTag.id);
        EXPECT_FALSE(d->window().screen()->overlay()->picture().excursions.empty());
    }

    /// From an excursion to its moment, and back to a label of it.
    void labelIt() {
        d->clickRow(d->window().screen()->excursions(), 0);
        const auto shownSpan =
            d->study().tracks().span(app::currentId<SpanId>(d->window().screen()->excursions()));
        ASSERT_TRUE(shownSpan);
        d->click("openExcursion");
        EXPECT_EQ(d->view().bench(), app::BenchId::Survey);
        EXPECT_LE(d->view().view().from, shownSpan->start);
        EXPECT_GE(d->view().view().to, shownSpan->end);
        d->key(&d->window(), Qt::Key_Left, Qt::AltModifier);
        d->bench(app::BenchId::Screen);
        d->clickRow(d->window().screen()->excursions(), 0);
        d->click("labelExcursion");
        EXPECT_EQ(d->view().bench(), app::BenchId::Label);
        d->key(d->window().label()->plot(), Qt::Key_A);
        const auto labels = d->study().tracks().spansOf(track_kind::kLabels);
        ASSERT_EQ(labels.size(), 1u);
        EXPECT_EQ(factText(labels[0].facts, "kind"), "air path");
        EXPECT_EQ(toIso(labels[0].start).substr(0, 19), toIso(shownSpan->start).substr(0, 19));
    }

    /// By typing what the truth says.
    void mendTheDrift() {
        const json drift = demoTruth()["drifts"][0];
        d->clickTag(drift["tag"]);
        d->bench(app::BenchId::Mend);
        const Zone zone = d->study().zone();
        const Instant from = instantOf(drift["start"]), to = instantOf(drift["end"]);
        d->type("timeField", QString::fromStdString(zone.text(from - kDay) + " to " + zone.text(to + kDay)),
                true);
        d->click("kindRamp");
        d->type("fixFrom", QString::fromStdString(zone.preciseText(from)));
        d->type("fixTo", QString::fromStdString(zone.preciseText(to)));
        d->type("fixStartBy", "0");
        d->type("fixEndBy", QString::number(-drift["endError"].get<double>(), 'f', 2));
        d->type("fixWhy", "drift against hand readings");
        d->click("enterFix");
        const auto fixes = d->study().judgement().allFixes();
        ASSERT_EQ(fixes.size(), 1u) << d->statusText().toStdString();
        EXPECT_EQ(fixes[0].from, from);
        EXPECT_EQ(fixes[0].to, to);
        ASSERT_EQ(run({"fix", "add", twin, "--tag", drift["tag"], "--kind", "ramp", "--from", toIso(from),
                       "--to", toIso(to), "--start-by", "0", "--end-by",
                       QString::number(-drift["endError"].get<double>(), 'f', 2).toStdString(), "--why",
                       "drift against hand readings"})
                      .code,
                  0);
        const std::vector<std::string> day{"--from", toIso(to - kDay), "--to", toIso(to + kDay)};
        std::vector<std::string> mine{"read", study, "--tag", drift["tag"]},
            theirs{"read", twin, "--tag", drift["tag"]};
        mine.insert(mine.end(), day.begin(), day.end());
        theirs.insert(theirs.end(), day.begin(), day.end());
        EXPECT_EQ(run(mine).out, run(theirs).out);
    }

    void proveTheRule() {
        d->bench(app::BenchId::Prove);
        app::ExpressionEditor* editor = d->window().prove()->editor();
        editor->selectAll();
        QTest::keyClicks(editor, "mean(@bearing_vibration over 2h) > 2.75 for 20m");
        QTest::qWait(400);  // the text is read when the typing pauses
        d->settle();
        EXPECT_TRUE(d->find<QLabel>("ruleState")->text().startsWith("valid"))
            << d->find<QLabel>("ruleState")->text().toStdString();
        d->type("proveMost", "48h");
        d->click("proveButton");
        cliProof = run({"prove", twin, "--rule", "mean(@bearing_vibration over 2h) > 2.75 for 20m", "--most",
                        "48h", "--least", "12h", "--join", "6h", "--json"})
                       .json();
        const auto& proof = d->window().prove()->proof();
        ASSERT_TRUE(proof);
        EXPECT_EQ(proof->caught, cliProof["caught"].get<int>());
        EXPECT_EQ(proof->falseAlarms, cliProof["falseAlarms"].get<int>());
        EXPECT_EQ(proof->alarms.size(), cliProof["alarms"].size());
        EXPECT_DOUBLE_EQ(proof->catchRate.low, cliProof["catchRate"]["low"].get<double>());
        EXPECT_DOUBLE_EQ(toSeconds(proof->countingTime), cliProof["countingSeconds"].get<double>());
        EXPECT_EQ(d->find<QLabel>("caughtFigure")->text(),
                  QString("%1 of %2").arg(proof->caught).arg(proof->caught + proof->missed));
    }

    void expectAllOnTheStrip() {
        std::array<int, 5> rows{};
        for (const auto& item : d->window().strip()->items()) ++rows[static_cast<std::size_t>(item.row)];
        for (const int n : rows) EXPECT_GT(n, 0);
    }

    void closeAndOpen() {
        const TimeRange view = d->view().view();
        const auto shown = d->view().shown();
        d->close();
        WindowDriver again(study);
        EXPECT_EQ(again.view().view(), view);
        EXPECT_EQ(again.view().shown(), shown);
        EXPECT_EQ(again.view().bench(), app::BenchId::Prove);
        EXPECT_EQ(again.window().prove()->editor()->toPlainText(),
                  "mean(@bearing_vibration over 2h) > 2.75 for 20m");
        ASSERT_TRUE(again.window().prove()->proof());
        EXPECT_EQ(again.window().prove()->proof()->caught, cliProof["caught"].get<int>());
        EXPECT_EQ(excursionsOf(again.study()).size(), excursions.size());
    }

    Folder folder{"window"};
    const std::string study = folder / "w.jacinth", twin = folder / "c.jacinth";
    std::unique_ptr<WindowDriver> d;
    std::vector<KeptExcursion> excursions;
    json cliProof;
};

TEST_F(WindowInvestigation, EndsInTheSameFiguresAsTheCommandLine) {
    ASSERT_NO_FATAL_FAILURE(findRuns());
    ASSERT_NO_FATAL_FAILURE(chooseGoldenRuns());
    ASSERT_NO_FATAL_FAILURE(screen());
    ASSERT_NO_FATAL_FAILURE(clickTheWorst());
    ASSERT_NO_FATAL_FAILURE(labelIt());
    ASSERT_NO_FATAL_FAILURE(mendTheDrift());
    ASSERT_NO_FATAL_FAILURE(proveTheRule());
    expectAllOnTheStrip();
    closeAndOpen();
}

}  // namespace
}  // namespace jacinth::test
