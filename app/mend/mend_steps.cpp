// Mend with a suspected step: its shift in hand, taken out with its mount, or judged to be none.
#include <QStackedWidget>

#include "app/mend/mend_bench.h"
#include "app/mend/step_list.h"
#include "work/mend/fix_in_hand.h"

namespace jacinth::app {
namespace {

constexpr int kLedgerHeight = 170, kStepsHeight = 250;

}  // namespace

void MendBench::showLower(QWidget* lower) {
    lower_->setCurrentWidget(lower);
    lower_->setFixedHeight(lower == steps_ ? kStepsHeight : kLedgerHeight);
}

void MendBench::takeStep() {
    const auto steps = steps_->chosen();
    if (steps.empty()) return;
    const SuspectedStep& step = steps.front();
    const Tag* t = session_.tag(step.tag);
    if (!t) return;
    session_.view().select(t->asset, t->id);
    const Duration near = step.seen ? 6 * kHour : 4 * kDay;
    session_.view().jumpTo({step.time - near, step.returns.value_or(step.time) + near});
    misfit_->setText({});
    draft_ = fixOfStep(session_.study(), step);
    if (!steps_->chosenIsOpen()) {  // nothing is left to take out
        draft_.body = ShiftFix{0};
        why_->clear();
        return showDraft();
    }
    why_->setText(QString::fromStdString("false step: " + stepReason(session_.study(), step)));
    why_->setCursorPosition(0);
    showDraft();
}

bool MendBench::whyIsSaid() {
    const bool said = !why_->text().trimmed().isEmpty();
    markWrong(why_, !said, "the ledger keeps the reason");
    if (said) return true;
    why_->setFocus();
    emit session_.failed("Say why: the ledger keeps the reason.");
    return false;
}

void MendBench::takeOutStep() {
    const auto steps = steps_->chosen();
    if (steps.empty() || !whyIsSaid()) return;
    readFields();
    std::vector<Fix> fixes;
    for (const SuspectedStep& step : steps) {
        // The one in hand with what was dragged or typed, the others of its mount by their own sizes.
        const bool inHand =
            fixes.empty() && draft_.kind() == FixKind::Shift && draft_.tag == step.tag && !draft_.id;
        Fix fix = inHand ? draft_ : fixOfStep(session_.study(), step);
        fix.why = why_->text().trimmed().toStdString();
        fixes.push_back(std::move(fix));
    }
    bool good = false;
    const bool done =
        session_.tryChange([&] { good = session_.report(enterFixes(session_.study(), fixes)); });
    if (!done || !good) return;
    draft_ = newFix(FixKind::Shift, fixes[0].tag, {fixes[0].from, fixes[0].to});
    why_->clear();
    showDraft();
    if (fixes.size() > 1)
        emit session_.notified(QString("Taken out of %1 tags of one mount, as one step").arg(fixes.size()));
}

void MendBench::judgeChosen(StepVerdict verdict) {
    const auto steps = steps_->chosen();
    if (steps.empty() || !whyIsSaid()) return;
    const SuspectedStep step = steps.front();
    const std::string why = why_->text().trimmed().toStdString();
    session_.tryChange([&] { session_.report(judgeStep(session_.study(), step, verdict, why)); });
}

}  // namespace jacinth::app
