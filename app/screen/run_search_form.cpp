#include "app/screen/run_search_form.h"

#include "app/base/examples.h"
#include "store/tracks.h"

namespace jacinth::app {
namespace {

/// A duration typed; empty gives `otherwise`.
std::optional<Duration> durationOf(QLineEdit* field, Duration otherwise) {
    const std::string text = field->text().trimmed().toStdString();
    if (text.empty()) return markWrong(field, false), otherwise;
    const auto d = parseDuration(text);
    markWrong(field, !d || *d < Duration::zero(), "a duration like 1h");
    if (!d || *d < Duration::zero()) return {};
    return *d;
}

void showDuration(QLineEdit* field, Duration d, Duration none) {
    field->setText(d == none ? "" : QString::fromStdString(formatDuration(d)));
}

}  // namespace

RunSearchForm::RunSearchForm(Session& session, ScreenState& state) : session_(session), state_(state) {
    setObjectName("runSearchForm");
    track_ = makeChoice("runsTrack", "Track of runs", {});
    track_->setEditable(true);
    track_->setInsertPolicy(QComboBox::NoInsert);
    track_->setToolTip("Several kinds of runs can stand side by side: type a new name for another");
    from_ = makeChoice("runsFrom", "Runs come from", {"a condition"});
    where_ = new ExpressionEditor(session, ExpressionEditor::Lines::One);
    where_->setLineWrapMode(QPlainTextEdit::WidgetWidth);
    where_->setFixedHeight(46);
    where_->setObjectName("runsWhere");
    where_->setAccessibleName("A run lasts while");
    where_->setPlaceholderText(exampleCondition(session));
    where_->setNames([this] { return namesForRuns(); });
    suggested_ = makeButton("", "runsSuggested");
    suggested_->setFlat(true);
    suggested_->setToolTip("The likely condition, from the states of the record: takes it");
    suggested_->hide();
    connect(suggested_, &QPushButton::clicked, this, [this] {
        where_->setPlainText(exampleCondition(session_));
        suggested_->hide();
    });
    phases_ = new ExpressionEditor(session, ExpressionEditor::Lines::Few);
    phases_->setNames([this] { return namesForRuns(); });
    phases_->setFixedHeight(36);
    phases_->setObjectName("runsPhases");
    phases_->setAccessibleName("Phases inside");
    phases_->setPlaceholderText("@mode, or Hot: @temp > 80; …");
    least_ = makeField("runsLeast", "Least length");
    least_->setText("1h");
    most_ = makeField("runsMost", "Greatest length");
    join_ = makeField("runsJoin", "Join breaks under");
    trimStart_ = makeField("runsTrimStart", "Cut off the start");
    trimEnd_ = makeField("runsTrimEnd", "Cut off the end");
    says_ = makeLabel("", "second");
    says_->setWordWrap(true);
    says_->setObjectName("runsSays");
    says_->hide();
    find_ = makeButton("Find runs", "findRuns", true);
    more_ = new QWidget;
    moreButton_ = makeMoreButton("runsMore", more_);
    auto* more = new QVBoxLayout(more_);
    more->setContentsMargins(0, 0, 0, 0);
    more->setSpacing(5);
    more->addWidget(makeFields("Join breaks", {{"under · at most", join_}, {"", most_}}, 80));
    more->addWidget(makeFields("Cut off", {{"start · end", trimStart_}, {"", trimEnd_}}, 80));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(5);
    addRow(column, "Track", track_);
    addRow(column, "Runs come from", from_);
    whereWords_ = makeLabel("A run lasts while", "second");
    column->addWidget(whereWords_);
    column->addWidget(where_);
    column->addWidget(suggested_, 0, Qt::AlignLeft);
    preview_ = new ExpressionPreview(session);
    preview_->setCompact();
    column->addWidget(preview_);
    auto* least = new QHBoxLayout;
    least->addWidget(makeLabel("at least", "second"));
    least->addWidget(least_);
    least->addStretch();
    least->addWidget(moreButton_);
    least_->setFixedWidth(70);
    column->addLayout(least);
    column->addWidget(more_);
    column->addWidget(makeLabel("Phases inside", "second"));
    column->addWidget(phases_);
    column->addWidget(says_);
    column->addWidget(find_);
    wire();
    follow();
}

void RunSearchForm::wire() {
    connect(find_, &QPushButton::clicked, this, &RunSearchForm::findThem);
    connect(where_, &ExpressionEditor::accepted, this, &RunSearchForm::findThem);
    connect(where_, &QPlainTextEdit::textChanged, this, &RunSearchForm::suggestPhases);
    connect(phases_, &QPlainTextEdit::textChanged, this, [this] {
        if (phases_->hasFocus()) phasesTouched_ = true;
    });
    connect(from_, &QComboBox::currentIndexChanged, this, [this](int i) {
        where_->setVisible(i <= 0);
        preview_->setVisible(i <= 0 && !where_->text().isEmpty());
        whereWords_->setVisible(i <= 0);
    });
    connect(track_, &QComboBox::activated, this,
            [this] { state_.setTrack(track_->currentText().toStdString()); });
}

/// Of the asset in view, or where that has fewer roles than another, of the one that has most: a condition on
/// the kilns is right whatever is looked at.
Names RunSearchForm::namesForRuns() const {
    const Study& study = session_.study();
    std::map<AssetId, std::size_t> tags;
    for (const Tag& t : study.catalog().tags()) ++tags[t.asset];
    AssetId best = session_.view().asset();
    for (const auto& [asset, count] : tags)
        if (count > tags[best]) best = asset;
    return namesIn(study, best);
}

/// How many runs the likely condition would find, counted in the background.
void RunSearchForm::suggestCondition() {
    const QString likely = exampleCondition(session_);
    const bool any = std::ranges::any_of(session_.study().catalog().tags(),
                                         [](const Tag& t) { return t.kind == TagKind::State; });
    suggested_->hide();
    if (!any || !where_->text().isEmpty()) return;
    RunSearch search;
    search.where = likely.toStdString();
    search.least = kHour;
    session_.runJob(this, "likely runs", "Counting likely runs",
                    [this, search, likely](JobContext& job) -> std::function<void()> {
                        const auto found = findRuns(job.study, search, Which::Mended, job.progress);
                        const std::size_t runs = found ? found->runs.size() : 0;
                        return [this, likely, runs] {
                            suggested_->setText(QString("%1: %2 runs").arg(likely).arg(runs));
                            suggested_->setVisible(runs > 0 && where_->text().isEmpty());
                        };
                    });
}

void RunSearchForm::follow() {
    const Study& study = session_.study();
    const auto track = state_.track();
    QSignalBlocker quiet(track_);
    if (!track_->hasFocus()) {
        track_->clear();
        for (const Track& t : study.tracks().all())
            if (t.kind == track_kind::kRuns) track_->addItem(QString::fromStdString(t.name));
        track_->setCurrentText(QString::fromStdString(track ? track->name : "Runs"));
    }
    const QString chosen = from_->currentText();
    from_->clear();
    from_->addItem("a condition");
    for (const Track& t : study.tracks().all())
        if (t.kind == track_kind::kBatches) from_->addItem("the list " + QString::fromStdString(t.name));
    from_->setCurrentIndex(std::max(0, from_->findText(chosen)));
    if (!track) suggestCondition();
    if (!track || shown_ == track->id) return;
    shown_ = track->id;
    const RunSearch s = searchOf(*track);
    where_->setPlainText(QString::fromStdString(s.where));
    phases_->setPlainText(QString::fromStdString(s.phases));
    phasesTouched_ = true;
    showDuration(least_, s.least, -kNanosecond);
    showDuration(most_, s.most, kWithoutEnd);
    showDuration(join_, s.join, {});
    showDuration(trimStart_, s.trimStart, {});
    showDuration(trimEnd_, s.trimEnd, {});
    from_->setCurrentIndex(
        s.list.empty() ? 0 : std::max(0, from_->findText("the list " + QString::fromStdString(s.list))));
}

void RunSearchForm::suggestPhases() {
    const auto expression = where_->checked();
    QString words;
    if (!where_->text().isEmpty() && !expression)
        words = where_->toolTip();
    else if (expression && expression->type != ValueType::Condition)
        words = QString("this is a %1; a condition would fit").arg(typeName(expression->type));
    says_->setText(words);
    says_->setVisible(!words.isEmpty());
    setRole(says_, words.isEmpty() ? "second" : "bad");
    preview_->setVisible(from_->currentIndex() <= 0 && !where_->text().isEmpty());
    preview_->setText(where_->text());
    if (!phasesTouched_)
        phases_->setPlainText(
            QString::fromStdString(phasesSuggestedBy(session_.study(), where_->text().toStdString())));
}

std::optional<RunSearch> RunSearchForm::search() {
    RunSearch out;
    const auto least = durationOf(least_, {}), most = durationOf(most_, kWithoutEnd),
               join = durationOf(join_, {});
    const auto start = durationOf(trimStart_, {}), end = durationOf(trimEnd_, {});
    if (!most || !join || !start || !end) moreButton_->setChecked(true);
    if (!least || !most || !join || !start || !end) return {};
    out.least = *least;
    out.most = *most;
    out.join = *join;
    out.trimStart = *start;
    out.trimEnd = *end;
    out.phases = phases_->text().toStdString();
    if (from_->currentIndex() > 0)
        out.list = from_->currentText().mid(QString("the list ").size()).toStdString();
    else
        out.where = where_->text().toStdString();
    if (!out.list.empty() || !out.where.empty()) return out;
    where_->showError({"a condition that is true while a run lasts", 1});
    emit session_.failed("Say when a run lasts, for example " + where_->placeholderText());
    return {};
}

void RunSearchForm::findThem() {
    const auto wanted = search();
    if (!wanted) return;
    const std::string name =
        track_->currentText().trimmed().isEmpty() ? "Runs" : track_->currentText().trimmed().toStdString();
    if (const auto known = session_.study().tracks().named(name); known && known->kind != track_kind::kRuns) {
        emit session_.failed(QString("`%1` is a track of %2 already; choose another name")
                                 .arg(QString::fromStdString(name), QString::fromStdString(known->kind)));
        return;
    }
    const Which which = session_.view().which();
    find_->setEnabled(false);
    session_.runJob(
        this, "runs", "Finding runs",
        [this, search = *wanted, which, name](JobContext& job) -> std::function<void()> {
            auto found = findRuns(job.study, search, which, job.progress);
            return [this, search, name, found = std::move(found)] {
                if (!found) where_->showError(found.error());
                if (!session_.report(found)) return;
                state_.setTrack(name);
                session_.tryChange([&] { keepRuns(session_.study(), name, search, *found); });
                emit session_.notified(QString("%1 runs found").arg(found->runs.size()));
            };
        },
        false, [this] { find_->setEnabled(true); });
}

}  // namespace jacinth::app
