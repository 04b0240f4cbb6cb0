// Go to: finds a tag, run, label, failure, time or command by typing a part of it.
#pragma once

#include <QDialog>

#include "app/base/session.h"

class QLineEdit;
class QListWidget;
class QAction;

namespace jacinth::app {

class GoTo : public QDialog {
    Q_OBJECT
  public:
    /// A command by its name with the menus that it stands in: `Theme: Dark`.
    using Command = std::pair<QString, QAction*>;
    GoTo(Session& session, std::vector<Command> commands, QWidget* parent);

    /// How well typed words fit one thing: all of them have to be found in it, each as a whole word, the
    /// start of one or inside one; 0 where one is not. What stands in the name counts for more than time and
    /// kind.
    static int fit(const QStringList& words, const QString& name, const QString& more);

    void startWith(const QString& text);

  protected:
    bool eventFilter(QObject* watched, QEvent* e) override;

  private:
    struct Target {
        QString name;  ///< what it is called
        QString more;  ///< when it was
        QString kind;
        std::function<void()> go;
    };
    void collect();
    void refill();
    void accept() override;
    Session& session_;
    std::vector<Command> commands_;
    std::vector<Target> targets_;
    std::vector<const Target*> listed_;
    std::optional<Target> typedTime_;
    QLineEdit* field_;
    QListWidget* list_;
};

}  // namespace jacinth::app
