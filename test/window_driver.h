// Drives the real window by mouse and keys, as a user would, and waits for what it does beside the interface
// thread.
#pragma once

#include <gtest/gtest.h>

#include <QTest>

#include "app/base/tables.h"
#include "app/window/main_window.h"
#include "test/cli_runner.h"

namespace jacinth::test {

class WindowDriver {
  public:
    explicit WindowDriver(const std::string& study);
    ~WindowDriver();

    app::MainWindow& window() { return *window_; }
    app::Session& session() { return window_->session(); }
    Study& study() { return session().study(); }
    app::ViewState& view() { return session().view(); }

    /// Processes events until no job runs and everything is drawn.
    void settle();
    template <typename W = QWidget>
    W* find(const QString& name) {
        W* found = window_->findChild<W*>(name);
        EXPECT_NE(found, nullptr) << "no widget " << name.toStdString();
        return found;
    }
    void click(const QString& name);
    void clickAt(QWidget* widget, QPoint at, Qt::KeyboardModifiers modifiers = Qt::NoModifier);
    void doubleClickAt(QWidget* widget, QPoint at);
    void drag(QWidget* widget, QPoint from, QPoint to, Qt::KeyboardModifiers modifiers = Qt::NoModifier);
    void wheel(QWidget* widget, QPoint at, int steps, Qt::KeyboardModifiers modifiers = Qt::NoModifier);
    /// Replaces what a field holds and leaves it with Tab.
    void type(const QString& field, const QString& text, bool enter = false);
    void key(QWidget* widget, Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::NoModifier);
    void bench(app::BenchId bench);  ///< by its keys
    /// Clicks an asset or a tag in the plant panel.
    void clickAsset(const QString& name);
    void clickTag(const std::string& path);
    void clickRow(QTableView* table, int row);
    /// As its user does, and waits for the pages that follow.
    void choose(const char* box, const QString& words);
    QString statusText();
    void close();  ///< closes the window, as its user would
    TagId tagId(const std::string& path) { return study().catalog().tagAt(path)->id; }

  private:
    std::unique_ptr<app::MainWindow> window_;
};

}  // namespace jacinth::test
