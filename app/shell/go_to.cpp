#include "app/shell/go_to.h"

#include <QAction>
#include <QKeyEvent>
#include <QListWidget>

#include "app/shell/ui.h"
#include "core/time/time_phrase.h"

namespace jacinth::app {

GoTo::GoTo(Session& session, QList<QAction*> commands, QWidget* parent)
    : QDialog(parent, Qt::Popup), session_(session), commands_(std::move(commands)) {
    setObjectName("goToDialog");
    resize(520, 360);
    field_ = makeField("goToField", "Go to");
    field_->setPlaceholderText("A tag, run, label, failure, time or command");
    list_ = new QListWidget;
    list_->setObjectName("goToList");
    list_->setUniformItemSizes(true);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 10, 10, 10);
    column->addWidget(field_);
    column->addWidget(list_, 1);
    field_->installEventFilter(this);
    connect(field_, &QLineEdit::textChanged, this, &GoTo::refill);
    connect(field_, &QLineEdit::returnPressed, this, &GoTo::accept);
    connect(list_, &QListWidget::itemActivated, this, &GoTo::accept);
    connect(list_, &QListWidget::itemClicked, this, &GoTo::accept);
    collect();
    refill();
    field_->setFocus();
}

void GoTo::startWith(const QString& text) {
    field_->setText(text);
}

void GoTo::collect() {
    const Study& study = session_.study();
    ViewState& view = session_.view();
    const auto asset = [&](std::int64_t id) {
        const Asset* a = study.catalog().asset(id);
        return a ? QString::fromStdString(a->name) : QString();
    };
    const auto when = [&](Instant t) { return QString::fromStdString(session_.zone().text(t)); };
    for (const Tag& t : study.catalog().tags())
        targets_.push_back({QString::fromStdString(t.path()), "tag", [&view, t] {
                                view.select(t.asset, t.id);
                                std::vector<std::int64_t> shown = view.shown();
                                if (std::find(shown.begin(), shown.end(), t.id) == shown.end())
                                    shown.push_back(t.id);
                                view.setShown(std::move(shown));
                            }});
    for (const Span& s : study.spansOf(track_kind::kFailures))
        targets_.push_back(
            {QString("%1 failed %2").arg(asset(s.asset), when(s.start)), "failure", [&view, s] {
                 view.select(s.asset, view.tag());
                 view.goTo(s.start, s.end);
             }});
    for (const Span& s : study.spansOf(track_kind::kRuns))
        targets_.push_back({QString("%1 run %2, %3")
                                .arg(asset(s.asset))
                                .arg(factNumber(s.facts, "number"))
                                .arg(when(s.start)),
                            "run", [&view, s] {
                                view.selectRun(s.id);
                                view.goTo(s.start, s.end);
                            }});
    for (const Span& s : study.spansOf(track_kind::kLabels))
        targets_.push_back(
            {QString("%1 %2 %3")
                 .arg(asset(s.asset), QString::fromStdString(factText(s.facts, "kind")), when(s.start)),
             "label", [&view, s] { view.goTo(s.start, s.end); }});
    for (QAction* a : commands_)
        if (!a->text().isEmpty() && a->isEnabled())
            targets_.push_back({QString(a->text()).remove('&'), "command", [a] { a->trigger(); }});
}

void GoTo::refill() {
    list_->clear();
    listed_.clear();
    typedTime_.reset();
    const QStringList words = field_->text().simplified().split(' ', Qt::SkipEmptyParts);
    const auto add = [&](const Target& t) {
        listed_.push_back(&t);
        auto* item = new QListWidgetItem(t.text + "   ·   " + t.kind, list_);
        item->setSizeHint({100, 22});
    };
    if (!words.isEmpty())
        if (const auto range = parseTimePhrase(field_->text().toStdString(), session_.zone(),
                                               session_.view().record(), session_.view().view())) {
            typedTime_ = Target{QString::fromStdString(timePhrase(session_.zone(), *range)), "time",
                                [this, r = *range] { session_.view().setView(r); }};
            add(*typedTime_);
        }
    for (const Target& t : targets_) {
        if (listed_.size() >= 80) break;
        const QString all = t.text + " " + t.kind;
        if (std::all_of(words.begin(), words.end(),
                        [&](const QString& w) { return all.contains(w, Qt::CaseInsensitive); }))
            add(t);
    }
    if (list_->count()) list_->setCurrentRow(0);
}

void GoTo::accept() {
    const int row = list_->currentRow();
    if (row < 0 || row >= static_cast<int>(listed_.size())) return;
    const auto go = listed_[static_cast<std::size_t>(row)]->go;
    QDialog::accept();
    go();
}

bool GoTo::eventFilter(QObject* watched, QEvent* e) {
    if (e->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(e)->key();
        if (key == Qt::Key_Down || key == Qt::Key_Up) {
            list_->setCurrentRow(std::clamp(list_->currentRow() + (key == Qt::Key_Down ? 1 : -1), 0,
                                            std::max(0, list_->count() - 1)));
            return true;
        }
    }
    return QDialog::eventFilter(watched, e);
}

}  // namespace jacinth::app
