// The interface thread is never held up: not while importing, not while a picture of Survey is calculated.
// And one sample among very many is seen at every zoom.
#include <QApplication>
#include <QElapsedTimer>
#include <QImage>
#include <fstream>
#include <map>
#include <random>
#include <thread>

#include "core/time/times_for_tests.h"
#include "source/import_samples.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "test/watchdog.h"
#include "test/window_driver.h"

namespace jacinth::test {
namespace {

// The machine may itself hold a thread up for a while; what is looked for are calls of hundreds of
// milliseconds. The limit holds for the best of three goes; window_bench shows how long it really takes.
constexpr double kLongest = 100;

template <typename Go>
double bestOfThree(Go go) {
    double best = 1e9;
    for (int i = 0; i < 3 && best > kLongest; ++i) best = std::min(best, go(i));
    return best;
}

class Responsive : public ::testing::Test {
  protected:
    Responsive() : folder("responsive") {
        copyDemo(folder / "s.jacinth");
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
    }
    /// Processes events in small portions until nothing has run for longer than pages wait before they begin,
    /// moving the view meanwhile as a user would.
    void untilDone(bool moving) {
        QElapsedTimer timer;
        timer.start();
        int quiet = 0, step = 0;
        while (quiet < 300 && timer.elapsed() < 60000) {
            QApplication::processEvents(QEventLoop::AllEvents, 1);
            std::this_thread::sleep_for(std::chrono::milliseconds(1));
            quiet = d->session().busy() ? 0 : quiet + 1;
            if (moving && ++step % 15 == 0 && step < 600) {
                const TimeRange v = d->view().view();
                const Duration by = v.length() / 60 * (step % 60 < 30 ? 1 : -1);
                d->view().setView({v.from + by, v.to + by});
            }
        }
        EXPECT_LT(timer.elapsed(), 60000);
    }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(Responsive, WhileImportingAndMovingAround) {
    // About 6 million samples in six new tags.
    {
        std::ofstream out(folder / "big.csv");
        out << "time";
        for (int c = 0; c < 6; ++c) out << ",Kiln 9/Probe " << c << " [°C]";
        out << '\n';
        std::mt19937 random(1);
        const Zone utc;
        Instant t = *fromIso("2026-03-01T00:00:00Z");
        std::string row;
        for (int i = 0; i < 1'000'000; ++i, t += 5 * kSecond) {
            const WallTime w = utc.wall(t);
            char text[160];
            int n = std::snprintf(text, sizeof text, "%04d-%02d-%02d %02d:%02d:%02d", w.year, w.month, w.day,
                                  w.hour, w.minute, w.second);
            for (int c = 0; c < 6; ++c)
                n += std::snprintf(text + n, sizeof text - static_cast<std::size_t>(n), ",%d.%d",
                                   20 + c * 10 + static_cast<int>(random() % 8),
                                   static_cast<int>(random() % 10));
            out << text << '\n';
        }
    }
    Watchdog dog;
    int changes = 0;
    const double worst = bestOfThree([&](int go) {
        TextSource file = *TextSource::at(folder / "big.csv");
        file.name = "big " + std::to_string(go);
        LayoutHints hints;
        hints.zone = "UTC";
        d->session().runJob(
            &d->session(), "import", "Importing",
            [file, hints, s = &d->session()](app::JobContext& job) -> std::function<void()> {
                auto result = std::make_shared<Result<ImportResult>>(
                    importSamples(job.study, file, hints, job.progress));
                return [s, result] {
                    EXPECT_TRUE(*result) << result->error().message;
                    s->study().refresh();
                    s->announceChange();
                };
            },
            true);
        dog.restart();
        // Meanwhile the user changes things: it must not wait for the import's commits.
        QTimer work;
        QObject::connect(&work, &QTimer::timeout, &d->window(), [&] {
            ++changes;
            d->study().change("note", "", {}, [&] {
                const auto track = d->study().tracks().firstOf(track_kind::kLog);
                Span s;
                s.start = s.end = d->view().view().from;
                s.facts["text"] = std::string("seen");
                d->study().tracks().addSpan(track->id, s);
            });
        });
        work.start(400);
        untilDone(true);
        return dog.worst();
    });
    std::printf("longest call while importing: %.1f ms (%d signs of life, %d changes made)\n", worst,
                dog.asked(), changes);
    EXPECT_GT(changes, 0);
    EXPECT_TRUE(d->study().catalog().tagAt("Kiln 9/Probe 5"));
    EXPECT_LT(worst, kLongest);
}

TEST_F(Responsive, WhileAnyPictureOfSurveyIsCalculated) {
    d->clickTag("Kiln 4/Fan current");
    d->key(&d->window(), Qt::Key_0, Qt::ControlModifier);
    for (int way = 0; way < 7; ++way) {
        // Once to build what is built once, then measured: what comes with every change of tag and of view.
        d->window().survey()->turnTo(static_cast<app::SurveyWay>(way));
        untilDone(false);
        Watchdog dog;
        const double worst = bestOfThree([&](int go) {
            dog.restart();
            d->view().select(d->view().asset(),
                             d->tagId(go % 2 ? "Kiln 4/Fan current" : "Kiln 4/Bearing vib."));
            untilDone(false);
            const TimeRange r = d->view().record();
            d->view().setView({r.from + (go + 1) * kDay, r.to - kDay});
            untilDone(false);
            return dog.worst();
        });
        std::printf("longest call in way %d: %.1f ms (%d signs of life)\n", way, worst, dog.asked());
        EXPECT_LT(worst, kLongest) << way;
        EXPECT_GT(dog.asked(), 150);
    }
}

/// Looks for a spike in the picture at every zoom from all of the record to half a minute.
void lookForSpike(WindowDriver& d, TagId tag, Instant spikeAt, double height) {
    d.view().select(d.session().tag(tag)->asset, tag);
    d.view().setShown({tag});
    app::TimePlot* plot = d.window().survey()->plot();
    int zooms = 0;
    for (Duration width = d.view().record().length(); width > 30 * kSecond; width = width * 3 / 5) {
        // The spike stands now left, now right of the middle, on any part of a pixel.
        const Instant from = spikeAt - width * (20 + zooms * 17 % 50) / 100;
        d.view().setView({from, from + width});
        QTest::mouseMove(&d.window(), {5, 790});
        d.settle();
        const QImage image = plot->grab().toImage();
        const int x = static_cast<int>(plot->xOf(spikeAt));
        const QColor want = d.session().tagColour(tag);
        bool seen = false;
        for (int dx = -2; dx <= 2; ++dx)  // a column of whole blocks is drawn at its middle
            for (int y = static_cast<int>(plot->yOf(0, height * 0.99)); y < plot->yOf(0, height * 0.8); ++y) {
                const QColor c = image.pixelColor(x + dx, y);
                seen |= std::abs(c.red() - want.red()) + std::abs(c.green() - want.green()) +
                            std::abs(c.blue() - want.blue()) <
                        190;
            }
        EXPECT_TRUE(seen) << "at " << formatDuration(width);
        ++zooms;
    }
    EXPECT_GT(zooms, 20);
    std::printf("seen at %d zooms\n", zooms);
}

TEST_F(Responsive, TurningToABenchForTheFirstTime) {
    // A bench is made when it is first turned to: that must not be felt either.
    // The least of three windows for each bench: another program only ever adds to it.
    std::map<int, double> least;
    for (int round = 0; round < 3; ++round) {
        d.reset();
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->settle();
        for (const app::BenchId id : {app::BenchId::Mend, app::BenchId::Screen, app::BenchId::Label,
                                      app::BenchId::Prove, app::BenchId::Survey}) {
            QElapsedTimer timer;
            timer.start();
            d->view().setBench(id);
            const double ms = static_cast<double>(timer.nsecsElapsed()) / 1e6;
            const auto known = least.try_emplace(static_cast<int>(id), ms).first;
            known->second = std::min(known->second, ms);
            d->settle();
        }
    }
    double worst = 0;
    for (const auto& [id, ms] : least) {
        std::printf("bench %d: %.1f ms\n", id, ms);
        worst = std::max(worst, ms);
    }
    // Half as much again: what a slow or busy machine adds to making several hundred widgets. The figures
    // themselves are printed above.
    EXPECT_LT(worst, 1.5 * kLongest);
}

TEST(Spike, OfOneSampleIsSeenAtEveryZoom) {
    Folder folder("spike");
    const std::int64_t samples = 3'000'000;
    const Instant spikeAt = at(1'234'567 * kSecond);
    TagId tag;
    {
        auto study = std::move(*Study::create(folder / "s.jacinth"));
        WriteBatch t(*study);
        tag = study->catalog().addTag(study->catalog().addAsset("K 1"), "x", "m", TagKind::Continuous);
        Series s;
        s.reserve(samples);
        for (std::int64_t i = 0; i < samples; ++i)
            s.push(at(i * kSecond), at(i * kSecond) == spikeAt ? 100 : static_cast<double>(i % 7));
        study->samples().write(tag, s);
        study->catalog().setSpacing(tag, kSecond);
        t.commit();
    }
    WindowDriver d(folder / "s.jacinth");
    lookForSpike(d, tag, spikeAt, 100);
}

/// The same in a study made by bench/large_study, named by JACINTH_LARGE_STUDY; left out where there is none.
TEST(Spike, IsSeenInTheStudyOfTheBench) {
    const char* path = std::getenv("JACINTH_LARGE_STUDY");
    if (!path) GTEST_SKIP() << "set JACINTH_LARGE_STUDY to a study made by large_study";
    WindowDriver d(path);
    const Tag tag = d.study().catalog().tags().front();
    const Summary whole = d.study().samples().whole(tag.id);
    ASSERT_EQ(whole.greatest, 5000);
    // Down to the sample: each time into the column that holds the greatest.
    TimeRange r{whole.firstTime, whole.lastTime + kNanosecond};
    for (int i = 0; i < 40 && r.length() > kNanosecond; ++i)
        for (const Summary& c : d.study().columns(tag, r, 64, Which::AsLogged))
            if (c.usable && c.greatest == 5000) r = {c.firstTime, c.lastTime + kNanosecond};
    lookForSpike(d, tag.id, r.from, 5000);
}

}  // namespace
}  // namespace jacinth::test
