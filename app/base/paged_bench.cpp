#include "app/base/paged_bench.h"

namespace jacinth::app {

PagedBench::PagedBench(Session& session, int firstPage)
    : Bench(session),
      row_(new QHBoxLayout),
      buttons_(new QButtonGroup(this)),
      stack_(new QStackedWidget),
      inspectors_(new QStackedWidget),
      shown_(firstPage) {
    title_ = makeLabel("", "title");
    state_ = makeLabel("", "second");
    row_->setSpacing(2);
    row_->addStretch();
    auto* head = new QHBoxLayout;
    head->addWidget(title_, 1);
    head->addWidget(state_);
    column_ = new QVBoxLayout(this);
    column_->setContentsMargins(10, 8, 8, 4);
    column_->setSpacing(6);
    column_->addLayout(row_);
    column_->addLayout(head);
    column_->addWidget(stack_, 1);
    auto* side = new QVBoxLayout(inspector_);
    side->setContentsMargins(0, 0, 0, 0);
    side->addWidget(inspectors_);
    connect(buttons_, &QButtonGroup::idClicked, this, &PagedBench::turnToPage);
}

void PagedBench::addPage(const QString& buttonName, const QString& says, std::function<BenchPage*()> make) {
    const int id = static_cast<int>(pages_.size());
    auto* button = makeButton(says, buttonName);
    button->setCheckable(true);
    button->setProperty("pill", true);
    button->setFixedHeight(24);
    button->setToolTip(QString("%1 (Alt+%2)").arg(says).arg(id + 1));
    button->setShortcut(QKeySequence(QString("Alt+%1").arg(id + 1)));
    buttons_->addButton(button, id);
    row_->insertWidget(id, button);
    pages_.push_back({std::move(make)});
    if (id != shown_) return;
    page(id);
    button->setChecked(true);
    follow();
}

BenchPage* PagedBench::page(int index) {
    Entry& entry = pages_[static_cast<std::size_t>(index)];
    if (entry.page) return entry.page;
    entry.page = entry.make();
    stack_->addWidget(entry.page);
    entry.side = makeScrolled(entry.page->inspector());
    inspectors_->addWidget(entry.side);
    connect(entry.page, &BenchPage::titleChanged, this, [this, made = entry.page] {
        if (made == shown()) follow();
    });
    connect(entry.page, &BenchPage::pointerMoved, this, &Bench::pointerMoved);
    connect(entry.page, &BenchPage::asked, this, &Bench::asked);
    return entry.page;
}

QStringList PagedBench::pageNames() const {
    QStringList out;
    for (const QAbstractButton* b : buttons_->buttons()) out << b->text();
    return out;
}

void PagedBench::entered() {
    shown()->entered();
}

void PagedBench::turnToPage(int index) {
    buttons_->button(index)->setChecked(true);
    if (shown_ == index) return;
    page(index);
    // The keys stay on the row of buttons, on the page that is shown.
    if (buttons_->button(shown_)->hasFocus()) buttons_->button(index)->setFocus();
    shown_ = index;
    follow();
    shown()->entered();
}

void PagedBench::follow() {
    stack_->setCurrentWidget(shown());
    inspectors_->setCurrentWidget(pages_[static_cast<std::size_t>(shown_)].side);
    title_->setText(shown()->title());
    state_->setText(shown()->state());
}

}  // namespace jacinth::app
