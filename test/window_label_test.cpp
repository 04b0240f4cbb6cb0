// Label, driven by mouse and keys: marks in lanes, several named at once, edges moved by key, more like this,
// the camera's clock, two people, two programs.
#include <QCheckBox>
#include <QComboBox>

#include "app/label/frame_folder.h"
#include "app/label/label_bench.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/dialogs.h"
#include "test/window_driver.h"
#include "work/label/labels.h"

namespace jacinth::test {
namespace {

using app::LabelWay;
using nlohmann::json;

class LabelWindow : public ::testing::Test {
  protected:
    LabelWindow() : folder("window-label") {
        copyDemo(folder / "demo.jacinth");
        fs::copy(std::string(JACINTH_DEMO_FOLDER) + "/demo-sight-glass", folder / "demo-sight-glass");
        d = std::make_unique<WindowDriver>(folder / "demo.jacinth");
        truth = demoTruth();
    }
    app::LabelBench& bench() { return *d->window().label(); }
    app::MarksPage& marks() { return *bench().marks(); }
    app::TimePlot* plot() { return bench().plot(); }
    app::BracketLanes* lanes() { return plot()->brackets(); }
    std::vector<Span> labels() { return labelsOf(d->study()); }
    std::string kindOf(SpanId id) { return factText(d->study().tracks().span(id)->facts, "kind"); }
    /// Shows one tag on the bench, over a stretch.
    void look(const std::string& asset, const std::string& role, TimeRange range) {
        const Catalog& catalog = d->study().catalog();
        const Tag* tag = catalog.tagInRole(catalog.assetNamed(asset)->id, role);
        d->view().select(tag->asset, tag->id);
        d->view().setShown({tag->id});
        d->view().setBench(app::BenchId::Label);
        d->view().setView(range);
        d->settle();
    }
    TimeRange stretchOf(const json& j) { return {instantOf(j["start"]), instantOf(j["end"])}; }
    /// Drags a mark over a stretch, with the view close around it.
    SpanId dragMark(const std::string& asset, TimeRange stretch) {
        look(asset, "gas_flow", {stretch.from - stretch.length(), stretch.to + stretch.length()});
        const int y = plot()->paneRect(0).center().y();
        d->drag(plot(), {static_cast<int>(std::lround(plot()->xOf(stretch.from))), y},
                {static_cast<int>(std::lround(plot()->xOf(stretch.to))), y});
        EXPECT_EQ(marks().chosen().size(), 1u);
        return marks().current();
    }
    QPoint middleOf(SpanId id) { return lanes()->rectOf(id).center().toPoint(); }

    Folder folder;
    std::unique_ptr<WindowDriver> d;
    json truth;
};

TEST_F(LabelWindow, EightFlameLossesAreMarkedNamedTogetherAndMoreAreFound) {
    // Short ones, as the shift would mark them from the trace.
    std::vector<json> losses;
    for (const json& loss : truth["flameLosses"])
        if (!loss["stopped"].get<bool>()) losses.push_back(loss);
    std::vector<SpanId> ids;
    for (int i = 0; i < 8; ++i) {
        const TimeRange at = stretchOf(losses[static_cast<std::size_t>(i)]);
        ids.push_back(dragMark(losses[static_cast<std::size_t>(i)]["asset"], at));
        EXPECT_NEAR(toSeconds(d->study().tracks().span(ids.back())->start - at.from), 0, 30);
    }
    EXPECT_EQ(d->find<QLabel>("labelState")->text(), "8 marks, 8 not named yet");
    // All of them, by the list and one key.
    d->clickRow(bench().list(), 0);
    d->key(bench().list(), Qt::Key_A, Qt::ControlModifier);
    EXPECT_EQ(marks().chosen().size(), 8u);
    EXPECT_EQ(d->find<QLabel>("chosenTitle")->text(), "8 marks · not named yet");
    d->key(bench().list(), Qt::Key_F);
    for (const SpanId id : ids) EXPECT_EQ(kindOf(id), "flame loss");
    EXPECT_EQ(d->study().history().undoName(), "name 8 labels flame loss");
    // One edge by key: to the next sample.
    marks().open(ids[2]);
    d->settle();
    const Span before = *d->study().tracks().span(ids[2]);
    d->key(plot(), Qt::Key_Right, Qt::ControlModifier);
    d->key(plot(), Qt::Key_Right);
    const Span after = *d->study().tracks().span(ids[2]);
    EXPECT_EQ(after.start, before.start);
    EXPECT_GT(after.end, before.end);
    EXPECT_LE(after.end - before.end, kMinute);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(d->study().tracks().span(ids[2])->end, before.end);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    for (const SpanId id : ids) EXPECT_EQ(kindOf(id), "") << "named together, undone together";
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(kindOf(ids[0]), "flame loss");

    // More like the first of them, among twice as many as there are others.
    marks().open(ids[0]);
    d->click("searchAlike");
    const std::size_t others = truth["flameLosses"].size() - 1;
    d->type("alikeMost", QString::number(2 * others));
    d->click("alikeSearch");
    d->settle();
    const auto& cells = bench().alike()->sheet()->cells();
    ASSERT_EQ(cells.size(), 2 * others);
    std::size_t found = 0;
    for (const json& loss : truth["flameLosses"]) {
        const TimeRange at = stretchOf(loss);
        const AssetId asset = d->study().catalog().assetNamed(loss["asset"])->id;
        found += std::any_of(cells.begin(), cells.end(), [&](const auto& cell) {
            return cell.asset == asset && cell.range.from < at.to && at.from < cell.range.to;
        });
    }
    EXPECT_GE(static_cast<double>(found), 0.9 * static_cast<double>(others)) << found << " of " << others;
}

TEST_F(LabelWindow, HitsAreAcceptedRejectedAndTakenBackByKey) {
    const json loss = truth["flameLosses"][0];
    const SpanId id = dragMark(loss["asset"], stretchOf(loss));
    d->key(plot(), Qt::Key_F);
    d->click("searchAlike");
    app::ContactSheet* sheet = bench().alike()->sheet();
    ASSERT_GT(sheet->cells().size(), 20u);
    const std::size_t before = labels().size();
    const auto first = sheet->cells()[0];
    d->key(sheet, Qt::Key_A);
    EXPECT_EQ(labels().size(), before + 1);
    const auto now = labels();
    const Span made = *std::find_if(now.begin(), now.end(), [&](const Span& l) { return l.id != id; });
    EXPECT_EQ(made.asset, first.asset);
    EXPECT_EQ(factText(made.facts, "kind"), "flame loss");
    EXPECT_EQ(factText(made.facts, "from"), "more like this");
    EXPECT_GT(made.start, first.range.from) << "the label is without the margin";
    EXPECT_EQ(sheet->cells()[0].verdict, HitVerdict::Accepted);
    const auto inHand = [&] { return sheet->cells()[static_cast<std::size_t>(sheet->current())]; };
    EXPECT_EQ(inHand().verdict, HitVerdict::Open) << "on to the next";
    // A rejected one goes to the end, and what resembles it steps back.
    const auto second = inHand();
    d->key(sheet, Qt::Key_R);
    EXPECT_EQ(sheet->cells().back().range, second.range);
    EXPECT_EQ(labels().size(), before + 1);
    // Taken back, and undone.
    sheet->setCurrent(0);
    d->key(sheet, Qt::Key_U);
    EXPECT_EQ(labels().size(), before);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(labels().size(), before + 1);
    QTest::qWait(300);
    d->settle();
    EXPECT_TRUE(std::any_of(sheet->cells().begin(), sheet->cells().end(), [&](const auto& cell) {
        return cell.range == first.range && cell.verdict == HitVerdict::Accepted;
    })) << "the sheet follows what is on record";
    // Weakest first, and back to the traces.
    auto* order = d->find<QComboBox>("alikeOrder");
    order->setCurrentIndex(1);
    emit order->activated(1);
    EXPECT_GE(sheet->cells()[3].score, sheet->cells()[9].score);
    d->key(sheet, Qt::Key_Space);
    EXPECT_EQ(bench().pageShown(), static_cast<int>(LabelWay::Marks));
}

TEST_F(LabelWindow, BracketsAreBandedPulledSplitAndMergedWithoutAMouseOnTheTrace) {
    const TimeRange record = d->view().record();
    look("Kiln 2", "air_on_temp", {record.from, record.from + 12 * kHour});
    std::vector<SpanId> ids;
    const AssetId asset = d->view().asset();
    d->session().tryChange([&] {
        for (int i = 0; i < 3; ++i)
            ids.push_back(*addLabelled(
                d->study(),
                {{}, asset, {}, record.from + (1 + 3 * i) * kHour, record.from + (3 + 3 * i) * kHour, {}}, "",
                ""));
        ids.push_back(*addLabelled(
            d->study(), {{}, asset, {}, record.from + 2 * kHour, record.from + 5 * kHour, {}}, "normal", ""));
    });
    d->settle();
    EXPECT_EQ(lanes()->laneOf(ids[0]), 0);
    EXPECT_EQ(lanes()->laneOf(ids[3]), 1) << "where they overlap they stand in lanes";
    EXPECT_FALSE(lanes()->rectOf(ids[3]).intersects(lanes()->rectOf(ids[0])));
    // A band over the empty part of the upper lane chooses what it crosses.
    const double top = lanes()->rectOf(ids[3]).center().y();
    d->drag(
        plot(),
        QPoint(static_cast<int>(plot()->xOf(record.from + 5 * kHour + 30 * kMinute)), static_cast<int>(top)),
        QPoint(static_cast<int>(plot()->xOf(record.from + 9 * kHour + 20 * kMinute)), static_cast<int>(top)));
    EXPECT_EQ(marks().chosen(), (std::vector<SpanId>{ids[1], ids[2]}));
    d->clickAt(plot(), middleOf(ids[0]), Qt::ShiftModifier);
    EXPECT_EQ(marks().chosen().size(), 3u);
    d->key(plot(), Qt::Key_N);
    for (const SpanId id : ids) EXPECT_EQ(kindOf(id), "normal");
    // Pulled as a whole: the length stays; then by its right end.
    d->clickAt(plot(), middleOf(ids[1]));
    const Span before = *d->study().tracks().span(ids[1]);
    d->drag(plot(), middleOf(ids[1]), middleOf(ids[1]) + QPoint(40, 0));
    const Span moved = *d->study().tracks().span(ids[1]);
    EXPECT_GT(moved.start, before.start + 20 * kMinute);
    EXPECT_EQ(moved.end - moved.start, before.end - before.start);
    const QPoint end(static_cast<int>(lanes()->rectOf(ids[1]).right()) - 1, middleOf(ids[1]).y());
    d->drag(plot(), end, end + QPoint(25, 0));
    EXPECT_EQ(d->study().tracks().span(ids[1])->start, moved.start);
    EXPECT_GT(d->study().tracks().span(ids[1])->end, moved.end);
    // Split at the cursor, merged again.
    const std::size_t count = labels().size();
    d->view().setCursor(0, moved.start + kHour);
    d->key(&d->window(), Qt::Key_B, Qt::ControlModifier);
    EXPECT_EQ(labels().size(), count + 1);
    d->clickAt(plot(), middleOf(ids[1]), Qt::ShiftModifier);
    d->key(&d->window(), Qt::Key_M, Qt::ControlModifier);
    EXPECT_EQ(labels().size(), count);
    EXPECT_EQ(marks().chosen(), std::vector<SpanId>{ids[1]});
    // On to the next without a name.
    d->clickAt(plot(),
               QPoint(static_cast<int>(plot()->xOf(record.from + 30 * kMinute)), static_cast<int>(top)));
    EXPECT_TRUE(marks().chosen().empty());
    d->key(&d->window(), Qt::Key_Down, Qt::ControlModifier);
    EXPECT_TRUE(marks().chosen().empty()) << "all have one";
    d->key(plot(), Qt::Key_Down);
    EXPECT_EQ(marks().chosen().size(), 1u);
}

TEST_F(LabelWindow, AMarkIsAboutSomeTagsAndHowSureItIsIsSaid) {
    const TimeRange record = d->view().record();
    look("Kiln 2", "air_on_temp", {record.from, record.from + 12 * kHour});
    const QPoint at = plot()->paneRect(0).center();
    d->drag(plot(), at - QPoint(60, 0), at + QPoint(60, 0), Qt::AltModifier);
    ASSERT_EQ(labels().size(), 1u);
    const SpanId id = labels()[0].id;
    EXPECT_EQ(tagsOf(labels()[0]), std::vector<TagId>{d->view().tag()});
    auto* certainty = d->find<QComboBox>("labelCertainty");
    certainty->setCurrentIndex(2);
    emit certainty->activated(2);
    EXPECT_EQ(certaintyOf(labels()[0]), "unsure");
    d->key(plot(), Qt::Key_N);
    EXPECT_EQ(bench().list()->model()->index(0, 0).data().toString(), "normal?");
    // Found again by a filter, and by the kind.
    d->type("labelFilter", "kiln 3");
    EXPECT_EQ(bench().list()->model()->rowCount(), 0);
    d->type("labelFilter", "unsure kiln");
    EXPECT_EQ(bench().list()->model()->rowCount(), 1);
    // On several assets at once.
    auto* assets = d->find<app::CheckButton>("markAssets");
    for (QAction* a : assets->menu()->actions())
        if (a->text() == "Kiln 4" || a->text() == "Kiln 5") a->trigger();
    d->type("labelFilter", "");
    d->drag(plot(), at + QPoint(100, 0), at + QPoint(160, 0));
    EXPECT_EQ(labels().size(), 3u);
    EXPECT_EQ(marks().chosen().size(), 2u);
    EXPECT_EQ(kindOf(id), "normal");
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(labels().size(), 1u) << "one step";
}

TEST_F(LabelWindow, TheCamerasClockIsSetByTwoMoments) {
    const json camera = truth["camera"];
    const double ahead = camera["aheadSeconds"];
    const std::string kiln = camera["asset"];
    json loss;
    for (const json& l : truth["flameLosses"])
        if (l["asset"] == kiln && !l["stopped"].get<bool>() && loss.is_null()) loss = l;
    const Instant out = instantOf(loss["start"]);
    look(kiln, "gas_flow", {out - 10 * kMinute, out + 10 * kMinute});
    d->click("showEvidence");
    ASSERT_EQ(marks().evidence()->players().size(), 1u);
    app::FramePlayer* player = marks().evidence()->players()[0];
    // The flame goes out in the picture before the cursor's moment by its own clock: it is 40 s ahead.
    d->view().setCursor(0, out);
    d->settle();
    EXPECT_NEAR(toSeconds(*player->shown() - out), 0, 10);
    // Held; stepped to the first dark frame; the cursor stands where the gas fell: the same moment.
    d->click("evidenceHold");
    const auto& frames = dynamic_cast<const app::FrameFolder&>(player->pictures()).frames();
    const auto brightness = app::brightnessOf(folder / "demo-sight-glass", frames);
    const auto bright = [&] {
        const auto at = std::find_if(frames.begin(), frames.end(),
                                     [&](const Frame& f) { return f.time == *player->frameTime(); });
        return brightness[static_cast<std::size_t>(at - frames.begin())];
    };
    const double lit = bright();
    for (int i = 0; i < 30 && bright() > lit / 2; ++i) d->key(plot(), Qt::Key_Period);
    EXPECT_LT(bright(), lit / 2) << "the first dark frame";
    EXPECT_EQ(*d->view().cursor(0), out) << "the cursor stayed";
    // As a person sees it: the frame's true moment lies up to a frame after the flame went out.
    const Instant trueMoment = *player->frameTime() - fromSeconds(ahead);
    d->view().setCursor(0, trueMoment);
    d->click("evidenceLineUp");
    const EvidenceSource kept = d->study().judgement().evidence()[0];
    EXPECT_NEAR(toSeconds(kept.offset), -ahead, 1);
    EXPECT_NE(kept.how.find("by hand"), std::string::npos);
    // Now frames stand within a second of the truth, wherever the cursor goes.
    for (const Duration by : {-5 * kMinute, 3 * kMinute, 50 * kMinute}) {
        d->view().setCursor(0, out + by);
        d->settle();
        ASSERT_TRUE(player->shown());
        EXPECT_NEAR(toSeconds(*player->shown() - (*player->frameTime() - fromSeconds(ahead))), 0, 1);
        EXPECT_LE(out + by - *player->shown(), 10 * kSecond);
    }
    // A step of the frame moves the cursor; playing does; undo takes the offset back.
    const Instant before = *d->view().cursor(0);
    d->key(plot(), Qt::Key_Period);
    EXPECT_GT(*d->view().cursor(0), before);
    d->key(plot(), Qt::Key_Space);
    EXPECT_TRUE(marks().evidence()->playing());
    const Instant at = *d->view().cursor(0);
    QTest::qWait(500);
    EXPECT_GT(*d->view().cursor(0), at + 10 * kSecond) << "at sixty times";
    d->key(plot(), Qt::Key_Space);
    EXPECT_FALSE(marks().evidence()->playing());
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(d->study().judgement().evidence()[0].offset, Duration::zero());
    // And proposed by the brightness of the pictures.
    d->click("evidencePropose");
    EXPECT_NEAR(toSeconds(d->study().judgement().evidence()[0].offset), -ahead, 35)
        << d->study().judgement().evidence()[0].how;
}

TEST_F(LabelWindow, EvidenceThatIsGoneIsSaidAndOtherKilnsHaveNone) {
    fs::rename(folder / "demo-sight-glass", folder / "moved");
    const std::string kiln = truth["camera"]["asset"];
    const TimeRange record = d->view().record();
    look(kiln, "gas_flow", {record.from, record.from + kDay});
    d->click("showEvidence");
    ASSERT_EQ(marks().evidence()->players().size(), 1u);
    EXPECT_TRUE(marks().evidence()->players()[0]->picture()->text().contains("cannot be read"));
    d->key(plot(), Qt::Key_Period);
    d->key(plot(), Qt::Key_Space);
    d->key(plot(), Qt::Key_Space);
    look(kiln == "Kiln 1" ? "Kiln 2" : "Kiln 1", "gas_flow", {record.from, record.from + kDay});
    EXPECT_TRUE(marks().evidence()->players().empty());
    d->key(plot(), Qt::Key_Period);
}

TEST_F(LabelWindow, TwoPeoplesDifferencesAreSettledWithAReason) {
    const TimeRange record = d->view().record();
    const AssetId asset = d->study().catalog().assetNamed("Kiln 1")->id;
    const auto mark = [&](const char* who, int from, int to) {
        d->session().setWho(who);
        d->session().tryChange([&] {
            ASSERT_TRUE(addLabelled(d->study(),
                                    {{}, asset, {}, record.from + from * kHour, record.from + to * kHour, {}},
                                    "normal", ""));
        });
    };
    mark("R. Osen", 10, 20);
    mark("T. Vik", 12, 22);
    d->bench(app::BenchId::Label);
    bench().turnTo(LabelWay::Agreement);
    QTest::qWait(300);
    d->settle();
    ASSERT_TRUE(bench().agreement()->made());
    EXPECT_EQ(bench().agreement()->made()->differences.size(), 2u);
    EXPECT_TRUE(d->find<QLabel>("agreeFigures")->text().contains("kappa"));
    d->click("settleAsOne");
    EXPECT_EQ(bench().agreement()->made()->differences.size(), 2u) << "not without a reason";
    d->type("settleReason", "seen on the camera");
    d->click("settleAsOne");
    QTest::qWait(300);
    d->settle();
    EXPECT_EQ(bench().agreement()->made()->differences.size(), 1u);
    d->click("settleAsTwo");
    QTest::qWait(300);
    d->settle();
    EXPECT_TRUE(bench().agreement()->made()->differences.empty());
    for (const Span& s : labels()) {
        EXPECT_EQ(s.start, record.from + 10 * kHour);
        EXPECT_EQ(s.end, record.from + 22 * kHour);
    }
    EXPECT_EQ(d->study().history().ledger().back().why, "seen on the camera");
}

TEST_F(LabelWindow, TwoProgramsSeeEachOthersMarksWithinASecond) {
    d->bench(app::BenchId::Label);
    const auto shown = [&](WindowDriver& driver) {
        return driver.window().label()->list()->model()->rowCount();
    };
    EXPECT_EQ(shown(*d), 0);
    const Said said = run({"label", "add", folder / "demo.jacinth", "--asset", "Kiln 3", "--from",
                           "2026-03-10T00:00:00Z", "--to", "2026-03-10T02:00:00Z", "--kind", "normal"});
    ASSERT_EQ(said.code, 0) << said.err;
    EXPECT_TRUE(QTest::qWaitFor([&] { return shown(*d) == 1; }, 1000));
    // And another window the marks of this one.
    WindowDriver other(folder / "demo.jacinth");
    other.bench(app::BenchId::Label);
    const AssetId asset = d->view().asset();
    const Instant from = d->view().record().from;
    d->session().tryChange([&] {
        ASSERT_TRUE(addLabelled(d->study(), {{}, asset, {}, from, from + kHour, {}}, "", ""));
    });
    EXPECT_TRUE(QTest::qWaitFor([&] { return shown(other) == 2; }, 1000));
}

TEST_F(LabelWindow, TheBookIsChangedWithItsMarks) {
    const json loss = truth["flameLosses"][0];
    const SpanId id = dragMark(loss["asset"], stretchOf(loss));
    d->key(plot(), Qt::Key_F);
    onNextDialog([&](QWidget* dialog) {
        auto* table = dialog->findChild<QTableView*>("bookTable");
        auto* name = dialog->findChild<QLineEdit*>("kindName");
        for (int row = 0; row < table->model()->rowCount(); ++row)
            if (table->model()->index(row, 0).data().toString() == "flame loss") table->selectRow(row);
        name->setText("flame out");
        emit name->editingFinished();
        EXPECT_EQ(kindOf(id), "flame out");
        auto* key = dialog->findChild<QLineEdit*>("kindKey");
        key->setText("n");
        emit key->editingFinished();
        EXPECT_TRUE(dialog->findChild<QLabel*>("bookTrouble")->text().contains("has the key n already"));
        EXPECT_EQ(key->text(), "f");
        // Removed with the question about its mark.
        QTimer::singleShot(100, [] {
            if (auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget()))
                for (QAbstractButton* b : box->buttons())
                    if (b->text() == "They lose their name") b->click();
        });
        dialog->findChild<QPushButton*>("bookRemove")->click();
        qobject_cast<QDialog*>(dialog)->accept();
    });
    d->click("editBook");
    EXPECT_EQ(kindOf(id), "");
    EXPECT_FALSE(findKind(d->study().judgement().labelBook(), "flame out"));
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(kindOf(id), "flame out");
}

}  // namespace
}  // namespace jacinth::test
