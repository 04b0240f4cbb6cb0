#include "app/prove/score_fields.h"

#include <cmath>

#include "app/prove/proof_words.h"
#include "store/tracks.h"

namespace jacinth::app {
namespace {

constexpr double kMonthHours = 730.5;
constexpr int kFigureWidth = 84;
const char* const kAllFailures = "all failures";

/// Hours for what is counted in hours: 48h, not 2d.
QString hoursText(Duration d) {
    return d % kHour == Duration::zero() && d < 5 * kDay
               ? QString("%1h").arg(static_cast<qlonglong>(d / kHour))
               : QString::fromStdString(formatDuration(d));
}

QString listed(const std::vector<std::string>& texts) {
    QStringList out;
    for (const std::string& t : texts) out << QString::fromStdString(t);
    return out.join("; ");
}

}  // namespace

ScoreFields::ScoreFields(Session& session, ProveState& state) : session_(session), state_(state) {
    build();
    connect(&state, &ProveState::ruleTaken, this, &ScoreFields::fill);
    connect(&state, &ProveState::ruleChanged, this, &ScoreFields::showWords);
    connect(&state, &ProveState::proved, this, &ScoreFields::showScore);
    connect(&state, &ProveState::provingChanged, this, &ScoreFields::showWords);
    connect(&session, &Session::studyChanged, this, &ScoreFields::fill);
    fill();
    showScore();
}

void ScoreFields::build() {
    auto* side = new QVBoxLayout(this);
    side->setContentsMargins(0, 0, 0, 0);
    side->setSpacing(6);
    side->addWidget(makeLabel("Score", "section"));
    for (Figure& f : figures_) {
        f.value = makeLabel("–", "figure");
        f.what = makeLabel("", "second");
        f.what->setWordWrap(true);
        f.value->setFixedWidth(kFigureWidth);
        auto* row = new QHBoxLayout;
        row->addWidget(f.value);
        row->addWidget(f.what, 1);
        side->addLayout(row);
    }
    figures_[0].value->setObjectName("caughtFigure");
    figures_[1].value->setObjectName("cameTrueFigure");
    figures_[2].value->setObjectName("warningFigure");
    figures_[3].value->setObjectName("falseFigure");
    prove_ = makeButton("Prove", "proveButton", true);
    prove_->setToolTip("It is proved by itself after each change; this proves it at once");
    proved_ = makeLabel("", "second");
    proved_->setObjectName("provedWords");
    proved_->setWordWrap(true);
    side->addWidget(proved_);
    side->addWidget(makeRule());
    buildTerms(side);
    side->addWidget(prove_);
    connect(prove_, &QPushButton::clicked, this, [this] {
        if (takeTimes()) state_.proveNow();
    });
}

void ScoreFields::buildTerms(QVBoxLayout* side) {
    side->addWidget(makeLabel("Count it a catch when", "section"));
    most_ = makeField("proveMost", "Warned at most");
    least_ = makeField("proveLeast", "Warned at least");
    join_ = makeField("proveJoin", "Join alarms within");
    offDelay_ = makeField("proveOffDelay", "Off-delay");
    offDelay_->setToolTip("An alarm stays on for this long after the rule has become false");
    failures_ = makeChoice("proveFailureKind", "Which failures", {});
    masks_ = makeField("proveMasks", "Time that does not count");
    masks_->setPlaceholderText("stops");
    masks_->setToolTip(
        "Tracks whose time does not count, and conditions that are true where it does not, with ; between");
    addRow(side, "Warned at most", most_);
    addRow(side, "Warned at least", least_);
    addRow(side, "Join alarms within", join_);
    addRow(side, "Off-delay", offDelay_);
    addRow(side, "Failures", failures_);
    addRow(side, "Leave out", masks_);
    for (QLineEdit* f : {most_, least_, join_, offDelay_}) {
        connect(f, &QLineEdit::editingFinished, this, &ScoreFields::takeTimes);
        connect(f, &QLineEdit::returnPressed, this, [this] { state_.proveSoon(); });
    }
    connect(masks_, &QLineEdit::editingFinished, this, &ScoreFields::takeMasks);
    connect(failures_, &QComboBox::activated, this, [this](int row) {
        state_.setFailures(row == 0 ? std::string() : failures_->itemText(row).toStdString());
        state_.proveSoon();
    });
}

void ScoreFields::fill() {
    const Rule& rule = state_.rule();
    const auto set = [](QLineEdit* field, const QString& text) {
        if (!field->hasFocus() && field->text() != text) field->setText(text);
    };
    set(most_, hoursText(rule.spec.most));
    set(least_, hoursText(rule.spec.least));
    set(join_, hoursText(rule.spec.join));
    set(offDelay_, hoursText(rule.spec.offDelay));
    set(masks_, listed(rule.masks));
    QStringList choices;
    for (const std::string& kind : failureKinds(session_.study())) choices << QString::fromStdString(kind);
    for (const Track& t : session_.study().tracks().all())
        if (t.kind == track_kind::kFailures && !choices.contains(QString::fromStdString(t.name)))
            choices << QString::fromStdString(t.name);
    refillChoice(failures_, kAllFailures, choices);
    const int row = rule.failures.empty() ? 0 : failures_->findText(QString::fromStdString(rule.failures));
    failures_->setCurrentIndex(std::max(0, row));
    showWords();
}

bool ScoreFields::takeTimes() {
    const auto most = parseDuration(most_->text().toStdString()),
               least = parseDuration(least_->text().toStdString()),
               join = parseDuration(join_->text().toStdString()),
               off = parseDuration(offDelay_->text().toStdString());
    markWrong(most_, !most || *most <= Duration::zero(), "a duration like 48h");
    markWrong(least_, !least || (most && *least > *most), "a duration, not longer than the most");
    markWrong(join_, !join, "a duration like 6h");
    markWrong(offDelay_, !off, "a duration like 30m, or 0h");
    if (!most || !least || !join || !off || *least > *most || *most <= Duration::zero()) return false;
    state_.setSpec({*most, *least, *join, *off});
    return true;
}

void ScoreFields::takeMasks() {
    std::vector<std::string> masks;
    QString wrong;
    for (const QString& text : masks_->text().split(';', Qt::SkipEmptyParts)) {
        const std::string mask = text.trimmed().toStdString();
        if (mask.empty()) continue;
        masks.push_back(mask);
        if (const Status good = checkMask(session_.study(), mask); !good)
            wrong = QString::fromStdString(good.error().message);
    }
    markWrong(masks_, !wrong.isEmpty(), wrong);
    if (wrong.isEmpty()) state_.setMasks(masks);
}

/// How old the score is, and what it was made from.
void ScoreFields::showWords() {
    prove_->setEnabled(state_.provable() && !state_.proving());
    const auto& proof = state_.proof();
    QString words;
    if (state_.proving())
        words = "Proving…";
    else if (!proof)
        words = state_.provable() ? "Not proved yet." : "A rule that is valid is proved as you type.";
    else if (!state_.proofIsCurrent())
        words = "This is the score of the rule as it was before the last change.";
    else
        words = QString("Proved in %1 s over %2 asset-months of time that counts.")
                    .arg(state_.proofSeconds(), 0, 'f', 2)
                    .arg(toHours(proof->countingTime) / kMonthHours, 0, 'f', 1);
    setRole(proved_, proof && !state_.proofIsCurrent() ? "bad" : "second");
    proved_->setText(words);
    proved_->setToolTip(
        "Time that does not count: " +
        (state_.rule().masks.empty() ? QString("stops") : listed(state_.rule().masks).toHtmlEscaped()) +
        ", and after a failure until the stop ends that began within an hour of it.");
}

/// As wide as the longest of them asks for.
void ScoreFields::alignFigures() {
    int wide = kFigureWidth;
    for (const Figure& f : figures_) wide = std::max(wide, f.value->sizeHint().width());
    for (const Figure& f : figures_) f.value->setFixedWidth(wide);
}

void ScoreFields::showScore() {
    showWords();
    const auto& proof = state_.proof();
    if (!proof) {
        const std::array<const char*, 4> what{"failures caught", "alarms that came true", "median warning",
                                              "false alarms per asset-month"};
        for (std::size_t i = 0; i < 4; ++i) {
            figures_[i].value->setText("–");
            figures_[i].what->setText(what[i]);
            setRole(figures_[i].what, "second");
        }
        return;
    }
    const Proof& p = *proof;
    figures_[0].value->setText(QString("%1 of %2").arg(p.caught).arg(p.caught + p.missed));
    figures_[0].what->setText(
        (p.untestable ? "testable failures caught\n" : "failures caught\n") + percentText(p.catchRate) +
        (p.untestable
             ? QString("\n%1 of %2 recorded could not be tested").arg(p.untestable).arg(p.failures.size())
             : QString()));
    setRole(figures_[0].what, p.untestable ? "bad" : "second");
    figures_[1].value->setText(QString("%1 of %2").arg(p.cameTrue).arg(p.cameTrue + p.falseAlarms));
    figures_[1].what->setText("alarms came true\n" + percentText(p.cameTrueShare) +
                              (p.nearMisses == 1 ? QString("\none near miss is not among them")
                               : p.nearMisses > 0
                                   ? QString("\n%1 near misses are not among them").arg(p.nearMisses)
                                   : QString()));
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
                                  .arg(toHours(p.countingTime) / kMonthHours, 0, 'f', 1));
    alignFigures();
    figures_[0].value->setToolTip(
        "Caught: an alarm is true at some moment between the longest and the "
        "shortest useful warning. The range is Wilson's for 95 %.");
    figures_[1].value->setToolTip(
        "Of the alarms that came true or were false; late, open and masked ones are "
        "in neither. The range is Wilson's for 95 %.");
    figures_[2].value->setToolTip(
        "From the start of the first alarm, at most the longest useful warning, to "
        "the failure; of the failures caught.");
    figures_[3].value->setToolTip(
        "False alarms over the covered time that counts, summed over the assets; a "
        "month is 365.25 / 12 days.");
}

}  // namespace jacinth::app
