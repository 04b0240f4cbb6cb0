// The page Marks with n/10, n and 2 n marks on one asset, half of them in view or few: drawing a frame while
// the view is panned, a bracket pulled along, and the list after a change. Usage: marks_bench [--marks N]
// [--json], offscreen or on a display.
#include <fmt/format.h>
#include <QApplication>
#include <QTest>
#include <cmath>
#include <cstdlib>

#include "app/label/marks_page.h"
#include "bench/figures.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "work/label/labels.h"

using namespace jacinth;
using namespace jacinth::bench;

namespace {

constexpr Duration kRecord = 60 * kDay;

/// A tag with a sample a minute, and marks of five kinds that overlap two or three deep.
void fill(Study& study, int marks) {
    const AssetId kiln = study.catalog().addAsset("Kiln 1");
    const TagId tag = study.catalog().addTag(kiln, "RH", "%", TagKind::Continuous);
    {
        WriteBatch batch(study);
        Series s;
        for (Duration t{}; t < kRecord; t += kMinute)
            s.push(Instant(t), 50 + 20 * std::sin(toSeconds(t) / 40'000));
        study.samples().write(tag, s);
        batch.commit();
    }
    study.catalog().reload();
    std::vector<Span> spans;
    const LabelBook book = study.judgement().labelBook();
    for (int i = 0; i < marks; ++i) {
        const Instant from = Instant() + kRecord / marks * i;
        spans.push_back({{}, kiln, {}, from, from + kRecord / marks * (1 + i * 7919 % 4), {}});
        spans.back().facts["kind"] = book[static_cast<std::size_t>(i) % book.size()].name;
    }
    if (const auto added = addLabels(study, spans, ""); !added) std::abort();
}

std::vector<double> pans(app::Session& session, app::MarksPage& page, Duration width) {
    std::vector<double> out;
    for (int i = 0; i < 60; ++i) {
        const Instant from = Instant() + kRecord / 4 + width / 40 * i;
        session.view().setView({from, from + width}, false);
        out.push_back(secondsOf([&] { page.plot()->reloadNow(); }) * 1e3);
        QApplication::processEvents();
    }
    return out;
}

void measure(Figures& out, int marks) {
    const std::string path = fmt::format("/tmp/marks-bench-{}.jacinth", ::getpid());
    std::remove(path.c_str());
    auto made = Study::create(path);
    if (!made) std::abort();
    fill(**made, marks);
    {
        app::Session session(std::move(*made), app::lightTheme());
        const Tag& tag = session.study().catalog().tags().front();
        session.view().setRecord(session.study().record());
        session.view().select(tag.asset, tag.id);
        session.view().setShown({tag.id});
        app::MarksPage page(session);
        page.resize(1000, 700);
        page.show();
        QTest::qWait(300);
        for (const auto& [words, width] :
             {std::pair("half of the marks", kRecord / 2), std::pair("a day", kDay)}) {
            const std::vector<double> frames = pans(session, page, width);
            out.add(fmt::format("{} marks, {} in view, p95 of a frame", marks, words),
                    percentile(frames, 0.95), "ms", fmt::format("median {:.1f} ms", percentile(frames, 0.5)));
        }
        const SpanId id = page.plot()->brackets()->within(session.view().view()).front();
        std::vector<double> pulls;
        for (int i = 1; i <= 40; ++i)
            pulls.push_back(secondsOf([&] {
                                emit page.plot()->brackets()->pulled(id, app::BracketLanes::Part::Whole,
                                                                     i * kMinute);
                                page.plot()->replot(QCustomPlot::rpImmediateRefresh);
                            }) *
                            1e3);
        QApplication::processEvents();  // what these have left to be drawn
        out.add(fmt::format("{} marks, a bracket pulled, p95", marks), percentile(pulls, 0.95), "ms",
                fmt::format("median {:.1f} ms", percentile(pulls, 0.5)));
        out.add(fmt::format("{} marks, one named, until the page shows it", marks),
                secondsOf([&] {
                    page.choose({id});
                    page.name("normal");
                    QApplication::processEvents();
                }) * 1e3,
                "ms", "");
    }
    std::remove(path.c_str());
}

}  // namespace

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    QApplication::setOrganizationName("JacinthBench");
    Figures out(argc, argv);
    const QStringList arguments = QApplication::arguments();
    const int at = static_cast<int>(arguments.indexOf("--marks"));
    const int n = at > 0 ? std::max(10, arguments.value(at + 1).toInt()) : 10'000;
    for (const int marks : {n / 10, n, 2 * n}) measure(out, marks);
}
