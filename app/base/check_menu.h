// A button with a menu of things that are ticked: it stays open while they are.
#pragma once

#include <QMenu>
#include <QPushButton>
#include <vector>

namespace jacinth::app {

/// Stays open when an entry with a tick is clicked.
class CheckMenu : public QMenu {
  public:
    using QMenu::QMenu;

  protected:
    void mouseReleaseEvent(QMouseEvent* e) override;
};

class CheckButton : public QPushButton {
    Q_OBJECT
  public:
    /// `none`: what it says while nothing is ticked.
    CheckButton(const QString& name, const QString& accessible, const QString& none);
    struct Choice {
        std::int64_t key;
        QString name;
    };
    void setChoices(const std::vector<Choice>& choices, const std::vector<std::int64_t>& ticked);
    std::vector<std::int64_t> ticked() const;  ///< in the order of the choices

  signals:
    void changed();  ///< by the user, once the menu is closed

  private:
    void sayTicked();
    CheckMenu* menu_;
    QString none_;
    std::vector<std::int64_t> before_;
};

}  // namespace jacinth::app
