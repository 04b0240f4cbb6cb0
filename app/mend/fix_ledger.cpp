#include "app/mend/fix_ledger.h"

#include "app/base/ui.h"
#include "store/judgement.h"
#include "work/mend/mending.h"

namespace jacinth::app {
namespace {

constexpr int kTagColumn = 4;  // shown where there are fixes of other tags

}  // namespace

FixLedger::FixLedger(Session& session) : ListUnderPlot(session) {
    model_ = new RowsModel({"on", "fix", "from – to", "amount", "tag", "why", "by", "entered"}, this);
    table_ = makeTable(model_, "fixLedger", {30, 58, 178, 128, 110, 0, 52, 98});
    all_ = new QCheckBox("all tags");
    all_->setObjectName("ledgerAllTags");
    all_->setChecked(true);
    headRow_->addWidget(all_);
    makeStatus("ledgerSays")->setText("every fix can be switched off again");
    empty_ = makeLabel(
        "No fixes yet. Drag a handle or type an amount, say why, and enter it: fixes stand here in the order "
        "in which they act. The logged samples are never touched.",
        "second");
    empty_->setObjectName("ledgerEmpty");
    empty_->setWordWrap(true);
    empty_->setAlignment(Qt::AlignTop);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    column->addWidget(table_, 1);
    column->addWidget(empty_, 1);
    up_ = makeButton("Earlier", "fixUp");
    down_ = makeButton("Later", "fixDown");
    remove_ = makeButton("Remove", "removeFix");
    up_->setToolTip("Let the chosen fix act before the one ahead of it");
    down_->setToolTip("Let the chosen fix act after the one behind it");
    connect(all_, &QCheckBox::clicked, this, &FixLedger::fill);
    connect(model_, &RowsModel::tickToggled, this, [this](std::int64_t id, bool on) {
        session_.tryChange([&] { session_.report(switchFix(session_.study(), FixId(id), on)); });
    });
    connect(table_, &QTableView::doubleClicked, this, [this] { emit opened(chosen()); });
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this] {
        updateButtons();
        emit chosenChanged();
    });
    addRowCommand(table_, "Edit this fix", [this] { emit opened(chosen()); });
    addRowCommand(table_, "Switch on or off", [this] {
        act([](Study& study, FixId id) -> Status {
            const auto fix = fixOf(study, id);
            if (!fix) return fix.error();
            return switchFix(study, id, !fix->on);
        });
    });
    for (QPushButton* b : {up_, down_, remove_}) addRowCommand(table_, b);
    connect(up_, &QPushButton::clicked, this,
            [this] { act([](Study& s, FixId id) { return moveFix(s, id, true); }); });
    connect(down_, &QPushButton::clicked, this,
            [this] { act([](Study& s, FixId id) { return moveFix(s, id, false); }); });
    connect(remove_, &QPushButton::clicked, this,
            [this] { act([](Study& s, FixId id) { return removeFix(s, id); }); });
    updateButtons();
}

QWidget* FixLedger::makeButtons() {
    auto* row = new QWidget;
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    for (QPushButton* b : {up_, down_, remove_}) line->addWidget(b);
    return row;
}

void FixLedger::act(const std::function<Status(Study&, FixId)>& change) {
    const FixId id = chosen();
    if (id) session_.tryChange([&] { session_.report(change(session_.study(), id)); });
}

void FixLedger::choose(FixId fix) {
    if (const int row = model_->rowOf(fix); row >= 0) table_->selectRow(row);
}

void FixLedger::updateButtons() {
    const auto fix = chosen() ? fixOf(session_.study(), chosen()) : Result<Fix>(Error{""});
    bool first = true, last = true;
    if (fix) {
        const auto& own = session_.study().judgement().fixes(fix->tag);
        first = own.empty() || own.front().id == fix->id;
        last = own.empty() || own.back().id == fix->id;
    }
    up_->setEnabled(fix && !first);
    down_->setEnabled(fix && !last);
    remove_->setEnabled(bool(fix));
}

RowsModel::Row FixLedger::rowOf(const Fix& f) const {
    const Tag* t = session_.tag(f.tag);
    const Zone& zone = session_.zone();
    RowsModel::Row row{f.id,
                       {"", fixKindName(f.kind()),
                        QString::fromStdString(zone.shortText(f.from) + " – " + zone.shortText(f.to)),
                        QString::fromStdString(fixAmount(session_.study(), f)),
                        t ? QString::fromStdString(t->path()) : QString(), QString::fromStdString(f.why),
                        QString::fromStdString(f.who), QString::fromStdString(zone.shortText(f.entered))}};
    row.ticked = f.on;
    row.sortBy(0, f.on);
    row.sortBy(2, f.from);
    row.sortBy(7, f.entered);
    row.exact[2].text = QString::fromStdString(toIso(f.from) + "/" + toIso(f.to));
    if (f.tag != session_.view().tag() || !f.on) row.ink = session_.theme().second;
    return row;
}

void FixLedger::fill() {
    const FixId before = chosen();
    std::vector<RowsModel::Row> rows, others;
    for (const Fix& f : session_.study().judgement().allFixes()) {
        const bool own = f.tag == session_.view().tag();
        if (own || all_->isChecked()) (own ? rows : others).push_back(rowOf(f));
    }
    rows.insert(rows.end(), std::make_move_iterator(others.begin()), std::make_move_iterator(others.end()));
    table_->setColumnHidden(kTagColumn, others.empty());
    table_->setHidden(rows.empty());
    empty_->setVisible(rows.empty());
    model_->setRows(std::move(rows));
    if (before) choose(before);
    updateButtons();
}

}  // namespace jacinth::app
