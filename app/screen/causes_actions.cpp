// What can be done about the chosen cause.
#include <QRegularExpression>
#include <map>

#include "app/base/ui.h"
#include "app/screen/causes_page.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/causes/act_on_cause.h"
#include "work/limits/up_to_date.h"
#include "work/mend/mending.h"

namespace jacinth::app {

void CausesPage::showChosen() {
    const Cause* cause = chosen();
    const bool step = cause && !fixesOf(session_.study(), *cause, "").empty();
    const bool lasting =
        cause && cause->asset && (cause->kind == CauseKind::Process || cause->kind == CauseKind::Asset);
    see_->setEnabled(cause != nullptr);
    takeOut_->setVisible(step);
    mend_->setVisible(cause && cause->kind == CauseKind::Drift);
    limits_->setVisible(lasting);
    label_->setEnabled(cause && cause->asset);
    apart_->setEnabled(cause != nullptr);
    why_->setEnabled(cause != nullptr);
    if (!cause) {
        const bool unexplained = found_ && currentKey(table_) != 0;
        chosenTitle_->setText(unexplained ? "Unexplained" : "Chosen cause");
        chosenSays_->setText(
            unexplained ? "Nothing that can be tested explains half of these excursions. Their cells are "
                          "marked on the sheet; a double-click opens a run."
            : found_    ? "Choose a cause in the list."
                        : "Find the causes first.");
        return;
    }
    chosenTitle_->setText(QString::fromStdString(causeTitle(session_.study(), *cause)));
    std::map<std::string, std::size_t> byTag;
    for (const ExplainedExcursion& e : found_->excursions)
        if (const Tag* tag = session_.tag(e.tag); tag && e.cause == cause->id)
            ++byTag[(cause->asset ? "" : tag->assetName + " ") + tag->name];
    QString tags;
    for (const auto& [name, n] : byTag)
        tags += QString("%1%2 %3").arg(tags.isEmpty() ? "" : ", ").arg(n).arg(QString::fromStdString(name));
    const auto when = [&](Instant t) { return QString::fromStdString(session_.zone().shortText(t)); };
    const TimeRange record = session_.study().record();
    const QString since =
        cause->range.from <= record.from && cause->range.to >= record.to ? QString("Over the whole record")
        : cause->range.to >= record.to                                   ? "Since " + when(cause->range.from)
                                       : when(cause->range.from) + " to " + when(cause->range.to);
    chosenSays_->setText(
        QString(cause->kind == CauseKind::Event
                    ? "%1.\n\n%2.\n\nExcursions: %3. %4 % of their area lies in its time."
                    : "%1.\n\n%2.\n\nExcursions: %3. Without it %4 % of their area is gone.")
            .arg(QString::fromStdString(cause->why).trimmed().remove(QRegularExpression("\\.$")), since, tags)
            .arg(100 * cause->sure, 0, 'f', 0));
}

void CausesPage::see() {
    const Cause* cause = chosen();
    if (!cause) return;
    TimeRange range = cause->range;
    if (cause->kind == CauseKind::Step || cause->kind == CauseKind::Process) {
        const Duration beside = cause->kind == CauseKind::Step ? kDay : 5 * kDay;
        range = {range.from - beside, std::min(range.to, range.from + beside) + kDay};
    } else if (!cause->windows.empty()) {
        range = {cause->windows.front().from, cause->windows.back().to};
    }
    for (const ExplainedExcursion& e : found_->excursions)
        if (e.cause == cause->id) return emit asked(ShowMoment{range, e.tag});
}

void CausesPage::takeOut() {
    const Cause* cause = chosen();
    if (!cause) return;
    const std::vector<Fix> fixes = fixesOf(session_.study(), *cause, "false step: " + cause->why);
    bool good = false;
    const bool done =
        session_.tryChange([&] { good = session_.report(enterFixes(session_.study(), fixes)); });
    if (done && good) screenAgain(session_.study().history().newest(), "The step is taken out");
}

void CausesPage::makeLimits() {
    const Cause* cause = chosen();
    if (!cause || !found_) return;
    session_.runJob(
        this, "causeLimits", "Making limits",
        [this, found = *found_, cause = *cause, track = track_](JobContext& job) -> std::function<void()> {
            auto set = limitsFromCauseOn(job.study, found, cause, track, "");
            return [this, set = std::move(set)] {
                if (!session_.report(set)) return;
                if (!session_.tryChange([&] { keepLimits(session_.study(), *set); })) return;
                screenAgain(session_.study().history().newest(),
                            QString("Limits “%1” made").arg(QString::fromStdString(set->name)));
            };
        });
}

void CausesPage::screenAgain(StepId with, const QString& done) {
    const Which which = session_.view().which();
    setBusy(true, "screening again …");
    session_.runJob(
        this, "screening", "Screening",
        [this, with, done, which, track = track_](JobContext& job) -> std::function<void()> {
            bool stopped = false;
            const ScreenSpec spec = screenSpecOf(job.study);
            auto screened = screenTrack(job.study, track, "", spec, which, [&](double share) {
                stopped = job.progress.stopped(share);
                return !stopped;
            });
            return [this, with, done, stopped, spec, track, which, screened = std::move(screened)] {
                if (stopped) return;
                const auto before = excursionsOfRuns(session_.study(), track);
                session_.tryChange([&] {
                    keepExcursions(session_.study(), track, spec, screened, which);
                    session_.study().history().join(with);
                });
                const auto after = excursionsOfRuns(session_.study(), track);
                emit session_.notified(done + ": " +
                                       QString::fromStdString(whatCleared(session_.study(), before, after)));
                find();
            };
        },
        false, [this] { setBusy(false, ""); });
}

void CausesPage::setChosenApart() {
    const Cause* cause = chosen();
    if (!cause || !found_) return;
    const std::string reason = why_->text().trimmed().toStdString();
    markWrong(why_, reason.empty(), "say why: it is kept with the excursions");
    if (reason.empty()) return why_->setFocus();
    std::optional<std::size_t> apart;
    session_.tryChange([&] {
        const auto result = setApart(session_.study(), *found_, *cause, reason);
        if (session_.report(result)) apart = *result;
    });
    if (!apart) return;
    why_->clear();
    emit session_.notified(QString("%1 excursions set apart").arg(*apart));
    find();
}

}  // namespace jacinth::app
