// The window on the whole demo plant with its runs found, for tests of Survey.
#pragma once

#include <gtest/gtest.h>

#include <QClipboard>
#include <QGuiApplication>

#include "test/window_driver.h"
#include "work/runs/find_runs.h"

namespace jacinth::test {

using app::SurveyWay;

class Survey : public ::testing::Test {
  protected:
    Survey() : folder("survey") {
        copyDemo(folder / "s.jacinth");
        {
            auto study = std::move(*Study::open(folder / "s.jacinth"));
            const RunSearch search{"@kiln_step is not \"Idle\"", kHour};
            keepRuns(*study, "Runs", search, *findRuns(*study, search));
        }
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
    }
    app::SurveyBench* survey() { return d->window().survey(); }
    void whole() { d->key(&d->window(), Qt::Key_0, Qt::ControlModifier); }
    QString copied() {
        for (QPushButton* b : d->window().findChildren<QPushButton*>())
            if (b->isVisible() && b->accessibleName() == "Copy figures") QTest::mouseClick(b, Qt::LeftButton);
        return QGuiApplication::clipboard()->text();
    }
    void undo() {
        d->window().activateWindow();
        d->settle();
        d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

}  // namespace jacinth::test
