// What every table and every plot offers: sorting, copying, saving.
#include <QAbstractItemModelTester>
#include <QClipboard>
#include <QImage>
#include <QMenu>

#include "app/base/save_picture.h"
#include "app/base/tables.h"
#include "test/dialogs.h"
#include "test/window_driver.h"

namespace jacinth::test {
namespace {

using app::RowsModel;
using app::TableForm;

std::vector<RowsModel::Row> someRows() {
    std::vector<RowsModel::Row> rows{{1, {"run 12", "−3.5 °C", "12 May"}},
                                     {2, {"run 2", "10 °C", "3 Jun"}},
                                     {3, {"=1+1", "", "1 Apr"}},
                                     {4, {"run 7, late", "2 °C", "2 Apr"}}};
    const std::array<std::int64_t, 4> times{20, 30, 0, 10};
    for (std::size_t i = 0; i < rows.size(); ++i) rows[i].sortBy(2, times[i]);
    return rows;
}

std::vector<std::int64_t> keys(const RowsModel& model) {
    std::vector<std::int64_t> out;
    for (const RowsModel::Row& r : model.rows()) out.push_back(r.key);
    return out;
}

using Keys = std::vector<std::int64_t>;

class Tables : public ::testing::Test {
  protected:
    Tables()
        : model({"name", "value", "time"}, nullptr),
          tester(&model, QAbstractItemModelTester::FailureReportingMode::Fatal) {
        model.setRows(someRows());
        table.reset(app::makeTable(&model, "things", {100, 80, 0}));
        table->resize(400, 200);
        table->show();
        QApplication::processEvents();
    }
    void clickHead(int column) {
        auto* head = table->horizontalHeader();
        const QPoint at(head->sectionViewportPosition(column) + 10, head->height() / 2);
        QTest::mouseClick(head->viewport(), Qt::LeftButton, {}, at);
    }
    RowsModel model;
    QAbstractItemModelTester tester;
    std::unique_ptr<QTableView> table;
};

TEST_F(Tables, AHeadSortsByValueUpDownAndAsGiven) {
    clickHead(1);
    EXPECT_EQ(keys(model), (Keys{1, 4, 2, 3}));  // what has no value stands behind
    clickHead(1);
    EXPECT_EQ(model.sortOrder(), Qt::DescendingOrder);
    EXPECT_EQ(model.rows()[1].key, 2);
    clickHead(1);
    EXPECT_EQ(keys(model), (Keys{1, 2, 3, 4}));
    clickHead(2);
    EXPECT_EQ(keys(model), (Keys{3, 4, 1, 2}));
    clickHead(0);
    EXPECT_EQ(keys(model), (Keys{3, 2, 4, 1}));  // run 2 before run 12
}

TEST_F(Tables, SortingStaysForLaterRowsAndKeepsTheChosenRow) {
    table->selectRow(1);
    ASSERT_EQ(app::currentKey(table.get()), 2);
    clickHead(2);
    EXPECT_EQ(app::currentKey(table.get()), 2);
    auto rows = someRows();
    rows.push_back({5, {"run 1", "1", "7 Apr"}});
    rows.back().sortBy(2, 15);
    model.setRows(rows);
    EXPECT_EQ(keys(model), (Keys{3, 4, 5, 1, 2}));
    model.setRows({});
    clickHead(2);
    EXPECT_EQ(model.rowCount(), 0);
}

TEST_F(Tables, RowsOfTheSameKeysChangeInPlace) {
    table->setSelectionMode(QAbstractItemView::ExtendedSelection);
    table->selectAll();
    int resets = 0, changed = 0;
    QModelIndex first, last;
    QObject::connect(&model, &QAbstractItemModel::modelReset, &model, [&] { ++resets; });
    QObject::connect(&model, &QAbstractItemModel::dataChanged, &model,
                     [&](const QModelIndex& a, const QModelIndex& b) { ++changed, first = a, last = b; });
    const auto chosen = [&] { return table->selectionModel()->selectedRows().size(); };
    auto rows = someRows();
    model.setRows(rows);
    EXPECT_EQ(changed, 0) << "nothing changed";
    rows[1].cells[0] = "run 3";
    rows[2].swatch = Qt::red;
    model.setRows(rows);
    EXPECT_EQ(changed, 1);
    EXPECT_EQ(first.row(), 1);
    EXPECT_EQ(last.row(), 2);
    EXPECT_EQ(resets, 0);
    EXPECT_EQ(chosen(), 4) << "what was chosen stays so";
    EXPECT_EQ(model.index(1, 0).data().toString(), "run 3");
    // Others, fewer, or in another order: from the start.
    std::swap(rows[0], rows[1]);
    model.setRows(rows);
    EXPECT_EQ(resets, 1);
    EXPECT_EQ(chosen(), 0);
    EXPECT_EQ(model.rowOf(2), 0);
    rows.pop_back();
    model.setRows(rows);
    EXPECT_EQ(resets, 2);
    EXPECT_EQ(model.rowOf(4), -1);
}

TEST_F(Tables, AChangeInPlaceGoesToItsSortedRowAndRowsAreFoundByTheirKeys) {
    clickHead(2);
    ASSERT_EQ(keys(model), (Keys{3, 4, 1, 2}));
    table->selectRow(model.rowOf(1));
    auto rows = someRows();
    rows[0].sortBy(2, 99);  // of key 1: now the last
    model.setRows(rows);
    EXPECT_EQ(keys(model), (Keys{3, 4, 2, 1}));
    EXPECT_EQ(app::currentKey(table.get()), 1) << "the same row is chosen, in its new place";
    for (int row = 0; row < 4; ++row)
        EXPECT_EQ(model.rowOf(model.rows()[static_cast<std::size_t>(row)].key), row);
    EXPECT_EQ(model.rowOf(77), -1);
    clickHead(2);
    EXPECT_EQ(model.rowOf(1), 0) << "downwards";
    clickHead(2);
    EXPECT_EQ(keys(model), (Keys{1, 2, 3, 4})) << "as given";
}

TEST_F(Tables, RowsAreCopiedWithTheirHeads) {
    table->selectRow(0);
    table->setFocus();
    QTest::keyClick(table.get(), Qt::Key_C, Qt::ControlModifier);
    EXPECT_EQ(QGuiApplication::clipboard()->text(), "name\tvalue\ttime\nrun 12\t−3.5 °C\t12 May\n");
    table->setColumnHidden(1, true);
    EXPECT_EQ(app::tableText(table.get(), {2, 3}, TableForm::Csv),
              "name,time\n'=1+1,1 Apr\n\"run 7, late\",2 Apr\n");
}

TEST_F(Tables, TheMenuOffersCopyingSavingAndColumns) {
    const QStringList names = takeFromMenu(table->viewport(), "tableMenu", "Copy all rows");
    EXPECT_TRUE(names.contains("Save as CSV…") && names.contains("Columns"))
        << names.join(", ").toStdString();
    EXPECT_EQ(QGuiApplication::clipboard()->text().count('\n'), 5);
}

TEST_F(Tables, SavedNumbersHaveAllTheirDigitsAndTimesAreIso) {
    auto rows = someRows();
    rows[0].number(1, -3.4567890123, "°C");
    rows[0].sortBy(2, *fromIso("2026-05-12T06:30:00Z"));
    rows[1].number(1, 1.0 / 3, "°C");
    rows[3].number(1, std::nan(""), "°C");
    model.setRows(rows);
    EXPECT_EQ(app::tableText(table.get(), {0, 1, 3}, TableForm::Csv),
              "name,value [°C],time\n"
              "run 12,-3.4567890123,2026-05-12T06:30:00Z\n"
              "run 2,0.3333333333333333,3 Jun\n"
              "\"run 7, late\",2 °C,2 Apr\n");
    // For the eye they stay as they are shown, and sort by what stands behind.
    EXPECT_EQ(app::tableText(table.get(), {0}, TableForm::Tabs),
              "name\tvalue\ttime\nrun 12\t−3.5 °C\t12 May\n");
    clickHead(1);
    EXPECT_EQ(keys(model).front(), 1);
}

TEST_F(Tables, SavedLengthsAreInHoursAndMixedUnitsAreSaid) {
    auto rows = someRows();
    rows[0].sortBy(0, 90 * kMinute);
    rows[0].number(1, 2, "°C");
    rows[1].number(1, 7, "A");
    rows[2].ticked = true;
    rows[2].cells[0].clear();
    model.setRows(rows);
    EXPECT_EQ(app::tableText(table.get(), {0, 1, 2}, TableForm::Csv),
              "name [h],value [each in its unit],time\n1.5,2,12 May\nrun 2,7,3 Jun\nyes,,1 Apr\n");
}

class Pictures : public ::testing::Test {
  protected:
    Pictures() : folder("pictures") {
        copyDemo(folder / "s.jacinth");
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->clickTag("Kiln 1/Air-on temp");
        d->settle();
    }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(Pictures, APlotIsSavedAsPngAndSvg) {
    QWidget* plot = d->window().survey()->findChild<app::TimePlot*>("surveyPlot");
    ASSERT_TRUE(plot);
    const QString png = QString::fromStdString(folder / "p.png"),
                  svg = QString::fromStdString(folder / "p.svg");
    ASSERT_TRUE(app::savePicture(plot, png));
    const QImage image(png);
    EXPECT_EQ(image.width(), plot->width() * 2);
    std::set<QRgb> colours;
    for (int x = 0; x < image.width(); x += 3)
        for (int y = 0; y < image.height(); y += 3) colours.insert(image.pixel(x, y));
    EXPECT_GT(colours.size(), 8u);
    ASSERT_TRUE(app::savePicture(plot, svg));
    QFile file(svg);
    ASSERT_TRUE(file.open(QIODevice::ReadOnly));
    const QByteArray text = file.readAll();
    EXPECT_TRUE(text.contains("<svg") && text.contains("polyline")) << text.size();
    EXPECT_FALSE(text.contains("<image"));  // lines, not a picture of lines
    // Never over a study.
    EXPECT_FALSE(app::savePicture(plot, QString::fromStdString(folder / "s.jacinth")));
}

TEST_F(Pictures, EveryPlotHasAMenuWithThePicture) {
    QWidget* plot = d->window().survey()->findChild<app::TimePlot*>("surveyPlot");
    const QStringList names = takeFromMenu(plot, "paneMenu", "Copy picture");
    EXPECT_TRUE(names.contains("Save picture…")) << names.join(", ").toStdString();
    EXPECT_EQ(QGuiApplication::clipboard()->image().width(), plot->width() * 2);
    QStringList tried;
    const auto tryAllOf = [&](app::Bench* bench) {
        for (const char* name : {"fleetView", "stateView", "cyclesView", "calendarView", "runSheet",
                                 "overlayPlot", "multiplesView", "excursionBars", "leadUpPlot"}) {
            auto* view = bench->findChild<QWidget*>(name);
            if (!view || tried.contains(name)) continue;
            QGuiApplication::clipboard()->clear();
            const QStringList offered = takeFromMenu(view, "pictureMenu", "Copy picture");
            EXPECT_EQ(offered, (QStringList{"Copy picture", "Save picture…"})) << name;
            EXPECT_FALSE(QGuiApplication::clipboard()->image().isNull()) << name;
            tried << name;
        }
    };
    for (app::PagedBench* bench :
         std::initializer_list<app::PagedBench*>{d->window().survey(), d->window().screen()}) {
        d->session().view().setBench(bench == d->window().survey() ? app::BenchId::Survey
                                                                   : app::BenchId::Screen);
        for (int page = 0; page < bench->pageNames().size(); ++page) {
            bench->turnToPage(page);
            d->settle();
            tryAllOf(bench);
        }
    }
    tryAllOf(d->window().prove());
    EXPECT_EQ(tried.size(), 9) << tried.join(", ").toStdString();
}

}  // namespace
}  // namespace jacinth::test
