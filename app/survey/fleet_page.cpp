#include "app/survey/fleet_page.h"

#include "app/base/id_variant.h"
#include "app/base/tables.h"
#include "work/settings/facts.h"

namespace jacinth::app {

FleetPage::FleetPage(Session& session) : BenchPage(session) {
    setObjectName("Fleet");
    view_ = new FleetView(session);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(view_, 1);

    side_->addWidget(makeLabel("The fleet", "section"));
    role_ = makeChoice("fleetRole", "Role", {});
    profile_ = makeChoice("fleetProfile", "Compare",
                          {"profiles over a run", "profiles over a day", "moment by moment"});
    addRow(side_, "role", role_);
    addRow(side_, "compare", profile_);
    order_ = makeChoice("fleetOrder", "Order", {"oddest first", "group by group"});
    addRow(side_, "order", order_);
    state_ = makeLabel("", "second");
    state_->setWordWrap(true);
    side_->addWidget(state_);
    model_ = new RowsModel({"asset", "odd", "middle", "5 – 95 %"}, this);
    table_ = makeTable(model_, "fleetTable", {0, 44, 56, 92});
    table_->setFixedHeight(24 + 21 * 6);
    side_->addWidget(table_);
    addCopyButton(side_);
    side_->addWidget(makeRule());
    factOf_ = makeLabel("", "section");
    side_->addWidget(factOf_);
    known_ = makeLabel("", "second");
    known_->setWordWrap(true);
    known_->setObjectName("fleetFacts");
    side_->addWidget(known_);
    factName_ = makeField("fleetFactName", "Name of the fact");
    factName_->setPlaceholderText("like heat recovery");
    factValue_ = makeField("fleetFactValue", "Value of the fact");
    factValue_->setPlaceholderText("like yes");
    addRow(side_, "fact", factName_);
    addRow(side_, "is", factValue_);
    record_ = makeButton("Record the fact", "recordFact");
    side_->addWidget(record_);
    auto* traces = makeButton("See its traces", "fleetTraces");
    for (QPushButton* b : {traces, record_}) addRowCommand(table_, b);
    side_->addWidget(traces);
    side_->addStretch();

    connect(role_, &QComboBox::currentTextChanged, this, [this] {
        if (filling_) return;
        emit titleChanged();
        refreshSoon();
    });
    connect(profile_, &QComboBox::currentIndexChanged, this, &FleetPage::refreshSoon);
    connect(order_, &QComboBox::activated, this, &FleetPage::showInOrder);
    connect(&session.view(), &ViewState::groupingChanged, this, &FleetPage::refreshSoon);
    connect(view_, &FleetView::pointed, this, &BenchPage::pointerMoved);
    connect(view_, &FleetView::chosen, this, [this](AssetId asset) { session_.lookAt(asset); });
    connect(view_, &FleetView::opened, this, [this](AssetId asset, Instant at) {
        session_.lookAt(asset);
        session_.view().setCursor(0, at);
        emit tracesAsked();
    });
    connect(table_, &QTableView::clicked, this,
            [this](const QModelIndex& i) { session_.lookAt(idFrom<AssetId>(i.data(Qt::UserRole))); });
    connect(traces, &QPushButton::clicked, this, &BenchPage::tracesAsked);
    connect(record_, &QPushButton::clicked, this, &FleetPage::recordFact);
    connect(&session.view(), &ViewState::selectionChanged, this, [this] {
        view_->choose(session_.view().asset());
        fillTable();
    });
    fillRoles();
}

void FleetPage::fillRoles() {
    filling_ = true;
    const QString before = role_->currentText();
    role_->clear();
    const Catalog& catalog = session_.study().catalog();
    for (const std::string& role : catalog.roles()) {
        const auto numbers = std::count_if(catalog.tags().begin(), catalog.tags().end(), [&](const Tag& t) {
            return t.role == role && t.kind != TagKind::State;
        });
        if (numbers > 0) role_->addItem(QString::fromStdString(role));
    }
    const Tag* tag = session_.tag(session_.view().tag());
    const QString wanted = !before.isEmpty() ? before : tag ? QString::fromStdString(tag->role) : QString();
    if (const int at = role_->findText(wanted); at >= 0) role_->setCurrentIndex(at);
    filling_ = false;
}

QString FleetPage::title() const {
    if (role_->currentText().isEmpty()) return "Fleet";
    const Grouping& grouping = session_.view().grouping();
    return "@" + role_->currentText() + " over " +
           (grouping.only ? QString::fromStdString(groupTitle(grouping)) : "the fleet");
}

void FleetPage::refresh() {
    fillRoles();
    view_->choose(session_.view().asset());
    FleetSpec spec;
    spec.role = role_->currentText().toStdString();
    spec.range = session_.view().view();
    spec.which = session_.view().which();
    if (session_.view().grouping().only) spec.assets = assetsIn(session_.study(), session_.view().grouping());
    spec.profile = static_cast<ProfileBy>(
        std::array<int, 3>{2, 1, 0}[static_cast<std::size_t>(profile_->currentIndex())]);
    if (spec.role.empty())
        return view_->say("No tag with numbers is on record. Import a file with File › Import.");
    session_.runJob(
        this, "fleet", "Comparing the fleet", [this, spec](JobContext& job) -> std::function<void()> {
            auto result = std::make_shared<Result<FleetPicture>>(fleetOf(job.study, spec, job.progress));
            return [this, result] {
                if (!*result) return view_->say(QString::fromStdString(result->error().message));
                show(std::make_shared<const FleetPicture>(std::move(**result)));
            };
        });
}

void FleetPage::show(std::shared_ptr<const FleetPicture> picture) {
    picture_ = std::move(picture);
    showInOrder();
    int runs = 0;
    for (const FleetRow& r : picture_->rows) runs += r.runs;
    const bool fellBack = picture_->spec.profile == ProfileBy::Day && profile_->currentIndex() == 0;
    state_->setText(
        fellBack ? "No runs are found yet (Screen finds them): compared over the plant's day instead."
        : picture_->spec.profile == ProfileBy::Run
            ? QString("Odd: how far from the others' median profile, in their spread. %1 runs in view.")
                  .arg(runs)
            : "Odd: how far from the others' median profile, in their spread.");
    const AssetGroups groups(session_.study(), session_.view().grouping().fact);
    if (!groups.fact().empty()) state_->setText(state_->text() + "\n" + groupWords(groups));
    fillTable();
}

/// How many of each group stand out.
QString FleetPage::groupWords(const AssetGroups& groups) const {
    constexpr double kOdd = 3;
    const auto counts = oddByGroup(*picture_, groups, kOdd);  // odd, all
    QStringList out;
    for (std::size_t g = 0; g < counts.size(); ++g)
        if (counts[g].second > 0)
            out << QString("%1: %2 of %3")
                       .arg(QString::fromStdString(groups.nameOf(groups.all()[g])))
                       .arg(counts[g].first)
                       .arg(counts[g].second);
    return "More than 3 × odd: " + out.join(", ") + ".";
}

/// As it was compared, the oddest first; or so in each group, under its name.
void FleetPage::showInOrder() {
    if (!picture_) return;
    const AssetGroups groups(session_.study(), session_.view().grouping().fact);
    order_->setEnabled(!groups.fact().empty());
    order_->setToolTip(groups.fact().empty() ? "Choose a fact to gather by in the plant panel" : "");
    if (groups.fact().empty() || order_->currentIndex() == 0) return view_->show(picture_);
    auto ordered = std::make_shared<FleetPicture>(*picture_);
    std::stable_sort(ordered->rows.begin(), ordered->rows.end(), [&](const FleetRow& a, const FleetRow& b) {
        return groups.placeOf(a.asset) < groups.placeOf(b.asset);
    });
    std::vector<FleetView::Heading> headings;
    for (std::size_t i = 0; i < ordered->rows.size(); ++i) {
        const std::size_t place = groups.placeOf(ordered->rows[i].asset);
        if (i > 0 && groups.placeOf(ordered->rows[i - 1].asset) == place) continue;
        const auto count = std::count_if(ordered->rows.begin(), ordered->rows.end(),
                                         [&](const FleetRow& r) { return groups.placeOf(r.asset) == place; });
        headings.push_back(
            {i,
             QString("%1 · %2").arg(QString::fromStdString(groups.nameOf(groups.all()[place]))).arg(count)});
    }
    view_->show(ordered, headings);
}

void FleetPage::fillTable() {
    std::vector<RowsModel::Row> rows;
    if (picture_)
        for (const FleetRow& r : picture_->rows) {
            const Asset* a = session_.study().catalog().asset(r.asset);
            RowsModel::Row row{
                r.asset,
                {a ? QString::fromStdString(a->name) : "", QString::number(r.odd.score, 'f', 1),
                 valueText(r.middle), valueText(r.low) + " – " + valueText(r.high)}};
            row.number(1, r.odd.score);
            row.number(2, r.middle);
            if (r.asset == session_.view().asset()) row.ink = session_.theme().accent;
            rows.push_back(std::move(row));
        }
    model_->setRows(std::move(rows));
    const Asset* asset = session_.study().catalog().asset(session_.view().asset());
    factOf_->setText(asset ? QString::fromStdString(asset->name) : "Choose an asset");
    QStringList facts;
    if (asset)
        for (const auto& [name, value] : asset->facts)
            facts << QString::fromStdString(name) + ": " +
                         QString::fromStdString(factText(asset->facts, name));
    known_->setText(facts.isEmpty() ? "No facts are recorded of it." : facts.join("\n"));
    record_->setEnabled(asset);
}

void FleetPage::recordFact() {
    const Asset* asset = session_.study().catalog().asset(session_.view().asset());
    const QString name = factName_->text().trimmed(), value = factValue_->text().trimmed();
    markWrong(factName_, name.isEmpty(), "a fact has a name");
    markWrong(factValue_, value.isEmpty(), "a fact has a value");
    if (!asset || name.isEmpty() || value.isEmpty()) return;
    const auto change = factChange(session_.study(), name.toStdString(), value.toStdString());
    if (!change) return markWrong(factName_, true, QString::fromStdString(change.error().message));
    const bool done =
        session_.tryChange([&] { session_.report(changeFacts(session_.study(), {asset->id}, {*change})); });
    if (!done) return;
    factName_->clear();
    factValue_->clear();
    fillTable();
}

QString FleetPage::figures() const {
    QString out = "asset\toddness\tleast\t5 %\t25 %\t50 %\t75 %\t95 %\tgreatest\tsamples\n";
    if (!picture_) return out;
    for (const FleetRow& r : picture_->rows) {
        const Asset* a = session_.study().catalog().asset(r.asset);
        QStringList cells{a ? QString::fromStdString(a->name) : ""};
        for (const double v :
             {r.odd.score, r.least, r.low, r.lowerQuartile, r.middle, r.upperQuartile, r.high, r.greatest})
            cells << fullNumber(v);
        out += cells.join('\t') + "\t" + QString::number(r.samples) + "\n";
    }
    return out;
}

}  // namespace jacinth::app
