#include "app/base/check_menu.h"

#include <QMouseEvent>

namespace jacinth::app {

void CheckMenu::mouseReleaseEvent(QMouseEvent* e) {
    QAction* at = actionAt(e->pos());
    if (!at || !at->isCheckable() || !at->isEnabled()) return QMenu::mouseReleaseEvent(e);
    at->trigger();
}

CheckButton::CheckButton(const QString& name, const QString& accessible, const QString& none)
    : menu_(new CheckMenu(this)), none_(none) {
    setObjectName(name);
    setAccessibleName(accessible);
    menu_->setObjectName(name + "Menu");
    menu_->setToolTipsVisible(true);
    setMenu(menu_);
    setProperty("choice", true);
    setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    connect(menu_, &QMenu::aboutToShow, this, [this] { before_ = ticked(); });
    connect(menu_, &QMenu::aboutToHide, this, [this] {
        if (ticked() != before_) emit changed();
    });
    sayTicked();
}

void CheckButton::setChoices(const std::vector<Choice>& choices, const std::vector<std::int64_t>& ticked) {
    if (menu_->isVisible()) return;  // the user is choosing
    menu_->clear();
    for (const Choice& c : choices) {
        QAction* action = menu_->addAction(QString(c.name).replace("&", "&&"));
        action->setCheckable(true);
        action->setChecked(std::find(ticked.begin(), ticked.end(), c.key) != ticked.end());
        action->setData(QVariant::fromValue<qint64>(c.key));
        connect(action, &QAction::toggled, this, &CheckButton::sayTicked);
    }
    sayTicked();
}

std::vector<std::int64_t> CheckButton::ticked() const {
    std::vector<std::int64_t> out;
    for (const QAction* a : menu_->actions())
        if (a->isChecked()) out.push_back(a->data().toLongLong());
    return out;
}

void CheckButton::sayTicked() {
    QStringList names;
    for (const QAction* a : menu_->actions())
        if (a->isChecked()) names << QString(a->text()).replace("&&", "&");
    setText(names.isEmpty()     ? none_
            : names.size() <= 2 ? names.join(", ")
                                : QString("%1 and %2 more").arg(names.front()).arg(names.size() - 1));
    setToolTip(names.join("\n"));
}

}  // namespace jacinth::app
