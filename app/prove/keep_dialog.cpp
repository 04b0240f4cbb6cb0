#include "app/prove/keep_dialog.h"

#include <QDialogButtonBox>

#include "app/prove/proof_words.h"

namespace jacinth::app {

KeepDialog::KeepDialog(Session& session, ProveState& state, QWidget* parent)
    : QDialog(parent), session_(session), state_(state) {
    setObjectName("keepDialog");
    setWindowTitle("Keep the rule");
    resize(520, 0);
    build();
    const Rule& rule = state.rule();
    name_->setText(QString::fromStdString(rule.name));
    meaning_->setText(QString::fromStdString(rule.meaning));
    advice_->setText(QString::fromStdString(rule.advice));
    severity_->setCurrentIndex(rule.severity - kLeastSeverity);
    connect(name_, &QLineEdit::textChanged, this, &KeepDialog::follow);
    follow();
    name_->setFocus();
}

void KeepDialog::build() {
    name_ = makeField("keepName", "Name");
    meaning_ = makeField("keepMeaning", "What its alarm means");
    meaning_->setPlaceholderText("what stands behind its alarm");
    advice_ = makeField("keepAdvice", "What to do about it");
    advice_->setPlaceholderText("what its reader should do");
    note_ = makeField("keepNote", "Why this version");
    note_->setPlaceholderText("what is different, and why");
    severity_ = makeChoice("keepSeverity", "Severity", severityWords());
    says_ = makeLabel("", "second");
    says_->setObjectName("keepSays");
    says_->setWordWrap(true);
    trouble_ = makeLabel("", "bad");
    trouble_->setWordWrap(true);
    auto* column = new QVBoxLayout(this);
    column->setSpacing(8);
    addRow(column, "Name", name_);
    addRow(column, "Severity", severity_);
    addRow(column, "Meaning", meaning_);
    addRow(column, "Advice", advice_);
    addRow(column, "Note", note_);
    column->addWidget(says_);
    column->addWidget(trouble_);
    auto* buttons = new QDialogButtonBox;
    keep_ = makeButton("Keep", "keepAccept", true);
    keep_->setDefault(true);
    buttons->addButton(keep_, QDialogButtonBox::AcceptRole);
    auto* cancel = buttons->addButton(QDialogButtonBox::Cancel);
    column->addWidget(buttons);
    connect(keep_, &QPushButton::clicked, this, &KeepDialog::take);
    connect(cancel, &QPushButton::clicked, this, &QDialog::reject);
}

/// Which version it becomes, and with which proof.
void KeepDialog::follow() {
    const std::string name = name_->text().trimmed().toStdString();
    const auto newest = session_.study().judgement().ruleNamed(name);
    QString says;
    if (!newest)
        says = "Becomes the first version of a new rule.";
    else if (saysTheSame(*newest, state_.rule()))
        says = QString("Says the same as version %1: its words are changed, and no version is added.")
                   .arg(newest->version);
    else
        says = QString("Becomes version %1 of this rule.").arg(newest->version + 1);
    says += state_.proofIsCurrent() ? "\nKept with its proof: " + scoreInOneLine(*state_.proof()) + "."
                                    : QString("\nKept without a proof: it is not proved as it stands.");
    says_->setText(says);
    keep_->setEnabled(!name.empty());
}

void KeepDialog::take() {
    Rule words;
    words.name = name_->text().trimmed().toStdString();
    words.severity = severity_->currentIndex() + kLeastSeverity;
    words.meaning = meaning_->text().trimmed().toStdString();
    words.advice = advice_->text().trimmed().toStdString();
    words.note = note_->text().trimmed().toStdString();
    const Status good = checkName(words.name, "a rule");
    trouble_->setText(good ? QString() : QString::fromStdString(good.error().message));
    if (good && state_.keep(words)) accept();
}

}  // namespace jacinth::app
