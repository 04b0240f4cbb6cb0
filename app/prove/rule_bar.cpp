#include "app/prove/rule_bar.h"

#include <QMenu>
#include <cmath>

#include "app/base/examples.h"
#include "app/base/fitted_label.h"
#include "app/base/names.h"
#include "app/prove/rule_commands.h"
#include "core/base/text.h"

namespace jacinth::app {
namespace {

const char* const kHowToWrite = "@ for a role, ` for any tag, {name} for a setting, Ctrl+Space for what fits";
constexpr int kTypingPause = 20;  ///< ms

QString numberText(double v) {
    return QString::number(v, 'g', 8);
}

QString validWords(const FleetExpression& fleet, bool nothingFailed) {
    const QString on = fleet.byAsset.size() == 1 ? QString::fromStdString(fleet.byAsset.front().first.name)
                                                 : QString("%1 assets").arg(fleet.byAsset.size());
    return "valid on " + on + (nothingFailed ? ", where nothing failed" : "");
}

}  // namespace

RuleBar::RuleBar(Session& session, ProveState& state)
    : session_(session), state_(state), typing_(new QTimer(this)) {
    buildHead();
    editor_ = new ExpressionEditor(session);
    preview_ = new ExpressionPreview(session);
    help_ = new FittedLabel;
    setRole(help_, "second");
    help_->setObjectName("ruleHelp");
    showHelp();
    settings_ = new QHBoxLayout;
    settings_->setSpacing(6);
    auto* under = new QHBoxLayout;
    under->setSpacing(12);
    under->addWidget(help_, 1);
    under->addLayout(settings_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    column->addLayout(head_);
    column->addWidget(editor_);
    column->addLayout(under);
    column->addWidget(preview_);
    typing_->setSingleShot(true);
    typing_->setInterval(kTypingPause);
    connect(typing_, &QTimer::timeout, this,
            [this] { state_.setText(editor_->toPlainText().toStdString()); });
    connect(&state, &ProveState::proved, this, &RuleBar::showReach);
    connect(editor_, &QPlainTextEdit::textChanged, this, [this] {
        if (!filling_) typing_->start();
    });
    connect(editor_, &ExpressionEditor::helpChanged, this, [this](const QString& text) {
        aboutCaret_ = text;
        showHelp();
    });
    connect(&state, &ProveState::ruleTaken, this, [this] {
        filling_ = true;
        editor_->setPlainText(QString::fromStdString(state_.rule().text));
        filling_ = false;
        fillRules();
    });
    connect(&state, &ProveState::ruleChanged, this, [this] {
        fillRules();
        fillFields();
        showState();
    });
    connect(editor_->document(), &QTextDocument::blockCountChanged, this, &RuleBar::fitEditor);
    filling_ = true;
    editor_->setPlainText(QString::fromStdString(state.rule().text));
    filling_ = false;
    fitEditor();
    fillRules();
    fillFields();
    showState();
}

void RuleBar::buildHead() {
    rules_ = makeChoice("ruleChoice", "The current rule", {});
    rules_->setMinimumWidth(240);
    keep_ = makeButton("Keep…", "keepRule");
    keep_->setToolTip("Keep this version, with its proof, under a name");
    more_ = makeButton("More", "ruleMore");
    more_->setToolTip("Versions, examples, rename, remove, files");
    words_ = new FittedLabel;
    words_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    words_->setObjectName("ruleState");
    head_ = new QHBoxLayout;
    head_->setSpacing(6);
    head_->addWidget(rules_);
    head_->addWidget(keep_);
    head_->addWidget(more_);
    head_->addWidget(words_, 1);
    connect(rules_, &QComboBox::activated, this, &RuleBar::choose);
    connect(keep_, &QPushButton::clicked, this, &RuleBar::keep);
    connect(more_, &QPushButton::clicked, this, &RuleBar::openMenu);
}

/// As high as its text, from two lines to five.
void RuleBar::fitEditor() {
    const int lines = std::clamp(editor_->document()->blockCount(), 2, 5);
    editor_->setFixedHeight(lines * editor_->fontMetrics().lineSpacing() + 18);
}

void RuleBar::showPreview() {
    const auto text = withSettings(state_.rule().text, state_.rule().settings);
    preview_->setText(QString::fromStdString(text ? *text : state_.rule().text));
}

/// The rules that are kept, and which of them is current.
void RuleBar::fillRules() {
    const std::string& name = state_.rule().name;
    const auto kept = state_.keptAs();
    QStringList items{"New rule"};
    int current = 0;
    for (const Rule& r : session_.study().judgement().rules()) {
        const bool here = r.name == name;
        QString text = QString::fromStdString(r.name);
        if (here && kept)
            text += QString(" · version %1").arg(kept->version);
        else if (here)
            text += " · changed";
        if (here) current = static_cast<int>(items.size());
        items << text;
    }
    QStringList shown;
    for (int i = 0; i < rules_->count(); ++i) shown << rules_->itemText(i);
    if (shown != items) {
        rules_->clear();
        rules_->addItems(items);
    }
    rules_->setCurrentIndex(current);
    keep_->setEnabled(state_.provable() && !session_.study().readOnly());
}

void RuleBar::choose(int row) {
    const auto kept = session_.study().judgement().rules();
    if (row > 0 && row <= std::ssize(kept)) return state_.take(kept[static_cast<std::size_t>(row - 1)]);
    Rule fresh;
    fresh.spec = state_.rule().spec;
    state_.take(fresh);
    editor_->setFocus();
}

/// A field for each setting of the text.
void RuleBar::fillFields() {
    const Settings& settings = state_.rule().settings;
    const std::vector<std::string> names = settingsIn(state_.rule().text);
    const bool same = std::equal(names.begin(), names.end(), fields_.begin(), fields_.end(),
                                 [](const std::string& a, const auto& b) { return a == b.first; });
    if (!same) {
        while (QLayoutItem* item = settings_->takeAt(0)) {
            if (item->widget()) item->widget()->deleteLater();
            delete item;
        }
        fields_.clear();
        for (const std::string& name : names) {
            const QString words = QString::fromStdString(name);
            auto* field = makeField("setting_" + words, "The number of " + words);
            field->setFixedWidth(72);
            settings_->addWidget(makeLabel(words, "second"));
            settings_->addWidget(field);
            fields_.emplace_back(name, field);
            connect(field, &QLineEdit::textEdited, this, [this, field, name](const QString& text) {
                const auto number = finiteNumber(text.trimmed().toStdString());
                markWrong(field, !number, "a number");
                if (number) state_.setSetting(name, *number);
            });
        }
    }
    for (const auto& [name, field] : fields_) {
        const auto known = settings.find(name);
        if (known == settings.end() || field->hasFocus()) continue;
        field->setText(numberText(known->second));
        markWrong(field, false);
        const StartingSetting* range = state_.starting().of(name);
        const QString words = "The number of " + QString::fromStdString(name);
        field->setToolTip(range ? words + ". To begin with: " + QString::fromStdString(range->from) : words);
    }
}

void RuleBar::showState() {
    const auto& trouble = state_.trouble();
    showPreview();
    notes_.clear();
    if (trouble || !state_.provable()) {
        editor_->setErrorColumn(trouble ? trouble->column : 0);
        setRole(words_, trouble ? "bad" : "second");
        words_->setText(trouble ? QString::fromStdString(trouble->message)
                                : "write a condition on roles, like @" + exampleRole(session_));
        // What does not fit there has the room beneath the text.
        if (trouble && words_->sizeHint().width() > words_->width()) notes_ = words_->text();
        return showHelp();
    }
    editor_->setErrorColumn(0);
    const std::string why = whyNoneIsAboutFailures(session_.study(), *state_.fleet(), state_.rule().failures);
    nothingFailed_ = !why.empty();
    setRole(words_, why.empty() ? "good" : "bad");
    words_->setText(validWords(*state_.fleet(), nothingFailed_));
    QStringList warnings;
    if (!why.empty()) warnings << QString::fromStdString(why);
    for (const std::string& warning : state_.fleet()->warnings()) warnings << QString::fromStdString(warning);
    notes_ = warnings.join("; ");
    showHelp();
    showReach();
}

/// About what the caret is at; else what is to be known about the rule, or how one is written.
void RuleBar::showHelp() {
    help_->setText(!aboutCaret_.isEmpty() ? aboutCaret_ : !notes_.isEmpty() ? notes_ : kHowToWrite);
}

/// How much of the record it is true for, once that is known.
void RuleBar::showReach() {
    if (!state_.provable() || !state_.proofIsCurrent() || nothingFailed_) return;
    const double share = state_.proof()->trueShare;
    if (!std::isfinite(share)) return;
    words_->setText(QString("%1 · true for %2 % of the record")
                        .arg(validWords(*state_.fleet(), nothingFailed_))
                        .arg(share * 100, 0, 'f', share < 0.1 ? 1 : 0));
}

void RuleBar::keep() {
    keepCurrentRule(session_, state_, this);
}

void RuleBar::openMenu() {
    QMenu menu(this);
    fillRuleMenu(menu, session_, state_, this);
    menu.exec(more_->mapToGlobal(QPoint(0, more_->height())));
}

}  // namespace jacinth::app
