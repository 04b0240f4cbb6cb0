#include "app/screen/limits_form.h"

#include <QCheckBox>

#include "app/screen/run_preview.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/runs/find_runs.h"

namespace jacinth::app {
namespace {

constexpr std::array<LimitMethod, 5> kMethods{LimitMethod::Tolerance, LimitMethod::MeanSd,
                                              LimitMethod::MedianMad, LimitMethod::Quantile,
                                              LimitMethod::Envelope};
constexpr std::array<LineUp, 4> kLineUps{LineUp::Phases, LineUp::Start, LineUp::End, LineUp::Indicator};

QString durationText(Duration d) {
    return QString::fromStdString(formatDuration(d));
}

/// A share typed in percent; nothing where it is none between `least` and 100.
std::optional<double> percentOf(QLineEdit* field, double least) {
    bool ok = false;
    const double v = field->text().replace(',', '.').toDouble(&ok);
    markWrong(field, !ok || v < least || v >= 100, QString("a share in %, from %1 to below 100").arg(least));
    if (!ok || v < least || v >= 100) return {};
    return v / 100;
}

}  // namespace

LimitsForm::LimitsForm(Session& session) : session_(session) {
    buildFields();
    connect(method_, &QComboBox::currentIndexChanged, this, &LimitsForm::showMethodFields);
    connect(lineUp_, &QComboBox::currentIndexChanged, this, &LimitsForm::showMethodFields);
    connect(tags_, &QLineEdit::textEdited, this, [this] { rolesTouched_ = true; });
    for (QLineEdit* f : {every_, k_, q_, coverage_, confidence_, smooth_, slack_, least_})
        connect(f, &QLineEdit::textEdited, this, [this] { specTouched_ = true; });
    for (QComboBox* box : {method_, lineUp_, indicator_})
        connect(box, &QComboBox::activated, this, [this] { specTouched_ = true; });
    show_(LimitSpec{});
}

void LimitsForm::buildFields() {
    tags_ = makeField("limitTags", "Tags, by role");
    tags_->setToolTip("Roles, with commas between them");
    every_ = makeField("limitEvery", "Slice every");
    method_ = makeChoice("limitMethod", "Method",
                         {"tolerance interval", "mean ± k·s", "median ± k·MAD", "quantiles", "envelope"});
    k_ = makeField("limitK", "k");
    q_ = makeField("limitQ", "Lower quantile, %");
    coverage_ = makeField("limitCoverage", "Share of good runs inside, %");
    confidence_ = makeField("limitConfidence", "Confidence, %");
    lineUp_ = makeChoice("limitLineUp", "Line up by", {"phases", "start", "end", "indicator"});
    indicator_ = makeChoice("limitIndicator", "Indicator", {});
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(5);
    addRow(column, "Tags", tags_);
    addRow(column, "Method", method_);
    column->addWidget(kRow_ = makeFields("k", {{"", k_}}));
    column->addWidget(qRow_ = makeFields("Outside, each side", {{"%", q_}}));
    column->addWidget(toleranceRow_ = makeFields("Holds", {{"%, sure", coverage_}, {"%", confidence_}}));
    addRow(column, "Line up by", lineUp_);
    column->addWidget(indicatorRow_ = makeFields("Rises through it", {{"", indicator_}}));
    more_ = new QWidget;
    auto* more = new QVBoxLayout(more_);
    more->setContentsMargins(0, 0, 0, 0);
    more->setSpacing(5);
    more->addWidget(makeFields("Slice every", {{"", every_}}));
    buildMore(more);
    moreButton_ = makeMoreButton("limitMore", more_, [this](bool on) { emit moreShown(on); });
    column->addWidget(more_);
    column->addWidget(moreButton_, 0, Qt::AlignLeft);
}

void LimitsForm::buildMore(QVBoxLayout* to) {
    smooth_ = makeField("limitSmooth", "Smooth over slices");
    slack_ = makeField("limitSlack", "Early or late by");
    slack_->setToolTip("How far a good run may be early or late: each slice takes the widest limits within");
    least_ = makeField("limitLeast", "Least runs a slice");
    ignore_ = makeField("screenIgnore", "Ignore shorter than");
    ignore_->setText("20m");
    join_ = makeField("screenJoin", "Join returns under");
    join_->setText("10m");
    name_ = makeField("limitName", "Name of the limits");
    name_->setText("Golden limits");
    forRuns_ = new ExpressionEditor(session_, ExpressionEditor::Lines::One);
    forRuns_->setObjectName("limitForRuns");
    forRuns_->setAccessibleName("Only for runs where");
    forRuns_->setPlaceholderText("product is \"Pale\"");
    forRuns_->setNames([this] {
        return namesAboutRuns(session_.study(), session_.view().asset(),
                              session_.study().tracks().spans(track_));
    });
    validFrom_ = new MomentField(session_, "limitValidFrom", "Valid from");
    validFrom_->setPlaceholderText("always");
    to->addWidget(makeFields("Smooth", {{"slices · n ≥", smooth_}, {"", least_}}));
    to->addWidget(makeFields("Early or late by", {{"", slack_}}));
    leaveOut_ = new QCheckBox("Leave out abnormal events");
    leaveOut_->setObjectName("limitLeaveOut");
    leaveOut_->setToolTip(
        "Labelled abnormal events, recorded stops and stretches that are not sound do not count inside "
        "golden "
        "runs");
    connect(leaveOut_, &QCheckBox::clicked, this, [this] { specTouched_ = true; });
    to->addWidget(leaveOut_);
    to->addWidget(makeFields("Ignore under", {{"join", ignore_}, {"", join_}}));
    addRow(to, "Name", name_);
    to->addWidget(makeFields("Only for runs", {{"", forRuns_}}));
    to->addWidget(new RunPreview(session_, forRuns_, [this] { return track_; }));
    addRow(to, "Valid from", validFrom_);
}

void LimitsForm::showMethodFields() {
    const LimitMethod method = kMethods[static_cast<std::size_t>(method_->currentIndex())];
    kRow_->setVisible(method == LimitMethod::MeanSd || method == LimitMethod::MedianMad);
    qRow_->setVisible(method == LimitMethod::Quantile);
    toleranceRow_->setVisible(method == LimitMethod::Tolerance);
    const LineUp lineUp = kLineUps[static_cast<std::size_t>(lineUp_->currentIndex())];
    indicatorRow_->setVisible(lineUp == LineUp::Indicator);
    if (lineUp == LineUp::Indicator && indicator_->count() == 0)
        for (const Tag& t : session_.study().catalog().tags())
            if (t.asset == session_.view().asset() && t.kind != TagKind::State)
                indicator_->addItem(QString::fromStdString(t.role));
}

void LimitsForm::show_(const LimitSpec& s) {
    every_->setText(s.lineUp == LineUp::Indicator ? QString::number(indicatorUnits(s.every))
                                                  : durationText(s.every));
    k_->setText(QString::number(s.k));
    q_->setText(QString::number(s.q * 100));
    coverage_->setText(QString::number(s.coverage * 100));
    confidence_->setText(QString::number(s.confidence * 100));
    smooth_->setText(QString::number(s.smooth));
    slack_->setText(durationText(s.slack));
    least_->setText(QString::number(s.leastRuns));
    leaveOut_->setChecked(s.leaveOutAbnormal);
    method_->setCurrentIndex(
        static_cast<int>(std::find(kMethods.begin(), kMethods.end(), s.method) - kMethods.begin()));
    lineUp_->setCurrentIndex(
        static_cast<int>(std::find(kLineUps.begin(), kLineUps.end(), s.lineUp) - kLineUps.begin()));
    showMethodFields();
    if (!s.indicator.empty()) indicator_->setCurrentText(QString::fromStdString(s.indicator));
}

void LimitsForm::propose(TrackId track) {
    track_ = track;
    if (!specTouched_) show_(proposedLimits(session_.study(), track));
}

void LimitsForm::take(const LimitSet& set) {
    track_ = set.track;
    if (specTouched_ || set.byRole.empty()) return;
    show_(set.byRole.begin()->second.spec);
    name_->setText(QString::fromStdString(set.name));
}

void LimitsForm::setRoles(const std::vector<std::string>& roles) {
    QStringList names;
    for (const std::string& r : roles) names << QString::fromStdString(r);
    tags_->setText(names.join(", "));
    tags_->setCursorPosition(0);
}

bool LimitsForm::readMethod(LimitSpec& s) {
    s.method = kMethods[static_cast<std::size_t>(method_->currentIndex())];
    bool ok = false;
    s.k = k_->text().toDouble(&ok);
    const bool needsK = s.method == LimitMethod::MeanSd || s.method == LimitMethod::MedianMad;
    markWrong(k_, !ok || s.k <= 0, "a number above 0");
    if (needsK && (!ok || s.k <= 0)) return false;
    if (!needsK && (!ok || s.k <= 0)) s.k = LimitSpec{}.k;
    if (s.method == LimitMethod::Quantile) {
        const auto q = percentOf(q_, 0);
        if (!q || *q >= 0.5) return markWrong(q_, true, "a share in % below 50"), false;
        s.q = *q;
    }
    if (s.method != LimitMethod::Tolerance) return true;
    const auto coverage = percentOf(coverage_, 50), confidence = percentOf(confidence_, 50);
    if (!coverage || !confidence) return false;
    s.coverage = *coverage;
    s.confidence = *confidence;
    return true;
}

bool LimitsForm::readScale(LimitSpec& s) {
    s.lineUp = kLineUps[static_cast<std::size_t>(lineUp_->currentIndex())];
    bool ok = true;
    if (s.lineUp == LineUp::Indicator) {
        s.indicator = indicator_->currentText().toStdString();
        const double every = every_->text().toDouble(&ok);
        // A slice given as a time makes no sense on the indicator's scale: a unit then.
        s.every = indicatorStep(ok && every > 0 ? every : 1);
        ok = true;
    } else {
        const auto every = parseDuration(every_->text().toStdString());
        ok = every && *every > Duration::zero();
        if (ok) s.every = *every;
    }
    markWrong(every_, !ok, "a duration like 2m");
    const auto slack = parseDuration(slack_->text().toStdString());
    markWrong(slack_, !slack || *slack < Duration::zero(), "a duration like 6m, or 0s");
    bool smoothIs = false, leastIs = false;
    s.leaveOutAbnormal = leaveOut_->isChecked();
    s.smooth = smooth_->text().toInt(&smoothIs);
    s.leastRuns = least_->text().toInt(&leastIs);
    smoothIs = smoothIs && s.smooth >= 1 && s.smooth % 2 == 1;
    leastIs = leastIs && s.leastRuns >= 1;
    markWrong(smooth_, !smoothIs, "an odd number; 1 is none");
    markWrong(least_, !leastIs, "a number from 1");
    if (!ok || !slack || *slack < Duration::zero() || !smoothIs || !leastIs) return false;
    s.slack = s.lineUp == LineUp::Indicator ? Duration() : *slack;
    return true;
}

std::optional<LimitSpec> LimitsForm::spec() {
    LimitSpec out;
    const bool method = readMethod(out), scale = readScale(out);
    if (!method || !scale) {
        // A field that is wrong must be seen.
        for (QLineEdit* f : {every_, smooth_, slack_, least_})
            if (f->property("wrong").toBool()) moreButton_->setChecked(true);
        return {};
    }
    return out;
}

LimitSpec LimitsForm::specOr(const LimitSpec& otherwise) {
    const auto made = spec();
    return made ? *made : otherwise;
}

std::optional<LimitsForm::Request> LimitsForm::request() {
    const auto made = spec();
    const auto ignore = parseDuration(ignore_->text().toStdString()),
               join = parseDuration(join_->text().toStdString());
    markWrong(ignore_, !ignore, "a duration like 20m");
    markWrong(join_, !join, "a duration like 10m");
    Request out;
    out.roles = roles();
    markWrong(tags_, out.roles.empty(), "roles, with commas between them");
    out.name = name_->text().trimmed().toStdString();
    markWrong(name_, out.name.empty(), "a name");
    const auto from = validFrom_->moment();
    const bool fromWrong = !validFrom_->text().trimmed().isEmpty() && !from;
    markWrong(validFrom_, fromWrong, "a time like 5 Apr 2026 06:00");
    const auto forRuns = forRuns_->checked();
    const bool forWrong = !forRuns_->text().isEmpty() && (!forRuns || forRuns->type != ValueType::Condition);
    if (forWrong && forRuns) forRuns_->showError({"a condition about a run would fit", 1});
    if (!ignore || !join || out.name.empty() || fromWrong || forWrong) moreButton_->setChecked(true);
    if (!made || !ignore || !join || out.roles.empty() || out.name.empty() || fromWrong || forWrong)
        return {};
    out.spec = *made;
    out.screen = {*ignore, *join};
    out.forRuns = forRuns_->text().toStdString();
    if (from) out.validFrom = *from;
    return out;
}

}  // namespace jacinth::app
