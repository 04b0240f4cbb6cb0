#include "app/mend/stuck_list.h"

#include "app/base/label_menu.h"
#include "app/base/ui.h"
#include "store/judgement.h"

namespace jacinth::app {
namespace {

/// A fix that is on and takes the middle of the stretch out of use.
QString doneAbout(const Session& session, const FoundStuck& found) {
    const TimeRange range = found.stretch.range;
    const Instant middle = range.from + range.length() / 2;
    for (const Fix& f : session.study().judgement().fixes(found.tag))
        if (f.on && !f.isPlain() && f.kind() != FixKind::Clock && f.from <= middle && f.to >= middle)
            return QString("fixed: ") + fixKindName(f.kind());
    return {};
}

}  // namespace

StuckList::StuckList(Session& session) : ListUnderPlot(session) {
    model_ =
        new RowsModel({"from", "tag", "for", "reads", "samples", "beside it moved", "done about it"}, this);
    table_ = makeTable(model_, "stuckList", {98, 146, 92, 88, 60, 110, 0});
    scope_ = makeScope("stuckScope", "Look for stuck stretches in");
    least_ = makeField("stuckLeast", "Least length");
    least_->setText("30m");
    least_->setFixedWidth(52);
    least_->setToolTip("The least length of a stretch, like 30m or 2h");
    find_ = makeButton("Find", "findStuck");
    headRow_->addWidget(least_);
    headRow_->addWidget(find_);
    status_ = makeStatus("stuckStatus");
    sentence_ = makeLabel("", "second");
    sentence_->setObjectName("stuckSentence");
    sentence_->setWordWrap(true);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    column->addWidget(table_, 1);
    column->addWidget(sentence_);
    connect(find_, &QPushButton::clicked, this, &StuckList::find);
    connect(least_, &QLineEdit::returnPressed, this, &StuckList::find);
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this] {
        say();
        emit chosenChanged();
    });
    addRowCommand(table_, "Go there", [this] { emit chosenChanged(); });
    const auto spanOf = [this](const FoundStuck& f) {
        const Tag* tag = session_.tag(f.tag);
        return Span{{}, tag ? tag->asset : AssetId(), f.tag, f.stretch.range.from, f.stretch.range.to, {}};
    };
    addLabelCommand(
        table_, "Label it as…", session_,
        [this, spanOf] { return chosen() ? std::vector{spanOf(*chosen())} : std::vector<Span>(); },
        "Stuck stretches");
    addLabelCommand(
        table_, "Label all in the list as…", session_,
        [this, spanOf] {
            std::vector<Span> all;
            for (const FoundStuck& f : found_) all.push_back(spanOf(f));
            return all;
        },
        "Stuck stretches");
    StuckList::fill();
}

const FoundStuck* StuckList::chosen() const {
    const auto key = currentKey(table_);
    return key > 0 && static_cast<std::size_t>(key) <= found_.size()
               ? &found_[static_cast<std::size_t>(key - 1)]
               : nullptr;
}

void StuckList::find() {
    StuckQuestion question;
    const auto least = parseDuration(least_->text().trimmed().toStdString());
    markWrong(least_, !least || *least <= Duration::zero(), "a length like 30m or 2h");
    if (!least || *least <= Duration::zero()) return;
    question.search.least = *least;
    if (scope_->currentIndex() == kTag) question.tag = session_.view().tag();
    if (scope_->currentIndex() == kAsset) question.assets = {session_.view().asset()};
    if (!scopeIsChosen(scope_)) return;
    find_->setEnabled(false);
    status_->setText("looking …");
    session_.runJob(
        this, "stuck", "Looking for stuck stretches",
        [this, question](JobContext& job) -> std::function<void()> {
            auto found = findStuck(job.study, question, job.progress);
            return [this, found = std::move(found)] {
                if (!session_.report(found)) return;
                found_ = *found;
                looked_ = true;
                table_->setCurrentIndex({});
                fill();
            };
        },
        false,
        [this] {
            find_->setEnabled(true);
            fill();
        });
}

void StuckList::fill() {
    const auto before = currentKey(table_);
    std::vector<RowsModel::Row> rows;
    for (std::size_t i = 0; i < found_.size(); ++i) {
        const FoundStuck& f = found_[i];
        const Tag *tag = session_.tag(f.tag), *beside = session_.tag(f.beside);
        if (!tag) continue;
        const QString unit = QString::fromStdString(tag->unit), done = doneAbout(session_, f);
        RowsModel::Row& row = rows.emplace_back(
            RowsModel::Row{static_cast<std::int64_t>(i + 1),
                           {QString::fromStdString(session_.zone().shortText(f.stretch.range.from)),
                            QString::fromStdString(tag->path()),
                            QString::fromStdString(sayDuration(f.stretch.range.length())),
                            valueText(f.stretch.value, unit), QString::number(f.stretch.samples),
                            beside && std::isfinite(f.besideMoved)
                                ? valueText(f.besideMoved, QString::fromStdString(beside->unit))
                                : QString(),
                            done}});
        row.sortBy(0, f.stretch.range.from);
        row.sortBy(2, f.stretch.range.length());
        row.number(3, f.stretch.value, unit);
        row.number(4, static_cast<double>(f.stretch.samples));
        row.number(5, f.besideMoved);
        if (!done.isEmpty()) row.ink = session_.theme().second;
    }
    {
        const QSignalBlocker quiet(table_->selectionModel());  // the user chose nothing now
        model_->setRows(std::move(rows));
        if (const int row = model_->rowOf(before); before > 0 && row >= 0) table_->selectRow(row);
    }
    table_->viewport()->update();
    status_->setText(!looked_ ? "not looked for yet" : QString("%1 found").arg(found_.size()));
    say();
}

void StuckList::say() {
    sentence_->setText(chosen() ? QString::fromStdString(stuckSentence(session_.study(), *chosen()))
                                : "Looks for stretches in which a sensor reads one value for longer than it "
                                  "ever does by itself. Choose a row to see it and to hide it, or paint its "
                                  "trust.");
}

}  // namespace jacinth::app
