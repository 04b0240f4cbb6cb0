// What Mend finds by itself: suspected steps, taken out with their mount or judged to be none; spikes, hidden
// as a class.
#include <QStackedWidget>

#include "app/mend/mend_bench.h"
#include "app/mend/step_list.h"
#include "work/mend/fix_in_hand.h"
#include "work/mend/hidden_samples.h"
#include "work/mend/hide_spikes.h"

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
    const std::string why = why_->text().trimmed().toStdString();
    session_.tryChange([&] { session_.report(judgeStep(session_.study(), steps.front(), verdict, why)); });
}

void MendBench::addHidden(std::vector<PointMark>& points) const {
    if (!showHidden_->isChecked() || !tag()) return;
    const auto hidden = hiddenSamples(session_.study(), *tag(), session_.view().view());
    if (!hidden) return;  // too many to distinguish: they show when zoomed in
    for (const HiddenSample& s : *hidden) points.push_back({s.time, s.value, PointLook::Hollow});
}

void MendBench::bringBackAt(Instant t) {
    if (!showHidden_->isChecked() || !tag()) return;
    const auto hidden = hiddenSamples(session_.study(), *tag(), {t, t + kNanosecond});
    if (!hidden || hidden->empty()) return;
    bool good = false;
    session_.tryChange([&] { good = session_.report(bringBack(session_.study(), hidden->front().fix, t)); });
    if (good) emit session_.notified("The sample is back; Undo hides it again");
}

void MendBench::findSpikes(const SpikeSearch& search, bool everywhere) {
    if (!tag()) return;
    readFields();
    const Tag of = *tag();
    const TimeRange range =
        everywhere ? session_.study().record() : TimeRange{draft_.from, draft_.to + kNanosecond};
    session_.runJob(this, "spikes", "Looking for spikes", [this, of, range, search](JobContext& job) {
        auto found = spikesOf(job.study, of, range, search, job.progress);
        return std::function<void()>([this, of, found = std::move(found)] {
            if (!session_.report(found) || !tag() || tag()->id != of.id) return;
            if (found->empty())
                return emit session_.notified(
                    "No sample stands out like that. Ask for a smaller prominence.");
            draft_ = *hidingFix(of.id, *found);
            if (why_->text().trimmed().isEmpty()) why_->setText("spikes of the sensor");
            emit session_.notified(
                QString("%1 spikes, each with a tick; nothing is hidden before it is entered")
                    .arg(found->size()));
            builtFor_ = {};
            rebuild();
        });
    });
}

}  // namespace jacinth::app
