// What Mend finds by itself: suspected steps, taken out with their mount or judged to be none; spikes, hidden
// as a class.
#include <QStackedWidget>

#include "app/base/label_menu.h"
#include "app/mend/fixes_page.h"
#include "app/mend/step_list.h"
#include "app/mend/stuck_list.h"
#include "work/mend/fix_in_hand.h"
#include "work/mend/hidden_samples.h"
#include "work/mend/hide_spikes.h"

namespace jacinth::app {

void FixesPage::takeStep() {
    const auto chosen = steps()->chosen();
    if (chosen.empty()) return;
    const SuspectedStep& step = chosen.front();
    const Tag* t = session_.tag(step.tag);
    if (!t) return;
    session_.view().select(t->asset, t->id);
    const Duration near = step.seen ? 6 * kHour : 4 * kDay;
    session_.view().jumpTo({step.time - near, step.returns.value_or(step.time) + near});
    misfit_->setText({});
    draft_ = fixOfStep(session_.study(), step, steps()->all());
    if (!steps()->chosenIsOpen()) {  // nothing is left to take out
        draft_.body = newFix(draft_.kind(), draft_.tag, {draft_.from, draft_.to}).body;
        why_->clear();
        return showDraft();
    }
    const char* what = step.kind == StepKind::DriftEnd ? "drift: " : "false step: ";
    why_->setText(QString::fromStdString(what + stepReason(session_.study(), step)));
    why_->setCursorPosition(0);
    showDraft();
}

bool FixesPage::whyIsSaid() {
    const bool said = !why_->text().trimmed().isEmpty();
    markWrong(why_, !said, "the ledger keeps the reason");
    if (said) return true;
    why_->setFocus();
    emit session_.failed("Say why: the ledger keeps the reason.");
    return false;
}

void FixesPage::takeOutStep() {
    const auto chosen = steps()->chosen();
    if (chosen.empty() || !whyIsSaid()) return;
    readFields();
    std::vector<Fix> fixes;
    for (const SuspectedStep& step : chosen) {
        // The one in hand with what was dragged or typed, the others of its mount by their own sizes.
        const bool inHand =
            fixes.empty() && draft_.kind() <= FixKind::Ramp && draft_.tag == step.tag && !draft_.id;
        Fix fix = inHand ? draft_ : fixOfStep(session_.study(), step, steps()->all());
        fix.why = why_->text().trimmed().toStdString();
        fixes.push_back(std::move(fix));
    }
    bool good = false;
    const bool done =
        session_.tryChange([&] { good = session_.report(enterFixes(session_.study(), fixes)); });
    if (!done || !good) return;
    draft_ = newFix(fixes[0].kind(), fixes[0].tag, {fixes[0].from, fixes[0].to});
    why_->clear();
    showDraft();
    if (fixes.size() > 1)
        emit session_.notified(QString("Taken out of %1 tags of one mount, as one step").arg(fixes.size()));
}

void FixesPage::judgeChosen(StepVerdict verdict) {
    const auto chosen = steps()->chosen();
    if (chosen.empty() || !whyIsSaid()) return;
    const std::string why = why_->text().trimmed().toStdString();
    session_.tryChange([&] { session_.report(judgeStep(session_.study(), chosen.front(), verdict, why)); });
}

void FixesPage::takeStuck() {
    const FoundStuck* found = stuck()->chosen();
    const Tag* t = found ? session_.tag(found->tag) : nullptr;
    if (!t) return;
    const FoundStuck of = *found;
    session_.view().select(t->asset, t->id);
    const TimeRange range = of.stretch.range;
    const Duration near = std::max<Duration>(kHour, range.length() / 2);
    session_.view().jumpTo({range.from - near, range.to + near});
    misfit_->setText({});
    draft_ = newFix(FixKind::Hide, of.tag, range);
    why_->setText(QString::fromStdString("stuck: " + stuckSentence(session_.study(), of)));
    why_->setCursorPosition(0);
    showDraft();
}

/// The amount of the shift in hand, from the levels over a margin on both sides of its ends.
void FixesPage::takeLevels(Duration margin) {
    if (!tag() || draft_.kind() != FixKind::Shift) return;
    draft_.tag = tag()->id;
    takeLevelChange(levelChangeAtEnds(session_.study(), draft_, margin));
}

void FixesPage::takeLevelChange(const Result<LevelChange>& change) {
    if (!session_.report(change)) return;
    const QString unit = QString::fromStdString(tag()->unit);
    draft_.body = ShiftFix{change->takenOutBy()};
    setRole(misfit_, "good");
    misfit_->setText(QString("Level %1 before, %2 after: a step of %3 ± %4")
                         .arg(valueText(change->before.value, unit), valueText(change->after.value, unit),
                              valueText(change->size, unit, true), valueText(change->error)));
    showDraft();
}

/// Two stretches by hand, on handles of their own: the step between their levels is what is taken out. They
/// begin as a tenth of the view on both sides of the fix's start.
void FixesPage::markTwoStretches(bool on) {
    twoStretches_.reset();
    if (on && tag()) {
        const Duration length = session_.view().view().length() / 10;
        twoStretches_ = {TimeRange{draft_.from - length * 3 / 2, draft_.from - length / 2},
                         TimeRange{draft_.from + length / 2, draft_.from + length * 3 / 2}};
        return takeTwoStretches();
    }
    misfit_->setText({});
    showDraft();
}

void FixesPage::takeTwoStretches() {
    if (!marksTwoStretches() || !tag()) return;
    draft_.tag = tag()->id;
    takeLevelChange(levelChange(session_.study(), draft_, twoStretches_->first, twoStretches_->second));
}

void FixesPage::addHidden(std::vector<PointMark>& points) const {
    if (!showHidden_->isChecked() || !tag()) return;
    const auto hidden = hiddenSamples(session_.study(), *tag(), session_.view().view());
    if (!hidden) return;  // too many to distinguish: they show when zoomed in
    for (const HiddenSample& s : *hidden) points.push_back({s.time, s.value, PointLook::Hollow});
}

void FixesPage::bringBackAt(Instant t) {
    if (!showHidden_->isChecked() || !tag()) return;
    const auto hidden = hiddenSamples(session_.study(), *tag(), {t, t + kNanosecond});
    if (!hidden || hidden->empty()) return;
    bool good = false;
    session_.tryChange([&] { good = session_.report(bringBack(session_.study(), hidden->front().fix, t)); });
    if (good) emit session_.notified("The sample is back; Undo hides it again");
}

void FixesPage::labelParts() {
    const auto* hide = std::get_if<HideFix>(&draft_.body);
    if (hide && tag())
        openLabelMenu(this, session_, spansOver(session_.study(), *tag(), hide->parts), "Spikes");
}

void FixesPage::findSpikes(const SpikeSearch& search, bool everywhere) {
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
