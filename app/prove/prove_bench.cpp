#include "app/prove/prove_bench.h"

#include <QElapsedTimer>
#include <QTimer>
#include <nlohmann/json.hpp>

#include "app/base/label_menu.h"
#include "app/base/tables.h"
#include "store/judgement.h"
#include "store/tracks.h"

namespace jacinth::app {
namespace {
const char* const kRuleName = "Rule in hand";
/// Hours for what is counted in hours: 48h, not 2d.
QString hoursText(Duration d) {
    return d % kHour == Duration::zero() && d < 5 * kDay
               ? QString("%1h").arg(static_cast<qlonglong>(d / kHour))
               : QString::fromStdString(formatDuration(d));
}
}  // namespace

namespace {
const char* const kHowToWrite = "@ for a role, ` for any tag, Ctrl+Space for what fits";
}

ProveBench::ProveBench(Session& session) : Bench(session), typing_(new QTimer(this)) {
    buildMiddle();
    buildInspector();
    typing_->setSingleShot(true);
    typing_->setInterval(250);
    connect(editor_, &QPlainTextEdit::textChanged, typing_, qOverload<>(&QTimer::start));
    connect(typing_, &QTimer::timeout, this, &ProveBench::checkText);
    connect(&session, &Session::studyChanged, this, [this] { checkText(); });
    connect(&session, &Session::themeChanged, this, [this] { showProof(); });
    const auto rules = session.study().judgement().rules();
    if (!rules.empty()) {
        editor_->setPlainText(QString::fromStdString(rules.front().text));
        most_->setText(hoursText(rules.front().spec.most));
        least_->setText(hoursText(rules.front().spec.least));
        join_->setText(hoursText(rules.front().spec.join));
    }
    checkText();
    showProof();
}

void ProveBench::buildMiddle() {
    editor_ = new ExpressionEditor(session_);
    preview_ = new ExpressionPreview(session_);
    help_ = makeLabel(kHowToWrite, "second");
    help_->setObjectName("ruleHelp");
    help_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    connect(editor_, &ExpressionEditor::helpChanged, this,
            [this](const QString& text) { help_->setText(text.isEmpty() ? kHowToWrite : text); });
    state_ = makeLabel("", "second");
    state_->setObjectName("ruleState");
    leadUpState_ = makeLabel("", "second");
    leadUp_ = new LeadUpPlot(session_);
    failureModel_ = new RowsModel({"failure", "when", "verdict", "warning"}, this);
    failures_ = makeTable(failureModel_, "failureTable", {76, 100, 76, 0});
    alarmModel_ = new RowsModel({"alarm", "from", "length", "verdict"}, this);
    alarms_ = makeTable(alarmModel_, "alarmTable", {70, 96, 84, 0});
    alarmState_ = makeLabel("", "second");
    auto* top = new QHBoxLayout;
    top->addWidget(makeLabel("Rule", "title"), 1);
    top->addWidget(state_);
    auto* head = new QHBoxLayout;
    head->addWidget(makeLabel("The days before each failure", "section"), 1);
    head->addWidget(leadUpState_);
    auto* left = new QVBoxLayout;
    left->addWidget(makeLabel("Failure by failure", "section"));
    left->addWidget(failures_);
    auto* right = new QVBoxLayout;
    auto* alarmHead = new QHBoxLayout;
    alarmHead->addWidget(makeLabel("Alarms", "section"), 1);
    alarmHead->addWidget(alarmState_);
    right->addLayout(alarmHead);
    right->addWidget(alarms_);
    auto* tables = new QHBoxLayout;
    tables->setSpacing(20);
    tables->addLayout(left, 1);
    tables->addLayout(right, 1);
    failures_->setFixedHeight(186);
    alarms_->setFixedHeight(186);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 8, 4);
    column->setSpacing(6);
    column->addLayout(top);
    column->addWidget(editor_);
    column->addWidget(help_);
    column->addWidget(preview_);
    column->addLayout(head);
    column->addWidget(leadUp_, 1);
    column->addLayout(tables);
    connect(failures_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this] {
        const auto span = session_.study().tracks().span(currentId<SpanId>(failures_));
        leadUp_->setStrong(span ? span->asset : AssetId(), span ? span->start : Instant());
    });
    connect(failures_, &QTableView::doubleClicked, this, &ProveBench::showFailure);
    connect(alarms_, &QTableView::doubleClicked, this, &ProveBench::showAlarm);
    addRowCommand(failures_, "See it in Survey", [this] { showFailure(); });
    addRowCommand(alarms_, "See it in Survey", [this] { showAlarm(); });
    addLabelCommand(
        alarms_, "Label it as…", session_,
        [this] {
            const std::int64_t number = currentKey(alarms_);
            if (!proof_ || number < 1 || number > std::ssize(proof_->alarms)) return std::vector<Span>();
            const AlarmVerdict& a = proof_->alarms[static_cast<std::size_t>(number - 1)];
            return std::vector<Span>{{{}, a.asset, {}, a.range.from, a.range.to, {}}};
        },
        "alarms of a rule");
}

/// The tag of the rule's first role there; none where there is none.
TagId ProveBench::tagOf(AssetId asset) const {
    const Tag* tag = roles_.empty() ? nullptr : session_.study().catalog().tagInRole(asset, roles_.front());
    return tag ? tag->id : TagId();
}

void ProveBench::showFailure() {
    const auto span = session_.study().tracks().span(currentId<SpanId>(failures_));
    if (!span) return;
    session_.view().select(span->asset, tagOf(span->asset));
    emit asked(ShowMoment{{span->start - 3 * kDay, span->start}, tagOf(span->asset)});
}

void ProveBench::showAlarm() {
    // The key is the alarm's number in the proof: rows may be sorted.
    const std::int64_t number = currentKey(alarms_);
    if (!proof_ || number < 1 || number > static_cast<std::int64_t>(proof_->alarms.size())) return;
    const AlarmVerdict& a = proof_->alarms[static_cast<std::size_t>(number - 1)];
    session_.view().select(a.asset, tagOf(a.asset));
    emit asked(ShowMoment{a.range, tagOf(a.asset)});
}

void ProveBench::buildInspector() {
    auto* side = new QVBoxLayout(inspector_);
    side->setContentsMargins(12, 10, 12, 10);
    side->setSpacing(6);
    side->addWidget(makeLabel("Score", "section"));
    for (Figure& f : figures_) {
        f.value = makeLabel("–", "figure");
        f.what = makeLabel("", "second");
        f.what->setWordWrap(true);
        f.value->setFixedWidth(84);
        auto* row = new QHBoxLayout;
        row->addWidget(f.value);
        row->addWidget(f.what, 1);
        side->addLayout(row);
    }
    figures_[0].value->setObjectName("caughtFigure");
    figures_[1].value->setObjectName("cameTrueFigure");
    figures_[3].value->setObjectName("falseFigure");
    side->addWidget(makeRule());
    side->addWidget(makeLabel("Count it a catch when", "section"));
    most_ = makeField("proveMost", "Warned at most");
    most_->setText("48h");
    least_ = makeField("proveLeast", "Warned at least");
    least_->setText("12h");
    join_ = makeField("proveJoin", "Join alarms within");
    join_->setText("6h");
    addRow(side, "Warned at most", most_);
    addRow(side, "Warned at least", least_);
    addRow(side, "Join alarms within", join_);
    prove_ = makeButton("Prove", "proveButton", true);
    side->addWidget(prove_);
    side->addWidget(makeRule());
    also_ = makeField("leadUpTags", "Show beside the rule's tags");
    also_->setPlaceholderText("roles, like fan_current");
    addRow(side, "Line up also", also_);
    connect(also_, &QLineEdit::editingFinished, this, &ProveBench::showLeadUp);
    side->addWidget(makeRule());
    proved_ =
        makeLabel("Stops do not count, nor does the time after a failure until the stop ends.", "second");
    proved_->setWordWrap(true);
    side->addWidget(proved_);
    side->addStretch();
    connect(prove_, &QPushButton::clicked, this, &ProveBench::proveIt);
    for (QLineEdit* f : {most_, least_, join_}) {
        connect(f, &QLineEdit::returnPressed, this, &ProveBench::proveIt);
        connect(f, &QLineEdit::editingFinished, this, [this] {
            if (specFromFields()) showLeadUp();
        });
    }
}

void ProveBench::entered() {
    editor_->setFocus();
    preview_->setText(editor_->toPlainText());
    showLeadUp();
    if (!proof_ && !session_.study().judgement().rules().empty()) proveIt();
}

void ProveBench::openSpan(SpanId failure) {
    failures_->selectRow(failureModel_->rowOf(failure));
}

std::optional<ProveSpec> ProveBench::specFromFields() {
    const auto most = parseDuration(most_->text().toStdString()),
               least = parseDuration(least_->text().toStdString()),
               join = parseDuration(join_->text().toStdString());
    markWrong(most_, !most || *most <= Duration::zero(), "a duration like 48h");
    markWrong(least_, !least || (most && *least > *most), "a duration, not longer than the most");
    markWrong(join_, !join, "a duration like 6h");
    if (!most || !least || !join || *least > *most || *most <= Duration::zero()) return {};
    return ProveSpec{*most, *least, *join};
}

void ProveBench::checkText() {
    const std::string text = editor_->toPlainText().toStdString();
    preview_->setText(editor_->toPlainText());
    prove_->setEnabled(false);
    if (text.find_first_not_of(" \n\t") == std::string::npos) {
        editor_->setErrorColumn(0);
        setRole(state_, "second");
        state_->setText("write a condition on roles, like @bearing_vibration");
        roles_.clear();
        return showLeadUp();
    }
    const auto fleet = compileForFleet(session_.study(), text);
    const bool condition = fleet && fleet->byAsset.front().second.type == ValueType::Condition;
    if (!fleet || !condition) {
        editor_->setErrorColumn(fleet ? 1 : fleet.error().column);
        setRole(state_, "bad");
        state_->setText(fleet ? QString("this is a %1; a rule is a condition, like `… > 3`")
                                    .arg(typeName(fleet->byAsset.front().second.type))
                              : QString::fromStdString(fleet.error().message));
        return;
    }
    editor_->setErrorColumn(0);
    setRole(state_, "good");
    state_->setText(QString("valid on %1 assets").arg(fleet->byAsset.size()));
    QStringList warnings;
    for (const std::string& warning : fleet->warnings()) warnings << QString::fromStdString(warning);
    if (!warnings.isEmpty()) help_->setText(warnings.join("\n"));
    prove_->setEnabled(true);
    roles_.assign(fleet->byAsset.front().second.roles.begin(), fleet->byAsset.front().second.roles.end());
    showLeadUp();
    session_.runJob(this, "reach", "Reading the rule",
                    [this, text, which = session_.view().which()](JobContext& job) -> std::function<void()> {
                        const auto reach = ruleReach(job.study, text, which);
                        if (!reach) return {};
                        return [this, share = reach->shareTrue, n = reach->trueStretches.size()] {
                            setRole(state_, "good");
                            state_->setText(QString("valid on %1 assets · true for %2 % of the record")
                                                .arg(n)
                                                .arg(share * 100, 0, 'f', share < 0.1 ? 1 : 0));
                        };
                    });
}

void ProveBench::proveIt() {
    const auto spec = specFromFields();
    if (!spec) return;
    ProveRequest request;
    request.rule = editor_->toPlainText().toStdString();
    request.spec = *spec;
    request.which = session_.view().which();
    prove_->setEnabled(false);
    session_.runJob(
        this, "prove", "Proving",
        [this, request](JobContext& job) -> std::function<void()> {
            QElapsedTimer timer;
            timer.start();
            auto proof = proveRule(job.study, request, job.progress);
            return [this, request, proof = std::move(proof),
                    seconds = static_cast<double>(timer.elapsed()) / 1000] {
                if (!session_.report(proof)) return;
                proof_ = *proof;
                const auto rules = session_.study().judgement().rules();
                const bool known = !rules.empty() && rules.front().text == request.rule &&
                                   rules.front().spec.most == request.spec.most &&
                                   rules.front().spec.least == request.spec.least &&
                                   rules.front().spec.join == request.spec.join;
                if (!known && !session_.study().readOnly())
                    session_.tryChange([&] {
                        keepRule(session_.study(), {kRuleName, request.rule, request.spec});
                    });
                proved_->setText(QString("Proved in %1 s over %2 asset-months. Stops do not count, nor does "
                                         "the time after a failure until the stop ends.")
                                     .arg(seconds, 0, 'f', 2)
                                     .arg(toHours(proof_->countingTime) / 730.5, 0, 'f', 1));
                showProof();
            };
        },
        false, [this] { prove_->setEnabled(true); });
}

void ProveBench::showLeadUp() {
    std::vector<LeadUpPlot::Line> lines;
    for (const Span& f : session_.study().tracks().spansOf(track_kind::kFailures))
        lines.push_back({f.asset, f.start});
    // The tags the rule is about, and those asked for beside them.
    const std::vector<std::string> also = rolesIn(also_->text());
    std::vector<std::string> wanted = roles_, roles, unknown;
    wanted.insert(wanted.end(), also.begin(), also.end());
    for (const std::string& r : wanted) {
        const bool number = std::any_of(lines.begin(), lines.end(), [&](const LeadUpPlot::Line& l) {
            const Tag* t = session_.study().catalog().tagInRole(l.asset, r);
            return t && t->kind != TagKind::State;
        });
        const bool known = std::find(roles.begin(), roles.end(), r) != roles.end();
        if (number && !known && roles.size() < 4) roles.push_back(r);
        if (!number && std::find(also.begin(), also.end(), r) != also.end()) unknown.push_back(r);
    }
    markWrong(also_, !unknown.empty(),
              unknown.empty()
                  ? QString()
                  : "no failed asset has numbers in the role " + QString::fromStdString(unknown.front()));
    leadUpState_->setText(
        lines.empty() ? "" : QString("%1 failures lined up at the moment of failure").arg(lines.size()));
    const auto spec = specFromFields();
    leadUp_->show(std::move(lines), std::move(roles), spec ? *spec : ProveSpec{},
                  proof_ ? proof_->alarms : std::vector<AlarmVerdict>{});
}

QString ProveBench::nameOf(AssetId id) const {
    const Asset* a = session_.study().catalog().asset(id);
    return a ? QString::fromStdString(a->name) : QString();
}

QString ProveBench::shortTime(Instant t) const {
    return QString::fromStdString(session_.zone().shortText(t));
}

std::vector<RowsModel::Row> ProveBench::failureRows() const {
    const Theme& theme = session_.theme();
    std::vector<RowsModel::Row> out;
    for (const Span& f : session_.study().tracks().spansOf(track_kind::kFailures)) {
        RowsModel::Row row{f.id, {"▼ " + nameOf(f.asset), shortTime(f.start), "", ""}};
        row.sortBy(1, f.start);
        if (proof_)
            for (const FailureVerdict& v : proof_->failures)
                if (v.asset == f.asset && v.time == f.start) {
                    row.cells[2] = !v.testable ? "untestable: " + QString::fromStdString(v.reason)
                                   : v.caught  ? QString("caught")
                                               : QString("missed");
                    row.cells[3] = v.caught ? QString::fromStdString(sayDuration(v.warning)) : "";
                    if (v.caught) row.sortBy(3, v.warning);
                    if (v.caught)
                        row.ink = theme.good;
                    else if (v.testable)
                        row.ink = theme.accent;
                }
        out.push_back(std::move(row));
    }
    return out;
}

std::vector<RowsModel::Row> ProveBench::alarmRows() const {
    const Theme& theme = session_.theme();
    std::vector<RowsModel::Row> out;
    if (!proof_) return out;
    for (const AlarmVerdict& a : proof_->alarms) {
        RowsModel::Row row{
            static_cast<std::int64_t>(out.size()) + 1,
            {nameOf(a.asset), shortTime(a.range.from), QString::fromStdString(sayDuration(a.range.length())),
             a.verdict == Verdict::True    ? "came true"
             : a.verdict == Verdict::False ? "false"
                                           : verdictName(a.verdict)}};
        row.sortBy(1, a.range.from);
        row.sortBy(2, a.range.length());
        if (a.verdict == Verdict::True)
            row.ink = theme.good;
        else if (a.verdict == Verdict::False)
            row.ink = theme.accent;
        else
            row.ink = theme.second;
        out.push_back(std::move(row));
    }
    return out;
}

void ProveBench::showProof() {
    failureModel_->setRows(failureRows());
    alarmModel_->setRows(alarmRows());
    alarmState_->setText(proof_ ? QString("%1 late · %2 open · %3 masked · double-click to look")
                                      .arg(proof_->late)
                                      .arg(proof_->open)
                                      .arg(proof_->masked)
                                : "press Prove to see when the rule would have spoken");
    showLeadUp();
    showFigures();
}

void ProveBench::showFigures() {
    const auto percent = [](const Proportion& p) {
        return std::isfinite(p.value) ? QString("%1 % (%2 – %3 %)")
                                            .arg(p.value * 100, 0, 'f', 0)
                                            .arg(p.low * 100, 0, 'f', 0)
                                            .arg(p.high * 100, 0, 'f', 0)
                                      : QString("none to count");
    };
    if (!proof_) {
        const std::array<const char*, 4> what{"failures caught", "alarms that came true", "median warning",
                                              "false alarms per asset-month"};
        for (std::size_t i = 0; i < 4; ++i)
            figures_[i].value->setText("–"), figures_[i].what->setText(what[i]);
        return;
    }
    const Proof& p = *proof_;
    figures_[0].value->setText(QString("%1 of %2").arg(p.caught).arg(p.caught + p.missed));
    figures_[0].what->setText(
        (p.untestable ? "testable failures caught\n" : "failures caught\n") + percent(p.catchRate) +
        (p.untestable
             ? QString("\n%1 of %2 recorded could not be tested").arg(p.untestable).arg(p.failures.size())
             : QString()));
    setRole(figures_[0].what, p.untestable ? "bad" : "second");
    figures_[1].value->setText(QString("%1 of %2").arg(p.cameTrue).arg(p.cameTrue + p.falseAlarms));
    figures_[1].what->setText("alarms came true\n" + percent(p.cameTrueShare));
    figures_[2].value->setText(
        std::isfinite(p.medianWarningHours) ? QString("%1 h").arg(p.medianWarningHours, 0, 'f', 0) : "–");
    double least = 1e9, most = 0;
    for (const FailureVerdict& f : p.failures)
        if (f.caught) least = std::min(least, toHours(f.warning)), most = std::max(most, toHours(f.warning));
    figures_[2].what->setText(
        "median warning" +
        (p.caught ? QString("\n%1 h – %2 h").arg(least, 0, 'f', 0).arg(most, 0, 'f', 0) : QString()));
    figures_[3].value->setText(QString::number(p.falsePerAssetMonth, 'f', p.falsePerAssetMonth < 10 ? 2 : 0));
    figures_[3].what->setText(QString("false alarms per asset-month\n%1 in %2 asset-months")
                                  .arg(p.falseAlarms)
                                  .arg(toHours(p.countingTime) / 730.5, 0, 'f', 1));
}

}  // namespace jacinth::app
