#include "app/screen/excursions_page.h"

#include "app/base/asset_choice.h"
#include "app/base/label_menu.h"
#include "app/base/names.h"
#include "app/base/tables.h"
#include "store/tracks.h"
#include "work/base/asset_groups.h"
#include "work/limits/excursion_tables.h"

namespace jacinth::app {
namespace {

constexpr std::array<std::pair<const char*, CountBy>, 4> kAlwaysBy{{{"by week", CountBy::Week},
                                                                    {"by phase", CountBy::Phase},
                                                                    {"by asset", CountBy::ByAsset},
                                                                    {"by tag", CountBy::ByTag}}};
constexpr int kFactRole = Qt::UserRole + 1;

void addCountBy(QComboBox* box, const QString& words, CountBy by, const std::string& fact = {}) {
    box->addItem(words, static_cast<int>(by));
    box->setItemData(box->count() - 1, QString::fromStdString(fact), kFactRole);
}

}  // namespace

ExcursionsPage::ExcursionsPage(Session& session, ScreenState& state)
    : BenchPage(session, false), screen_(state) {
    buildMiddle();
    buildInspector();
    connect(&screen_, &ScreenState::trackChanged, this, &ExcursionsPage::refreshSoon);
    connect(&session.view(), &ViewState::groupingChanged, this, &ExcursionsPage::refreshSoon);
    refreshSoon();
}

void ExcursionsPage::buildMiddle() {
    severity_ = makeChoice("excursionSeverity", "Severity",
                           {"every severity", "middling and above", "serious and above", "grave"});
    where_ = makeChoice("excursionWhere", "Where", {"the whole fleet", "this asset", "the time in view"});
    tag_ = makeChoice("excursionTag", "Tag", {"every tag"});
    highLow_ = makeChoice("excursionSide", "Side", {"both sides", "high", "low"});
    dismissed_ = new QCheckBox("dismissed too");
    dismissed_->setObjectName("excursionDismissed");
    auto* filters = new QHBoxLayout;
    filters->setSpacing(6);
    for (QComboBox* box : {severity_, where_, tag_, highLow_}) {
        filters->addWidget(box);
        connect(box, &QComboBox::activated, this, &ExcursionsPage::refresh);
    }
    filters->addWidget(dismissed_);
    filters->addStretch();
    connect(dismissed_, &QCheckBox::toggled, this, &ExcursionsPage::refresh);
    model_ = new RowsModel({"tag", "run", "start", "length", "peak", "area", "phase", "state"}, this);
    table_ = makeTable(model_, "excursionList", {112, 76, 100, 86, 82, 90, 84, 0});
    by_ = makeChoice("excursionBy", "Count by", {});
    for (const auto& [words, by] : kAlwaysBy) addCountBy(by_, words, by);
    figure_ = makeChoice("excursionFigure", "Figure", {"hours", "number"});
    narrowed_ = makeLabel("", "second");
    all_ = makeButton("Show all", "excursionAll");
    all_->setProperty("pill", true);
    all_->setFixedHeight(22);
    all_->hide();
    auto* head = new QHBoxLayout;
    head->addWidget(makeLabel("Counted", "section"));
    head->addWidget(by_);
    head->addWidget(figure_);
    head->addWidget(narrowed_, 1);
    head->addWidget(all_);
    bars_ = new ExcursionBars(session_);
    changeSays_ = makeLabel("", "second");
    changeSays_->setObjectName("changeSays");
    changeSays_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    for (QComboBox* box : {by_, figure_})
        connect(box, &QComboBox::activated, this, &ExcursionsPage::showCounts);
    connect(all_, &QPushButton::clicked, this, [this] {
        only_.reset();
        refresh();
    });
    connect(bars_, &ExcursionBars::barChosen, this, &ExcursionsPage::narrowTo);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 4);
    column->setSpacing(6);
    column->addLayout(filters);
    column->addWidget(table_, 3);
    column->addLayout(head);
    column->addWidget(bars_, 2);
    column->addWidget(changeSays_);
}

void ExcursionsPage::buildInspector() {
    side_->addWidget(makeLabel("Chosen excursion", "section"));
    chosenSays_ = makeLabel("", "");
    chosenSays_->setObjectName("excursionChosen");
    chosenSays_->setWordWrap(true);
    side_->addWidget(chosenSays_);
    sheet_ = makeButton("See it on the sheet", "excursionToSheet", true);
    survey_ = makeButton("See it in Survey", "excursionToSurvey");
    label_ = makeButton("Label it", "excursionLabel");
    side_->addWidget(sheet_);
    auto* row = new QHBoxLayout;
    row->addWidget(survey_);
    row->addWidget(label_);
    side_->addLayout(row);
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("Not the process?", "section"));
    auto* words = makeLabel(
        "Dismiss it with a reason: it no longer counts, stays on record, and stays dismissed "
        "when runs are screened again.",
        "second");
    words->setWordWrap(true);
    side_->addWidget(words);
    why_ = makeField("dismissWhy", "Reason");
    why_->setPlaceholderText("reason");
    dismiss_ = makeButton("Dismiss", "dismissExcursion");
    for (QPushButton* b : {sheet_, survey_, label_, dismiss_}) addRowCommand(table_, b);
    addLabelCommand(
        table_, "Label it as…", session_,
        [this] { return chosen() ? std::vector<Span>{chosen()->span} : std::vector<Span>(); }, "Excursions");
    addLabelCommand(
        table_, "Label all in the list as…", session_,
        [this] {
            std::vector<Span> all;
            for (const KeptExcursion& e : shown_)
                if (e.dismissed.empty()) all.push_back(e.span);
            return all;
        },
        "Excursions");
    side_->addWidget(why_);
    side_->addWidget(dismiss_);
    side_->addStretch();
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this,
            &ExcursionsPage::showChosen);
    connect(table_, &QTableView::doubleClicked, sheet_, &QPushButton::click);
    connect(sheet_, &QPushButton::clicked, this, [this] {
        if (const auto* e = chosen()) emit excursionAsked(e->span.id);
    });
    connect(survey_, &QPushButton::clicked, this, [this] {
        if (const auto* e = chosen()) emit asked(ShowMoment{e->span.range(), e->span.tag});
    });
    connect(label_, &QPushButton::clicked, this, [this] {
        if (const auto* e = chosen()) emit asked(LabelExcursion{e->span.id});
    });
    connect(dismiss_, &QPushButton::clicked, this,
            [this] { dismiss(chosen() && !chosen()->dismissed.empty()); });
    connect(why_, &QLineEdit::returnPressed, dismiss_, &QPushButton::click);
}

void ExcursionsPage::fillChoices() {
    const QString tag = tag_->currentText();
    tag_->clear();
    tag_->addItem("every tag");
    std::set<std::string> roles;
    for (const KeptExcursion& e : kept_) roles.insert(e.role);
    for (const std::string& r : roles) tag_->addItem(QString::fromStdString(r));
    tag_->setCurrentIndex(std::max(0, tag_->findText(tag)));
    const QString by = by_->currentText();
    constexpr int kAlways = static_cast<int>(kAlwaysBy.size());
    while (by_->count() > kAlways) by_->removeItem(kAlways);
    const std::string& group = session_.view().grouping().fact;
    if (!group.empty()) addCountBy(by_, "by " + QString::fromStdString(group), CountBy::AssetGroup, group);
    for (const std::string& fact : countableFacts(runs_))
        addCountBy(by_, (fact == group ? "by the run's " : "by ") + QString::fromStdString(fact),
                   CountBy::RunFact, fact);
    by_->setCurrentIndex(std::max(0, by_->findText(by)));
}

void ExcursionsPage::refresh() {
    const Study& study = session_.study();
    const TrackId track = screen_.trackId();
    runs_ = track ? study.tracks().spans(track) : std::vector<Span>{};
    kept_ = excursionsOf(study);
    phases_ = track ? phasesOf(study, track) : PhasesOfRuns{};
    fillChoices();
    nameFleet(where_, 0, session_);
    const AssetId asset = session_.view().asset();
    const TimeRange view = session_.view().view();
    std::set<SpanId> ofRuns;
    if (where_->currentIndex() == 1) std::erase_if(runs_, [&](const Span& s) { return s.asset != asset; });
    if (where_->currentIndex() == 2)
        std::erase_if(runs_, [&](const Span& s) { return s.end < view.from || s.start > view.to; });
    std::erase_if(runs_, [&](const Span& s) { return !isIn(study, session_.view().grouping(), s.asset); });
    const AssetGroups groups(study, only_ && onlyBy_ == CountBy::AssetGroup ? onlyFact_ : "");
    for (const Span& r : runs_)
        if (!only_ || (onlyBy_ == CountBy::RunFact
                           ? factText(r.facts, onlyFact_) == (only_->name == "not said" ? "" : only_->name)
                           : onlyBy_ != CountBy::AssetGroup || groups.nameOf(r.asset) == only_->name))
            ofRuns.insert(r.id);
    shown_.clear();
    for (const KeptExcursion& e : kept_) {
        if (!ofRuns.contains(e.run) || !isInBar(e) || e.severity <= severity_->currentIndex() ||
            (tag_->currentIndex() > 0 && e.role != tag_->currentText().toStdString()) ||
            (highLow_->currentIndex() == 1 && e.side != Side::High) ||
            (highLow_->currentIndex() == 2 && e.side != Side::Low) ||
            (!e.dismissed.empty() && !dismissed_->isChecked()))
            continue;
        shown_.push_back(e);
    }
    std::stable_sort(shown_.begin(), shown_.end(), [](const KeptExcursion& a, const KeptExcursion& b) {
        if (a.severity != b.severity) return a.severity > b.severity;
        return a.halfWidths > b.halfWidths;
    });
    narrowed_->setText(only_ ? "only " + QString::fromStdString(only_->name) : QString());
    all_->setVisible(only_.has_value());
    showList();
    showCounts();
    showChosen();
}

bool ExcursionsPage::isInBar(const KeptExcursion& e) const {
    if (!only_) return true;
    const Tag* tag = session_.tag(e.span.tag);
    switch (onlyBy_) {
        case CountBy::Week:
            return e.span.start >= only_->from && e.span.start < session_.zone().addDays(only_->from, 7);
        case CountBy::Phase:
            return phaseAt(e).toStdString() == only_->name;
        case CountBy::ByAsset:
            return tag && tag->assetName == only_->name;
        case CountBy::ByTag:
            return tag && tag->name == only_->name;
        case CountBy::RunFact:
        case CountBy::AssetGroup:
            return true;  // asked of the run
    }
    return true;
}

CountBy ExcursionsPage::countedBy() const {
    return static_cast<CountBy>(by_->currentData().toInt());
}

std::string ExcursionsPage::countedFact() const {
    return by_->currentData(kFactRole).toString().toStdString();
}

QString ExcursionsPage::phaseAt(const KeptExcursion& e) const {
    const auto found = phases_.find(e.run);
    if (found == phases_.end()) return {};
    for (const RunPhase& p : found->second)
        if (e.span.start >= p.range.from && e.span.start < p.range.to) return QString::fromStdString(p.name);
    return {};
}

void ExcursionsPage::showList() {
    std::map<SpanId, const Span*> byId;
    for (const Span& r : runs_) byId[r.id] = &r;
    std::vector<RowsModel::Row> rows;
    double hours = 0;
    std::set<SpanId> touched;
    for (const KeptExcursion& e : shown_) {
        const Tag* tag = session_.tag(e.span.tag);
        const Span* run = byId.contains(e.run) ? byId.at(e.run) : nullptr;
        if (!tag || !run) continue;
        const QString unit = QString::fromStdString(tag->unit);
        RowsModel::Row row{
            e.span.id,
            {QString::fromStdString(tag->name), runName(session_.study(), *run),
             QString::fromStdString(session_.zone().shortText(e.span.start)),
             QString::fromStdString(sayDuration(e.outside)), valueText(e.peak, unit, true),
             QString::fromStdString(areaText(e.area, unit.toStdString())), phaseAt(e),
             QString::fromStdString(e.limits),
             e.dismissed.empty() ? QString() : "dismissed: " + QString::fromStdString(e.dismissed)}};
        row.gem = e.severity;
        row.sortBy(2, e.span.start);
        row.sortBy(3, e.outside);
        row.number(4, e.peak, unit);
        row.number(5, e.area, unit + "·h");
        if (!e.dismissed.empty()) row.ink = session_.theme().second;
        rows.push_back(std::move(row));
        hours += toHours(e.outside);
        touched.insert(e.run);
    }
    const auto before = currentId<SpanId>(table_);
    model_->setGemColours(session_.theme().accent, session_.theme().plot);
    model_->setRows(std::move(rows));
    if (const int row = model_->rowOf(before); before && row >= 0) table_->selectRow(row);
    words_ = kept_.empty() ? QString("none yet: build limits and screen on the sheet")
                           : QString("%1 excursions · %2 h · in %3 of %4 runs")
                                 .arg(shown_.size())
                                 .arg(hours, 0, 'f', 1)
                                 .arg(touched.size())
                                 .arg(runs_.size());
    if (session_.view().grouping().only) words_ += " · only " + fleetWords(session_);
    emit titleChanged();
}

void ExcursionsPage::showCounts() {
    const CountBy by = countedBy();
    ExcursionBars::Picture picture;
    picture.weeks = by == CountBy::Week;
    picture.hours = figure_->currentIndex() == 0;
    if (!shown_.empty()) picture.counts = countExcursions(session_.study(), runs_, shown_, by, countedFact());
    picture.change = changeOverTime(runs_, shown_);
    if (!picture.hours && !picture.weeks)
        std::stable_sort(picture.counts.begin(), picture.counts.end(),
                         [](const auto& a, const auto& b) { return a.count > b.count; });
    const auto& c = picture.change;
    const auto day = [&](Instant t) { return QString::fromStdString(session_.zone().shortDate(t)); };
    if (!c)
        changeSays_->setText("Too few runs, or nothing to see, for a test of change over time.");
    else
        changeSays_->setText(
            QString("%1 about %2 (95 %: %3 to %4): %5 excursions a run before, %6 after; p %7 by permutation")
                .arg(c->change.probability <= 0.05 ? "It changed" : "No sure change; the likeliest is")
                .arg(day(c->at), day(c->from), day(c->to))
                .arg(c->change.before, 0, 'f', 2)
                .arg(c->change.after, 0, 'f', 2)
                .arg(c->change.probability <= 0.001 ? QString("≤ 0.001")
                                                    : "= " + QString::number(c->change.probability, 'f', 3)));
    bars_->show(std::move(picture));
}

void ExcursionsPage::narrowTo(int bar) {
    only_ = bars_->picture().counts[static_cast<std::size_t>(bar)];
    onlyBy_ = countedBy();
    onlyFact_ = countedFact();
    refresh();
}

const KeptExcursion* ExcursionsPage::chosen() const {
    const auto id = currentId<SpanId>(table_);
    for (const KeptExcursion& e : shown_)
        if (e.span.id == id) return &e;
    return nullptr;
}

void ExcursionsPage::showChosen() {
    const KeptExcursion* e = chosen();
    for (QPushButton* b : {sheet_, survey_, label_, dismiss_}) b->setEnabled(e != nullptr);
    why_->setEnabled(e && e->dismissed.empty());
    dismiss_->setText(e && !e->dismissed.empty() ? "Take the dismissal back" : "Dismiss");
    if (!e) {
        chosenSays_->setText("Choose an excursion in the list.");
        return;
    }
    const Tag* tag = session_.tag(e->span.tag);
    const QString unit = QString::fromStdString(tag ? tag->unit : "");
    chosenSays_->setText(
        QString(
            "%1\n%2 for %3, peak %4 beyond the limit at %5, that is %6 half-widths; area %7.\nFound by %8.")
            .arg(QString::fromStdString(tag ? tag->path() : e->role).replace("/", " · "),
                 e->side == Side::High ? "High" : "Low", QString::fromStdString(sayDuration(e->outside)),
                 valueText(e->peak, unit, true),
                 QString::fromStdString(session_.zone().shortText(e->peakTime)),
                 QString::number(e->halfWidths, 'f', 1),
                 QString::fromStdString(areaText(e->area, unit.toStdString())),
                 QString::fromStdString(e->limits)));
    session_.view().selectRun(e->run);
}

void ExcursionsPage::dismiss(bool takeBack) {
    const KeptExcursion* e = chosen();
    if (!e) return;
    const std::string reason = takeBack ? "" : why_->text().trimmed().toStdString();
    markWrong(why_, !takeBack && reason.empty(), "say why: it is kept with the excursion");
    if (!takeBack && reason.empty()) return;
    const KeptExcursion held = *e;
    session_.tryChange([&] { dismissExcursion(session_.study(), held, reason); });
    why_->clear();
}

}  // namespace jacinth::app
