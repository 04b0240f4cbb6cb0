// The window: from start to the first drawn view, and frames while panning and zooming 12 traces, warm and
// with nothing of the file in memory; against the drawing library alone with the same points; memory
// meanwhile. Usage: window_bench STUDY [--json]
#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>
#include <QApplication>
#include <QElapsedTimer>
#include <QTest>
#include <fstream>

#include "app/window/main_window.h"
#include "bench/figures.h"

using namespace jacinth;
using namespace jacinth::bench;

namespace {

constexpr int kColdFrames = 20;

/// In ms: drawing what is at hand, which is all that the interface thread does, and until the picture is
/// sharp.
struct Frames {
    std::vector<double> drawing, sharp;
};

/// Waits until nothing is being read any more.
void untilIdle(app::MainWindow& window) {
    while (!window.session().reader().idle()) QApplication::processEvents(QEventLoop::AllEvents, 2);
}

/// Megabytes in memory; of the process alone, without pages of the mapped file.
double memoryMb(const char* what) {
    std::ifstream status("/proc/self/status");
    std::string word;
    while (status >> word)
        if (word == what) {
            double kb = 0;
            status >> kb;
            return kb / 1024;
        }
    return 0;
}

/// Asks the system to forget the file's pages.
void dropFromMemory(const std::string& path) {
    const int file = ::open(path.c_str(), O_RDONLY);
    ::fdatasync(file);
    ::posix_fadvise(file, 0, 0, POSIX_FADV_DONTNEED);
    ::close(file);
}

/// Moves the view step by step at one zoom and times reading and drawing of each frame.
Frames panAt(app::MainWindow& window, Duration width, int steps = 60, int first = 0) {
    app::TimePlot* plot = window.survey()->plot();
    app::ViewState& view = window.session().view();
    const TimeRange record = view.record();
    Frames frames;
    const Duration room = std::max<Duration>(kMinute, record.length() - width);
    for (int i = first; i < first + steps; ++i) {
        const Instant from = record.from + room / 3 + (width / 40) * i % std::max(kNanosecond, room / 2);
        view.setView({from, from + width}, false);
        bool sharp = false;
        const auto watch = QObject::connect(plot, &app::TimePlot::framed, [&] { sharp = true; });
        frames.sharp.push_back(secondsOf([&] {
                                   frames.drawing.push_back(secondsOf([&] { plot->reloadNow(); }) * 1e3);
                                   while (!sharp) QApplication::processEvents(QEventLoop::AllEvents, 2);
                               }) *
                               1e3);
        QObject::disconnect(watch);
        untilIdle(window);  // sketches and figures come after the picture
    }
    return frames;
}

/// The same number of points drawn by the library's own graph, for comparison: shown, at the same size.
double libraryAlone(app::TimePlot& like) {
    QCustomPlot plot;
    plot.resize(like.size());
    plot.show();
    (void)QTest::qWaitForWindowExposed(&plot);
    QApplication::processEvents();
    for (int i = 0; i < like.paneCount(); ++i) {
        const auto& columns = like.columnsOf(i, 0);
        QCPGraph* g = plot.addGraph();
        for (const Summary& c : columns) {
            const double x = toSeconds(c.firstTime - columns.front().firstTime);
            for (const double v : {c.first, c.least, c.greatest, c.last}) g->addData(x, v);
        }
    }
    plot.rescaleAxes();
    std::vector<double> frames;
    for (int i = 0; i < 20; ++i)
        frames.push_back(secondsOf([&] { plot.replot(QCustomPlot::rpImmediateRefresh); }) * 1e3);
    return percentile(frames, 0.5);
}

}  // namespace

int main(int argc, char** argv) {
    QElapsedTimer sinceStart;
    sinceStart.start();
    QApplication application(argc, argv);
    QApplication::setOrganizationName("JacinthBench");
    Figures out(argc, argv);
    const QString path = QApplication::arguments().value(1);
    dropFromMemory(path.toStdString());
    const double empty = secondsOf([] {
        QWidget w;
        w.resize(1280, 800);
        w.show();
        (void)QTest::qWaitForWindowExposed(&w);
        QApplication::processEvents();
    });
    sinceStart.restart();
    auto study = Study::open(path.toStdString());
    if (!study) {
        std::fprintf(stderr, "%s\n", study.error().message.c_str());
        return 1;
    }
    app::MainWindow window(std::move(*study), app::ThemeChoice::Light);
    window.resize(1280, 800);
    window.show();
    while (window.survey()->plot()->lastReadingMs() == 0 && sinceStart.elapsed() < 20000)
        QApplication::processEvents();
    out.add("open to the first drawn view", static_cast<double>(sinceStart.elapsed()), "ms",
            fmt::format("an empty window: {:.0f} ms", empty * 1e3));

    // Twelve traces, each in a pane of its own: the number tags of two kilns.
    const Catalog& catalog = window.session().study().catalog();
    std::vector<TagId> shown;
    for (const Tag& t : catalog.tags())
        if (t.kind != TagKind::State && t.assetName.starts_with("Kiln") && shown.size() < 12)
            shown.push_back(t.id);
    window.session().view().setBench(app::BenchId::Survey);
    window.session().view().setShown(shown);
    for (int i = 0; i < 20; ++i) QTest::qWait(20);
    const Duration record = window.session().view().record().length();
    for (const Duration width :
         {record, record / 3, record / 10, record / 50, 7 * kDay, kDay, 2 * kHour, 10 * kMinute}) {
        if (width < kMinute || width > record) continue;
        std::vector<double> cold;
        for (int i = 0; i < kColdFrames; ++i) {
            dropFromMemory(path.toStdString());
            window.session().reader().ask(&window, "drop", [](Study& read) {
                read.reload();
                read.releaseMemory();
                return app::BackgroundReader::Deliver();
            });
            untilIdle(window);
            cold.push_back(panAt(window, width, 1, i).sharp.front());
        }
        panAt(window, width);  // warm
        const Frames f = panAt(window, width);
        const double alone = libraryAlone(*window.survey()->plot());
        const std::string zoom = sayDuration(width);
        out.add(fmt::format("pan 12 traces, {} in view, p95 of a frame", zoom), percentile(f.drawing, 0.95),
                "ms",
                fmt::format("median {:.1f} ms; library alone with the same points {:.1f} ms",
                            percentile(f.drawing, 0.5), alone));
        out.add(fmt::format("  until sharp, {}, warm, p95", zoom), percentile(f.sharp, 0.95), "ms",
                fmt::format("median {:.1f} ms", percentile(f.sharp, 0.5)));
        out.add(fmt::format("  until sharp, {}, nothing in memory", zoom), percentile(cold, 0.95), "ms",
                fmt::format("p95 of {}; median {:.1f} ms", cold.size(), percentile(cold, 0.5)));
    }
    out.add("memory of the process, without mapped pages", memoryMb("RssAnon:"), "MB",
            fmt::format("{:.0f} MB with pages of the file", memoryMb("VmRSS:")));
}
