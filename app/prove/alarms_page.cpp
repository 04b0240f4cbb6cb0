#include "app/prove/alarms_page.h"

#include <QKeyEvent>

#include "app/base/names.h"
#include "app/plot/tag_trace.h"
#include "app/prove/proof_words.h"
#include "app/prove/warning_curve.h"
#include "work/prove/breakdown.h"
#include "work/prove/look_at_alarm.h"

namespace jacinth::app {
namespace {

struct KindKey {
    const char* kind;
    const char* words;
    Qt::Key key;
};
constexpr std::array<KindKey, 4> kKinds{{{kTrueAfterAll, "True after all", Qt::Key_T},
                                         {kNearMiss, "Near miss", Qt::Key_M},
                                         {kFalseByProcess, "The process", Qt::Key_R},
                                         {kFalseBySensor, "The sensor", Qt::Key_S}}};
constexpr int kMostTags = 4;

QString keyName(Qt::Key key) {
    return QKeySequence(key).toString();
}

}  // namespace

AlarmsPage::AlarmsPage(Session& session, ProveState& state) : BenchPage(session, false), prove_(state) {
    buildMiddle();
    buildInspector();
    connect(&state, &ProveState::proved, this, &AlarmsPage::showProof);
    connect(&session.view(), &ViewState::groupingChanged, this, &AlarmsPage::showProof);
    showProof();
}

void AlarmsPage::buildMiddle() {
    timeline_ = new AlarmTimeline(session_);
    model_ = new RowsModel({"alarm", "length", "verdict", "looked at"}, this);
    table_ = makeTable(model_, "alarmList", {140, 84, 72, 0});
    plot_ = new TimePlot(session_);
    plot_->setObjectName("alarmPlot");
    plot_->setAccessibleName("The rule's tags around the alarm");
    plot_->setEmptyText("Choose an alarm: the tags that the rule reads are shown around it.");
    plotWords_ = makeLabel("", "second");
    plotWords_->setObjectName("alarmPlotWords");
    auto* right = new QVBoxLayout;
    right->setSpacing(4);
    right->addWidget(plotWords_);
    right->addWidget(plot_, 1);
    auto* below = new QHBoxLayout;
    below->setSpacing(12);
    below->addWidget(table_, 7);
    below->addLayout(right, 5);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(8);
    column->addWidget(timeline_);
    column->addLayout(below, 1);
    connect(timeline_, &AlarmTimeline::chosen, this, &AlarmsPage::choose);
    connect(timeline_, &AlarmTimeline::opened, this, [this](int alarm) {
        choose(alarm);
        open();
    });
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this,
            [this] { choose(static_cast<int>(currentKey(table_)) - 1); });
    connect(table_, &QTableView::doubleClicked, this, &AlarmsPage::open);
    connect(plot_, &TimePlot::pointed, this, &AlarmsPage::pointerMoved);
    addRowCommand(table_, "See it in Survey", [this] { open(); });
    table_->installEventFilter(this);
    plot_->installEventFilter(this);
}

void AlarmsPage::buildInspector() {
    side_->addWidget(makeLabel("What was it?", "section"));
    words_ = makeLabel("", "second");
    words_->setObjectName("alarmWords");
    words_->setWordWrap(true);
    side_->addWidget(words_);
    auto* grid = new QGridLayout;
    grid->setSpacing(4);
    for (std::size_t i = 0; i < kKinds.size(); ++i) {
        auto* button = makeButton(QString("%1  (%2)").arg(kKinds[i].words, keyName(kKinds[i].key)),
                                  QString("alarmIs%1").arg(i));
        button->setToolTip(i < 2 ? "Counted apart from false alarms from now on"
                                 : "Stays a false alarm, with a reason");
        connect(button, &QPushButton::clicked, this, [this, i] { label(kKinds[i].kind); });
        grid->addWidget(button, static_cast<int>(i / 2), static_cast<int>(i % 2));
        kinds_.push_back(button);
    }
    takeBack_ = makeButton("Take it back  (U)", "alarmIsNothing");
    open_ = makeButton("See it in Survey", "alarmOpen");
    open_->setToolTip("Enter");
    grid->addWidget(takeBack_, 2, 0);
    grid->addWidget(open_, 2, 1);
    before_ = makeButton("‹ Before  (P)", "alarmBefore");
    next_ = makeButton("Next false  (N) ›", "alarmNext", true);
    grid->addWidget(before_, 3, 0);
    grid->addWidget(next_, 3, 1);
    side_->addLayout(grid);
    side_->addWidget(makeRule());
    by_ = makeChoice("alarmSharesBy", "Counted by",
                     {"by asset", "by month", "by phase of the run", "by group"});
    addRow(side_, "Alarms", by_);
    sharesModel_ = new RowsModel({"", "true", "false", "a month", "near"}, this);
    shares_ = makeTable(sharesModel_, "alarmShares", {0, 40, 44, 58, 42});
    shares_->setMinimumHeight(150);
    side_->addWidget(shares_, 1);
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("Failures caught", "section"));
    curve_ = new WarningCurve(session_);
    side_->addWidget(curve_);
    connect(takeBack_, &QPushButton::clicked, this, [this] { label({}); });
    connect(open_, &QPushButton::clicked, this, &AlarmsPage::open);
    connect(before_, &QPushButton::clicked, this, [this] { step(-1); });
    connect(next_, &QPushButton::clicked, this, [this] { step(1); });
    connect(by_, &QComboBox::activated, this, &AlarmsPage::fillShares);
}

QString AlarmsPage::state() const {
    const auto& proof = prove_.proof();
    if (!proof) return {};
    const Grouping& grouping = session_.view().grouping();
    const QString shown = grouping.only ? QString("%1 of %2 alarms are of this group · ")
                                              .arg(model_->rowCount())
                                              .arg(proof->alarms.size())
                                        : QString();
    return shown + QString("%1 came true · %2 false · %3 near misses · %4 late · %5 open · %6 masked")
                       .arg(proof->cameTrue)
                       .arg(proof->falseAlarms)
                       .arg(proof->nearMisses)
                       .arg(proof->late)
                       .arg(proof->open)
                       .arg(proof->masked);
}

QString AlarmsPage::pointerText() const {
    return plot_->pointer() ? QString::fromStdString(session_.zone().preciseText(*plot_->pointer()))
                            : QString();
}

void AlarmsPage::entered() {
    BenchPage::entered();
    if (current_ < 0) step(1);
    table_->setFocus();
}

void AlarmsPage::refresh() {
    showProof();
}

const AlarmVerdict* AlarmsPage::alarm() const {
    const auto& proof = prove_.proof();
    if (!proof || current_ < 0 || current_ >= std::ssize(proof->alarms)) return nullptr;
    return &proof->alarms[static_cast<std::size_t>(current_)];
}

void AlarmsPage::showProof() {
    const auto& proof = prove_.proof();
    // The same alarm stays the current one, whatever its place in the new proof.
    current_ = -1;
    if (proof)
        for (int i = 0; i < std::ssize(proof->alarms); ++i) {
            const AlarmVerdict& a = proof->alarms[static_cast<std::size_t>(i)];
            if (a.asset == chosen_.asset && a.range.from == chosen_.range.from &&
                isIn(session_.study(), session_.view().grouping(), a.asset))
                current_ = i;
        }
    labels_ = proof ? labelsOfAlarms(session_.study(), *proof) : std::vector<std::string>();
    timeline_->show(proof);
    timeline_->setCurrent(current_);
    curve_->show(proof, prove_.rule().spec);
    fillTable();
    fillShares();
    showAlarm();
    emit titleChanged();
}

void AlarmsPage::fillTable() {
    std::vector<RowsModel::Row> rows;
    const auto& proof = prove_.proof();
    for (std::size_t i = 0; proof && i < proof->alarms.size(); ++i) {
        const AlarmVerdict& a = proof->alarms[i];
        if (!isIn(session_.study(), session_.view().grouping(), a.asset)) continue;
        RowsModel::Row row{static_cast<std::int64_t>(i) + 1,
                           {onAsset(session_.study(), a.asset,
                                    QString::fromStdString(session_.zone().shortText(a.range.from))),
                            QString::fromStdString(sayDuration(a.range.length())), alarmWord(a.verdict),
                            QString::fromStdString(labels_[i])}};
        row.sortBy(0, a.range.from);
        row.sortBy(1, a.range.length());
        row.ink = inkOf(a.verdict, session_.theme());
        rows.push_back(std::move(row));
    }
    {
        const QSignalBlocker quiet(table_->selectionModel());
        model_->setRows(std::move(rows));
    }
    showCurrentRow();
}

/// Quietly: the alarm is chosen already.
void AlarmsPage::showCurrentRow() {
    if (current_ < 0) return;
    const QSignalBlocker quiet(table_->selectionModel());
    const int row = model_->rowOf(current_ + 1);
    table_->selectRow(row);
    table_->scrollTo(model_->index(row, 0));
    table_->viewport()->update();
}

void AlarmsPage::fillShares() {
    std::vector<RowsModel::Row> rows;
    const auto by = static_cast<BreakdownBy>(by_->currentIndex());
    const std::string& fact = session_.view().grouping().fact;
    if (prove_.proof())
        for (const AlarmShare& s : breakDown(session_.study(), *prove_.proof(), by, fact)) {
            const bool known = s.counting > Duration::zero();
            RowsModel::Row row{
                std::ssize(rows) + 1,
                {QString::fromStdString(s.name), QString::number(s.cameTrue), QString::number(s.falseAlarms),
                 known ? QString::number(s.falsePerAssetMonth(), 'f', 2) : QString("–"),
                 QString::number(s.nearMisses)}};
            if (known) row.number(3, s.falsePerAssetMonth());
            rows.push_back(std::move(row));
        }
    sharesModel_->setRows(std::move(rows));
}

void AlarmsPage::choose(int alarm) {
    if (alarm == current_ || !prove_.proof() || alarm < 0 || alarm >= std::ssize(prove_.proof()->alarms))
        return;
    current_ = alarm;
    const AlarmVerdict a = prove_.proof()->alarms[static_cast<std::size_t>(alarm)];
    chosen_ = a;
    timeline_->setCurrent(alarm);
    showCurrentRow();
    // One time in view for every bench: the day before and what came after are in it.
    session_.view().select(a.asset, prove_.tagOf(a.asset));
    const Duration room = std::max<Duration>(a.range.length() / 2, kDay);
    session_.view().setView({a.range.from - room, a.range.to + room});
    showAlarm();
}

void AlarmsPage::showAlarm() {
    const AlarmVerdict* a = alarm();
    for (QPushButton* b : kinds_) b->setEnabled(a && !session_.study().readOnly());
    open_->setEnabled(a);
    takeBack_->setEnabled(a && !labels_[static_cast<std::size_t>(current_)].empty());
    const bool any = prove_.proof() && !prove_.proof()->alarms.empty();
    next_->setEnabled(any);
    before_->setEnabled(any);
    if (!a) {
        words_->setText(any ? "Choose an alarm, or go through the false ones with N."
                            : "The rule has no alarms yet.");
        plotWords_->setText({});
        return plot_->setPanes({});
    }
    const std::string& said = labels_[static_cast<std::size_t>(current_)];
    words_->setText(QString("%1, %2, for %3: %4%5.")
                        .arg(assetName(session_.study(), a->asset),
                             QString::fromStdString(session_.zone().shortText(a->range.from)),
                             QString::fromStdString(sayDuration(a->range.length())), alarmWord(a->verdict),
                             said.empty() ? QString() : " · " + QString::fromStdString(said)));
    std::vector<PaneSpec> panes;
    for (const std::string& name : prove_.tagNames()) {
        const Tag* tag = session_.study().catalog().tagNamed(a->asset, name);
        if (!tag || panes.size() >= kMostTags) continue;
        PaneSpec& pane = panes.emplace_back();
        if (tag->kind == TagKind::State)
            pane.states = tag->id;
        else
            pane.traces.push_back(traceOf(session_, tag->id));
    }
    plotWords_->setText(panes.empty() ? "The rule names no tag of this asset." : "");
    plot_->setPanes(std::move(panes));
    std::vector<SpanMark> marks;
    const Theme& theme = session_.theme();
    for (const AlarmVerdict& other : prove_.proof()->alarms)
        if (other.asset == a->asset)
            marks.push_back({other.range,
                             inkOf(other.verdict, theme),
                             alarmWord(other.verdict),
                             other.range == a->range,
                             {}});
    for (const FailureVerdict& f : prove_.proof()->failures)
        if (f.asset == a->asset) {
            SpanMark mark{{f.time, f.time}, theme.ink, "failure", false, {}};
            mark.wedge = true;
            marks.push_back(mark);
        }
    plot_->setMarks(std::move(marks));
}

void AlarmsPage::step(int by) {
    const auto& proof = prove_.proof();
    if (!proof) return;
    const int n = static_cast<int>(proof->alarms.size());
    for (int i = current_ + by; i >= 0 && i < n; i += by)
        if (proof->alarms[static_cast<std::size_t>(i)].verdict == Verdict::False &&
            isIn(session_.study(), session_.view().grouping(),
                 proof->alarms[static_cast<std::size_t>(i)].asset) &&
            labels_[static_cast<std::size_t>(i)].empty())
            return choose(i);
    if (current_ >= 0 || n == 0)
        emit session_.notified(by > 0 ? "No false alarm after this one is left to look at"
                                      : "No false alarm before this one is left to look at");
    else
        chooseFirst(by);
}

/// Of the group that is looked at, the first from either end.
void AlarmsPage::chooseFirst(int by) {
    const auto& alarms = prove_.proof()->alarms;
    const int n = static_cast<int>(alarms.size());
    for (int i = by > 0 ? 0 : n - 1; i >= 0 && i < n; i += by)
        if (isIn(session_.study(), session_.view().grouping(), alarms[static_cast<std::size_t>(i)].asset))
            return choose(i);
}

void AlarmsPage::label(const QString& kind) {
    const AlarmVerdict* a = alarm();
    if (!a || session_.study().readOnly()) return;
    const AlarmVerdict now = *a;
    session_.tryChange(
        [&] { session_.report(labelAlarm(session_.study(), now, kind.toStdString(), prove_.rule().name)); });
}

void AlarmsPage::open() {
    if (const AlarmVerdict* a = alarm()) emit asked(prove_.pointAtAlarm(AlarmVerdict(*a)));
}

bool AlarmsPage::takeKey(QKeyEvent* e) {
    if (e->modifiers() != Qt::NoModifier) return false;
    for (const KindKey& k : kKinds)
        if (e->key() == k.key) return label(k.kind), true;
    switch (e->key()) {
        case Qt::Key_U:
            return label({}), true;
        case Qt::Key_N:
            return step(1), true;
        case Qt::Key_P:
            return step(-1), true;
        case Qt::Key_Return:
        case Qt::Key_Enter:
            return open(), true;
        default:
            return false;
    }
}

void AlarmsPage::keyPressEvent(QKeyEvent* e) {
    if (!takeKey(e)) BenchPage::keyPressEvent(e);
}

bool AlarmsPage::eventFilter(QObject* on, QEvent* e) {
    if (e->type() == QEvent::KeyPress && takeKey(static_cast<QKeyEvent*>(e))) return true;
    return BenchPage::eventFilter(on, e);
}

}  // namespace jacinth::app
