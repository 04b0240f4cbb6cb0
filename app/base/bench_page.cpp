#include "app/base/bench_page.h"

#include <QClipboard>
#include <QGuiApplication>

namespace jacinth::app {

BenchPage::BenchPage(Session& session, bool followsView)
    : session_(session),
      inspector_(new QWidget),
      side_(new QVBoxLayout(inspector_)),
      later_(new QTimer(this)) {
    inspector_->setObjectName("inspectorPage");
    side_->setContentsMargins(12, 10, 12, 10);
    side_->setSpacing(6);
    later_->setSingleShot(true);
    later_->setInterval(120);
    connect(later_, &QTimer::timeout, this, [this] {
        if (!isVisible()) return;
        stale_ = false;
        refresh();
    });
    if (followsView) connect(&session.view(), &ViewState::viewChanged, this, &BenchPage::refreshSoon);
    for (const auto signal : {&ViewState::selectionChanged, &ViewState::whichChanged})
        connect(&session.view(), signal, this, &BenchPage::refreshSoon);
    connect(&session, &Session::studyChanged, this, &BenchPage::refreshSoon);
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void BenchPage::refreshSoon() {
    stale_ = true;
    if (isVisible()) later_->start();
}

void BenchPage::entered() {
    if (stale_) later_->start();
}

void BenchPage::addCopyButton(QVBoxLayout* to) {
    auto* copy = makeButton("Copy figures", "copyFigures" + objectName());
    copy->setAccessibleName("Copy figures");
    connect(copy, &QPushButton::clicked, this, [this] {
        QGuiApplication::clipboard()->setText(figures());
        emit session_.notified("Copied: paste into a table");
    });
    to->addWidget(copy);
}

const Tag* BenchPage::numberTag() const {
    const Tag* tag = session_.tag(session_.view().tag());
    if (tag && tag->kind != TagKind::State) return tag;
    for (const Tag& t : session_.study().catalog().tags())
        if (t.asset == session_.view().asset() && t.kind != TagKind::State) return &t;
    return nullptr;
}

}  // namespace jacinth::app
