#include "app/prove/rule_commands.h"

#include <QInputDialog>
#include <QMessageBox>

#include "app/base/file_dialogs.h"
#include "app/prove/keep_dialog.h"
#include "store/write_file.h"
#include "work/prove/example_rules.h"

namespace jacinth::app {
namespace {

void addVersions(QMenu& menu, Session& session, ProveState& state) {
    QMenu* versions = menu.addMenu("Versions");
    const auto all = session.study().judgement().ruleVersions(state.rule().name);
    versions->setEnabled(!all.empty());
    for (auto r = all.rbegin(); r != all.rend(); ++r) {
        QString words =
            QString("%1 · %2").arg(r->version).arg(QString::fromStdString(session.zone().shortText(r->made)));
        if (!r->note.empty()) words += " · " + QString::fromStdString(r->note);
        versions->addAction(words.replace('&', "&&"), &state, [&state, rule = *r] { state.take(rule); });
    }
}

void addExamples(QMenu& menu, Session& session, ProveState& state) {
    QMenu* examples = menu.addMenu("Begin with an example");
    const auto all = exampleRules(session.study());
    examples->setEnabled(!all.empty());
    for (const Rule& r : all)
        examples->addAction(QString::fromStdString(r.name), &state, [&state, r] { state.take(r); });
}

void exportRules(Session& session, QWidget* on) {
    const QString path = askFileToSave(on, {"Save the rules", " rules.json", "Rules as JSON (*.json)"});
    if (path.isEmpty()) return;
    if (session.report(writeWhole(path.toStdString(), rulesText(session.study().judgement().rules()))))
        emit session.notified("Saved: the newest version of every rule");
}

void importRules(Session& session, QWidget* on) {
    const QString path = askFileToOpen(on, "Take over rules", "Rules as JSON (*.json)");
    if (path.isEmpty()) return;
    const auto text = readWhole(path.toStdString());
    if (!session.report(text)) return;
    const auto rules = readRules(*text);
    if (!session.report(rules)) return;
    session.tryChange([&] {
        if (session.report(takeRules(session.study(), *rules)))
            emit session.notified(QString("Taken over: %1 rules").arg(rules->size()));
    });
}

}  // namespace

void keepCurrentRule(Session& session, ProveState& state, QWidget* on) {
    KeepDialog dialog(session, state, on);
    dialog.exec();
}

void fillRuleMenu(QMenu& menu, Session& session, ProveState& state, QWidget* on) {
    const std::string name = state.rule().name;
    const bool known = session.study().judgement().ruleNamed(name).has_value();
    const bool writable = !session.study().readOnly();
    addVersions(menu, session, state);
    addExamples(menu, session, state);
    menu.addSeparator();
    menu.addAction("Rename…", on, [&session, &state, name, on] { renameKept(session, state, name, on); })
        ->setEnabled(known && writable);
    menu.addAction("Remove…", on, [&session, name, on] { removeKept(session, name, on); })
        ->setEnabled(known && writable);
    menu.addSeparator();
    menu.addAction("Save the rules as a file…", on, [&session, on] { exportRules(session, on); })
        ->setEnabled(!session.study().judgement().rules().empty());
    menu.addAction("Take over rules from a file…", on, [&session, on] { importRules(session, on); })
        ->setEnabled(writable);
}

void renameKept(Session& session, ProveState& state, const std::string& name, QWidget* on) {
    bool good = false;
    const QString to = QInputDialog::getText(on, "Rename", "Name of the rule:", QLineEdit::Normal,
                                             QString::fromStdString(name), &good);
    if (!good || to.trimmed().toStdString() == name) return;
    session.tryChange([&] {
        if (!session.report(renameRule(session.study(), name, to.trimmed().toStdString()))) return;
        if (state.rule().name == name) state.rename(to.trimmed().toStdString());
    });
}

void removeKept(Session& session, const std::string& name, QWidget* on) {
    const auto versions = session.study().judgement().ruleVersions(name);
    const QString what = QString::fromStdString(name);
    QMessageBox box(QMessageBox::Question, "Remove a rule",
                    versions.size() == 1
                        ? QString("Remove the rule “%1” and its proofs?").arg(what)
                        : QString("Remove the rule “%1” with its %2 versions and their proofs?")
                              .arg(what)
                              .arg(versions.size()),
                    QMessageBox::Cancel, on);
    box.setTextFormat(Qt::PlainText);
    box.setInformativeText("Undo brings them back.");
    auto* remove = box.addButton("Remove", QMessageBox::DestructiveRole);
    box.exec();
    if (box.clickedButton() != remove) return;
    session.tryChange([&] { session.report(removeRule(session.study(), name)); });
}

}  // namespace jacinth::app
