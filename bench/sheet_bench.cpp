// The run sheet with n/4, n and 4n runs × 12 tags: drawing while it is zoomed and scrolled.
// Usage: sheet_bench [--json], offscreen or on a display.
#include <fmt/format.h>
#include <QApplication>
#include <QTest>

#include "app/screen/run_sheet.h"
#include "bench/figures.h"

using namespace jacinth;
using namespace jacinth::bench;

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    Figures out(argc, argv);
    const std::string path = fmt::format("/dev/shm/sheet-bench-{}.jacinth", getpid());
    {
        auto study = std::move(*Study::create(path));
        const auto asset = study->catalog().addAsset("Kiln 1");
        app::Session session(std::move(study), app::lightTheme());
        for (const int n : {500, 2000, 8000}) {
            std::vector<Span> runs;
            for (int i = 0; i < n; ++i)
                runs.push_back(
                    {SpanId(i + 1), asset, {}, Instant(i * kDay), Instant(i * kDay + 22 * kHour), {}});
            std::vector<app::RunSheet::RowName> rows;
            for (int k = 0; k < 12; ++k) rows.push_back({fmt::format("tag_{}", k), QString("Tag %1").arg(k)});
            std::vector<KeptExcursion> excursions;
            for (int i = 0; i < n; ++i)
                for (int k = i % 3; k < 12; k += 3) {
                    KeptExcursion e;
                    e.run = SpanId(i + 1);
                    e.role = rows[static_cast<std::size_t>(k)].role;
                    e.severity = 1 + (i + k) % 4;
                    excursions.push_back(e);
                }
            app::RunSheet sheet(session);
            const double setting = secondsOf([&] { sheet.setSheet(runs, rows, excursions, {}, {}); });
            sheet.resize(1000, sheet.height());
            sheet.show();
            QPixmap picture(sheet.size());
            std::vector<double> frames;
            for (const int zoom : {0, 1, 2, 3})
                for (int i = 0; i < 50; ++i) {
                    sheet.setCurrent(runs[static_cast<std::size_t>(i * n / 50)].id, "tag_1");
                    if (i == 0 && zoom > 0)
                        QTest::keyClick(&sheet, Qt::Key_Plus), QTest::keyClick(&sheet, Qt::Key_Plus);
                    frames.push_back(1e3 * secondsOf([&] { sheet.render(&picture); }));
                }
            out.add(fmt::format("draw the sheet, {} runs, p95", n), percentile(frames, 0.95), "ms",
                    fmt::format("setting it {:.1f} ms", setting * 1e3));
        }
    }
    for (const char* end : {"", "-wal", "-shm"}) std::remove((path + end).c_str());
    return 0;
}
