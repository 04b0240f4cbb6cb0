// Go to: finds a tag, run, label, failure, time or command by typing a part of it.
#pragma once

#include <QDialog>

#include "app/shell/session.h"

class QLineEdit;
class QListWidget;
class QAction;

namespace jacinth::app {

class GoTo : public QDialog {
    Q_OBJECT
  public:
    GoTo(Session& session, QList<QAction*> commands, QWidget* parent);
    void startWith(const QString& text);

  protected:
    bool eventFilter(QObject* watched, QEvent* e) override;

  private:
    struct Target {
        QString text, kind;
        std::function<void()> go;
    };
    void collect();
    void refill();
    void accept() override;
    Session& session_;
    QList<QAction*> commands_;
    std::vector<Target> targets_;
    std::vector<const Target*> listed_;
    std::optional<Target> typedTime_;
    QLineEdit* field_;
    QListWidget* list_;
};

}  // namespace jacinth::app
