#include "app/base/whole_text_tips.h"

#include <QAbstractItemView>
#include <QComboBox>
#include <QHelpEvent>
#include <QLineEdit>
#include <QToolTip>

#include "app/base/ui.h"

namespace jacinth::app {
namespace {

constexpr int kRoom = 8;  // what a cell or field keeps free on either side of its text

QString cutCell(QAbstractItemView* view, const QPoint& at) {
    const QModelIndex index = view->indexAt(at);
    if (!index.isValid() || index.data(Qt::ToolTipRole).isValid()) return {};
    const QString text = index.data(Qt::DisplayRole).toString();
    const QSize wanted = view->itemDelegateForIndex(index)->sizeHint({}, index);
    const int width = std::max(wanted.width(), view->fontMetrics().horizontalAdvance(text) + kRoom);
    return width > view->visualRect(index).width() ? text : QString();
}

}  // namespace

QString WholeTextTips::cutTextAt(QWidget* widget, const QPoint& at) {
    if (auto* view = qobject_cast<QAbstractItemView*>(widget->parentWidget());
        view && view->viewport() == widget)
        return cutCell(view, at);
    if (!widget->toolTip().isEmpty()) return {};
    const auto cut = [&](const QString& text, int room) {
        return widget->fontMetrics().horizontalAdvance(text) > widget->width() - room ? text : QString();
    };
    if (auto* field = qobject_cast<QLineEdit*>(widget)) return cut(field->text(), 2 * kRoom);
    if (auto* choice = qobject_cast<QComboBox*>(widget)) return cut(choice->currentText(), 28);
    return {};
}

bool WholeTextTips::eventFilter(QObject* watched, QEvent* e) {
    if (e->type() != QEvent::ToolTip) return false;
    auto* widget = qobject_cast<QWidget*>(watched);
    if (!widget) return false;
    const auto* help = static_cast<QHelpEvent*>(e);
    const QString text = cutTextAt(widget, help->pos());
    if (text.isEmpty()) return false;
    QToolTip::showText(help->globalPos(), plainTip(text), widget);
    return true;
}

}  // namespace jacinth::app
