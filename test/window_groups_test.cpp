// One group of assets looked at alone, on every page that lists what happened to assets.
#include "app/base/tables.h"
#include "app/label/label_list.h"
#include "app/screen/screen_bench.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/screened_demo.h"
#include "test/window_driver.h"
#include "work/base/asset_groups.h"
#include "work/limits/screening.h"
#include "work/settings/facts.h"

namespace jacinth::test {
namespace {

/// The demo plant, screened, with its kilns on two lines and some labels.
class Groups : public ::testing::Test {
  protected:
    Groups() : folder("window-groups") {
        fs::copy_file(screenedDemo(), folder / "s.jacinth");
        auto study = std::move(*Study::open(folder / "s.jacinth"));
        for (const Asset& a : study->catalog().assets())
            EXPECT_TRUE(
                changeFacts(*study, {a.id}, {*factChange(*study, "line", isEast(a.name) ? "East" : "West")}));
        study->change("labels", "three labels", {}, [&] {
            const TrackId labels = study->tracks().put("Labels", track_kind::kLabels);
            for (const char* name : {"Kiln 1", "Kiln 5", "Kiln 6"}) {
                const AssetId asset = study->catalog().assetNamed(name)->id;
                const Instant from = study->tracks().spans(runsTrack(*study))[40].start;
                study->tracks().addSpan(labels, {{}, asset, {}, from, from + kHour, {}});
            }
        });
        study.reset();
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->settle();
        d->choose("plantBy", "by line");
    }
    static bool isEast(const std::string& name) { return name == "Kiln 5" || name == "Kiln 6"; }
    static TrackId runsTrack(const Study& study) { return study.tracks().firstOf(track_kind::kRuns)->id; }
    bool isEast(AssetId asset) { return isEast(d->study().catalog().asset(asset)->name); }
    template <typename Spans>
    int inTheEast(const Spans& spans) {
        return static_cast<int>(std::ranges::count_if(spans, [&](const Span& s) { return isEast(s.asset); }));
    }
    int rows(const char* table) { return d->find<QTableView>(table)->model()->rowCount(); }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(Groups, RunsAreThoseOfTheGroup) {
    d->bench(app::BenchId::Screen);
    d->click("screenRuns");
    d->settle();
    const auto runs = d->study().tracks().spans(runsTrack(d->study()));
    EXPECT_EQ(rows("runTable"), static_cast<int>(runs.size()));
    d->choose("plantOnly", "East");
    EXPECT_EQ(rows("runTable"), inTheEast(runs));
    EXPECT_EQ(d->find<QComboBox>("runsFleet")->itemText(0), "line East");
    EXPECT_TRUE(d->window().screen()->runsPage()->state().endsWith("only line East"));
    d->choose("plantOnly", "all");
    EXPECT_EQ(rows("runTable"), static_cast<int>(runs.size()));
    EXPECT_EQ(d->find<QComboBox>("runsFleet")->itemText(0), "the whole fleet");
}

TEST_F(Groups, ExcursionsAreThoseOfTheGroupAndCountedByGroup) {
    d->bench(app::BenchId::Screen);
    d->click("screenExcursions");
    d->settle();
    const auto all = excursionsOf(d->study());
    ASSERT_GT(all.size(), 10u);
    const auto east = std::ranges::count_if(
        all, [&](const KeptExcursion& e) { return isEast(d->study().catalog().tag(e.span.tag)->asset); });
    ASSERT_GT(east, 0);
    d->choose("excursionBy", "by line");
    auto* bars = d->window().screen()->excursionsPage()->bars();
    ASSERT_EQ(bars->picture().counts.size(), 2u);
    for (const ExcursionCount& c : bars->picture().counts)
        EXPECT_EQ(c.count, c.name == "East" ? static_cast<std::size_t>(east)
                                            : all.size() - static_cast<std::size_t>(east));
    // A bar narrows the list to its group.
    const std::size_t bar = bars->picture().counts[0].name == "East" ? 0 : 1;
    d->clickAt(bars, bars->barRect(static_cast<int>(bar)).center().toPoint());
    EXPECT_EQ(rows("excursionList"), east);
    d->click("excursionAll");
    d->choose("plantOnly", "East");
    EXPECT_EQ(rows("excursionList"), east);
    EXPECT_EQ(d->find<QComboBox>("excursionWhere")->itemText(0), "line East");
    d->choose("plantBy", "not grouped");
    EXPECT_EQ(rows("excursionList"), static_cast<int>(all.size()));
    EXPECT_LT(d->find<QComboBox>("excursionBy")->findText("by line"), 0);
}

TEST_F(Groups, FailuresLabelsAndWhatIsWrittenDownAreThoseOfTheGroup) {
    d->bench(app::BenchId::Prove);
    d->click("proveFailures");
    d->settle();
    const auto failures = d->study().tracks().spansOf(track_kind::kFailures);
    EXPECT_EQ(rows("failuresTable"), static_cast<int>(failures.size()));
    d->choose("plantOnly", "East");
    EXPECT_EQ(rows("failuresTable"), inTheEast(failures));
    auto* asset = d->find<QComboBox>("failureAsset");
    EXPECT_EQ(asset->count(), static_cast<int>(d->study().catalog().assets().size())) << "any can fail";
    EXPECT_EQ(asset->itemText(0), "Kiln 5") << "group by group";
    d->bench(app::BenchId::Label);
    d->settle();
    EXPECT_EQ(rows("labelTable"), 2);
    EXPECT_TRUE(d->find<QLabel>("labelState")->text().contains("line East"));
    d->bench(app::BenchId::Survey);
    d->settle();
    const int east = rows("writtenTable");
    EXPECT_EQ(d->find<QComboBox>("writtenAsset")->itemText(0), "line East");
    d->choose("plantOnly", "all");
    EXPECT_GT(rows("writtenTable"), east);
    d->bench(app::BenchId::Label);
    d->settle();
    EXPECT_EQ(rows("labelTable"), 3);
}

TEST_F(Groups, AGroupThatIsGoneIsLeftAndSaid) {
    d->choose("plantOnly", "East");
    d->bench(app::BenchId::Screen);
    d->click("screenRuns");
    d->settle();
    const int east = rows("runTable");
    QStringList said;
    QObject::connect(&d->window().session(), &app::Session::notified,
                     [&](const QString& words) { said << words; });
    d->window().session().tryChange([&] {
        for (const Asset& a : std::vector<Asset>(d->study().catalog().assets()))
            EXPECT_TRUE(changeFacts(d->study(), {a.id}, {*factChange(d->study(), "line", "Middle")}));
    });
    QTest::qWait(300);
    d->settle();
    EXPECT_EQ(said, QStringList("No asset is in the group line East now; all are shown"));
    EXPECT_FALSE(d->view().grouping().only);
    EXPECT_EQ(d->find<QComboBox>("plantOnly")->currentText(), "all");
    EXPECT_GT(rows("runTable"), east);
}

TEST_F(Groups, AChosenAssetStaysChosenWhenTheOrderChanges) {
    d->bench(app::BenchId::Prove);
    d->click("proveFailures");
    d->settle();
    auto* asset = d->find<QComboBox>("failureAsset");
    asset->setCurrentIndex(asset->findText("Kiln 3"));
    d->choose("plantBy", "not grouped");
    EXPECT_EQ(asset->currentText(), "Kiln 3");
    EXPECT_EQ(asset->itemText(0), "Kiln 1");
}

}  // namespace
}  // namespace jacinth::test
