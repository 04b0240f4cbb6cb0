#include "app/screen/causes_page.h"

#include <algorithm>

#include "app/base/ui.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/causes/act_on_cause.h"
#include "work/runs/edit_runs.h"

namespace jacinth::app {
namespace {

constexpr std::int64_t kUnexplained = -1;  // the key of their row

KeptExcursion asKept(const Study& study, const ExplainedExcursion& e) {
    const Tag* tag = study.catalog().tag(e.tag);
    KeptExcursion out;
    out.span = Span{{}, tag ? tag->asset : AssetId(), e.tag, e.excursion.start, e.excursion.end, {}};
    out.run = e.run;
    out.role = e.role;
    out.side = e.excursion.side;
    out.severity = e.excursion.severity;
    return out;
}

QString counted(std::size_t n, const char* one) {
    return QString("%1 %2%3").arg(n).arg(one, n == 1 ? "" : "s");
}

}  // namespace

CausesPage::CausesPage(Session& session, ScreenState& state) : BenchPage(session, false), screen_(state) {
    buildMiddle();
    buildInspector();
    connect(&screen_, &ScreenState::trackChanged, this, &CausesPage::refreshSoon);
    refreshSoon();
}

void CausesPage::buildMiddle() {
    sheet_ = new RunSheet(session_);
    sheetTitle_ = makeLabel("Runs of the fleet", "section");
    sheetWords_ = makeLabel("", "second");
    sheetWords_->setObjectName("causesLeft");
    all_ = new QCheckBox("leave all causes out");
    all_->setObjectName("causesAllOut");
    all_->setToolTip("What remains on the sheet is unexplained: that is where to look");
    find_ = makeButton("Find causes", "findCauses");
    find_->setFixedHeight(24);
    status_ = makeLabel("", "second");
    status_->setObjectName("causesStatus");
    auto* head = new QHBoxLayout;
    head->addWidget(sheetTitle_);
    head->addSpacing(8);
    head->addWidget(sheetWords_, 1);
    head->addWidget(all_);
    model_ = new RowsModel({"left out", "what", "since", "excursions", "hours", "sure", "why"}, this);
    table_ = makeTable(model_, "causeList", {58, 206, 92, 72, 54, 50, 0});
    auto* listHead = new QHBoxLayout;
    listHead->addWidget(makeLabel("What stands behind the excursions", "section"));
    listHead->addSpacing(8);
    listHead->addWidget(status_, 1);
    listHead->addWidget(find_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 4);
    column->setSpacing(6);
    column->addLayout(head);
    column->addWidget(sheet_);
    column->addLayout(listHead);
    column->addWidget(table_, 1);
    connect(find_, &QPushButton::clicked, this, &CausesPage::find);
    connect(all_, &QCheckBox::clicked, this, [this](bool on) {
        out_.clear();
        if (on && found_)
            for (const Cause& cause : found_->causes) out_.insert(cause.id);
        leaveOut();
    });
    connect(model_, &RowsModel::tickToggled, this, [this](std::int64_t key, bool on) {
        if (on)
            out_.insert(static_cast<int>(key));
        else
            out_.erase(static_cast<int>(key));
        leaveOut();
    });
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this] {
        showChosen();
        mark();
    });
    connect(sheet_, &RunSheet::cellChosen, this, [this](SpanId run, const QString& role) {
        sheet_->setCurrent(run, role.toStdString());
        session_.view().selectRun(run);
        const FoundCauses* shown = shownNow();
        if (!shown) return;
        for (const ExplainedExcursion& e : shown->excursions)
            if (e.run == run && e.role == role.toStdString()) {
                const int row = model_->rowOf(e.cause ? RowKey(e.cause) : RowKey(kUnexplained));
                if (row >= 0) table_->selectRow(row);
                break;
            }
    });
    connect(sheet_, &RunSheet::cellOpened, this, [this](SpanId run, const QString&) { emit runAsked(run); });
    connect(sheet_, &RunSheet::goldenToggled, this, [this](SpanId run) {
        session_.tryChange([&] { toggleGolden(session_.study(), screen_.trackId(), run); });
    });
}

void CausesPage::buildInspector() {
    chosenTitle_ = makeLabel("Chosen cause", "section");
    chosenTitle_->setWordWrap(true);
    chosenSays_ = makeLabel("", "");
    chosenSays_->setObjectName("causeChosen");
    chosenSays_->setWordWrap(true);
    side_->addWidget(chosenTitle_);
    side_->addWidget(chosenSays_);
    see_ = makeButton("See it in Survey", "causeSee", true);
    takeOut_ = makeButton("Take the step out", "causeTakeOut");
    mend_ = makeButton("Mend it", "causeMend");
    limits_ = makeButton("New limits from then on", "causeLimits");
    limits_->setToolTip("For this asset, from its runs since then that have no other cause");
    label_ = makeButton("Label it", "causeLabel");
    apart_ = makeButton("Set its excursions apart", "causeApart");
    why_ = makeField("causeWhy", "Reason");
    why_->setPlaceholderText("reason");
    side_->addWidget(see_);
    side_->addWidget(takeOut_);
    side_->addWidget(mend_);
    side_->addWidget(limits_);
    side_->addWidget(label_);
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("Known and accepted?", "section"));
    auto* words = makeLabel(
        "Its excursions are dismissed with a reason: they no longer count and stay on record.", "second");
    words->setWordWrap(true);
    side_->addWidget(words);
    side_->addWidget(why_);
    side_->addWidget(apart_);
    side_->addStretch();
    addRowCommand(table_, "See it in Survey", [this] { see(); });
    for (QPushButton* b : {takeOut_, mend_, limits_, label_, apart_}) addRowCommand(table_, b);
    connect(table_, &QTableView::doubleClicked, see_, &QPushButton::click);
    connect(see_, &QPushButton::clicked, this, &CausesPage::see);
    connect(takeOut_, &QPushButton::clicked, this, &CausesPage::takeOut);
    connect(limits_, &QPushButton::clicked, this, &CausesPage::makeLimits);
    connect(apart_, &QPushButton::clicked, this, &CausesPage::setChosenApart);
    connect(why_, &QLineEdit::returnPressed, apart_, &QPushButton::click);
    connect(mend_, &QPushButton::clicked, this, [this] {
        if (const Cause* cause = chosen(); cause && !cause->effects.empty()) {
            session_.lookAt(cause->asset, cause->tags.front());
            emit asked(MendStretch{cause->effects.front().range});
        }
    });
    connect(label_, &QPushButton::clicked, this, [this] {
        if (const Cause* cause = chosen()) {
            session_.lookAt(cause->asset, cause->tags.empty() ? TagId() : cause->tags.front());
            emit asked(LabelStretch{cause->range});
        }
    });
}

void CausesPage::entered() {
    BenchPage::entered();
    sheet_->setFocus();
    if (!found_ && !excursionsOf(session_.study()).empty()) find();
}

void CausesPage::refresh() {
    if (track_ != screen_.trackId()) {
        found_.reset();
        left_.reset();
        out_.clear();
    }
    const bool none = excursionsOf(session_.study()).empty();
    find_->setEnabled(!none);
    if (!found_)
        status_->setText(none ? "none yet: build limits and screen on the sheet, then come back" : "");
    else
        status_->setText(session_.study().history().newest() == foundAt_
                             ? QString()
                             : "found before the last change: find them again");
    showSheet();
    showTable();
    showChosen();
}

void CausesPage::setBusy(bool busy, const QString& words) {
    find_->setEnabled(!busy);
    if (!words.isEmpty()) status_->setText(words);
}

void CausesPage::find() {
    const TrackId track = screen_.trackId();
    if (!track) return;
    setBusy(true, "looking …");
    const Which which = session_.view().which();
    session_.runJob(
        this, "causes", "Looking for causes",
        [this, track, which](JobContext& job) -> std::function<void()> {
            const StepId at = job.study.history().newest();
            auto found = findCauses(job.study, track, "", screenSpecOf(job.study), which, job.progress);
            return [this, at, track, found = std::move(found)]() mutable {
                if (!session_.report(found)) return status_->setText("");
                foundAt_ = at;
                track_ = track;
                take(std::move(*found));
            };
        },
        false, [this] { setBusy(false, ""); });
}

void CausesPage::take(FoundCauses found) {
    found_ = std::move(found);
    left_.reset();
    out_.clear();
    all_->setChecked(false);
    refresh();
    if (!found_->causes.empty()) table_->selectRow(model_->rowOf(RowKey(found_->causes.front().id)));
}

void CausesPage::leaveOut() {
    if (!found_) return;
    if (out_.empty()) {
        left_.reset();
        return refresh();
    }
    sheetWords_->setText("screening without them …");
    const Which which = session_.view().which();
    const std::vector<int> without(out_.begin(), out_.end());
    session_.runJob(
        this, "without", "Screening without causes",
        [this, found = *found_, without, track = track_, which](JobContext& job) -> std::function<void()> {
            auto left = withoutCauses(job.study, found, without, track, "", screenSpecOf(job.study), which,
                                      job.progress);
            return [this, left = std::move(left)]() mutable {
                if (!session_.report(left)) return;
                left_ = std::move(*left);
                refresh();
            };
        });
}

void CausesPage::showSheet() {
    const Study& study = session_.study();
    const TrackId track = screen_.trackId();
    std::vector<Span> runs = track ? study.tracks().spans(track) : std::vector<Span>{};
    std::stable_sort(runs.begin(), runs.end(), [&](const Span& a, const Span& b) {
        const Asset *one = study.catalog().asset(a.asset), *other = study.catalog().asset(b.asset);
        return one && other && one->name < other->name;
    });
    std::set<std::string> limited;
    for (const LimitSet& set : study.judgement().limitSets())
        if (set.track == track)
            for (const auto& [role, limits] : set.byRole) limited.insert(role);
    std::vector<RunSheet::RowName> rows;
    for (const Tag& tag : study.catalog().tags())
        if (limited.erase(tag.role) > 0) rows.push_back({tag.role, QString::fromStdString(tag.name)});
    std::vector<KeptExcursion> kept;
    std::set<SpanId> touched, before;
    if (const FoundCauses* shown = shownNow()) {
        for (const ExplainedExcursion& e : shown->excursions)
            kept.push_back(asKept(study, e)), touched.insert(e.run);
        for (const ExplainedExcursion& e : found_->excursions) before.insert(e.run);
        sheetWords_->setText(left_
                                 ? QString("without %1: %2 in %3, instead of %4 in %5")
                                       .arg(counted(out_.size(), "cause"), counted(kept.size(), "excursion"),
                                            counted(touched.size(), "run"))
                                       .arg(found_->excursions.size())
                                       .arg(before.size())
                                 : QString("%1 in %2 of %3 runs")
                                       .arg(counted(kept.size(), "excursion"))
                                       .arg(touched.size())
                                       .arg(runs.size()));
    } else {
        for (KeptExcursion& e : excursionsOf(study))
            if (e.dismissed.empty()) kept.push_back(std::move(e));
        sheetWords_->setText(kept.empty() ? QString() : counted(kept.size(), "excursion"));
    }
    sheet_->setSheet(std::move(runs), std::move(rows), kept,
                     track ? goldenReasons(study, track) : std::map<SpanId, std::string>{},
                     study.tracks().spansOf(track_kind::kStops));
    mark();
}

RowsModel::Row CausesPage::rowOf(const Cause& cause) const {
    const FoundCauses& all = *found_;
    const double hours = all.hours(cause.id);
    RowsModel::Row row{RowKey(cause.id),
                       {"", QString::fromStdString(causeTitle(session_.study(), cause)),
                        cause.range.from <= session_.study().record().from
                            ? QString("the start")
                            : QString::fromStdString(session_.zone().shortText(cause.range.from)),
                        QString::number(all.count(cause.id)), QString::number(hours, 'f', 1),
                        QString("%1 %").arg(100 * cause.sure, 0, 'f', 0), QString::fromStdString(cause.why)}};
    row.ticked = out_.contains(cause.id);
    row.sortBy(2, cause.range.from);
    row.number(3, static_cast<double>(all.count(cause.id)));
    row.number(4, hours, "h");
    row.number(5, 100 * cause.sure, "%");
    return row;
}

void CausesPage::showTable() {
    std::vector<RowsModel::Row> rows;
    words_.clear();
    if (found_) {
        const std::size_t unexplained = found_->count(0);
        RowsModel::Row row{RowKey(kUnexplained),
                           {"", "Unexplained", "", QString::number(unexplained),
                            QString::number(found_->hours(0), 'f', 1), "", "here is where to look"}};
        row.number(3, static_cast<double>(unexplained));
        row.number(4, found_->hours(0), "h");
        row.ink = session_.theme().accent;
        rows.push_back(std::move(row));
        for (const Cause& cause : found_->causes) rows.push_back(rowOf(cause));
        words_ =
            QString("%1 · %2 · %3 unexplained")
                .arg(counted(found_->excursions.size(), "excursion"), counted(found_->causes.size(), "cause"))
                .arg(unexplained);
    }
    const std::int64_t before = currentKey(table_);
    model_->setRows(std::move(rows));
    if (const int row = model_->rowOf(before); before && row >= 0) table_->selectRow(row);
    emit titleChanged();
}

const Cause* CausesPage::chosen() const {
    const std::int64_t key = currentKey(table_);
    return found_ && key > 0 ? found_->cause(static_cast<int>(key)) : nullptr;
}

void CausesPage::mark() {
    std::set<std::pair<SpanId, std::string>> cells;
    const std::int64_t key = currentKey(table_);
    if (const FoundCauses* shown = shownNow(); shown && key)
        for (const ExplainedExcursion& e : shown->excursions)
            if (e.cause == (key == kUnexplained ? 0 : static_cast<int>(key))) cells.insert({e.run, e.role});
    sheet_->setMarked(std::move(cells));
}

}  // namespace jacinth::app
