#include "app/window/trust_dialog.h"

#include <QDialogButtonBox>

#include "store/trust_marks.h"
#include "work/mend/trust.h"

namespace jacinth::app {
namespace {

constexpr const char* kNoRule = "nothing";

QString listed(const std::vector<std::string>& grades) {
    QStringList out;
    for (const std::string& g : grades) out << QString::fromStdString(g);
    return out.join(", ");
}

std::vector<std::string> listIn(const QString& text) {
    std::vector<std::string> out;
    for (const QString& part : text.split(',', Qt::SkipEmptyParts))
        if (!part.trimmed().isEmpty()) out.push_back(part.trimmed().toStdString());
    return out;
}

}  // namespace

TrustDialog::TrustDialog(Session& session, QWidget* parent)
    : QDialog(parent), session_(session), before_(trustSettingsOf(session.study())) {
    setObjectName("trustDialog");
    setWindowTitle("Trust and sign-off");
    setMinimumWidth(460);
    auto* column = new QVBoxLayout(this);
    column->setSpacing(8);
    column->addWidget(makeLabel("How good a stretch is, best first", "section"));
    trust_ = makeField("scaleTrust", "Grades of trust");
    column->addWidget(trust_);
    soundDownTo_ = makeChoice("soundDownTo", "Sound data goes down to", {});
    addRow(column, "Only sound data goes down to", soundDownTo_);
    filled_ = makeChoice("ruleFilled", "Filled gaps are", {});
    hidden_ = makeChoice("ruleHidden", "Hidden and cut is", {});
    corrected_ = makeChoice("ruleCorrected", "Corrected is", {});
    addRow(column, "Filled gaps are", filled_);
    addRow(column, "Hidden and cut is", hidden_);
    addRow(column, "Corrected is", corrected_);
    column->addWidget(makeRule());
    column->addWidget(makeLabel("How far the work got, the last ends it", "section"));
    signOff_ = makeField("scaleSignOff", "Grades of sign-off");
    column->addWidget(signOff_);
    ownFixes_ = new QCheckBox("people may give the last grade to what they fixed themselves");
    ownFixes_->setObjectName("ownFixes");
    column->addWidget(ownFixes_);
    column->addWidget(makeRule());
    column->addWidget(makeLabel("Who may set what", "section"));
    who_ = new QPlainTextEdit;
    who_->setObjectName("scaleWho");
    who_->setAccessibleName("Who may set what");
    who_->setPlaceholderText("signed: R. Osen, M. L.\n(a grade that is not named here is set by everyone)");
    who_->setFixedHeight(64);
    column->addWidget(who_);
    trouble_ = makeLabel("", "bad");
    trouble_->setObjectName("scaleTrouble");
    trouble_->setWordWrap(true);
    column->addWidget(trouble_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    column->addWidget(buttons);
    trust_->setText(listed(before_.trust));
    signOff_->setText(listed(before_.signOff));
    ownFixes_->setChecked(before_.ownFixes);
    QStringList who;
    for (const auto& [grade, people] : before_.who)
        if (!people.empty()) who << QString::fromStdString(grade) + ": " + listed(people);
    who_->setPlainText(who.join('\n'));
    fillRules();
    connect(trust_, &QLineEdit::textChanged, this, &TrustDialog::fillRules);
    connect(buttons, &QDialogButtonBox::accepted, this, &TrustDialog::keep);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
}

void TrustDialog::fillRules() {
    const auto fill = [&](QComboBox* box, const std::string& first, bool orNone) {
        const QString before = box->count() ? box->currentText() : QString::fromStdString(first);
        box->clear();
        if (orNone) box->addItem(kNoRule);
        for (const std::string& grade : listIn(trust_->text())) box->addItem(QString::fromStdString(grade));
        const int at = box->findText(before.isEmpty() ? kNoRule : before);
        box->setCurrentIndex(std::max(0, at));
    };
    fill(soundDownTo_, before_.soundDownTo, false);
    fill(filled_, before_.filled, true);
    fill(hidden_, before_.hidden, true);
    fill(corrected_, before_.corrected, true);
}

TrustSettings TrustDialog::said() const {
    TrustSettings out;
    out.trust = listIn(trust_->text());
    out.signOff = listIn(signOff_->text());
    out.soundDownTo = soundDownTo_->currentText().toStdString();
    const auto rule = [](const QComboBox* box) {
        return box->currentIndex() <= 0 ? std::string() : box->currentText().toStdString();
    };
    out.filled = rule(filled_);
    out.hidden = rule(hidden_);
    out.corrected = rule(corrected_);
    out.ownFixes = ownFixes_->isChecked();
    for (const QString& line : who_->toPlainText().split('\n', Qt::SkipEmptyParts))
        out.who[line.section(':', 0, 0).trimmed().toStdString()] = listIn(line.section(':', 1));
    return out;
}

void TrustDialog::keep() {
    const TrustSettings settings = said();
    if (const Status good = validateTrustSettings(settings); !good)
        return trouble_->setText(QString::fromStdString(good.error().message));
    if (!(settings == before_))
        session_.tryChange([&] { session_.report(setTrustSettings(session_.study(), settings)); });
    accept();
}

}  // namespace jacinth::app
