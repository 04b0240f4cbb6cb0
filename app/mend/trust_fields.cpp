#include "app/mend/trust_fields.h"

#include "store/trust_marks.h"

namespace jacinth::app {
namespace {

constexpr const char* kAsItIs = "as it is";

/// The grades in a stretch, each once, in order of time.
QString gradesIn(const std::vector<GradedStretch>& stretches) {
    QStringList out;
    for (const GradedStretch& s : stretches) {
        const QString words =
            QString("%1 (%2)").arg(QString::fromStdString(s.grade), QString::fromStdString(s.from));
        if (!out.contains(words)) out << words;
    }
    constexpr qsizetype kMost = 3;
    if (out.size() > kMost) out = out.mid(0, kMost) << "…";
    return out.isEmpty() ? QString(kNotJudged) : out.join(", ");
}

}  // namespace

TrustFields::TrustFields(Session& session) : session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    column->addWidget(makeLabel("Trust and sign-off", "section"));
    says_ = makeLabel("", "second");
    says_->setObjectName("trustSays");
    says_->setWordWrap(true);
    column->addWidget(says_);
    trust_ = makeChoice("trustGrade", "Trust", {});
    signOff_ = makeChoice("signOffGrade", "Sign-off", {});
    addRow(column, "Trust", trust_);
    addRow(column, "Sign-off", signOff_);
    paint_ = makeButton("Paint the stretch", "paintTrust");
    paint_->setToolTip("From the start to the end of the fix above, as one step; the scales are the study's");
    column->addWidget(paint_);
    connect(paint_, &QPushButton::clicked, this, &TrustFields::paint);
    for (QComboBox* box : {trust_, signOff_})
        connect(box, &QComboBox::currentIndexChanged, this, [this] {
            paint_->setEnabled(tag_ && (trust_->currentIndex() > 0 || signOff_->currentIndex() > 0));
        });
}

void TrustFields::fill(QComboBox* box, const std::vector<std::string>& grades) {
    QStringList wanted{kAsItIs};
    for (const std::string& grade : grades) wanted << QString::fromStdString(grade);
    wanted << kNotJudged;
    QStringList now;
    for (int i = 0; i < box->count(); ++i) now << box->itemText(i);
    if (now == wanted) return;
    const QString before = box->currentText();
    box->clear();
    box->addItems(wanted);
    box->setCurrentIndex(std::max(0, box->findText(before)));
}

void TrustFields::show(TagId tag, TimeRange stretch) {
    tag_ = tag;
    stretch_ = {stretch.from, stretch.to + kNanosecond};
    const TrustSettings settings = trustSettingsOf(session_.study());
    fill(trust_, settings.trust);
    fill(signOff_, settings.signOff);
    paint_->setEnabled(tag_ && (trust_->currentIndex() > 0 || signOff_->currentIndex() > 0));
    if (!tag_) return says_->setText({});
    says_->setText("Here: " + gradesIn(trustOf(session_.study(), tag_, stretch_, Which::Mended)) +
                   "\nWork: " + gradesIn(signOffOf(session_.study(), tag_, stretch_)));
}

void TrustFields::paint() {
    TrustPaint paint;
    if (trust_->currentIndex() > 0) paint.trust = trust_->currentText().toStdString();
    if (signOff_->currentIndex() > 0) paint.signOff = signOff_->currentText().toStdString();
    bool good = false;
    session_.tryChange(
        [&] { good = session_.report(paintTrust(session_.study(), {tag_}, stretch_, paint)); });
    if (!good) return;
    trust_->setCurrentIndex(0);
    signOff_->setCurrentIndex(0);
}

}  // namespace jacinth::app
