#include "app/window/go_to.h"

#include <QAction>
#include <QKeyEvent>
#include <QListWidget>

#include "app/base/ui.h"
#include "app/plot/pane_layout.h"
#include "core/time/time_phrase.h"
#include "store/tracks.h"

namespace jacinth::app {

GoTo::GoTo(Session& session, std::vector<Command> commands, QWidget* parent)
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

namespace {

/// How well a word is found in a text: as a whole word, at the start of one, or inside one; 0 where it is
/// not.
int foundAs(const QString& word, const QString& text) {
    int best = 0;
    for (qsizetype at = text.indexOf(word, 0, Qt::CaseInsensitive); at >= 0;
         at = text.indexOf(word, at + 1, Qt::CaseInsensitive)) {
        const bool starts = at == 0 || !text[at - 1].isLetterOrNumber();
        const qsizetype end = at + word.size();
        const bool ends = end >= text.size() || !text[end].isLetterOrNumber();
        // 5 is not found in 15 or 50: a number is a whole word or nothing.
        const bool number = word[0].isDigit() && word.back().isDigit();
        if (starts && ends) return 3;
        if (!number) best = std::max(best, starts ? 2 : 1);
    }
    return best;
}

}  // namespace

int GoTo::fit(const QStringList& words, const QString& name, const QString& more) {
    int score = 0;
    for (const QString& word : words) {
        const int inName = foundAs(word, name), inMore = foundAs(word, more);
        if (inName == 0 && inMore == 0) return 0;
        score += std::max(10 * inName, inMore);
    }
    // Words that stand together as they were typed, and names with little else in them.
    if (name.contains(words.join(' '), Qt::CaseInsensitive)) score += 20;
    if (name.compare(words.join(' '), Qt::CaseInsensitive) == 0) score += 50;
    return score * 100 - static_cast<int>(std::min<qsizetype>(name.size(), 99));
}

void GoTo::collect() {
    const Study& study = session_.study();
    Session& session = session_;
    ViewState& view = session_.view();
    const auto asset = [&](AssetId id) {
        const Asset* a = study.catalog().asset(id);
        return a ? QString::fromStdString(a->name) : QString();
    };
    const auto when = [&](Instant t) { return QString::fromStdString(session_.zone().text(t)); };
    for (const Tag& t : study.catalog().tags())
        targets_.push_back({QString::fromStdString(t.path()), "", "tag", [&view, t] {
                                view.select(t.asset, t.id);
                                std::vector<TagId> shown = view.shown();
                                if (std::find(shown.begin(), shown.end(), t.id) == shown.end())
                                    shown.push_back(t.id);
                                view.setShown(std::move(shown));
                            }});
    for (const Span& s : study.tracks().spansOf(track_kind::kFailures))
        targets_.push_back({QString("%1 failed").arg(asset(s.asset)),
                            when(s.start) + " " + QString::fromStdString(factText(s.facts, "kind")),
                            "failure", [&session, s] {
                                session.lookAt(s.asset);
                                session.view().goTo(s.start, s.end);
                            }});
    for (const Span& s : study.tracks().spansOf(track_kind::kRuns))
        targets_.push_back({QString("%1 run %2").arg(asset(s.asset)).arg(factNumber(s.facts, "number")),
                            when(s.start), "run", [&session, s] {
                                session.lookAt(s.asset);
                                session.view().selectRun(s.id);
                                session.view().goTo(s.start, s.end);
                            }});
    for (const Span& s : study.tracks().spansOf(track_kind::kLabels))
        targets_.push_back(
            {QString("%1 %2").arg(asset(s.asset), QString::fromStdString(factText(s.facts, "kind"))),
             when(s.start), "label", [&session, s] {
                 session.lookAt(s.asset);
                 session.view().goTo(s.start, s.end);
             }});
    for (const QString& name : savedLayouts(session_))
        targets_.push_back({name, "saved", "layout", [&session, name] { useLayout(session, name); }});
    for (const auto& [name, action] : commands_)
        if (action->isEnabled()) targets_.push_back({name, "", "command", [a = action] { a->trigger(); }});
}

void GoTo::refill() {
    list_->clear();
    listed_.clear();
    typedTime_.reset();
    const QStringList words = field_->text().simplified().split(' ', Qt::SkipEmptyParts);
    const auto add = [&](const Target& t) {
        listed_.push_back(&t);
        auto* item = new QListWidgetItem(
            (t.more.isEmpty() ? t.name : t.name + "  " + t.more) + "   ·   " + t.kind, list_);
        item->setSizeHint({100, 22});
    };
    if (!words.isEmpty())
        if (const auto range = parseTimePhrase(field_->text().toStdString(), session_.zone(),
                                               session_.view().record(), session_.view().view())) {
            typedTime_ = Target{QString::fromStdString(timePhrase(session_.zone(), *range)), "", "time",
                                [this, r = *range] { session_.view().setView(r); }};
            add(*typedTime_);
        }
    std::vector<std::pair<int, const Target*>> found;
    for (const Target& t : targets_)
        if (const int score = words.isEmpty() ? 1 : fit(words, t.name, t.more + " " + t.kind))
            found.emplace_back(score, &t);
    std::stable_sort(found.begin(), found.end(),
                     [](const auto& a, const auto& b) { return a.first > b.first; });
    constexpr std::size_t kMost = 80;
    for (std::size_t i = 0; i < std::min(kMost, found.size()); ++i) add(*found[i].second);
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
