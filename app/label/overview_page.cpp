#include "app/label/overview_page.h"

#include <QScrollArea>

#include "app/label/label_list.h"
#include "store/judgement.h"
#include "work/label/labels.h"

namespace jacinth::app {
namespace {

constexpr std::size_t kMostDays = 20, kMostMarks = 50;

}  // namespace

OverviewPage::OverviewPage(Session& session) : BenchPage(session, false) {
    build();
    connect(view_, &OverviewView::opened, this, [this](AssetId asset, TimeRange range) {
        session_.lookAt(asset);
        session_.view().setView(range);
        emit tracesAsked();
    });
    connect(by_, &QComboBox::activated, this, &OverviewPage::refreshSoon);
    connect(&session.view(), &ViewState::groupingChanged, this, &OverviewPage::refreshSoon);
    connect(fact_, &QComboBox::activated, this, &OverviewPage::fillFact);
    connect(next_, &QTableView::doubleClicked, this, [this](const QModelIndex& i) {
        openNext(static_cast<int>(i.data(Qt::UserRole).toLongLong()) - 1);
    });
    addRowCommand(next_, "Look at it", [this] { openNext(static_cast<int>(currentKey(next_)) - 1); });
}

void OverviewPage::build() {
    view_ = new OverviewView(session_);
    auto* area = new QScrollArea;
    area->setWidget(view_);
    area->setWidgetResizable(true);
    area->setFrameShape(QFrame::NoFrame);
    nextModel_ = new RowsModel({"asset", "from", "why"}, this);
    next_ = makeTable(nextModel_, "nextTable", {80, 120, 0});
    next_->setMinimumHeight(180);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(area, 1);
    column->addWidget(makeLabel("Next worth labelling", "section"));
    column->addWidget(next_, 1);
    by_ = makeChoice("overviewBy", "Columns", {"weeks", "runs"});
    addRow(side_, "Columns", by_);
    auto* legend = makeLabel(
        "A number counts marks; the stronger its ground, the more of the time is labelled; a bar below says "
        "that "
        "some are unsure or not named yet. A click goes there.",
        "second");
    legend->setWordWrap(true);
    side_->addWidget(legend);
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("By kind", "section"));
    kindModel_ = new RowsModel({"kind", "marks", "time"}, this);
    kinds_ = makeTable(kindModel_, "overviewKinds", {0, 46, 94});
    side_->addWidget(kinds_);
    side_->addWidget(makeLabel("By whom", "section"));
    whoModel_ = new RowsModel({"who", "marks", "time"}, this);
    people_ = makeTable(whoModel_, "overviewPeople", {0, 46, 94});
    side_->addWidget(people_);
    byGroup_ = makeLabel("By group", "section");
    side_->addWidget(byGroup_);
    groupModel_ = new RowsModel({"group", "marks", "time"}, this);
    groups_ = makeTable(groupModel_, "overviewGroups", {0, 46, 94});
    side_->addWidget(groups_);
    side_->addWidget(makeLabel("By fact", "section"));
    fact_ = makeChoice("overviewFact", "Fact of the marks", {});
    side_->addWidget(fact_);
    factModel_ = new RowsModel({"value", "marks", "time"}, this);
    facts_ = makeTable(factModel_, "overviewFacts", {0, 46, 94});
    side_->addWidget(facts_);
    side_->addStretch();
}

void OverviewPage::refresh() {
    LabelOverview overview;
    if (by_->currentIndex() == 1) {
        auto made = overviewByRun(session_.study(), session_.view().grouping());
        if (!made) {
            view_->say(QString::fromStdString(made.error().message));
        } else {
            overview = std::move(*made);
        }
    } else {
        overview = overviewByWeek(session_.study(), session_.view().grouping());
    }
    counts_ = {{}, overview.byKind, overview.byWho, overview.byFact, overview.byGroup};
    fillShares();
    if (!overview.rows.empty())
        view_->show(std::move(overview));
    else if (by_->currentIndex() == 0)
        view_->say("Import a record first (Ctrl+I).");
    searchNext();
}

void OverviewPage::fillCounts(RowsModel* model, QTableView* table, const Counts& counts,
                              const QString& unnamed) {
    const LabelBook book = session_.study().judgement().labelBook();
    std::vector<RowsModel::Row> rows;
    for (const auto& [name, count] : counts) {
        RowsModel::Row row{static_cast<std::int64_t>(rows.size()) + 1,
                           {name.empty() ? unnamed : QString::fromStdString(name),
                            QString::number(count.marks), QString::fromStdString(sayDuration(count.length))}};
        row.values[1] = count.marks;
        row.sortBy(2, count.length);
        if (model == kindModel_) row.swatch = labelColour(session_, book, name);
        rows.push_back(std::move(row));
    }
    table->setFixedHeight(24 + 21 * std::clamp<int>(static_cast<int>(rows.size()), 2, 8));
    model->setRows(std::move(rows));
}

void OverviewPage::fillShares() {
    int all = 0;
    for (const auto& [kind, count] : counts_.byKind) all += count.marks;
    fillCounts(kindModel_, kinds_, listed(counts_.byKind), "not named yet");
    fillCounts(whoModel_, people_, listed(counts_.byWho), "unknown");
    const std::string& fact = session_.view().grouping().fact;
    byGroup_->setVisible(!fact.empty());
    groups_->setVisible(!fact.empty());
    byGroup_->setText("By " + QString::fromStdString(fact));
    fillCounts(groupModel_, groups_, counts_.byGroup, "");
    QStringList names;
    for (const auto& [name, values] : counts_.byFact) names << QString::fromStdString(name);
    refillChoice(fact_, names.isEmpty() ? "no facts yet" : "choose a fact", names);
    fact_->setEnabled(!names.isEmpty());
    fillFact();
    state_ = all == 0 ? "nothing is labelled yet" : QString("%1 marks").arg(all);
    emit titleChanged();
}

void OverviewPage::fillFact() {
    const auto found =
        counts_.byFact.find(fact_->currentIndex() > 0 ? fact_->currentText().toStdString() : "");
    facts_->setVisible(found != counts_.byFact.end());
    if (found != counts_.byFact.end()) fillCounts(factModel_, facts_, listed(found->second), "none");
}

void OverviewPage::searchNext() {
    const Which which = session_.view().which();
    session_.runJob(this, "worth labelling", "Looking for what is next worth labelling",
                    [this, which](JobContext& job) -> std::function<void()> {
                        const auto days = daysWorthLabelling(job.study, kMostDays, which, job.progress);
                        return [this, days] {
                            if (days) fillNext(*days);
                        };
                    });
}

void OverviewPage::fillNext(const std::vector<DayWorthLabelling>& days) {
    places_.clear();
    std::vector<RowsModel::Row> rows;
    const auto nameOf = [&](AssetId id) {
        const Asset* asset = session_.study().catalog().asset(id);
        return asset ? QString::fromStdString(asset->name) : QString();
    };
    const auto add = [&](Place place, const QString& why) {
        places_.push_back(place);
        RowsModel::Row row{
            static_cast<std::int64_t>(places_.size()),
            {nameOf(place.asset), QString::fromStdString(session_.zone().shortText(place.range.from)), why}};
        row.sortBy(1, place.range.from);
        rows.push_back(std::move(row));
    };
    const Grouping& grouping = session_.view().grouping();
    for (const Span& s : labelsOf(session_.study())) {
        if (places_.size() >= kMostMarks) break;
        if (!isIn(session_.study(), grouping, s.asset)) continue;
        const bool unnamed = factText(s.facts, label_fact::kKind).empty();
        if (unnamed || certaintyOf(s) == kCertainties[2])
            add({s.id, s.asset, s.range()},
                unnamed ? QString("a mark that is not named yet") : "unsure: " + labelName(s));
    }
    for (const DayWorthLabelling& d : days) {
        if (!isIn(session_.study(), grouping, d.asset)) continue;
        const QString other = QString("%1 on %2")
                                  .arg(nameOf(d.otherAsset),
                                       QString::fromStdString(session_.zone().shortDate(d.otherDay.from)));
        const QString away = QString(" (distance %1)").arg(d.distance, 0, 'f', 1);
        add({{}, d.asset, d.day}, d.likeUnsure ? "a day much like the unsure one of " + other + away
                                  : d.hasOther ? "a day unlike anything labelled; nearest is " + other + away
                                               : "a day unlike the others" + away);
    }
    nextModel_->setRows(std::move(rows));
}

void OverviewPage::openNext(int row) {
    if (row < 0 || row >= std::ssize(places_)) return;
    const Place place = places_[static_cast<std::size_t>(row)];
    if (place.label) return emit markAsked(place.label);
    session_.lookAt(place.asset);
    session_.view().setView(place.range);
    emit tracesAsked();
}

}  // namespace jacinth::app
