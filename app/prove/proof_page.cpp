#include "app/prove/proof_page.h"

#include <QApplication>
#include <QGridLayout>
#include <QPointer>
#include <cmath>

#include "app/base/label_menu.h"
#include "app/base/names.h"
#include "app/prove/proof_words.h"
#include "store/tracks.h"

namespace jacinth::app {
namespace {

constexpr std::size_t kMostPanes = 4;
constexpr Duration kLongest = 365 * kDay;

QString shortTime(const Session& session, Instant t) {
    return QString::fromStdString(session.zone().shortText(t));
}

}  // namespace

ProofPage::ProofPage(Session& session, ProveState& state) : BenchPage(session, false), prove_(state) {
    buildMiddle();
    buildInspector();
    connect(&state, &ProveState::proved, this, [this] {
        showProof();
        emit titleChanged();
    });
    connect(&state, &ProveState::ruleChanged, this, [this] {
        showLeadUp();
        emit titleChanged();
    });
    connect(&session, &Session::themeChanged, this, &ProofPage::showProof);
    showProof();
}

QString ProofPage::title() const {
    return "The days before each failure";
}

QString ProofPage::state() const {
    const auto failures = failuresOf(session_.study(), prove_.rule().failures);
    const std::size_t n = failures ? failures->size() : 0;
    if (n == 0) return {};
    return n > kMostLinedUp
               ? QString("%1 of %2 failures lined up, from first to last").arg(kMostLinedUp).arg(n)
               : QString("%1 failures lined up at the moment of failure").arg(n);
}

void ProofPage::buildMiddle() {
    leadUp_ = new LeadUpPlot(session_);
    below_ = new QStackedWidget;
    below_->addWidget(buildTables());
    below_->addWidget(buildPartRules());
    below_->setFixedHeight(212);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    column->addLayout(buildLeadUpHead());
    column->addWidget(leadUp_, 1);
    column->addWidget(below_);
    connect(leadUp_, &LeadUpPlot::pointerMoved, this, &ProofPage::pointerMoved);
    connect(leadUp_, &LeadUpPlot::partMarked, this, &ProofPage::findRules);
    connect(leadUp_, &LeadUpPlot::chosen, this, [this](AssetId asset, Instant t) {
        for (const Span& f : session_.study().tracks().spansOf(track_kind::kFailures))
            if (f.asset == asset && f.start == t) return failures_->selectRow(failureModel_->rowOf(f.id));
        failures_->clearSelection();
        failures_->setCurrentIndex({});
    });
    connect(leadUp_, &LeadUpPlot::opened, this,
            [this](AssetId asset, Instant t) { emit asked(prove_.pointAtFailure(asset, t)); });
}

QLayout* ProofPage::buildLeadUpHead() {
    look_ = makeChoice("leadUpLook", "How failures are drawn", {"a line a failure", "a band of quantiles"});
    length_ = makeField("leadUpLength", "How long before the failure");
    length_->setText("7d");
    length_->setFixedWidth(56);
    quiet_ = new QCheckBox("stretches without failure");
    quiet_->setObjectName("leadUpQuiet");
    quiet_->setToolTip("As many stretches of the same assets that no failure followed, drawn at random");
    quiet_->setChecked(true);
    also_ = makeField("leadUpTags", "Show beside the rule's tags");
    also_->setPlaceholderText("further roles, like fan_current, or paths");
    auto* head = new QHBoxLayout;
    head->setSpacing(8);
    head->addWidget(look_);
    head->addWidget(makeLabel("over", "second"));
    head->addWidget(length_);
    head->addWidget(quiet_);
    head->addWidget(also_, 1);
    connect(look_, &QComboBox::activated, this, [this] { showLeadUp(); });
    connect(quiet_, &QCheckBox::toggled, this, [this] { showLeadUp(); });
    for (QLineEdit* field : {length_, also_})
        connect(field, &QLineEdit::editingFinished, this, [this] { showLeadUp(); });
    return head;
}

QWidget* ProofPage::buildTables() {
    failureModel_ = new RowsModel({"failure", "when", "verdict", "warning"}, this);
    failures_ = makeTable(failureModel_, "failureTable", {72, 94, 90, 0});
    alarmModel_ = new RowsModel({"alarm", "from", "length", "verdict"}, this);
    alarms_ = makeTable(alarmModel_, "alarmTable", {70, 96, 84, 0});
    alarmState_ = makeLabel("", "second");
    auto* alarmHead = new QHBoxLayout;
    alarmHead->addWidget(makeLabel("Alarms", "section"), 1);
    alarmHead->addWidget(alarmState_);
    auto* out = new QWidget;
    auto* tables = new QGridLayout(out);
    tables->setContentsMargins(0, 0, 0, 0);
    tables->setHorizontalSpacing(20);
    tables->setVerticalSpacing(2);
    tables->addWidget(makeLabel("Failure by failure", "section"), 0, 0);
    tables->addLayout(alarmHead, 0, 1);
    tables->addWidget(failures_, 1, 0);
    tables->addWidget(alarms_, 1, 1);
    tables->setColumnStretch(0, 1);
    tables->setColumnStretch(1, 1);
    connect(failures_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this] {
        const auto span = session_.study().tracks().span(currentId<SpanId>(failures_));
        leadUp_->setStrong(span ? span->asset : AssetId(), span ? span->start : Instant());
    });
    connect(failures_, &QTableView::doubleClicked, this, &ProofPage::showFailure);
    connect(alarms_, &QTableView::doubleClicked, this, &ProofPage::showAlarm);
    addRowCommand(failures_, "See it in Survey", [this] { showFailure(); });
    addRowCommand(alarms_, "See it in Survey", [this] { showAlarm(); });
    addLabelCommand(
        alarms_, "Label it as…", session_,
        [this] {
            const AlarmVerdict* a = currentAlarm();
            if (!a) return std::vector<Span>();
            return std::vector<Span>{{{}, a->asset, {}, a->range.from, a->range.to, {}}};
        },
        "alarms of a rule");
    return out;
}

/// What the marked part measures, and what a rule made of it would catch.
QWidget* ProofPage::buildPartRules() {
    partModel_ = new RowsModel({"measure", "at failures", "elsewhere", "limit", "caught", "came true",
                                "best near it", "caught", "came true"},
                               this);
    partRules_ = makeTable(partModel_, "partRules", {150, 70, 66, 72, 48, 76, 74, 48, 0});
    partWords_ = makeLabel("", "second");
    partWords_->setObjectName("partWords");
    auto* take = makeButton("Take this rule", "partTake", true);
    auto* best = makeButton("Take the best near it", "partTakeBest");
    auto* close = makeButton("Close", "partClose");
    auto* head = new QHBoxLayout;
    head->setSpacing(8);
    head->addWidget(makeLabel("Rules from the marked part", "section"));
    head->addWidget(partWords_, 1);
    for (QPushButton* b : {take, best, close}) head->addWidget(b);
    auto* out = new QWidget;
    auto* column = new QVBoxLayout(out);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(2);
    column->addLayout(head);
    column->addWidget(partRules_);
    addRowCommand(partRules_, take);
    addRowCommand(partRules_, best);
    connect(take, &QPushButton::clicked, this, [this] { takeRule(false); });
    connect(best, &QPushButton::clicked, this, [this] { takeRule(true); });
    connect(close, &QPushButton::clicked, this, [this] { leadUp_->clearPart(); });
    connect(partRules_, &QTableView::doubleClicked, this, [this] { takeRule(false); });
    return out;
}

void ProofPage::buildInspector() {
    score_ = new ScoreFields(session_, prove_);
    side_->addWidget(score_);
    side_->addStretch();
}

void ProofPage::entered() {
    BenchPage::entered();
    showLeadUp();
}

void ProofPage::refresh() {
    showProof();
    showLeadUp(true);
}

void ProofPage::openSpan(SpanId failure) {
    failures_->selectRow(failureModel_->rowOf(failure));
}

const AlarmVerdict* ProofPage::currentAlarm() const {
    // The key is the alarm's number in the proof: rows may be sorted.
    const std::int64_t number = currentKey(alarms_);
    const auto& proof = prove_.proof();
    if (!proof || number < 1 || number > std::ssize(proof->alarms)) return nullptr;
    return &proof->alarms[static_cast<std::size_t>(number - 1)];
}

void ProofPage::showFailure() {
    if (const auto span = session_.study().tracks().span(currentId<SpanId>(failures_)))
        emit asked(prove_.pointAtFailure(span->asset, span->start));
}

void ProofPage::showAlarm() {
    if (const AlarmVerdict* alarm = currentAlarm()) emit asked(prove_.pointAtAlarm(AlarmVerdict(*alarm)));
}

/// The tags the rule is about, and those asked for beside them, before each failure.
void ProofPage::showLeadUp(bool again) {
    LeadUpPlot::Asked wanted;
    if (const auto failures = failuresOf(session_.study(), prove_.rule().failures))
        for (const Span& f : *failures) wanted.failures.push_back({f.asset, f.start});
    wanted.isWritten = prove_.provable();
    const std::vector<std::string> also = rolesIn(also_->text());
    std::vector<std::string> asked = prove_.tagNames(), unknown;
    asked.insert(asked.end(), also.begin(), also.end());
    for (const std::string& r : asked) {
        const bool number =
            std::any_of(wanted.failures.begin(), wanted.failures.end(), [&](const LeadUpStretch& l) {
                const Tag* t = session_.study().catalog().tagNamed(l.asset, r);
                return t && t->kind != TagKind::State;
            });
        const bool known = std::find(wanted.names.begin(), wanted.names.end(), r) != wanted.names.end();
        if (number && !known && wanted.names.size() < kMostPanes) wanted.names.push_back(r);
        if (!number && std::find(also.begin(), also.end(), r) != also.end()) unknown.push_back(r);
    }
    markWrong(also_, !unknown.empty(),
              unknown.empty() ? QString()
                              : "no failed asset has numbers in the role, and no tag the path, " +
                                    QString::fromStdString(unknown.front()));
    const auto length = parseDuration(length_->text().toStdString());
    const bool good = length && *length >= kHour && *length <= kLongest;
    markWrong(length_, !good, "a time from 1h to 365d");
    if (good) wanted.before = *length;
    wanted.spec = prove_.rule().spec;
    wanted.band = look_->currentIndex() == 1;
    wanted.quiet = quiet_->isChecked();
    leadUp_->show(std::move(wanted), again);
    leadUp_->setAlarms(prove_.proof() ? prove_.proof()->alarms : std::vector<AlarmVerdict>{});
}

void ProofPage::findRules() {
    rules_.clear();
    const auto part = leadUp_->part();
    below_->setCurrentIndex(part ? 1 : 0);
    showRules();
    if (!part) return;
    LeadUpPart asked{part->name, part->from, part->to, {}, leadUp_->quietOnes()};
    if (const auto failures = failuresOf(session_.study(), prove_.rule().failures))
        for (const Span& f : *failures)
            if (isCounted(f)) asked.failures.push_back({f.asset, f.start});
    partWords_->setText("measuring…");
    QPointer<ProofPage> here(this);
    session_.runJob(
        this, "part", "Measuring the part",
        [this, here, asked, terms = prove_.request()](JobContext& job) -> std::function<void()> {
            const auto each = [&](const LeadUpRule& rule) {
                QMetaObject::invokeMethod(
                    qApp, [here, rule, name = asked.name, from = asked.from, to = asked.to] {
                        if (!here) return;
                        const auto& now = here->leadUp_->part();
                        if (!now || now->name != name || now->from != from || now->to != to) return;
                        here->rules_.push_back(rule);
                        here->showRules();
                    });
            };
            auto found = rulesFromPart(job.study, terms, asked, job.progress, each);
            return [this, found = std::move(found)] {
                if (!session_.report(found)) return;
                rules_ = *found;
                showRules();
            };
        },
        false, [this] { showRules(); });
}

void ProofPage::showRules() {
    std::vector<RowsModel::Row> rows;
    const auto figure = [](double v) { return std::isfinite(v) ? QString::number(v, 'g', 3) : QString("–"); };
    const auto of = [](int n, int all) { return QString("%1 of %2").arg(n).arg(all); };
    for (const LeadUpRule& r : rules_) {
        const QString sign = r.text.find('<') == std::string::npos ? "> " : "< ";
        RowsModel::Row row{
            std::ssize(rows) + 1,
            {QString::fromStdString(r.measure), figure(r.middleAtFailures), figure(r.middleElsewhere),
             sign + figure(r.limit), of(r.tally.caught, r.tally.caught + r.tally.missed),
             of(r.tally.cameTrue, r.tally.cameTrue + r.tally.falseAlarms), sign + figure(r.bestLimit),
             of(r.bestTally.caught, r.bestTally.caught + r.bestTally.missed),
             of(r.bestTally.cameTrue, r.bestTally.cameTrue + r.bestTally.falseAlarms)}};
        row.number(1, r.middleAtFailures);
        row.number(2, r.middleElsewhere);
        row.number(3, r.limit);
        row.number(6, r.bestLimit);
        rows.push_back(std::move(row));
    }
    const bool first = partModel_->rows().empty() && !rows.empty();
    partModel_->setRows(std::move(rows));
    if (first) partRules_->selectRow(0);
    const auto& part = leadUp_->part();
    partWords_->setText(!part            ? QString()
                        : rules_.empty() ? QString("too little is measured there")
                                         : QString("%1 to %2 before")
                                               .arg(QString::fromStdString(sayDuration(part->from)),
                                                    QString::fromStdString(sayDuration(part->to))));
}

void ProofPage::takeRule(bool best) {
    const std::int64_t key = currentKey(partRules_);
    if (key < 1 || key > std::ssize(rules_)) return;
    const LeadUpRule& found = rules_[static_cast<std::size_t>(key - 1)];
    Rule rule;
    rule.text = found.text;
    rule.settings = {{"limit", best ? found.bestLimit : found.limit}};
    rule.spec = prove_.rule().spec;
    rule.failures = prove_.rule().failures;
    rule.masks = prove_.rule().masks;
    leadUp_->clearPart();
    prove_.take(rule);
}

std::vector<RowsModel::Row> ProofPage::failureRows() const {
    std::vector<RowsModel::Row> out;
    const auto failures = failuresOf(session_.study(), prove_.rule().failures);
    if (!failures) return out;
    for (const Span& f : *failures) {
        RowsModel::Row row{
            f.id, {"▼ " + assetName(session_.study(), f.asset), shortTime(session_, f.start), "", ""}};
        row.sortBy(1, f.start);
        if (prove_.proof())
            for (const FailureVerdict& v : prove_.proof()->failures) {
                if (v.asset != f.asset || v.time != f.start) continue;
                row.cells[2] = failureWord(v);
                row.ink = inkOf(v, session_.theme());
                if (!v.caught) continue;
                row.cells[3] = QString::fromStdString(warningWords(v.warning, prove_.rule().spec.most));
                row.sortBy(3, v.warning);
            }
        out.push_back(std::move(row));
    }
    return out;
}

std::vector<RowsModel::Row> ProofPage::alarmRows() const {
    std::vector<RowsModel::Row> out;
    if (!prove_.proof()) return out;
    for (const AlarmVerdict& a : prove_.proof()->alarms) {
        RowsModel::Row row{std::ssize(out) + 1,
                           {assetName(session_.study(), a.asset), shortTime(session_, a.range.from),
                            QString::fromStdString(sayDuration(a.range.length())), alarmWord(a.verdict)}};
        row.sortBy(1, a.range.from);
        row.sortBy(2, a.range.length());
        row.ink = inkOf(a.verdict, session_.theme());
        out.push_back(std::move(row));
    }
    return out;
}

void ProofPage::showProof() {
    failureModel_->setRows(failureRows());
    alarmModel_->setRows(alarmRows());
    const auto& proof = prove_.proof();
    alarmState_->setText(proof ? QString("%1 late · %2 open · %3 masked · double-click to look")
                                     .arg(proof->late)
                                     .arg(proof->open)
                                     .arg(proof->masked)
                               : "when the rule would have spoken");
    showLeadUp();
}

}  // namespace jacinth::app
