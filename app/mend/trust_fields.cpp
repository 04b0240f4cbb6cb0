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
    of_ = makeChoice("trustOf", "Of", {"this tag", "the tags shown", "every tag of the asset"});
    addRow(column, "Of", of_);
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

std::vector<TagId> TrustFields::tags() const {
    enum { kThis, kShown, kAll };
    std::vector<TagId> out{tag_};
    const Tag* own = session_.tag(tag_);
    if (!own || of_->currentIndex() == kThis) return out;
    if (of_->currentIndex() == kShown) {
        for (const TagId id : session_.view().shown())
            if (id != tag_ && session_.tag(id)) out.push_back(id);
        return out;
    }
    for (const Tag& t : session_.study().catalog().tags())
        if (t.asset == own->asset && t.id != tag_) out.push_back(t.id);
    return out;
}

void TrustFields::paint() {
    TrustPaint paint;
    if (trust_->currentIndex() > 0) paint.trust = trust_->currentText().toStdString();
    if (signOff_->currentIndex() > 0) paint.signOff = signOff_->currentText().toStdString();
    bool good = false;
    session_.tryChange(
        [&] { good = session_.report(paintTrust(session_.study(), tags(), stretch_, paint)); });
    if (!good) return;
    trust_->setCurrentIndex(0);
    signOff_->setCurrentIndex(0);
    of_->setCurrentIndex(0);  // several are painted on purpose, not by a choice that was left
}

}  // namespace jacinth::app
