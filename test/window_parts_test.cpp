// Parts of the window on their own: ticks, the shared view, tables, fields.
#include <QSignalSpy>

#include "app/base/names.h"
#include "app/base/tables.h"
#include "app/base/theme.h"
#include "app/base/ui.h"
#include "app/base/view_state.h"
#include "app/base/whole_text_tips.h"
#include "app/plot/time_ticker.h"
#include "core/time/times_for_tests.h"
#include "test/window_driver.h"

namespace jacinth::test {
namespace {

using app::ViewState;

TEST(Ticks, AreRoundWallClockMomentsAlsoInTheNightOfChange) {
    const Zone oslo = *Zone::named("Europe/Oslo");
    app::TimeTicker ticker(oslo, {});
    const TimeRange night{*fromIso("2026-03-28T12:00:00Z"), *fromIso("2026-03-30T12:00:00Z")};
    for (const Instant t : ticker.moments(night, 800)) {
        const WallTime w = oslo.wall(t);
        EXPECT_EQ(w.minute, 0);
        EXPECT_EQ(w.second, 0);
    }
    const auto days =
        ticker.moments({*fromIso("2026-03-01T00:00:00Z"), *fromIso("2026-04-30T00:00:00Z")}, 900);
    ASSERT_GT(days.size(), 4u);
    for (const Instant t : days) EXPECT_EQ(oslo.wall(t).hour, 0);
    EXPECT_EQ(ticker.label(days[0], kDay), QString::fromStdString(oslo.shortDate(days[0])));
    EXPECT_EQ(ticker.label(*fromIso("2026-03-01T05:30:00Z"), kHour), "06:30");
}

TEST(Ticks, AreNeverMoreThanAskedFor) {
    app::TimeTicker ticker(*Zone::named("Europe/Oslo"), {});
    const Instant from = *fromIso("2024-02-29T07:13:00Z");
    for (Duration length = 10 * kSecond; length < 900 * kDay; length = length * 17 / 10) {
        const auto all = ticker.moments({from, from + length}, 960);
        EXPECT_LE(all.size(), 12u) << formatDuration(length);
        EXPECT_TRUE(std::is_sorted(all.begin(), all.end()));
    }
}

TEST(SharedView, StaysByTheRecordAndRemembersWhereItHasBeen) {
    ViewState view;
    view.setRecord(between(0, 100 * kDay));
    view.setView(between(10 * kDay, 20 * kDay));
    QSignalSpy spy(&view, &ViewState::viewChanged);
    view.setView(between(-500 * kDay, -490 * kDay));
    EXPECT_GE(view.view().from, at(-10 * kDay));
    EXPECT_EQ(view.view().length(), 10 * kDay);
    view.setView(between(0, 5000 * kDay));
    EXPECT_LE(view.view().length(), 111 * kDay);
    view.setView(between(50 * kDay, 50 * kDay));
    EXPECT_EQ(view.view().length(), kSecond);
    EXPECT_EQ(spy.count(), 3);
    QTest::qWait(520);
    view.setView(between(60 * kDay, 61 * kDay));
    QTest::qWait(520);
    view.setBench(app::BenchId::Prove);
    view.goBack();
    EXPECT_EQ(view.bench(), app::BenchId::Survey);
    EXPECT_EQ(view.view().from, at(60 * kDay));
    view.goForward();
    EXPECT_EQ(view.bench(), app::BenchId::Prove);
    EXPECT_FALSE(view.canGoForward());
}

TEST(SharedView, SaysOnlyWhatChanged) {
    ViewState view;
    QSignalSpy selection(&view, &ViewState::selectionChanged), shown(&view, &ViewState::shownChanged);
    view.select(AssetId(1), TagId(2));
    view.select(AssetId(1), TagId(2));
    view.setShown({TagId(1), TagId(2)});
    view.setShown({TagId(1), TagId(2)});
    EXPECT_EQ(selection.count(), 1);
    EXPECT_EQ(shown.count(), 1);
}

TEST(Rows, KeepKeysTicksAndColours) {
    app::RowsModel model({"a", "b"}, nullptr);
    app::RowsModel::Row row{7, {"x", "y"}};
    row.ticked = true;
    row.ink = QColor("#112233");
    model.setRows({{3, {"p", "q"}}, row});
    EXPECT_EQ(model.rowOf(7), 1);
    EXPECT_EQ(model.rowOf(8), -1);
    EXPECT_EQ(model.data(model.index(1, 1), Qt::DisplayRole), "y");
    EXPECT_EQ(model.data(model.index(1, 0), Qt::CheckStateRole), Qt::Checked);
    EXPECT_EQ(model.data(model.index(1, 0), Qt::ForegroundRole).value<QColor>(), QColor("#112233"));
    EXPECT_FALSE(model.flags(model.index(0, 0)) & Qt::ItemIsUserCheckable);
    QSignalSpy spy(&model, &app::RowsModel::tickToggled);
    model.setData(model.index(1, 0), Qt::Unchecked, Qt::CheckStateRole);
    ASSERT_EQ(spy.count(), 1);
    EXPECT_EQ(spy[0][0].toLongLong(), 7);
    EXPECT_FALSE(spy[0][1].toBool());
}

TEST(Tips, ShowWholeWhatIsCutOff) {
    app::RowsModel model({"name"}, nullptr);
    model.setRows({{1, {"short"}}, {2, {"a name that is a good deal longer than its column"}}});
    std::unique_ptr<QTableView> table(app::makeTable(&model, "t", {120}));
    table->resize(160, 200);
    table->show();
    QTest::qWait(50);
    const auto at = [&](int row) { return table->visualRect(model.index(row, 0)).center(); };
    EXPECT_EQ(app::WholeTextTips::cutTextAt(table->viewport(), at(0)), "");
    EXPECT_EQ(app::WholeTextTips::cutTextAt(table->viewport(), at(1)),
              "a name that is a good deal longer than its column");
    EXPECT_EQ(app::WholeTextTips::cutTextAt(table->viewport(), {10, 190}), "");
    QLineEdit field;
    field.resize(80, 26);
    field.setText("short");
    EXPECT_EQ(app::WholeTextTips::cutTextAt(&field, {4, 4}), "");
    field.setText("a text that does not fit into the field");
    EXPECT_EQ(app::WholeTextTips::cutTextAt(&field, {4, 4}), field.text());
    field.setToolTip("its own");
    EXPECT_EQ(app::WholeTextTips::cutTextAt(&field, {4, 4}), "");
    // What comes from the record is never taken for markup.
    EXPECT_EQ(app::plainTip("<b>K</b>\n2"), "<qt>&lt;b&gt;K&lt;/b&gt;<br>2</qt>");
}

TEST(Values, AreShownWithSensibleDigits) {
    EXPECT_EQ(app::valueText(3.14159, "mm/s"), "3.14 mm/s");
    EXPECT_EQ(app::valueText(-0.5, "%", true), "−0.500 %");
    EXPECT_EQ(app::valueText(1234.6), "1235");
    EXPECT_EQ(app::valueText(2, {}, true), "+2.00");
    EXPECT_EQ(app::valueText(std::nan("")), "–");
    EXPECT_EQ(app::rolesIn("@a, b ,,c"), (std::vector<std::string>{"a", "b", "c"}));
}

TEST(Themes, HaveReadableContrastAndAllIcons) {
    const auto luminance = [](const QColor& c) {
        const auto part = [](double v) {
            return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
        };
        return 0.2126 * part(c.redF()) + 0.7152 * part(c.greenF()) + 0.0722 * part(c.blueF());
    };
    const auto contrast = [&](const QColor& a, const QColor& b) {
        const double x = luminance(a), y = luminance(b);
        return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
    };
    for (const app::Theme& t : {app::lightTheme(), app::darkTheme()}) {
        EXPECT_GT(contrast(t.ink, t.window), 7);
        EXPECT_GT(contrast(t.second, t.panel), 4.5);
        EXPECT_GT(contrast(t.good, t.window), 4.5);
        for (const QColor& c : t.traces) EXPECT_GT(contrast(c, t.plot), 3);
    }
    app::applyTheme(app::lightTheme());
    for (const char* name : {"survey", "mend", "screen", "label", "prove", "jacinth"}) {
        const QImage image = app::drawnIcon(name, Qt::black, Qt::red).pixmap(48, 48).toImage();
        int painted = 0;
        for (int y = 0; y < image.height(); ++y)
            for (int x = 0; x < image.width(); ++x) painted += qAlpha(image.pixel(x, y)) > 0;
        EXPECT_GT(painted, 40) << name;
    }
}

TEST(Texts, ANumberOnTheClipboardReadsBackAsItIs) {
    for (const double v : {0.1 + 0.2, 1.0 / 3, -2.5e-9, 123456789.123, 1e300, 0.0})
        EXPECT_EQ(app::fullNumber(v).toDouble(), v);
    EXPECT_EQ(app::fullNumber(0.25), "0.25");
    EXPECT_EQ(app::fullNumber(std::nan("")), "");
}

TEST(Texts, ANameWithAPlaceholderStaysWhatItIs) {
    Folder folder("names");
    auto study = std::move(*Study::create(folder / "s.jacinth"));
    WriteBatch t(*study);
    const AssetId asset = study->catalog().addAsset("Kiln %1 %2");
    t.commit();
    const Span run{SpanId(1), asset, {}, at(0), at(kHour), {{"number", 12.0}}};
    EXPECT_EQ(app::runName(*study, run), "Kiln %1 %2 · 12");
}

}  // namespace
}  // namespace jacinth::test
