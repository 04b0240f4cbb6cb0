// The bench Prove of a window over the demo plant, for tests that write, prove and keep rules in it.
#pragma once

#include <gtest/gtest.h>

#include "app/prove/prove_bench.h"
#include "store/tracks.h"
#include "test/dialogs.h"
#include "test/window_driver.h"

namespace jacinth::test {

class ProveWindow : public ::testing::Test {
  protected:
    ProveWindow() : folder("window-prove") {
        copyDemo(folder / "p.jacinth");
        d = std::make_unique<WindowDriver>(folder / "p.jacinth");
    }
    app::ProveBench& bench() { return *d->window().prove(); }
    const Rule& rule() { return bench().state().rule(); }
    const std::optional<Proof>& proof() { return bench().proof(); }
    template <typename Page>
    Page& page(const char* button) {
        d->click(button);
        return *d->window().findChild<Page*>();
    }
    /// Types a rule and waits until it is proved.
    void write(const QString& text) {
        if (d->view().bench() != app::BenchId::Prove) d->bench(app::BenchId::Prove);
        bench().editor()->selectAll();
        QTest::keyClicks(bench().editor(), text);
        wait();
    }
    void wait() {
        QTest::qWait(200);
        d->settle();
    }
    void keepAs(const QString& name, const QString& note = {}) {
        onNextDialog([&](QWidget* dialog) {
            dialog->findChild<QLineEdit*>("keepName")->setText(name);
            dialog->findChild<QLineEdit*>("keepNote")->setText(note);
            QTest::mouseClick(dialog->findChild<QPushButton*>("keepAccept"), Qt::LeftButton);
        });
        d->click("keepRule");
        wait();
    }
    QString text(const char* label) { return d->find<QLabel>(label)->text(); }
    std::vector<Span> failures() { return d->study().tracks().spansOf(track_kind::kFailures); }

    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

}  // namespace jacinth::test
