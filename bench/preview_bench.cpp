// The fix in hand over most of a tag of n/4, n and 4n samples, its end dragged: from the pull to the picture
// that shows it, for each kind of fix. Usage: preview_bench [--samples N] [--json], offscreen or on a
// display.
#include <fmt/format.h>
#include <QApplication>
#include <QElapsedTimer>
#include <QTest>
#include <cmath>
#include <cstdlib>

#include "app/mend/fixes_page.h"
#include "bench/figures.h"
#include "store/sample_store.h"
#include "work/mend/fix_in_hand.h"

using namespace jacinth;
using namespace jacinth::bench;

namespace {

constexpr int kPulls = 40;

/// Two tags that read alike, a sample every ten seconds, with a gap in the middle of the first.
void fill(Study& study, std::int64_t n) {
    const AssetId kiln = study.catalog().addAsset("Kiln 1");
    const TagId own = study.catalog().addTag(kiln, "RH", "%", TagKind::Continuous),
                twin = study.catalog().addTag(kiln, "RH twin", "%", TagKind::Continuous);
    WriteBatch batch(study);
    for (const TagId tag : {own, twin}) {
        Series s;
        for (std::int64_t i = 0; i < n; ++i) {
            if (tag == own && i > n / 2 && i < n / 2 + 300) continue;
            s.push(Instant(i * 10 * kSecond), 50 + 20 * std::sin(static_cast<double>(i) / 900) +
                                                  0.2 * static_cast<double>(i * 7919 % 13));
        }
        study.samples().write(tag, s);
    }
    batch.commit();
}

/// Milliseconds from a pull of the end to the picture with it.
std::vector<double> pulls(app::FixesPage& page, FixKind kind) {
    page.takeKind(kind);
    QTest::qWait(400);
    std::vector<double> out;
    const Instant end = page.draft().to;
    for (int i = 0; i < kPulls; ++i) {
        bool seen = false;
        const auto connection = QObject::connect(page.plot(), &app::TimePlot::framed, [&] { seen = true; });
        QElapsedTimer timer;
        timer.start();
        emit page.plot()->handleTaken(1);
        emit page.plot()->handleMoved(1, end - i * kMinute, 0.5 + i % 5);
        while (!seen && timer.elapsed() < 10'000) QApplication::processEvents(QEventLoop::AllEvents, 1);
        out.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
        QObject::disconnect(connection);
    }
    return out;
}

void measure(Figures& out, std::int64_t n) {
    const std::string path = fmt::format("/dev/shm/preview-bench-{}.jacinth", getpid());
    {
        auto study = std::move(*Study::create(path));
        fill(*study, n);
        app::Session session(std::move(study), app::lightTheme());
        app::FixesPage page(session);
        page.resize(1000, 620);
        page.show();
        session.view().setRecord(session.study().record());
        session.view().select(session.study().catalog().assets()[0].id,
                              session.study().catalog().tags()[0].id);
        session.view().setView(session.study().record());
        QTest::qWait(600);
        for (const FixKind kind :
             {FixKind::Shift, FixKind::Ramp, FixKind::Bend, FixKind::Curve, FixKind::Bridge, FixKind::Borrow,
              FixKind::Decay, FixKind::Hide, FixKind::Cut, FixKind::Clock}) {
            const std::vector<double> ms = pulls(page, kind);
            out.add(fmt::format("{} over {:.2g} million samples, p50", fixKindName(kind),
                                static_cast<double>(n) * 0.5 / 1e6),
                    percentile(ms, 0.5), "ms", fmt::format("p95 {:.1f} ms", percentile(ms, 0.95)));
        }
    }
    for (const char* end : {"", "-wal", "-shm"}) std::remove((path + end).c_str());
}

}  // namespace

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    Figures out(argc, argv);
    std::int64_t samples = 2'000'000;
    for (int i = 1; i + 1 < argc; ++i)
        if (std::string(argv[i]) == "--samples") samples = std::atoll(argv[i + 1]);
    for (const std::int64_t n : {samples / 4, samples, 4 * samples}) measure(out, n);
    return 0;
}
