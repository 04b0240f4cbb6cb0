// Which tag stands in which pane, and what charts share: without a window.
#include "app/base/theme.h"
#include "app/plot/chart.h"
#include "app/plot/pane_layout.h"
#include "test/window_driver.h"

namespace jacinth::test {
namespace {

using app::Arrange;
using Panes = std::vector<std::vector<std::string>>;

/// Two presses with the same tags: five in °C, one in bar, one without unit, one of states.
class Layouts : public ::testing::Test {
  protected:
    Layouts() : folder("layouts") {
        auto study = std::move(*Study::create(folder / "s.jacinth"));
        WriteBatch t(*study);
        Catalog& catalog = study->catalog();
        for (const char* press : {"Press 1", "Press 2"}) {
            const auto asset = catalog.addAsset(press);
            for (const char* name : {"Air on", "Air off", "Oil in", "Oil out", "Bed"})
                catalog.addTag(asset, name, "°C", TagKind::Continuous);
            catalog.addTag(asset, "Oil pressure", "bar", TagKind::Continuous);
            catalog.addTag(asset, "Count", "", TagKind::Stepped);
            catalog.addTag(asset, "Step", "", TagKind::State);
        }
        t.commit();
        session = std::make_unique<app::Session>(std::move(study), app::lightTheme());
        session->view().select(session->study().catalog().assetNamed("Press 1")->id, tag("Air on"));
    }
    TagId tag(const std::string& name, const std::string& press = "Press 1") {
        return session->study().catalog().tagAt(press + "/" + name)->id;
    }
    void show(std::initializer_list<const char*> names) {
        std::vector<TagId> ids;
        for (const char* n : names) ids.push_back(tag(n));
        session->view().setShown(std::move(ids));
    }
    Panes panes() {
        Panes out;
        for (const auto& pane : app::paneLayout(*session).panes) {
            out.emplace_back();
            for (const TagId id : pane.tags) out.back().push_back(session->tag(id)->name);
        }
        return out;
    }
    Folder folder;
    std::unique_ptr<app::Session> session;
};

TEST_F(Layouts, TagsOfOneUnitShareAPaneAndStatesStandBelow) {
    show({"Step", "Air on", "Oil pressure", "Air off", "Count", "Oil in", "Oil out", "Bed"});
    EXPECT_EQ(
        panes(),
        (Panes{{"Air on", "Air off", "Oil in", "Oil out"}, {"Oil pressure"}, {"Count"}, {"Bed"}, {"Step"}}));
}

TEST_F(Layouts, TagsWithoutAUnitAreNeverPutTogether) {
    session->view().setShown({tag("Count"), tag("Count", "Press 2")});
    EXPECT_EQ(panes(), (Panes{{"Count"}, {"Count"}}));
}

TEST_F(Layouts, EachItsOwnBySystemAndByUnitAgain) {
    show({"Air on", "Oil in", "Air off", "Oil pressure", "Step"});
    app::arrange(*session, Arrange::EachItsOwn);
    EXPECT_EQ(panes().size(), 5u);
    app::arrange(*session, Arrange::BySystem);
    EXPECT_EQ(panes(), (Panes{{"Air on", "Air off"}, {"Oil in", "Oil pressure"}, {"Step"}}));
    app::arrange(*session, Arrange::ByUnit);
    EXPECT_EQ(panes(), (Panes{{"Air on", "Air off", "Oil in"}, {"Oil pressure"}, {"Step"}}));
}

TEST_F(Layouts, TheWholeAssetIsShownInOneStep) {
    app::showAssetBySystem(*session);
    std::size_t all = 0;
    for (const auto& pane : panes()) all += pane.size();
    EXPECT_EQ(all, 8u);
    EXPECT_EQ(panes().back(), std::vector<std::string>{"Step"});
}

TEST_F(Layouts, ATagIsPutIntoAnotherPaneOrOneOfItsOwn) {
    show({"Air on", "Air off", "Oil pressure"});
    app::putIntoPane(*session, tag("Air off"), 1);
    EXPECT_EQ(panes(), (Panes{{"Air on"}, {"Oil pressure", "Air off"}}));
    app::putIntoPane(*session, tag("Air on"), 1);  // its old pane is empty now, and goes
    EXPECT_EQ(panes(), (Panes{{"Oil pressure", "Air off", "Air on"}}));
    app::putIntoPane(*session, tag("Air on"), -1);
    EXPECT_EQ(panes(), (Panes{{"Oil pressure", "Air off"}, {"Air on"}}));
    app::putIntoPane(*session, tag("Bed"), 99);  // not shown yet
    EXPECT_EQ(panes().back(), std::vector<std::string>{"Bed"});
    app::putIntoPane(*session, tag("Step"), 0);  // states are bands of their own
    EXPECT_EQ(panes().front(), (std::vector<std::string>{"Oil pressure", "Air off"}));
    EXPECT_EQ(panes().back(), std::vector<std::string>{"Step"});
    app::putIntoPane(*session, tag("Count"), static_cast<int>(panes().size()) - 1);  // nor into theirs
    EXPECT_EQ(panes().back(), std::vector<std::string>{"Step"});
}

TEST_F(Layouts, PanesAreMovedFoldedAndHidden) {
    show({"Air on", "Oil pressure", "Count"});
    app::movePane(*session, 2, -1);
    EXPECT_EQ(panes(), (Panes{{"Air on"}, {"Count"}, {"Oil pressure"}}));
    for (const auto& [pane, by] : {std::pair{0, -1}, {2, 1}, {-1, 1}, {7, -1}})
        app::movePane(*session, pane, by);
    EXPECT_EQ(panes(), (Panes{{"Air on"}, {"Count"}, {"Oil pressure"}}));
    app::foldPane(*session, 1, true);
    app::foldPane(*session, 9, true);
    EXPECT_TRUE(app::paneLayout(*session).panes[1].folded);
    EXPECT_FALSE(app::paneLayout(*session).panes[0].folded);
    app::hideTag(*session, tag("Count"));
    EXPECT_EQ(panes(), (Panes{{"Air on"}, {"Oil pressure"}}));
    app::hideTag(*session, tag("Count"));
    EXPECT_EQ(session->view().shown().size(), 2u);
}

TEST_F(Layouts, ASavedLayoutServesEveryAsset) {
    show({"Air on", "Oil pressure", "Air off"});
    app::putIntoPane(*session, tag("Oil pressure"), 0);
    app::foldPane(*session, 0, true);
    app::saveLayout(*session, "Oil & air %1");
    EXPECT_EQ(app::savedLayouts(*session), QStringList{"Oil & air %1"});
    session->view().select(session->study().catalog().assetNamed("Press 2")->id, {});
    session->view().setShown({});
    app::useLayout(*session, "Oil & air %1");
    EXPECT_EQ(panes(), (Panes{{"Air on", "Air off", "Oil pressure"}}));
    EXPECT_TRUE(app::paneLayout(*session).panes[0].folded);
    EXPECT_EQ(session->view().shown()[0], tag("Air on", "Press 2"));
    app::useLayout(*session, "no such layout");
    EXPECT_EQ(panes().size(), 1u);
}

TEST_F(Layouts, WhatIsNoLayoutIsLeftAlone) {
    show({"Air on"});
    for (const char* odd : {"[1, 2]", "{", R"({"x": 5})", R"({"x": [{"roles": "air_on"}]})",
                            R"({"x": [{"roles": [7, null, "no_such_role"], "folded": 3}]})"}) {
        session->study().setSetting("layouts", odd);
        EXPECT_NO_THROW(app::useLayout(*session, "x")) << odd;
        EXPECT_EQ(panes(), (Panes{{"Air on"}})) << odd;
    }
}

TEST(Charts, TicksAreRoundAndInside) {
    EXPECT_EQ(app::roundTicks(0, 10, 5), (std::vector<double>{0, 2, 4, 6, 8, 10}));
    EXPECT_EQ(app::roundTicks(-0.3, 0.3, 3), (std::vector<double>{-0.2, 0, 0.2}));
    EXPECT_TRUE(app::roundTicks(5, 5, 4).empty());
    EXPECT_TRUE(app::roundTicks(0, 1, 0).empty());
    std::mt19937_64 random(9);
    for (int i = 0; i < 2000; ++i) {
        const double size = std::pow(10, static_cast<double>(random() % 16) - 8);
        const double low = (static_cast<double>(random() % 2000) - 1000) * size;
        const double high = low + (1 + static_cast<double>(random() % 5000)) * size;
        const auto ticks = app::roundTicks(low, high, 6);
        ASSERT_LE(ticks.size(), 8u);
        ASSERT_GE(ticks.size(), 2u) << low << " to " << high;
        const double room = (high - low) * 1e-6;
        EXPECT_TRUE(ticks.front() >= low - room && ticks.back() <= high + room);
        for (std::size_t k = 1; k < ticks.size(); ++k)
            EXPECT_NE(app::tickText(ticks[k], ticks[1] - ticks[0]),
                      app::tickText(ticks[k - 1], ticks[1] - ticks[0]))
                << low << " to " << high;
    }
}

TEST(Charts, TickTextsHaveARealMinusAndAsManyDigitsAsTheirStepNeeds) {
    EXPECT_EQ(app::tickText(-2.5, 0.5), QString::fromUtf8("−2.5"));
    EXPECT_EQ(app::tickText(40, 20), "40");
    EXPECT_EQ(app::tickText(0.004, 0.002), "0.004");
    EXPECT_EQ(app::tickText(2.5e-7, 5e-8), QString::fromUtf8("2.5e−07"));
    EXPECT_EQ(app::tickText(0, 5e-8), "0");
}

TEST(Charts, AnAreaMapsThereAndBackAndIsNeverEmpty) {
    app::ChartArea area{QRectF(50, 20, 400, 200)};
    area.setX(3, 3);
    area.setY(-7, 9);
    EXPECT_LT(area.left, 3);
    EXPECT_GT(area.right, 3);
    EXPECT_LT(area.bottom, -7);
    for (const double v : {-7.0, 0.0, 4.25, 9.0}) {
        EXPECT_NEAR(area.valueAtY(area.y(v)), v, 1e-9);
        EXPECT_TRUE(area.rect.contains(100, area.y(v)));
    }
    EXPECT_GT(area.y(-7), area.y(9));  // up is more
}

TEST(Charts, HeatGoesSteadilyFromLightToDark) {
    for (const app::Theme& theme : {app::lightTheme(), app::darkTheme()}) {
        double before = app::heatColour(theme, 0).lightnessF();
        for (int i = 1; i <= 20; ++i) {
            const double now = app::heatColour(theme, i / 20.0).lightnessF();
            if (theme.dark)
                EXPECT_GT(now, before) << i;
            else
                EXPECT_LT(now, before) << i;
            before = now;
        }
        EXPECT_EQ(app::heatColour(theme, -3), app::heatColour(theme, 0));
        EXPECT_EQ(app::heatColour(theme, 5), app::heatColour(theme, 1));
    }
}

}  // namespace
}  // namespace jacinth::test
