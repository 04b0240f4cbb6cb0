#include "app/window/replaced_bar.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QMessageBox>
#include <QProgressDialog>

#include "app/base/file_dialogs.h"
#include "app/base/ui.h"

namespace jacinth::app {

ReplacedBar::ReplacedBar(Session& session) : session_(session) {
    setObjectName("replacedBar");
    setAttribute(Qt::WA_StyledBackground);
    message_ = makeLabel("");
    message_->setObjectName("replacedMessage");
    message_->setWordWrap(true);
    message_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    auto* save = makeButton("Save a copy of this study…", "replacedSave", true);
    open_ = makeButton("Open the file that is there now", "replacedOpen");
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 6, 12, 6);
    row->addWidget(message_, 1);
    row->addWidget(save);
    row->addWidget(open_);
    connect(save, &QPushButton::clicked, this, [this] { saveCopy(); });
    connect(open_, &QPushButton::clicked, this, [this] {
        if (mayLeave()) emit openAsked(QString::fromStdString(session_.study().path()));
    });
    connect(&session, &Session::fileReplaced, this, &ReplacedBar::appear);
    connect(&session, &Session::fileRestored, this, &QWidget::hide);
    hide();
}

void ReplacedBar::appear() {
    const QFileInfo now(QString::fromStdString(session_.study().path()));
    message_->setText(
        now.exists()
            ? QString("Another program has put another file in the place of %1. This window shows the study "
                      "as it was before; nothing is written to it any more.")
                  .arg(now.fileName())
            : QString("%1 has left its place: another program has moved, renamed or removed it. This "
                      "window shows the study as it was; nothing is written to it any more.")
                  .arg(now.fileName()));
    open_->setVisible(now.exists());
    settled_ = false;
    show();
}

bool ReplacedBar::mayLeave() {
    if (isHidden() || settled_) return true;
    QMessageBox box(QMessageBox::Question, "The study was replaced",
                    "What this window shows is in no file any more and is gone when it closes.",
                    QMessageBox::Cancel, this);
    box.setObjectName("replacedQuestion");
    auto* save = box.addButton("Save a copy…", QMessageBox::AcceptRole);
    auto* leave = box.addButton("Do not save", QMessageBox::DestructiveRole);
    box.exec();
    if (box.clickedButton() == save) return saveCopy();
    settled_ = box.clickedButton() == leave;
    return settled_;
}

/// By the connection of the window itself: any other would open the file that is there now.
bool ReplacedBar::saveCopy() {
    const QString path = askFileToSave(this, {"Save a copy", " as it was.jacinth", "Studies (*.jacinth)"});
    if (path.isEmpty()) return false;
    QProgressDialog progress("Saving a copy", "Cancel", 0, 100, this);
    progress.setWindowModality(Qt::WindowModal);
    const Status saved = session_.study().saveCopy(path.toStdString(), true, [&](double share) {
        progress.setValue(static_cast<int>(99 * share));
        return !progress.wasCanceled();
    });
    progress.reset();
    if (!session_.report(saved)) return false;
    settled_ = true;
    emit session_.notified("Copy saved as " + path);
    return true;
}

}  // namespace jacinth::app
