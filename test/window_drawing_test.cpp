// What the plots paint, read from the picture: gaps stay gaps, steps are steps, states are bands, bad samples
// are marked.
#include <QImage>

#include "app/base/preferences.h"
#include "app/plot/tag_trace.h"
#include "core/time/times_for_tests.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "test/window_driver.h"
#include "work/mend/mending.h"

namespace jacinth::test {
namespace {

/// A study with one continuous tag (a slope with a gap and a bad stretch), one stepped tag and one of states.
class Drawing : public ::testing::Test {
  protected:
    Drawing() : folder("drawing") {
        auto study = std::move(*Study::create(folder / "s.jacinth"));
        WriteBatch t(*study);
        const auto asset = study->catalog().addAsset("K 1");
        slope = study->catalog().addTag(asset, "slope", "m", TagKind::Continuous);
        steps = study->catalog().addTag(asset, "steps", "n", TagKind::Stepped);
        mode = study->catalog().addTag(asset, "mode", "", TagKind::State);
        third = study->catalog().addTag(asset, "third", "kg", TagKind::Stepped);
        study->catalog().addState(mode, "Idle");
        study->catalog().addState(mode, "Running");
        Tag resting = *study->catalog().tag(mode);
        resting.facts["rest states"] = std::string("Idle");
        study->catalog().updateTag(resting);
        Series a, b, c;
        for (int i = 0; i < 600; ++i) {
            const Instant minute = at(i * kMinute);
            if (i < 200 || i >= 300)
                a.push(minute, i * 0.1, i >= 450 && i < 480 ? Quality::Bad : Quality::Good);
        }
        b.push(at(0), 10), b.push(at(300 * kMinute), 20), b.push(at(599 * kMinute), 20);
        c.push(at(0), 0), c.push(at(300 * kMinute), 1);
        study->samples().write(slope, a);
        study->samples().write(steps, b);
        study->samples().write(mode, c);
        study->samples().write(third, b);
        study->catalog().setSpacing(slope, kMinute);
        t.commit();
        study.reset();
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->view().select(asset, slope);
        d->view().setView(between(0, 600 * kMinute));
    }
    QImage shown(std::vector<TagId> tags) {
        d->view().setShown(std::move(tags));
        QTest::mouseMove(&d->window(), {5, 790});
        d->settle();
        return plot()->grab().toImage();
    }
    app::TimePlot* plot() { return d->window().survey()->plot(); }
    static bool near(const QColor& a, const QColor& b, int within = 60) {
        return std::abs(a.red() - b.red()) + std::abs(a.green() - b.green()) + std::abs(a.blue() - b.blue()) <
               within;
    }
    /// Heights in the pane at which a column of the picture has the trace's colour.
    std::vector<int> painted(const QImage& image, Instant t, TagId tag, int pane = 0) {
        std::vector<int> out;
        const int x = static_cast<int>(plot()->xOf(t));
        for (int y = plot()->paneRect(pane).top() + 18; y <= plot()->paneRect(pane).bottom() - 9; ++y)
            if (near(image.pixelColor(x, y), d->session().tagColour(tag), 190))
                out.push_back(y);  // soft ends count
        return out;
    }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
    TagId slope, steps, mode, third;
};

TEST_F(Drawing, ALineIsWhereItsValueIs) {
    const QImage image = shown({slope});
    for (const int minute : {100, 150, 400, 550}) {
        const auto ys = painted(image, at(minute * kMinute), slope);
        ASSERT_FALSE(ys.empty()) << minute;
        EXPECT_NEAR(ys.front(), plot()->yOf(0, minute * 0.1), 3) << minute;
        EXPECT_LE(ys.back() - ys.front(), 5) << minute;
    }
}

TEST_F(Drawing, MendedStretchesHaveADottedLineBelow) {
    // In the colour of the trace, as dots: looked for under the stretch, and beside it.
    const auto dots = [&](const QImage& image, int from, int to) {
        int found = 0;
        for (int x = static_cast<int>(plot()->xOf(at(from * kMinute))); x < plot()->xOf(at(to * kMinute));
             ++x)
            for (int y = plot()->paneRect(0).bottom() - 5; y <= plot()->paneRect(0).bottom() - 1; ++y)
                found += near(image.pixelColor(x, y), d->session().tagColour(slope), 90);
        return found;
    };
    EXPECT_EQ(dots(shown({slope}), 310, 440), 0);
    d->session().tryChange([&] {
        ASSERT_TRUE(
            enterFix(d->study(), {{}, slope, ShiftFix{5}, at(310 * kMinute), at(440 * kMinute), true, "w"}));
    });
    const QImage mended = shown({slope});
    EXPECT_GT(dots(mended, 312, 438), 30);
    EXPECT_EQ(dots(mended, 500, 590), 0);
    d->view().setWhich(Which::AsLogged);
    EXPECT_EQ(dots(shown({slope}), 312, 438), 0);  // as logged there is nothing mended to see
}

TEST_F(Drawing, EveryUnitOfAPaneHasItsNumbersAndZoomsAlone) {
    shown({slope, steps});
    app::ViewState::ArrangedPane pane{{slope, steps, third}, false};
    d->view().setArrangement({pane});
    shown({slope, steps, third});
    ASSERT_EQ(plot()->paneCount(), 1);
    const auto scales = plot()->axisRect(0)->axes(QCPAxis::atRight);
    int numbered = 0;
    for (const QCPAxis* a : scales) numbered += a->visible() && a->tickLabels();
    EXPECT_EQ(numbered, 2);
    QCPAxis *left = plot()->axisRect(0)->axis(QCPAxis::atLeft), *right = scales.front();
    const QCPRange leftBefore = left->range(), rightBefore = right->range();
    const QPoint onRight(plot()->paneRect(0).right() + 10, plot()->paneRect(0).center().y());
    d->wheel(plot(), onRight, 2, Qt::ControlModifier);
    EXPECT_LT(right->range().size(), rightBefore.size());
    EXPECT_EQ(left->range().size(), leftBefore.size());
}

TEST_F(Drawing, AnEdgeGoesToTheNearestSampleUnlessPreferredNot) {
    shown({slope});
    const Instant near = at(100 * kMinute + 10 * kSecond);
    EXPECT_EQ(app::edgeAt(d->session(), *plot(), slope, near), at(100 * kMinute));
    EXPECT_EQ(app::edgeAt(d->session(), *plot(), {}, near + Duration(5)), near);  // no tag: the whole second
    d->view().setView(between(99 * kMinute, 102 * kMinute));
    d->settle();
    EXPECT_EQ(app::edgeAt(d->session(), *plot(), slope, near), near);  // far from it on the screen
    d->view().setView(between(0, 600 * kMinute));
    app::Preferences preferred = app::Preferences::load();
    preferred.snap = false;
    preferred.save();
    EXPECT_EQ(app::edgeAt(d->session(), *plot(), slope, near), near);
    preferred.snap = true;
    preferred.save();
}

TEST_F(Drawing, ThePaneShowsTheRangeOfItsValuesNotZero) {
    shown({steps});
    EXPECT_GT(plot()->valueAt(0, plot()->paneRect(0).bottom()), 8);
    EXPECT_LT(plot()->valueAt(0, plot()->paneRect(0).top()), 22);
}

TEST_F(Drawing, NoLineAcrossAGap) {
    const QImage image = shown({slope});
    for (const int minute : {210, 250, 290})
        EXPECT_TRUE(painted(image, at(minute * kMinute), slope).empty()) << minute;
    // Bridged once the engineer says so.
    d->session().tryChange([&] {
        Tag tag = *d->study().catalog().tag(slope);
        tag.longestGap = 3 * kHour;
        d->study().change("gap", "", {}, [&] { d->study().catalog().updateTag(tag); });
    });
    const QImage bridged = shown({slope});
    EXPECT_FALSE(painted(bridged, at(250 * kMinute), slope).empty());
}

TEST_F(Drawing, AStepIsFlatThenUpright) {
    const QImage image = shown({steps});
    const auto before = painted(image, at(150 * kMinute), steps),
               after = painted(image, at(450 * kMinute), steps);
    ASSERT_FALSE(before.empty());
    ASSERT_FALSE(after.empty());
    EXPECT_NEAR(before.front(), plot()->yOf(0, 10), 2);
    EXPECT_NEAR(after.front(), plot()->yOf(0, 20), 2);
    EXPECT_EQ(before, painted(image, at(290 * kMinute), steps));  // held, not sloping
    const Duration pixel = plot()->timeAt(101) - plot()->timeAt(100);
    std::size_t upright = 0;
    for (const int dx : {-1, 0, 1})
        upright = std::max(upright, painted(image, at(300 * kMinute + dx * pixel), steps).size());
    EXPECT_GT(upright, 20u);
}

TEST_F(Drawing, StatesAreBandsOfTheirOwnColours) {
    const QImage image = shown({slope, mode});
    const QRect band = plot()->paneRect(1);
    EXPECT_LE(band.height(), 24);
    const QColor idle = image.pixelColor(static_cast<int>(plot()->xOf(at(250 * kMinute))), band.center().y());
    const QColor running =
        image.pixelColor(static_cast<int>(plot()->xOf(at(550 * kMinute))), band.center().y());
    EXPECT_FALSE(near(idle, running));
    EXPECT_EQ(idle, image.pixelColor(static_cast<int>(plot()->xOf(at(280 * kMinute))), band.center().y()));
}

TEST_F(Drawing, BadSamplesLeaveAMarkAndNoLine) {
    const QImage image = shown({slope});
    EXPECT_TRUE(painted(image, at(465 * kMinute), slope).empty());
    int marks = 0;
    const int floor = plot()->paneRect(0).bottom();
    for (int x = static_cast<int>(plot()->xOf(at(450 * kMinute)));
         x < static_cast<int>(plot()->xOf(at(480 * kMinute))); ++x)
        for (int y = floor - 8; y < floor; ++y)
            marks += near(image.pixelColor(x, y), d->session().tagColour(slope));
    EXPECT_GT(marks, 10);
}

TEST_F(Drawing, AFailureIsABlackWedgeAndALabelIsShaded) {
    d->session().tryChange([&] {
        d->study().change("marks", "", {}, [&] {
            d->study().tracks().addSpan(d->study().tracks().put("Failures", track_kind::kFailures),
                                        {{}, AssetId(1), {}, at(100 * kMinute), at(100 * kMinute), {}});
            d->study().tracks().addSpan(d->study().tracks().put("Labels", track_kind::kLabels),
                                        {{},
                                         AssetId(1),
                                         {},
                                         at(350 * kMinute),
                                         at(420 * kMinute),
                                         {{"kind", std::string("normal")}}});
        });
    });
    const QImage image = shown({slope});
    const int top = plot()->paneRect(0).top();
    EXPECT_TRUE(near(image.pixelColor(static_cast<int>(plot()->xOf(at(100 * kMinute))), top + 3),
                     d->session().theme().ink));
    const QColor inside =
        image.pixelColor(static_cast<int>(plot()->xOf(at(380 * kMinute))), plot()->paneRect(0).bottom() - 30);
    const QColor outside =
        image.pixelColor(static_cast<int>(plot()->xOf(at(330 * kMinute))), plot()->paneRect(0).bottom() - 30);
    EXPECT_NE(inside, outside);
}

TEST_F(Drawing, ValuesAtThePointerAreInTheStatusBar) {
    shown({slope, mode});
    QTest::mouseMove(plot(),
                     {static_cast<int>(plot()->xOf(at(450 * kMinute))), plot()->paneRect(0).center().y()});
    d->settle();
    EXPECT_TRUE(d->window().survey()->pointerText().contains("Running"))
        << d->window().survey()->pointerText().toStdString();
    EXPECT_TRUE(d->window().survey()->pointerText().contains("1 Jan 1970"));
}

TEST_F(Drawing, ManyPanesShareOneTimeAxis) {
    const QImage image = shown({slope, steps, mode});
    EXPECT_EQ(plot()->paneCount(), 3);
    EXPECT_EQ(plot()->paneRect(0).left(), plot()->paneRect(1).left());
    EXPECT_EQ(plot()->paneRect(0).right(), plot()->paneRect(2).right());
    EXPECT_LT(plot()->paneRect(0).bottom(), plot()->paneRect(1).top());
    EXPECT_FALSE(painted(image, at(450 * kMinute), steps, 1).empty());
    // Two tags of one unit share a pane.
    EXPECT_EQ(app::traceOf(d->session(), slope).unit, "m");
}

}  // namespace
}  // namespace jacinth::test
