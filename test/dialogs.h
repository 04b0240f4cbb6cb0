// Answers the dialogs of the toolkit that a menu command opens, as a user would.
#pragma once

#include <gtest/gtest.h>

#include <QApplication>
#include <QContextMenuEvent>
#include <QFileDialog>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QPushButton>
#include <QTest>
#include <QTimer>
#include <functional>
#include <optional>

namespace jacinth::test {

/// Calls `act` on the next modal widget that comes up, once it is there; gives up after five seconds.
inline void onNextDialog(const std::function<void(QWidget*)>& act) {
    auto* timer = new QTimer;
    auto tries = std::make_shared<int>(0);
    QObject::connect(timer, &QTimer::timeout, timer, [timer, act, tries] {
        QWidget* dialog = QApplication::activeModalWidget();
        if (!dialog && ++*tries < 250) return;
        timer->stop();
        timer->deleteLater();
        if (dialog) act(dialog);
    });
    timer->start(20);
}

/// Types a path into the file dialog that comes up, and accepts it.
inline void chooseFile(const QString& path) {
    onNextDialog([path](QWidget* dialog) {
        auto* files = qobject_cast<QFileDialog*>(dialog);
        if (!files) return;
        auto* name = files->findChild<QLineEdit*>("fileNameEdit");
        name->setText(path);
        // A question whether the file may be replaced comes up on top of it, before accept() returns.
        auto* question = new QTimer(files);
        QObject::connect(question, &QTimer::timeout, files, [] {
            if (auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget()))
                if (auto* yes = box->button(QMessageBox::Yes)) QTest::mouseClick(yes, Qt::LeftButton);
        });
        question->start(30);
        QMetaObject::invokeMethod(files, "accept");
    });
}

/// Closes whatever comes up without choosing anything.
inline void dismissDialog() {
    onNextDialog([](QWidget* dialog) {
        if (auto* d = qobject_cast<QDialog*>(dialog))
            d->reject();
        else
            dialog->close();
    });
}

/// Looks at the menu of the right button there (in the middle unless said) and takes the command of that name
/// where it is enabled; the names of all.
inline QStringList takeFromMenu(QWidget* on, const QString& menuName, const QString& command,
                                std::optional<QPoint> where = {}) {
    QStringList names;
    QAction* taken = nullptr;
    QTimer::singleShot(0, [&] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        if (!menu) return;
        EXPECT_EQ(menu->objectName(), menuName);
        for (QAction* a : menu->actions()) {
            if (a->isVisible()) names << a->text();
            if (a->text() == command && a->isEnabled()) taken = a;
        }
        if (taken) menu->setActiveAction(taken);
        if (taken) taken->trigger();
        menu->close();
    });
    const QPoint at = where.value_or(on->rect().center());
    QContextMenuEvent event(QContextMenuEvent::Mouse, at, on->mapToGlobal(at));
    QApplication::sendEvent(on, &event);
    return names;
}

}  // namespace jacinth::test
