// Check readings on the plot: written down where the pointer stands, changed by a click on their mark.
#include <QKeyEvent>
#include <QMenu>

#include "app/base/save_picture.h"
#include "app/base/value_in_sight.h"
#include "app/mend/fixes_page.h"
#include "app/mend/reading_popup.h"

namespace jacinth::app {

void FixesPage::buildReadings() {
    reading_ = new ReadingPopup(session_, plot_);
    connect(plot_, &TimePlot::paneMenuAsked, this, [this](int, const QPoint& at) { showMenu(at); });
}

void FixesPage::readingAt(Instant t, const QPoint& at) {
    const Tag* of = tag();
    if (!of || of->kind == TagKind::State)
        return emit session_.failed(
            "Choose a tag of numbers in the plant panel: a check reading is of a tag.");
    const double pointed = plot_->valueAt(0, at.y());
    const bool inPane = plot_->paneRect(0).contains(at);
    reading_->write(of->id, t, inPane ? pointed : valueInSight(session_, *of, t, Which::Mended), at);
}

void FixesPage::showMenu(const QPoint& at) {
    const QPoint here = plot_->mapFromGlobal(at);
    const Instant t = plot_->timeAt(here.x());
    QMenu menu(this);
    menu.setObjectName("mendMenu");
    QAction* read = menu.addAction("Check reading here", QKeySequence(Qt::Key_R), this,
                                   [this, t, here] { readingAt(t, here); });
    read->setEnabled(tag() && tag()->kind != TagKind::State);
    menu.addSeparator();
    menu.addAction("Start of the fix here", this, [this, t] { moveHandle(0, t, 0); })->setEnabled(tag());
    menu.addAction("End of the fix here", this, [this, t] { moveHandle(1, t, 0); })->setEnabled(tag());
    menu.addSeparator();
    addPictureCommands(&menu, plot_);
    menu.exec(at);
}

void FixesPage::keyPressEvent(QKeyEvent* e) {
    const QPoint here = plot_->mapFromGlobal(QCursor::pos());
    const auto pointed = plot_->pointer();
    if (e->key() == Qt::Key_R && e->modifiers() == Qt::NoModifier && pointed)
        return readingAt(*pointed, plot_->paneRect(0).contains(here)
                                       ? here
                                       : QPoint(static_cast<int>(plot_->xOf(*pointed)), -1));
    BenchPage::keyPressEvent(e);
}

void FixesPage::pointTaken(Instant t) {
    const Tag* of = tag();
    if (!of) return;
    const QPoint at(static_cast<int>(plot_->xOf(t)), plot_->paneRect(0).center().y());
    if (!reading_->change(of->id, t, at)) bringBackAt(t);
}

}  // namespace jacinth::app
