#include "test/window_driver.h"

#include <QPlainTextEdit>

#include <QApplication>
#include <QElapsedTimer>
#include <QSettings>
#include <QStandardPaths>
#include <QWheelEvent>

#include "app/base/tables.h"
#include "app/window/application.h"

namespace jacinth::test {

WindowDriver::WindowDriver(const std::string& path) {
    auto study = Study::open(path);
    EXPECT_TRUE(study) << study.error().message;
    window_ = std::make_unique<app::MainWindow>(std::move(*study), app::ThemeChoice::Light);
    window_->resize(1280, 800);
    window_->show();
    EXPECT_TRUE(QTest::qWaitForWindowExposed(window_.get()));
    settle();
}

WindowDriver::~WindowDriver() {
    close();
}

void WindowDriver::close() {
    if (!window_) return;
    window_->close();
    window_.reset();
}

void WindowDriver::settle() {
    QElapsedTimer timer;
    timer.start();
    int quiet = 0;
    while (quiet < 4 && timer.elapsed() < 60000) {
        QTest::qWait(60);
        quiet = session().busy() ? 0 : quiet + 1;
    }
    EXPECT_LT(timer.elapsed(), 60000) << "the window never came to rest";
}

void WindowDriver::click(const QString& name) {
    QWidget* w = find(name);
    if (!w) return;
    EXPECT_TRUE(w->isVisible() && w->isEnabled()) << name.toStdString() << " cannot be clicked";
    QTest::mouseClick(w, Qt::LeftButton);
    settle();
}

void WindowDriver::clickAt(QWidget* widget, QPoint at, Qt::KeyboardModifiers modifiers) {
    QTest::mouseMove(widget, at);
    QTest::mouseClick(widget, Qt::LeftButton, modifiers, at);
    settle();
}

void WindowDriver::doubleClickAt(QWidget* widget, QPoint at) {
    QTest::mouseClick(widget, Qt::LeftButton, {}, at);
    QTest::mouseDClick(widget, Qt::LeftButton, {}, at);
    settle();
}

void WindowDriver::drag(QWidget* widget, QPoint from, QPoint to, Qt::KeyboardModifiers modifiers) {
    QTest::mousePress(widget, Qt::LeftButton, modifiers, from);
    for (int i = 1; i <= 5; ++i) {
        const QPoint at = from + (to - from) * i / 5;
        QMouseEvent move(QEvent::MouseMove, at, widget->mapToGlobal(at), Qt::NoButton, Qt::LeftButton,
                         modifiers);
        QApplication::sendEvent(widget, &move);
        QTest::qWait(5);
    }
    QTest::mouseRelease(widget, Qt::LeftButton, modifiers, to);
    settle();
}

void WindowDriver::wheel(QWidget* widget, QPoint at, int steps, Qt::KeyboardModifiers modifiers) {
    QWheelEvent e(at, widget->mapToGlobal(at), {}, {0, steps * 120}, Qt::NoButton, modifiers,
                  Qt::NoScrollPhase, false);
    QApplication::sendEvent(widget, &e);
    settle();
}

void WindowDriver::type(const QString& name, const QString& text, bool enter) {
    // Several benches have a time field: the one that is seen is meant.
    QWidget* field = nullptr;
    for (QWidget* f : window_->findChildren<QWidget*>(name))
        if (f->isVisible()) field = f;
    ASSERT_NE(field, nullptr) << "no field " << name.toStdString();
    ASSERT_TRUE(field->isEnabled()) << name.toStdString();
    auto* editor = qobject_cast<QPlainTextEdit*>(field);
    QTest::mouseClick(editor ? editor->viewport() : field, Qt::LeftButton);
    QTest::keyClick(field, Qt::Key_A, Qt::ControlModifier);
    QTest::keyClick(field, Qt::Key_Backspace);
    QTest::keyClicks(field, text);
    if (editor) QTest::keyClick(field, Qt::Key_Escape);  // what it offers
    QTest::keyClick(field, enter ? Qt::Key_Return : Qt::Key_Tab);
    settle();
}

void WindowDriver::key(QWidget* widget, Qt::Key k, Qt::KeyboardModifiers modifiers) {
    if (!widget->window()->isActiveWindow()) {  // where two are open
        widget->window()->activateWindow();
        EXPECT_TRUE(QTest::qWaitForWindowActive(widget->window(), 2000));
    }
    QTest::keyClick(widget, k, modifiers);
    settle();
}

void WindowDriver::bench(app::BenchId b) {
    key(window_.get(), static_cast<Qt::Key>(Qt::Key_1 + static_cast<int>(b)), Qt::ControlModifier);
    QApplication::processEvents();  // a new bench is shown after it was made
    EXPECT_EQ(view().bench(), b);
}

void WindowDriver::clickAsset(const QString& name) {
    QTreeWidget* tree = window_->plant()->tree();
    for (int i = 0; i < tree->topLevelItemCount(); ++i) {
        if (tree->topLevelItem(i)->text(0) != name) continue;
        tree->scrollToItem(tree->topLevelItem(i));
        clickAt(tree->viewport(), tree->visualItemRect(tree->topLevelItem(i)).center());
        return;
    }
    FAIL() << "no asset " << name.toStdString();
}

void WindowDriver::clickTag(const std::string& path) {
    const auto tag = study().catalog().tagAt(path);
    ASSERT_TRUE(tag) << path;
    clickAsset(QString::fromStdString(tag->assetName));
    QTreeWidgetItem* item = window_->plant()->itemOf(tag->id);
    QTreeWidget* tree = window_->plant()->tree();
    tree->scrollToItem(item);
    clickAt(tree->viewport(), tree->visualItemRect(item).center());
    EXPECT_EQ(view().tag(), tag->id);
}

void WindowDriver::clickRow(QTableView* table, int row) {
    ASSERT_LT(row, table->model()->rowCount());
    const QModelIndex index = table->model()->index(row, 1);
    table->scrollTo(index);
    clickAt(table->viewport(), table->visualRect(index).center());
}

void WindowDriver::choose(const char* box, const QString& words) {
    auto* choice = find<QComboBox>(box);
    const int at = choice->findText(words);
    ASSERT_GE(at, 0) << words.toStdString();
    choice->setCurrentIndex(at);
    emit choice->activated(at);
    QTest::qWait(200);  // pages wait a little for more changes
    settle();
}

QString WindowDriver::statusText() {
    return find<QLabel>("statusMessage")->text();
}

}  // namespace jacinth::test

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM",
            qgetenv("QT_QPA_PLATFORM").isEmpty() ? "offscreen" : qgetenv("QT_QPA_PLATFORM"));
    ::testing::InitGoogleTest(&argc, argv);
    QStandardPaths::setTestModeEnabled(true);
    qputenv("JACINTH_USER", "M. L.");
    // Settings of the person who runs the tests stay out of them.
    jacinth::test::Folder settings("settings");
    for (const char* home : {"XDG_CONFIG_HOME", "XDG_DATA_HOME"})
        qputenv(home, (settings / "config").c_str());
    QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope,
                       QString::fromStdString(settings / "config"));
    jacinth::app::Application application(argc, argv);
    QApplication::setOrganizationName("Jacinth");
    QApplication::setApplicationName("JacinthTest");
    return RUN_ALL_TESTS();
}
