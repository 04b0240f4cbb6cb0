// Survey, traces: panes and what was written down, by mouse and keys.
#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QMimeData>
#include <QSlider>
#include <fstream>

#include "app/base/tables.h"
#include "app/plot/pane_layout.h"
#include "core/stats/stats.h"
#include "demo/demo.h"
#include "store/history.h"
#include "store/tracks.h"
#include "test/survey_fixture.h"
#include "work/derived/derived_tags.h"
#include "work/runs/find_runs.h"

namespace jacinth::test {
namespace {

using Traces = Survey;

TEST_F(Traces, WhatWasWrittenIsFilteredAddedEditedTiedElsewhereAndRemoved) {
    whole();
    auto* table = d->find<QTableView>("writtenTable");
    const int all = table->model()->rowCount();
    auto* kind = d->find<QComboBox>("writtenKind");
    kind->setCurrentText("failure");
    d->settle();
    EXPECT_EQ(table->model()->rowCount(), 7);
    d->find<QComboBox>("writtenAsset")->setCurrentText("Kiln 1");
    d->settle();
    const auto failures = d->study().tracks().spansOf(track_kind::kFailures);
    const auto kiln1 = d->study().catalog().assetNamed("Kiln 1")->id;
    EXPECT_EQ(table->model()->rowCount(), std::count_if(failures.begin(), failures.end(),
                                                        [&](const Span& s) { return s.asset == kiln1; }));
    d->find<QComboBox>("writtenAsset")->setCurrentText("all assets");
    kind->setCurrentText("everything");
    d->type("writtenWords", "belt");
    EXPECT_LT(table->model()->rowCount(), all);
    EXPECT_GE(table->model()->rowCount(), 6);
    d->type("writtenWords", "");

    const auto withDialog = [&](const std::function<void(QDialog*)>& use) {
        QTimer::singleShot(250, [&, use] {
            auto* dialog = d->window().findChild<QDialog*>("writtenDialog");
            ASSERT_NE(dialog, nullptr);
            use(dialog);
        });
    };
    const auto fill = [](QDialog* dialog, const char* name, const QString& text) {
        auto* f = dialog->findChild<QLineEdit*>(name);
        f->selectAll();
        QTest::keyClicks(f, text);
    };
    const std::size_t logs = d->study().tracks().spansOf(track_kind::kLog).size();
    withDialog([&](QDialog* dialog) {
        // Nothing is stored without a text, and it says so.
        QTest::mouseClick(dialog->findChild<QPushButton*>("writtenDialogOk"), Qt::LeftButton);
        EXPECT_FALSE(dialog->findChild<QLabel*>("writtenDialogTrouble")->text().isEmpty());
        fill(dialog, "writtenDialogText", "Smell of oil near the fan");
        fill(dialog, "writtenDialogFrom", "14 Apr 2026 09:30");
        fill(dialog, "writtenDialogBy", "T. Vik");
        QTest::mouseClick(dialog->findChild<QPushButton*>("writtenDialogOk"), Qt::LeftButton);
    });
    d->click("addWritten");
    ASSERT_EQ(d->study().tracks().spansOf(track_kind::kLog).size(), logs + 1);
    d->type("writtenWords", "Smell of oil");
    ASSERT_EQ(table->model()->rowCount(), 1);
    d->clickRow(table, 0);
    withDialog([&](QDialog* dialog) {
        dialog->findChild<QComboBox*>("writtenDialogAsset")->setCurrentText("Kiln 6");
        fill(dialog, "writtenDialogText", "Smell of oil, bearing cap loose");
        QTest::mouseClick(dialog->findChild<QPushButton*>("writtenDialogOk"), Qt::LeftButton);
    });
    d->click("editWritten");
    const auto find = [&]() -> std::optional<Span> {
        for (const Span& s : d->study().tracks().spansOf(track_kind::kLog))
            if (factText(s.facts, "text").starts_with("Smell of oil")) return s;
        return {};
    };
    ASSERT_TRUE(find());
    EXPECT_EQ(factText(find()->facts, "text"), "Smell of oil, bearing cap loose");
    EXPECT_EQ(d->study().catalog().asset(find()->asset)->name, "Kiln 6");
    EXPECT_EQ(toIso(find()->start), "2026-04-14T07:30:00Z");
    EXPECT_TRUE(d->study().history().ledger().back().detail.find("asset before") != std::string::npos);
    d->clickRow(table, 0);
    d->click("removeWritten");
    EXPECT_FALSE(find());
    undo();
    ASSERT_TRUE(find());
    undo();
    EXPECT_EQ(factText(find()->facts, "text"), "Smell of oil near the fan");
}

TEST_F(Traces, TagsAreDraggedIntoPanesAndPanesMovedFoldedAndSaved) {
    app::TimePlot* plot = survey()->plot();
    const auto id = [&](const char* path) { return d->tagId(path); };
    const auto drop = [&](TagId tag, QPoint at) {
        QMimeData mime;
        mime.setData(app::kTagMime, QByteArray::number(tag.number));
        QDragEnterEvent enter(at, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(plot, &enter);
        EXPECT_TRUE(enter.isAccepted());
        QDropEvent e(at, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(plot, &e);
        d->settle();
    };
    d->clickAsset("Kiln 3");
    d->view().setShown({id("Kiln 3/Air-on temp"), id("Kiln 3/Bed ΔP")});
    d->settle();
    ASSERT_EQ(plot->paneCount(), 2);
    // Another unit into the first pane: it gets a scale of its own on the right.
    drop(id("Kiln 3/Gas flow"), plot->paneRect(0).center());
    ASSERT_EQ(plot->paneCount(), 2);
    auto layout = app::paneLayout(d->session());
    EXPECT_EQ(layout.panes[0].tags, (std::vector{id("Kiln 3/Air-on temp"), id("Kiln 3/Gas flow")}));
    const auto& gas = plot->columnsOf(0, 1);
    double most = 0;
    for (const Summary& c : gas)
        if (c.usable) most = std::max(most, c.greatest);
    EXPECT_GT(most, 150);                                       // m³/h
    EXPECT_LT(plot->valueAt(0, plot->paneRect(0).top()), 150);  // °C on the left
    // Between the panes: one of its own at the end.
    drop(id("Kiln 3/Fan current"), {plot->width() / 2, plot->height() - 4});
    ASSERT_EQ(plot->paneCount(), 3);
    app::movePane(d->session(), 2, -1);
    app::foldPane(d->session(), 0, true);
    d->settle();
    EXPECT_LT(plot->paneRect(0).height(), 24);
    layout = app::paneLayout(d->session());
    EXPECT_EQ(layout.panes[1].tags.front(), id("Kiln 3/Fan current"));
    app::saveLayout(d->session(), "fan");
    // The layout serves another asset too.
    d->clickAsset("Kiln 5");
    d->view().setShown({id("Kiln 5/Malt moisture")});
    app::useLayout(d->session(), "fan");
    d->settle();
    layout = app::paneLayout(d->session());
    ASSERT_EQ(layout.panes.size(), 3u);
    EXPECT_TRUE(layout.panes[0].folded);
    EXPECT_EQ(layout.panes[1].tags.front(), id("Kiln 5/Fan current"));
    app::hideTag(d->session(), id("Kiln 5/Bed ΔP"));
    EXPECT_EQ(app::paneLayout(d->session()).panes.size(), 2u);
    // It comes back as it was left.
    d->close();
    d = std::make_unique<WindowDriver>(folder / "s.jacinth");
    EXPECT_EQ(app::paneLayout(d->session()).panes.size(), 2u);
    EXPECT_TRUE(app::paneLayout(d->session()).panes[0].folded);
}

TEST_F(Traces, OneKeyShowsTheAssetsTagsBySystem) {
    d->clickAsset("Kiln 4");
    d->key(&d->window(), Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);
    const auto layout = app::paneLayout(d->session());
    std::size_t tags = 0;
    for (const auto& p : layout.panes) {
        tags += p.tags.size();
        std::set<std::string> systems;
        for (const TagId t : p.tags)
            systems.insert(d->session().tag(t)->role.substr(0, d->session().tag(t)->role.find('_')));
        EXPECT_EQ(systems.size(), 1u);
    }
    EXPECT_EQ(tags, 13u);
}

}  // namespace
}  // namespace jacinth::test
