#include "app/mend/relation_page.h"

#include <QKeyEvent>

#include "app/base/ui.h"
#include "app/mend/tag_picker.h"
#include "app/plot/memory_trace.h"
#include "core/base/missing.h"
#include "work/derived/derived_inputs.h"
#include "work/mend/fix_in_hand.h"

namespace jacinth::app {
namespace {

enum Of { kLevels, kDifferences, kLogarithms, kLogDifferences };
enum Over { kRecord, kView };
constexpr int kTablesHeight = 172;

QString momentText(const Session& session, Instant t) {
    return QString::fromStdString(session.zone().shortText(t));
}

/// Beyond ten nobody needs the tenths.
QString tText(double t) {
    const QString text = QString::number(std::abs(t), 'f', std::abs(t) < 10 ? 1 : 0);
    return t < 0 ? "−" + text : text;
}

/// Words for what a moment is, at its line in the picture and in its row.
QString momentName(IndicatorKind kind) {
    return kind == IndicatorKind::Point ? "point" : kind == IndicatorKind::Level ? "level" : "trend";
}

}  // namespace

RelationPage::RelationPage(Session& session) : BenchPage(session, false) {
    setObjectName("Relation");
    buildMiddle();
    buildInspector();
    connect(&session, &Session::themeChanged, this, [this] {
        showPanes();
        showMarks();
    });
    connect(&session, &Session::studyChanged, this, &RelationPage::showTables);
    refreshSoon();
    showTables();
}

void RelationPage::buildMiddle() {
    plot_ = new TimePlot(session_);
    plot_->setObjectName("relationPlot");
    plot_->setAccessibleName("The tag, what explains it, and what remains");
    momentRows_ = new RowsModel({"when", "found", "size", "t", "done"}, this);
    moments_ = makeTable(momentRows_, "relationMoments", {94, 42, 104, 36, 0});
    coefficientRows_ = new RowsModel({"explained by", "without them", "with them"}, this);
    coefficients_ = makeTable(coefficientRows_, "relationCoefficients", {0, 140, 140});
    auto* head = new QHBoxLayout;
    head->setSpacing(4);
    head->addWidget(makeLabel("Moments at which it fails", "section"), 1);
    fixIt_ = makeButton("Fix", "momentFix");
    fixIt_->setToolTip("Take the fix in hand that takes the chosen moment out of the tag (F)");
    label_ = makeButton("Label", "momentLabel");
    label_->setToolTip("Label the chosen moment (L)");
    remember_ = makeButton("Process", "momentRemember");
    remember_->setToolTip(
        "It is the process: remember the event, for the reason on the right; again forgets it (E)");
    for (QPushButton* b : {fixIt_, label_, remember_}) {
        b->setProperty("compact", true);
        b->setFixedHeight(24);
        head->addWidget(b);
    }
    auto* tables = new QGridLayout;
    tables->setHorizontalSpacing(14);
    tables->addLayout(head, 0, 0);
    tables->addWidget(makeLabel("Coefficients", "section"), 0, 1);
    tables->addWidget(moments_, 1, 0);
    tables->addWidget(coefficients_, 1, 1);
    tables->setColumnStretch(0, 12);
    tables->setColumnStretch(1, 14);
    moments_->horizontalHeader()->setMinimumSectionSize(24);
    for (QTableView* t : {moments_, coefficients_}) t->setMinimumWidth(0);
    for (QTableView* t : {moments_, coefficients_}) t->setFixedHeight(kTablesHeight);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 4);
    column->setSpacing(6);
    column->addWidget(plot_, 1);
    column->addLayout(tables);
    moments_->installEventFilter(this);
    connect(plot_, &TimePlot::pointed, this, &BenchPage::pointerMoved);
    connect(moments_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this] {
        go();
        showMarks();
    });
}

void RelationPage::buildInspector() {
    says_ = makeLabel("", "section");
    says_->setObjectName("relationOf");
    says_->setWordWrap(true);
    side_->addWidget(says_);
    picker_ = new TagPicker(session_, "relationOn");
    side_->addWidget(picker_);
    of_ = makeChoice("relationTakes", "Of",
                     {"levels", "differences", "logarithms", "differences of logarithms"});
    every_ = makeField("relationEvery", "Means of");
    every_->setText("1h");
    over_ = makeChoice("relationOver", "Over", {"the record", "the time in view"});
    alpha_ = makeField("relationAlpha", "Significance");
    alpha_->setText("0.01");
    alpha_->setToolTip("The share of the rows that is found by chance where nothing happened");
    addRow(side_, "of", of_);
    addRow(side_, "means of", every_);
    addRow(side_, "over", over_);
    addRow(side_, "significance", alpha_);
    points_ = new QCheckBox("points");
    levels_ = new QCheckBox("levels");
    trends_ = new QCheckBox("trends");
    auto* kinds = new QHBoxLayout;
    for (const auto& [box, name] :
         {std::pair{points_, "relationPoints"}, {levels_, "relationLevels"}, {trends_, "relationTrends"}}) {
        box->setObjectName(name);
        kinds->addWidget(box);
    }
    levels_->setChecked(true);
    side_->addLayout(kinds);
    check_ = makeButton("Check the relation", "checkRelation", true);
    side_->addWidget(check_);
    fit_ = makeLabel("");
    fit_->setObjectName("relationFit");
    fit_->setWordWrap(true);
    byChance_ = makeLabel("", "second");
    byChance_->setObjectName("relationByChance");
    byChance_->setWordWrap(true);
    side_->addWidget(fit_);
    side_->addWidget(byChance_);
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("The chosen moment", "section"));
    why_ = makeField("relationWhy", "Why");
    why_->setPlaceholderText("reason, for what is remembered");
    side_->addWidget(why_);
    addCopyButton(side_);
    side_->addStretch();
    connect(check_, &QPushButton::clicked, this, &RelationPage::check);
    for (QLineEdit* f : {every_, alpha_}) connect(f, &QLineEdit::returnPressed, this, &RelationPage::check);
    connect(fixIt_, &QPushButton::clicked, this, &RelationPage::fix);
    connect(label_, &QPushButton::clicked, this, &RelationPage::label);
    connect(remember_, &QPushButton::clicked, this, &RelationPage::remember);
    for (QPushButton* b : {fixIt_, label_, remember_}) addRowCommand(moments_, b);
}

bool RelationPage::eventFilter(QObject* watched, QEvent* event) {
    if (watched != moments_ || event->type() != QEvent::KeyPress)
        return BenchPage::eventFilter(watched, event);
    const auto* key = static_cast<QKeyEvent*>(event);
    QPushButton* button = key->modifiers() != Qt::NoModifier ? nullptr
                          : key->key() == Qt::Key_F          ? fixIt_
                          : key->key() == Qt::Key_L          ? label_
                          : key->key() == Qt::Key_E          ? remember_
                                                             : nullptr;
    if (!button) return BenchPage::eventFilter(watched, event);
    button->click();
    return true;
}

QString RelationPage::title() const {
    const Tag* tag = numberTag();
    return tag ? QString::fromStdString(tag->path()).replace("/", " · ") + " against companions" : "Relation";
}

QString RelationPage::state() const {
    if (!checked_) return {};
    const Tag* tag = session_.tag(checked_->question.of);
    if (!tag) return {};
    if (numberTag() && numberTag()->id != tag->id)
        return "shown: " + QString::fromStdString(tag->path()) + ", as checked";
    return markOf(checked_->question) == checked_->mark
               ? QString()
               : QString("made before the samples changed: check again");
}

QString RelationPage::pointerText() const {
    const auto t = plot_->pointer();
    if (!t || !checked_) return {};
    const TagRelation& made = checked_->made;
    const auto after = std::upper_bound(made.times.begin(), made.times.end(), *t);
    if (after == made.times.begin()) return {};
    const auto row = static_cast<std::size_t>(after - made.times.begin()) - 1;
    const Tag* tag = session_.tag(checked_->question.of);
    const QString unit = tag ? QString::fromStdString(tag->unit) : QString();
    return QString("%1 · %2 · remains %3, with the moments found %4")
        .arg(momentText(session_, made.times[row]), valueText(made.values[row], unit),
             valueText(made.relation.before.remainder[row], unit, true),
             valueText(made.relation.after.remainder[row], unit, true));
}

void RelationPage::proposeCompanions() {
    const Tag* tag = numberTag();
    picker_->fill(tag ? tag->id : TagId());
    if (!tag || proposedFor_ == tag->id) return;
    proposedFor_ = tag->id;
    std::vector<TagId> twin;
    for (const Tag& t : possibleTwins(session_.study(), *tag))
        if (t.asset == tag->asset && twin.empty()) twin.push_back(t.id);
    picker_->setChosen(twin);
}

void RelationPage::refresh() {
    const Tag* tag = numberTag();
    proposeCompanions();
    says_->setText(tag ? QString::fromStdString(tag->name) + ", explained by" : QString("Relation"));
    check_->setEnabled(tag);
    if (!checked_)
        plot_->setEmptyText(
            tag ? "Tick the companions that should explain it, and check the relation."
                : "Choose a tag of numbers in the plant panel to check it against its companions.");
    emit titleChanged();
}

std::optional<RelationQuestion> RelationPage::question() {
    const Tag* tag = numberTag();
    if (!tag) return {};
    RelationQuestion out;
    out.of = tag->id;
    out.on = picker_->chosen();
    out.which = session_.view().which();
    if (over_->currentIndex() == kView) out.range = session_.view().view();
    const auto every = periodNamed(every_->text().trimmed().toStdString());
    markWrong(every_, !every, "write a length like 1h or 15m, or day");
    bool good = false;
    const double alpha = alpha_->text().trimmed().replace(',', '.').toDouble(&good);
    good = good && alpha > 0 && alpha <= 0.2;
    markWrong(alpha_, !good, "a share above 0, up to 0.2");
    if (!every || !good) return {};
    out.every = *every;
    out.search.alpha = alpha;
    out.search.kinds.clear();
    for (const auto& [box, kind] : {std::pair{points_, IndicatorKind::Point},
                                    {levels_, IndicatorKind::Level},
                                    {trends_, IndicatorKind::Trend}})
        if (box->isChecked()) out.search.kinds.push_back(kind);
    out.logarithms = of_->currentIndex() >= kLogarithms;
    out.differences = of_->currentIndex() == kDifferences || of_->currentIndex() == kLogDifferences;
    return out;
}

std::string RelationPage::markOf(const RelationQuestion& question) const {
    std::string out;
    std::vector<TagId> tags{question.of};
    tags.insert(tags.end(), question.on.begin(), question.on.end());
    for (const TagId id : tags)
        if (const Tag* tag = session_.tag(id))
            out += StudyMarks(session_.study()).ofSamples(*tag, question.which) + " ";
    return out;
}

void RelationPage::check() {
    const auto asked = question();
    if (!asked) return;
    check_->setEnabled(false);
    fit_->setText("checking …");
    session_.runJob(
        this, "relation", "Checking the relation",
        [asked = *asked, mark = markOf(*asked), this](JobContext& job) -> std::function<void()> {
            auto made = checkRelation(job.study, asked, job.progress);
            if (job.progress.stopped(1)) return {};
            if (!made)
                return [this, why = made.error()] {
                    if (!why.isCancelled()) emit session_.failed(QString::fromStdString(why.message));
                };
            auto checked = std::make_shared<const Checked>(Checked{asked, std::move(*made), mark});
            return [this, checked] { take(checked); };
        },
        false,
        [this] {
            check_->setEnabled(numberTag());
            showFit();
        });
}

void RelationPage::take(std::shared_ptr<const Checked> checked) {
    checked_ = std::move(checked);
    moments_->setCurrentIndex({});
    showPanes();
    showTables();
    showFit();
    showMarks();
    const TimeRange view = session_.view().view();
    const auto& times = checked_->made.times;
    if (times.back() <= view.from || times.front() >= view.to)
        session_.view().jumpTo({times.front(), times.back()});
    emit titleChanged();
}

/// Above the tag and what the relation makes of it, below what remains, without and with the moments.
void RelationPage::showPanes() {
    if (!checked_) return plot_->setPanes({});
    const TagRelation& made = checked_->made;
    const Tag* tag = session_.tag(checked_->question.of);
    if (!tag) return plot_->setPanes({});
    const bool plain = !checked_->question.logarithms;
    const QString unit = plain ? QString::fromStdString(tag->unit) : QString();
    const Theme& theme = session_.theme();
    Duration row = kHour;
    for (std::size_t i = 1; i < made.times.size(); ++i)
        row = i == 1 ? made.times[1] - made.times[0] : std::min(row, made.times[i] - made.times[i - 1]);
    // A mean holds for its row; months are longer than the shortest of them.
    const Bridging bridging{TagKind::Stepped, row + row / 8};
    const auto trace = [&](const QString& name, const QColor& colour, auto valueOf) {
        auto series = std::make_shared<Series>();
        for (std::size_t i = 0; i < made.times.size(); ++i) series->push(made.times[i], valueOf(i));
        return memoryTrace(series, name, unit, colour, bridging);
    };
    const QColor quiet = quietTrace(theme);
    const auto& before = made.relation.before.remainder;
    const auto& after = made.relation.after.remainder;
    std::vector<PaneSpec> panes(2);
    panes[0].traces = {
        trace("explained", theme.traces[1], [&](std::size_t i) { return made.values[i] - after[i]; }),
        trace(QString::fromStdString(tag->name), theme.traces[0],
              [&](std::size_t i) { return made.values[i]; })};
    panes[1].traces = {
        trace("remains", quiet, [&](std::size_t i) { return before[i]; }),
        trace("remains with the moments found", theme.traces[2], [&](std::size_t i) { return after[i]; })};
    panes[0].stretch = panes[1].stretch = 1;
    panes[1].zeroLine = true;
    plot_->setPanes(std::move(panes));
}

void RelationPage::showMarks() {
    std::vector<SpanMark> marks;
    if (checked_)
        for (const FoundIndicator& f : checked_->made.relation.found) {
            SpanMark& m = marks.emplace_back();
            const Instant at = checked_->made.times[f.row];
            m.range = {at, at + kNanosecond};
            m.colour = session_.theme().accent;
            m.line = true;
            m.strong = &f == chosen();
            m.text = momentName(f.kind) + " " + valueText(f.size, {}, true);
        }
    plot_->setMarks(std::move(marks));
}

void RelationPage::showTables() {
    const auto before = currentKey(moments_);
    std::vector<RowsModel::Row> rows, coefficients;
    if (checked_ && session_.tag(checked_->question.of)) {
        const Relation& r = checked_->made.relation;
        const auto judged = judgedMoments(session_.study(), checked_->question, checked_->made);
        for (std::size_t i = 0; i < r.found.size(); ++i) {
            const FoundIndicator& f = r.found[i];
            const Instant at = checked_->made.times[f.row];
            RowsModel::Row& row = rows.emplace_back(RowsModel::Row{
                static_cast<std::int64_t>(i + 1),
                {momentText(session_, at), momentName(f.kind),
                 valueText(f.size, {}, true) + " ± " + valueText(f.error), QString::number(f.t, 'f', 1),
                 judged[i] ? "the process: " + QString::fromStdString(judged[i]->why) : ""}});
            row.sortBy(0, at);
            row.number(2, f.size);
            row.number(3, f.t);
            if (judged[i]) row.ink = session_.theme().second;
        }
        const std::size_t plain = r.before.coefficients.size();
        const auto words = [](const Coefficient& c) {
            return QString("%1 ± %2 (t %3)").arg(valueText(c.value), valueText(c.error), tText(c.t));
        };
        for (std::size_t i = 0; i < plain; ++i) {
            const Coefficient &a = r.before.coefficients[i], &b = r.after.coefficients[i];
            const Tag* by = i > 0 ? session_.tag(checked_->question.on[i - 1]) : nullptr;
            const bool own = by && by->asset == session_.tag(checked_->question.of)->asset;
            RowsModel::Row& row = coefficients.emplace_back(
                RowsModel::Row{static_cast<std::int64_t>(i + 1),
                               {QString::fromStdString(own ? by->name : a.name), words(a), words(b)}});
            row.number(1, a.value);
            row.number(2, b.value);
        }
    }
    momentRows_->setRows(std::move(rows));
    coefficientRows_->setRows(std::move(coefficients));
    if (const int row = momentRows_->rowOf(before); before > 0 && row >= 0) moments_->selectRow(row);
    for (QPushButton* b : {fixIt_, label_, remember_}) b->setEnabled(chosen());
    emit titleChanged();
}

/// How well it holds, without the moments found → with them.
std::vector<std::pair<QString, QString>> RelationPage::fitFigures() const {
    const Relation& r = checked_->made.relation;
    const auto p = [](double before, double after) {
        const auto text = [](double v) {
            return v < 0.001 ? QString("< 0.001") : QString::number(v, 'f', 3);
        };
        return text(before) + " → " + text(after);
    };
    return {
        {"R²", QString("%1 → %2").arg(r.before.r2, 0, 'f', 4).arg(r.after.r2, 0, 'f', 4)},
        {"remains (s)", valueText(r.before.s) + " → " + valueText(r.after.s)},
        {"p, no autocorrelation", p(r.diagnosticsBefore.autocorrelation, r.diagnosticsAfter.autocorrelation)},
        {"p, normal", p(r.diagnosticsBefore.normality, r.diagnosticsAfter.normality)}};
}

void RelationPage::showFit() {
    if (!checked_) {
        fit_->setText({});
        byChance_->setText({});
        return;
    }
    const Relation& r = checked_->made.relation;
    showFigures(fit_, fitFigures());
    QString words = QString(
                        "%1 rows, %2 left out without a value. %3 moments found among %4 candidates; "
                        "about %5 by chance")
                        .arg(checked_->made.times.size())
                        .arg(checked_->made.leftOut)
                        .arg(r.found.size())
                        .arg(r.candidates)
                        .arg(r.expectedByChance, 0, 'f', 1);
    words += r.diagnosticsAfter.autocorrelation < 0.01
                 ? ", more where the remainder is autocorrelated, as here: take a longer step or differences."
                 : ".";
    byChance_->setText(words);
}

const FoundIndicator* RelationPage::chosen() const {
    const auto key = currentKey(moments_);
    if (!checked_ || key < 1 || static_cast<std::size_t>(key) > checked_->made.relation.found.size())
        return nullptr;
    return &checked_->made.relation.found[static_cast<std::size_t>(key - 1)];
}

void RelationPage::go() {
    for (QPushButton* b : {fixIt_, label_, remember_}) b->setEnabled(chosen());
    if (!chosen()) return;
    why_->setText(QString::fromStdString(momentReason(session_.study(), checked_->question, *chosen())));
    why_->setCursorPosition(0);
    const Instant at = checked_->made.times[chosen()->row];
    const TimeRange view = session_.view().view();
    if (at >= view.from && at < view.to) return;
    session_.view().jumpTo({at - view.length() / 2, at + view.length() / 2});
}

void RelationPage::fix() {
    if (!chosen()) return;
    const auto fix = fixOfMoment(session_.study(), checked_->question, checked_->made, *chosen());
    if (!session_.report(fix)) return;
    emit fixAsked(*fix, why_->text().trimmed().isEmpty() ? QString::fromStdString(fix->why) : why_->text());
}

void RelationPage::label() {
    const Tag* tag = chosen() ? session_.tag(checked_->question.of) : nullptr;
    if (!tag) return;
    const TimeRange row = rowOfMoment(checked_->made, *chosen());
    session_.view().select(tag->asset, tag->id);
    emit asked(LabelStretch{row});
}

void RelationPage::remember() {
    if (!chosen()) return;
    const FoundIndicator moment = *chosen();
    const auto place = static_cast<std::size_t>(&*chosen() - checked_->made.relation.found.data());
    const bool known = judgedMoments(session_.study(), checked_->question, checked_->made)[place].has_value();
    session_.tryChange([&] {
        session_.report(known ? forgetMoment(session_.study(), checked_->question, checked_->made, moment)
                              : rememberMoment(session_.study(), checked_->question, checked_->made, moment,
                                               why_->text().trimmed().toStdString()));
    });
}

QString RelationPage::figures() const {
    const auto all = [](const QTableView* table) {
        std::vector<int> rows;
        for (int i = 0; i < table->model()->rowCount(); ++i) rows.push_back(i);
        return tableText(table, rows, TableForm::Tabs);
    };
    QString out;
    if (checked_)
        for (const auto& [words, value] : fitFigures()) out += words + "\t" + value + "\n";
    return out + "\n" + all(coefficients_) + "\n" + all(moments_);
}

}  // namespace jacinth::app
