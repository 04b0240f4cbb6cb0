// Answers the dialogs of the toolkit that a menu command opens, as a user would.
#pragma once

#include <QApplication>
#include <QFileDialog>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QTest>
#include <QTimer>
#include <functional>

namespace jacinth::test {

/// Calls `act` on the next modal widget that comes up, once it is there; gives up after five seconds.
inline void onNextDialog(std::function<void(QWidget*)> act) {
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

}  // namespace jacinth::test
