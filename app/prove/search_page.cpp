#include "app/prove/search_page.h"

#include <QApplication>
#include <QPointer>
#include <cmath>

#include "app/prove/proof_words.h"
#include "core/base/text.h"

namespace jacinth::app {
namespace {

constexpr std::size_t kMostRows = 200;
const char* const kNoSettings =
    "A search needs numbers that it may change. Write them as settings, like {limit}, or let the numbers of "
    "the rule become settings.";

std::optional<double> numberIn(QLineEdit* field, bool positive = true) {
    const auto v = finiteNumber(field->text().trimmed().toStdString());
    const bool good = v && (!positive || *v >= 0);
    markWrong(field, !good, "a number");
    return good ? v : std::nullopt;
}

QString numbersText(const std::vector<Vary>& vary, const Settings& settings) {
    QStringList out;
    for (const Vary& v : vary)
        out << QString::fromStdString(v.name) + " " + QString::number(settings.at(v.name), 'g', 4);
    return out.join(", ");
}

}  // namespace

SearchPage::SearchPage(Session& session, ProveState& state) : BenchPage(session, false), prove_(state) {
    buildMiddle();
    buildInspector();
    connect(&state, &ProveState::ruleChanged, this, [this] {
        fillRanges();
        showFound();
    });
    connect(&state, &ProveState::ruleTaken, this, [this] {
        for (Range& r : fields_) r.typed = false;
        fillRanges();
        showFound();
    });
    connect(&state.starting(), &StartingNumbers::found, this, &SearchPage::proposeRanges);
    fillRanges();
    followAim();
    showFound();
}

void SearchPage::buildMiddle() {
    verdict_ = makeLabel("", "verdict");
    verdict_->setObjectName("searchVerdict");
    verdict_->setWordWrap(true);
    best_ = makeLabel("", "second");
    best_->setObjectName("searchBest");
    best_->setWordWrap(true);
    curve_ = new SearchCurve(session_);
    map_ = new SearchMap(session_);
    tradeOff_ = new TradeOff(session_);
    empty_ = makeLabel("", "second");
    empty_->setWordWrap(true);
    empty_->setAlignment(Qt::AlignCenter);
    model_ = new RowsModel({"settings", "caught", "false a month", "came true", "in alarm"}, this);
    table_ = makeTable(model_, "searchTable", {0, 80, 100, 110, 80});
    auto* charts = new QHBoxLayout;
    charts->setSpacing(16);
    charts->addWidget(curve_, 1);
    charts->addWidget(map_, 1);
    charts->addWidget(tradeOff_, 1);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    column->addWidget(verdict_);
    column->addWidget(best_);
    column->addLayout(charts, 3);
    column->addWidget(empty_, 1);
    column->addWidget(table_, 2);
    for (SearchChart* chart : {static_cast<SearchChart*>(curve_), static_cast<SearchChart*>(map_),
                               static_cast<SearchChart*>(tradeOff_)})
        connect(chart, &SearchChart::picked, this, &SearchPage::pick);
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this] {
        if (const std::int64_t key = currentKey(table_)) pick(static_cast<std::size_t>(key - 1));
    });
    connect(table_, &QTableView::doubleClicked, this,
            [this] { takeSetting(static_cast<std::size_t>(currentKey(table_) - 1)); });
    addRowCommand(table_, "Take these settings",
                  [this] { takeSetting(static_cast<std::size_t>(currentKey(table_) - 1)); });
}

void SearchPage::buildInspector() {
    side_->addWidget(makeLabel("Vary", "section"));
    none_ = makeLabel(kNoSettings, "second");
    none_->setWordWrap(true);
    side_->addWidget(none_);
    name_ = makeButton("Make its numbers settings", "searchName");
    side_->addWidget(name_);
    ranges_ = new QWidget;
    grid_ = new QGridLayout(ranges_);
    grid_->setContentsMargins(0, 0, 0, 0);
    grid_->setSpacing(4);
    side_->addWidget(ranges_);
    side_->addWidget(makeRule());
    aim_ = makeChoice("searchAim", "Aim", {"most catches", "catches and true alarms", "least cost"});
    addRow(side_, "Aim", aim_);
    falseAtMost_ = makeField("searchFalse", "False alarms an asset-month at most");
    falseAtMost_->setText("0.3");
    falseRow_ = makeFields("False at most", {{"a month", falseAtMost_}});
    side_->addWidget(falseRow_);
    missed_ = makeField("searchCostMissed", "Cost of a missed failure");
    false_ = makeField("searchCostFalse", "Cost of a false alarm");
    caught_ = makeField("searchCostCaught", "Cost of a failure that was caught");
    missed_->setText("10"), false_->setText("1"), caught_->setText("2");
    costRow_ = makeFields("Costs", {{"miss", missed_}, {"false", false_}, {"caught", caught_}}, 44);
    side_->addWidget(costRow_);
    alarmedAtMost_ = makeField("searchAlarmed", "In alarm at most");
    alarmedAtMost_->setText("25");
    alarmedAtMost_->setToolTip(
        "A rule that is nearly always true is one long alarm: it would catch everything and warn of nothing");
    side_->addWidget(makeFields("In alarm at most", {{"% of the time", alarmedAtMost_}}));
    leaveOut_ = makeChoice("searchLeaveOut", "Left out", {"each failure", "each asset", "the later half"});
    addRow(side_, "Leave out", leaveOut_);
    tries_ = makeField("searchTries", "Searches on moved failures");
    tries_->setText("200");
    tries_->setToolTip("The same search on failures moved at random: how often does it do as well?");
    addRow(side_, "Random tries", tries_);
    start_ = makeButton("Search", "searchStart", true);
    stop_ = makeButton("Stop", "searchStop");
    stop_->setEnabled(false);
    auto* row = new QHBoxLayout;
    row->addWidget(start_, 1);
    row->addWidget(stop_);
    side_->addLayout(row);
    side_->addWidget(makeRule());
    takeBest_ = makeButton("Take the best", "searchTakeBest");
    takePicked_ = makeButton("Take the chosen one", "searchTakePicked");
    side_->addWidget(takeBest_);
    side_->addWidget(takePicked_);
    side_->addStretch();
    connect(name_, &QPushButton::clicked, this, &SearchPage::nameNumbers);
    connect(aim_, &QComboBox::activated, this, &SearchPage::followAim);
    connect(start_, &QPushButton::clicked, this, &SearchPage::start);
    connect(stop_, &QPushButton::clicked, this, [this] { session_.cancelJobsOf(this); });
    connect(takeBest_, &QPushButton::clicked, this, [this] {
        if (search_) takeSetting(search_->found.result.best);
    });
    connect(takePicked_, &QPushButton::clicked, this, [this] {
        if (picked_) takeSetting(*picked_);
    });
}

void SearchPage::followAim() {
    falseRow_->setVisible(aim_->currentIndex() == 0);
    costRow_->setVisible(aim_->currentIndex() == 2);
}

/// A row for each setting of the current rule; what was typed for a name stays.
void SearchPage::fillRanges() {
    const std::vector<std::string> names = settingsIn(prove_.rule().text);
    none_->setVisible(names.empty());
    name_->setVisible(names.empty());
    name_->setEnabled(prove_.provable() && !withNamedNumbers(prove_.rule().text).settings.empty());
    ranges_->setVisible(!names.empty());
    start_->setEnabled(prove_.provable() && !names.empty());
    const bool same = std::equal(names.begin(), names.end(), fields_.begin(), fields_.end(),
                                 [](const std::string& a, const Range& b) { return a == b.name; });
    if (isVisible()) prove_.findRanges();
    if (same) return proposeRanges();
    fields_.clear();
    while (QLayoutItem* item = grid_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    for (const auto& [column, words] : {std::pair{1, "from"}, {2, "to"}, {3, "steps"}})
        grid_->addWidget(makeLabel(words, "second"), 0, column);
    for (const std::string& name : names) addRange(name);
    proposeRanges();
}

/// Where nothing was typed: from what the tags do, as soon as that is known.
void SearchPage::proposeRanges() {
    for (const Range& r : fields_) {
        const auto now = prove_.rule().settings.find(r.name);
        if (r.typed || now == prove_.rule().settings.end()) continue;
        const StartingSetting* found = prove_.starting().of(r.name);
        StartingSetting range = found ? *found : settingAround(r.name, now->second);
        reach(range.vary, now->second);
        r.low->setText(QString::number(range.vary.low, 'g', 6));
        r.high->setText(QString::number(range.vary.high, 'g', 6));
        r.steps->setText(QString::number(range.vary.steps));
        r.vary->setToolTip("Not ticked: it stays as it is. The range is taken from " +
                           QString::fromStdString(range.from));
    }
}

void SearchPage::addRange(const std::string& name) {
    const QString words = QString::fromStdString(name);
    Range r;
    r.name = name;
    r.vary = new QCheckBox(words);
    r.vary->setObjectName("vary_" + words);
    r.low = makeField("varyLow_" + words, words + " from");
    r.high = makeField("varyHigh_" + words, words + " to");
    r.steps = makeField("varySteps_" + words, words + " in so many steps");
    r.vary->setChecked(fields_.size() < 2);
    const int row = static_cast<int>(fields_.size()) + 1;
    grid_->addWidget(r.vary, row, 0);
    int column = 1;
    for (QLineEdit* f : {r.low, r.high, r.steps}) {
        f->setMinimumWidth(44);
        grid_->addWidget(f, row, column++);
        f->setEnabled(r.vary->isChecked());
        connect(r.vary, &QCheckBox::toggled, f, &QWidget::setEnabled);
        connect(f, &QLineEdit::returnPressed, this, &SearchPage::start);
        connect(f, &QLineEdit::textEdited, this, [this, name] {
            for (Range& own : fields_)
                if (own.name == name) own.typed = true;
        });
    }
    fields_.push_back(r);
}

void SearchPage::nameNumbers() {
    Rule rule = prove_.rule();
    const NamedNumbers named = withNamedNumbers(rule.text, rule.settings);
    rule.text = named.text;
    rule.settings = named.settings;
    prove_.take(rule);
}

std::optional<SearchRequest> SearchPage::request() {
    SearchRequest out;
    out.prove = prove_.request();
    bool good = true;
    for (const Range& r : fields_) {
        if (!r.vary->isChecked()) continue;
        const auto low = numberIn(r.low, false), high = numberIn(r.high, false), steps = numberIn(r.steps);
        const bool whole = steps && *steps >= 2 && *steps == std::floor(*steps) && *steps <= kMostSettings;
        if (steps) markWrong(r.steps, !whole, "a whole number, 2 or more");
        if (low && high) markWrong(r.high, *high <= *low, "more than where it begins");
        if (!low || !high || !whole || *high <= *low) {
            good = false;
            continue;
        }
        out.vary.push_back({r.name, *low, *high, static_cast<int>(*steps)});
        out.prove.settings.erase(r.name);
    }
    const auto most = numberIn(falseAtMost_), alarmed = numberIn(alarmedAtMost_), missed = numberIn(missed_),
               falseCost = numberIn(false_), caught = numberIn(caught_), tries = numberIn(tries_);
    if (!good || !most || !alarmed || !missed || !falseCost || !caught || !tries) return {};
    out.aim.kind = static_cast<AimKind>(aim_->currentIndex());
    out.aim.falseAtMost = *most;
    out.aim.alarmedAtMost = *alarmed / 100;
    out.aim.costs = {*missed, *falseCost, *caught};
    out.leaveOut = {static_cast<LeaveOut>(leaveOut_->currentIndex())};
    out.shuffles = static_cast<int>(std::min(*tries, 100'000.0));
    return out;
}

void SearchPage::running(bool on) {
    start_->setEnabled(!on && prove_.provable() && !fields_.empty());
    stop_->setEnabled(on);
}

void SearchPage::start() {
    const auto asked = request();
    if (!asked) return;
    running(true);
    searching_ = false;
    words_ = "searching…";
    emit titleChanged();
    const auto shownOf = [asked = *asked, yours = prove_.rule().settings](const Searched& found) {
        return std::make_shared<ShownSearch>(ShownSearch{asked.vary, found, asked.aim, yours});
    };
    searched_ = prove_.rule();
    QPointer<SearchPage> here(this);
    session_.runJob(
        this, "search", "Searching",
        [this, here, asked = *asked, shownOf](JobContext& job) -> std::function<void()> {
            const auto soFar = [&](const Searched& found) {
                auto search = shownOf(found);
                QMetaObject::invokeMethod(qApp, [here, search] {
                    if (here) here->take(search, false);
                });
            };
            auto found = searchRule(job.study, asked, job.progress, soFar);
            return [this, shownOf, found = std::move(found)] {
                if (session_.report(found)) take(shownOf(*found), true);
            };
        },
        false,
        [this] {
            running(false);
            if (search_) showFound();
            words_ = {};
            emit titleChanged();
        });
}

void SearchPage::take(std::shared_ptr<ShownSearch> search, bool whole) {
    // What was picked while it runs stays picked.
    const auto picked = search_ && searching_ ? picked_ : std::nullopt;
    search_ = std::move(search);
    whole_ = whole;
    searching_ = !whole;
    picked_.reset();
    takePicked_->setText("Take the chosen one");
    for (SearchChart* chart : {static_cast<SearchChart*>(curve_), static_cast<SearchChart*>(map_),
                               static_cast<SearchChart*>(tradeOff_)})
        chart->show(search_);
    fillTable();
    showFound();
    if (picked) pick(*picked);
}

void SearchPage::refresh() {
    fillRanges();
    showFound();
}

/// The best, and how far each number may be moved.
QString SearchPage::bestWords() const {
    const SearchResult& r = search_->found.result;
    const Tally& t = r.tallies[r.best];
    if (!search_->found.isAllowed())
        return QString("%1 settings tried. ").arg(search_->found.settings.size()) +
               QString::fromStdString(whyNoneAllowed(t));
    QStringList flat;
    for (const auto& [name, range] : r.flat)
        if (range.first < range.second)
            flat << QString("%1 from %2 to %3")
                        .arg(QString::fromStdString(name))
                        .arg(range.first, 0, 'g', 4)
                        .arg(range.second, 0, 'g', 4);
    QString words = QString("Best of %1: %2. It catches %3 of %4 with %5 false alarms an asset-month. ")
                        .arg(search_->found.settings.size())
                        .arg(numbersText(search_->vary, search_->found.settings[r.best]))
                        .arg(t.caught)
                        .arg(t.caught + t.missed)
                        .arg(t.falsePerAssetMonth, 0, 'f', 2);
    if (search_->aim.kind == AimKind::Cost) words += QString("Cost %1. ").arg(-r.scores[r.best], 0, 'g', 6);
    if (!search_->found.atEnds.empty()) {
        QStringList ends;
        for (const std::string& end : search_->found.atEnds) ends << QString::fromStdString(end);
        return words + ends.join(" and ") + " at the end of the range: search further.";
    }
    const Tally& beside = r.tallies[r.worstBeside];
    if (r.depth > 1)
        words += "It lies on flat ground: as good with " + flat.join(", ") + ".";
    else if (r.scores[r.worstBeside] == r.scores[r.best])
        words += "It lies at the edge of what was searched: go further.";
    else
        words += QString("It is fragile: a step beside it %1 of %2 are caught with %3 false alarms.")
                     .arg(beside.caught)
                     .arg(beside.caught + beside.missed)
                     .arg(beside.falsePerAssetMonth, 0, 'f', 2);
    return words;
}

/// What was found, and what is to be thought of it.
void SearchPage::showFound() {
    const std::size_t varied = search_ ? search_->vary.size() : 0;
    curve_->setVisible(varied == 1);
    map_->setVisible(varied == 2);
    tradeOff_->setVisible(varied > 0);
    table_->setVisible(varied > 0);
    best_->setVisible(varied > 0);
    verdict_->setVisible(varied > 0 && search_->found.isAllowed());
    empty_->setVisible(varied == 0);
    takeBest_->setEnabled(search_ && std::isfinite(search_->found.result.scores[search_->found.result.best]));
    takePicked_->setEnabled(picked_.has_value());
    if (!search_) {
        empty_->setText(fields_.empty() ? kNoSettings
                                        : "Say from where to where each number may go, and press Search: the "
                                          "curve, the best, and whether it is more than luck.");
        return;
    }
    best_->setText(bestWords());
    const bool changed = searched_.text != prove_.rule().text || searched_.spec != prove_.rule().spec ||
                         searched_.failures != prove_.rule().failures ||
                         searched_.masks != prove_.rule().masks;
    const bool luck = whole_ && search_->found.shuffled.tries > 0 &&
                      verdictOf(search_->found.shuffled) == SearchVerdict::Luck;
    setRole(verdict_, changed || luck ? "verdictBad" : "verdict");
    verdict_->setText(
        changed   ? "The rule was changed after this search."
        : !whole_ ? soFarWords()
                  : QString::fromStdString(
                        search_->found.verdict.empty()
                            ? verdictSentence({}, leftOutShown(),
                                              search_->found.result.tallies[search_->found.result.best])
                            : search_->found.verdict));
}

/// While it runs, and after it was stopped.
QString SearchPage::soFarWords() const {
    const Searched& found = search_->found;
    if (found.onAssets < found.ofAssets)
        return QString(stop_->isEnabled() ? "So far on %1 of %2 assets."
                                          : "Stopped: searched on %1 of %2 assets alone.")
            .arg(found.onAssets)
            .arg(found.ofAssets);
    return "Searched; not compared with failures it had not seen yet.";
}

LeftOut SearchPage::leftOutShown() const {
    return search_->found.leftOut.empty() ? LeftOut{} : search_->found.leftOut.front();
}

/// The front first, then the others by their score.
void SearchPage::fillTable() {
    const SearchResult& r = search_->found.result;
    std::vector<std::size_t> order(search_->found.settings.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return r.scores[a] > r.scores[b]; });
    std::stable_partition(order.begin(), order.end(), [&](std::size_t i) { return i == r.best; });
    const auto front = std::stable_partition(order.begin() + 1, order.end(), [&](std::size_t i) {
        return std::find(r.front.begin(), r.front.end(), i) != r.front.end();
    });
    const auto onFront = static_cast<std::size_t>(front - order.begin());
    shownOf_ = order.size() > kMostRows
                   ? QString("the best %1 of %2 are listed").arg(kMostRows).arg(order.size())
                   : QString();
    if (order.size() > kMostRows) order.resize(kMostRows);
    std::vector<RowsModel::Row> rows;
    for (std::size_t n = 0; n < order.size(); ++n) {
        const std::size_t i = order[n];
        const Tally& t = r.tallies[i];
        const bool allowed = std::isfinite(r.scores[i]);
        QString name = numbersText(search_->vary, search_->found.settings[i]);
        if (i == r.best && allowed)
            name += " · best";
        else if (n < onFront)
            name += " · on the front";
        RowsModel::Row row{static_cast<std::int64_t>(i) + 1,
                           {name, QString("%1 of %2").arg(t.caught).arg(t.caught + t.missed),
                            QString::number(t.falsePerAssetMonth, 'f', 2),
                            QString("%1 of %2").arg(t.cameTrue).arg(t.cameTrue + t.falseAlarms),
                            QString("%1 %").arg(t.alarmedShare * 100, 0, 'f', 1)}};
        row.number(1, t.caught);
        row.number(2, t.falsePerAssetMonth);
        row.number(3, t.cameTrueShare());
        row.number(4, t.alarmedShare * 100, "%");
        if (!allowed) row.ink = session_.theme().second;
        rows.push_back(std::move(row));
    }
    const QSignalBlocker quiet(table_->selectionModel());
    model_->setRows(std::move(rows));
}

void SearchPage::pick(std::size_t setting) {
    if (!search_ || setting >= search_->found.settings.size() || picked_ == setting) return;
    picked_ = setting;
    for (SearchChart* chart : {static_cast<SearchChart*>(curve_), static_cast<SearchChart*>(map_),
                               static_cast<SearchChart*>(tradeOff_)})
        chart->setPicked(setting);
    const QSignalBlocker quiet(table_->selectionModel());
    if (const int row = model_->rowOf(static_cast<std::int64_t>(setting) + 1); row >= 0)
        table_->selectRow(row);
    else
        table_->clearSelection();
    takePicked_->setEnabled(true);
    takePicked_->setText("Take " + numbersText(search_->vary, search_->found.settings[setting]));
}

/// Its numbers become those of the current rule.
void SearchPage::takeSetting(std::size_t setting) {
    if (!search_ || setting >= search_->found.settings.size()) return;
    prove_.setSettings(search_->found.settings[setting]);
    if (whole_ && setting == search_->found.result.best) prove_.setSearched(search_->found.verdict);
}

}  // namespace jacinth::app
