#include "app/mend/fixes_page.h"

#include <QButtonGroup>
#include <QStackedWidget>

#include "app/base/value_in_sight.h"
#include "app/mend/fix_ledger.h"
#include "app/mend/trust_fields.h"
#include "app/plot/tag_trace.h"
#include "app/plot/trust_bands.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/mend/fit_words.h"
#include "work/mend/fix_in_hand.h"
#include "work/mend/mending.h"
#include "work/survey/tag_peaks.h"

namespace jacinth::app {
namespace {

/// Five digits: finer than any reading, and they fit into their field.
double fittedDigits(double v) {
    return QString::number(v, 'g', 5).toDouble();
}

QString beforeAndAfter(double before, double after, const QString& unit) {
    return valueText(before) + " → " + valueText(after, unit);
}

}  // namespace

FixesPage::FixesPage(Session& session) : BenchPage(session, false) {
    buildMiddle();
    buildInspector();
    connect(&session.view(), &ViewState::selectionChanged, this, &FixesPage::rebuild);
    connect(&session, &Session::studyChanged, this, [this] {
        builtFor_ = {};
        rebuild();
    });
    connect(&session, &Session::themeChanged, this, [this] {
        builtFor_ = {};
        rebuild();
    });
    draft_ = newFix(FixKind::Ramp, {}, {});
    takeKind(FixKind::Ramp);
    rebuild();
}

QTableView* FixesPage::ledger() const {
    return ledger_->table();
}

const Tag* FixesPage::tag() const {
    return session_.tag(session_.view().tag());
}

QString FixesPage::title() const {
    const Tag* t = tag();
    if (!t) return "Mend";
    const QString unit = QString::fromStdString(t->unit);
    return QString::fromStdString(t->path()).replace("/", " · ") + (unit.isEmpty() ? "" : ", " + unit);
}

FixContext FixesPage::context() const {
    const Tag* t = tag();
    if (!t) return {{}, {}, [](Instant) { return std::nan(""); }};
    Fix own = draft_;
    own.tag = t->id;
    return {*t, possibleTwins(session_.study(), *t),
            [this, tag = *t, before = fixesBefore(session_.study(), own)](Instant at) {
                try {
                    return session_.study().valueAt(tag, at, before);
                } catch (const StoreError&) {  // damaged there: no value
                    return std::nan("");
                }
            }};
}

void FixesPage::entered() {
    BenchPage::entered();
    for (ListUnderPlot* made : lists_)
        if (made && made == lower_->currentWidget()) made->fill();
    const TimeRange view = session_.view().view();
    if (!draft_.id && (draft_.to <= view.from || draft_.from >= view.to)) takeKind(draft_.kind());
    plot_->setFocus();
}

QString FixesPage::pointerText() const {
    const auto t = plot_->pointer();
    if (!t || !tag()) return {};
    const QString unit = QString::fromStdString(tag()->unit);
    QString text = QString("%1 · logged %2 · mended %3")
                       .arg(QString::fromStdString(session_.zone().preciseText(*t)),
                            valueText(valueInSight(session_, *tag(), *t, Which::AsLogged), unit),
                            valueText(valueInSight(session_, *tag(), *t, Which::Mended), unit));
    for (const Fix& f : session_.study().judgement().fixes(tag()->id))
        if (f.touches({*t, *t + kNanosecond})) text += QString(" · ") + fixKindName(f.kind());
    if (const QString trust = trustWords(session_, tag()->id, *t); !trust.isEmpty()) text += " · " + trust;
    return text;
}

void FixesPage::takeKind(FixKind kind) {
    const TimeRange view = session_.view().view();
    const bool keep = draft_.from > view.from && draft_.to < view.to && draft_.to > draft_.from;
    const auto minute = [](Instant t) { return std::chrono::floor<std::chrono::minutes>(t); };
    const TimeRange stretch =
        keep ? TimeRange{draft_.from, draft_.to}
             : TimeRange{minute(view.from + view.length() / 4), minute(view.to - view.length() / 4)};
    draft_ = newFix(kind, session_.view().tag(), stretch);
    proposeTwin();
    misfit_->setText({});
    showDraft();
}

void FixesPage::proposeTwin() {
    auto* borrow = std::get_if<BorrowFix>(&draft_.body);
    if (!borrow || !tag()) return;
    const std::vector<Tag> twins = possibleTwins(session_.study(), *tag());
    borrow->twin = twins.empty() ? TagId() : twins.front().id;
}

void FixesPage::takeInHand(TimeRange stretch) {
    draft_ = newFix(draft_.kind(), session_.view().tag(), stretch);
    proposeTwin();
    showDraft();
}

void FixesPage::openFix(FixId id) {
    const auto fix = fixOf(session_.study(), id);
    if (!fix) return;
    if (const Tag* t = session_.tag(fix->tag)) session_.view().select(t->asset, t->id);
    session_.view().goTo(fix->from, fix->to);
    draft_ = *fix;
    why_->setText(QString::fromStdString(fix->why));
    misfit_->setText({});
    ledger_->choose(id);
    showDraft();
}

void FixesPage::takeUp(const Fix& fix, const QString& why) {
    if (const Tag* t = session_.tag(fix.tag)) session_.view().select(t->asset, t->id);
    const Duration half = session_.view().view().length() / 2;
    session_.view().jumpTo({fix.from - half, fix.from + half});
    draft_ = fix;
    draft_.id = {};
    why_->setText(why);
    why_->setCursorPosition(0);
    misfit_->setText({});
    showDraft();
}

void FixesPage::light() {
    const auto fix = ledger_->chosen() ? fixOf(session_.study(), ledger_->chosen()) : Result<Fix>(Error{""});
    const bool own = fix && tag() && fix->tag == tag()->id;
    std::vector<SpanMark> marks;
    if (own && fix->id != draft_.id) {
        SpanMark& m = marks.emplace_back();
        m.range = {fix->from, fix->to};
        m.colour = session_.theme().traces[1];
        m.text = fixKindName(fix->kind());
    }
    if (marksTwoStretches())
        for (const auto& [range, words] :
             {std::pair{twoStretches_->first, "before"}, std::pair{twoStretches_->second, "after"}}) {
            SpanMark& m = marks.emplace_back();
            m.range = range;
            m.colour = session_.theme().traces[3];
            m.text = words;
        }
    plot_->setMarks(std::move(marks));
}

/// The trace with the fix in hand, where it acts.
Reading FixesPage::draftReading() const {
    return [fix = draft_](Study& study, TimeRange range, int pixels) {
        TimeRange acts{fix.from, fix.to + kNanosecond};
        if (const auto* clock = std::get_if<ClockFix>(&fix.body))
            acts = {acts.from + clock->by, acts.to + clock->by};
        const TimeRange part{std::max(range.from, acts.from), std::min(range.to, acts.to)};
        if (!fix.tag || part.length() <= Duration::zero() || changesNothing(fix))
            return std::vector<Summary>{};
        const int wide =
            std::max(2, static_cast<int>(static_cast<double>(pixels) * toNanoseconds(part.length()) /
                                         toNanoseconds(range.length())));
        auto columns = study.reader(fix.tag).columns(fix.tag, part, wide, fixesWith(study, fix));
        std::erase_if(columns,
                      [&](const Summary& c) { return c.firstTime < acts.from || c.lastTime >= acts.to; });
        return columns;
    };
}

/// What all fixes change, the one in hand included.
Reading FixesPage::changeReading() const {
    return [fix = draft_](Study& study, TimeRange range, int pixels) {
        if (!fix.tag) return std::vector<Summary>{};
        return mendingChange(study, fix.tag, fixesWith(study, fix), range, pixels);
    };
}

std::vector<PointMark> FixesPage::pointsOf(TagId id) const {
    std::vector<PointMark> points;
    for (const CheckReading& r : session_.study().judgement().checkReadings(id))
        points.push_back({r.time, r.value});
    // Spikes that Survey proposed: they wait here with a tick above them.
    if (const auto track = session_.study().tracks().named(kSpikesToMend))
        for (const Span& s : session_.study().tracks().spans(track->id))
            if (s.tag == id)
                points.push_back(
                    {s.start + (s.end - s.start) / 2, factNumber(s.facts, "height"), PointLook::Tick});
    // Those that the fix in hand would hide.
    const auto* hide = std::get_if<HideFix>(&draft_.body);
    if (hide && draft_.tag == id && tag())
        for (const TimeRange& part : hide->parts)
            points.push_back(
                {part.from, valueInSight(session_, *tag(), part.from, Which::Mended), PointLook::Tick});
    addHidden(points);
    return points;
}

void FixesPage::rebuild() {
    const Tag* t = tag();
    // A fix that was removed, or is of another tag, is not edited any more.
    if (draft_.id && (!t || draft_.tag != t->id || !fixOf(session_.study(), draft_.id))) draft_.id = {};
    const bool another = t && draft_.tag != t->id;
    if (another) {
        draft_.tag = t->id;
        misfit_->setText({});  // it was of the other tag
        proposeTwin();
    }
    for (ListUnderPlot* made : lists_)
        if (made) made->fill();
    emit titleChanged();
    enter_->setEnabled(t);
    if (t && builtFor_ == t->id) return plot_->setPoints(0, pointsOf(t->id));
    builtFor_ = t ? t->id : TagId();
    if (!t) return plot_->setPanes({});
    setPanes(*t);
    showDraft();
    // Of another tag they give another amount; an amount that was typed since stays otherwise.
    if (another && marksTwoStretches() && isVisible()) takeTwoStretches();
}

void FixesPage::setPanes(const Tag& t) {
    const QString unit = QString::fromStdString(t.unit);
    const TagId id = t.id;
    if (t.kind == TagKind::State) {
        PaneSpec states;
        states.states = id;
        return plot_->setPanes({std::move(states)});
    }
    TraceSpec logged = traceOf(session_, id, Which::AsLogged), mended = traceOf(session_, id, Which::Mended),
              draft = mended;
    logged.name = "as logged";
    logged.colour = quietTrace(session_.theme());
    mended.name = "mended";
    mended.colour = session_.theme().traces[0];
    draft.name = "with the fix in hand";
    draft.colour = session_.theme().accent;
    draft.style = Qt::DashLine;
    draft.width = 1.2;
    draft.reading = [this] { return draftReading(); };
    draft.at = {};
    TraceSpec change;
    change.name = "What mending changed";
    change.unit = unit;
    change.colour = session_.theme().accent;
    change.bridging = {TagKind::Continuous, kWithoutEnd};
    change.ends = true;
    change.reading = [this] { return changeReading(); };
    change.at = [this](Instant at) { return changedAt(at); };
    std::vector<PaneSpec> panes{PaneSpec{{std::move(logged), std::move(mended), std::move(draft)}},
                                PaneSpec{{std::move(change)}}};
    panes[0].stretch = 4;
    panes[1].stretch = 1;
    panes[1].zeroLine = true;
    plot_->setPanes(std::move(panes));
    plot_->setPoints(0, pointsOf(id));
}

/// What all fixes change at a moment, the one in hand included.
double FixesPage::changedAt(Instant t) const {
    try {
        return tag() ? mendedBy(session_.study(), *tag(), fixesWith(session_.study(), draft_), t)
                     : std::nan("");
    } catch (const StoreError&) {  // damaged there: no value
        return std::nan("");
    }
}

void FixesPage::showDraft() {
    const FixContext now = context();
    const QString kind = fixKindName(draft_.kind());
    handTitle_->setText(draft_.id ? QString("Editing fix %1: %2").arg(draft_.id.number).arg(kind)
                                  : QString("New fix: %1").arg(kind));
    kinds_->button(static_cast<int>(draft_.kind()))->setChecked(true);
    for (QAbstractButton* b : kinds_->buttons()) b->setEnabled(!draft_.id || b->isChecked());
    FixFields* own = fields();
    for (FixFields* f : fields_)
        if (f) f->setVisible(f == own && draft_.kind() != FixKind::Cut);
    fields()->show(draft_, now);
    says_->setText(fields()->says());
    from_->setMoment(draft_.from);
    to_->setMoment(draft_.to);
    from_->setModified(false);
    to_->setModified(false);
    enter_->setText(draft_.id ? "Keep the edit" : "Enter in ledger");
    leave_->setVisible(bool(draft_.id));
    const bool fits = draft_.kind() <= FixKind::Bend;
    fit_->setVisible(fits);
    fit_->setEnabled(tag());
    misfit_->setVisible(fits && !misfit_->text().isEmpty());
    if (misfit_->text().isEmpty()) leaveOut_->hide();
    trust_->show(tag() ? tag()->id : TagId(), {draft_.from, draft_.to});
    showHandles(now);
    askForFigures();
    light();
    plot_->reloadSoon();
}

QString FixesPage::figuresText(const FixFigures& f, std::size_t others) const {
    const QString unit = tag() ? QString::fromStdString(tag()->unit) : QString();
    QStringList lines{"at the start " + beforeAndAfter(f.startBefore, f.startAfter, unit),
                      "at the end " + beforeAndAfter(f.endBefore, f.endAfter, unit),
                      "on average " + beforeAndAfter(f.meanBefore, f.meanAfter, unit)};
    QStringList counts;
    for (const auto& [n, words] : {std::pair{f.changed, "changed"}, std::pair{f.filled, "filled in"},
                                   std::pair{f.hidden, "hidden"}, std::pair{f.gone, "gone from here"}})
        if (n > 0) counts << QString("%1 %2").arg(n).arg(words);
    lines << (counts.isEmpty() ? QString("no sample is changed") : "samples: " + counts.join(", "));
    if (others > 0)
        lines << QString("%1 other %2 on the same time")
                     .arg(others)
                     .arg(others == 1 ? "fix acts" : "fixes act");
    return lines.join("\n");
}

/// What the fix in hand changes, and which fixes act on the same time. Counted beside the interface: a
/// stretch may hold years.
void FixesPage::askForFigures() {
    if (!tag() || changesNothing(draft_)) {
        figures_->setText({});
        wanted_.reset();
        return;
    }
    wanted_ = draft_;
    session_.reader().ask(this, "figures of a fix",
                          [this, fix = draft_](Study& study) -> BackgroundReader::Deliver {
                              const FixFigures figures = figuresOf(study, fix);
                              const std::size_t others = overlapping(study, fix).size();
                              return [this, fix, figures, others] {
                                  const bool same = wanted_ && wanted_->id == fix.id &&
                                                    wanted_->tag == fix.tag && wanted_->body == fix.body &&
                                                    wanted_->from == fix.from && wanted_->to == fix.to;
                                  if (same) figures_->setText(figuresText(figures, others));
                              };
                          });
}

void FixesPage::readFields() {
    if (!tag()) return;
    const auto from = from_->moment(), to = to_->moment();
    markWrong(from_, !from, "no time");
    markWrong(to_, !to || (from && *to <= *from), to ? "the end lies before the start" : "no time");
    if (!from || !to || *to <= *from) return;
    Fix typed = draft_;
    // A moment shown to the minute stays as exact as it was unless it was typed again.
    if (from_->isModified()) moveGrip(typed, 0, *from);
    if (to_->isModified()) moveGrip(typed, 1, *to);
    // Typed beyond the old end, the start finds its place once the end has moved.
    if (from_->isModified() && to_->isModified()) moveGrip(typed, 0, *from);
    if (!fields()->take(typed, context())) return;
    draft_ = std::move(typed);
    showDraft();
}

void FixesPage::fitToReadings(bool withOutlying) {
    if (!tag()) return;
    draft_.tag = tag()->id;
    std::vector<ReadingOff> readings = readingsOf(session_.study(), draft_);
    std::vector<ReadingOff> outlying = readings;
    std::erase_if(outlying, [](const ReadingOff& r) { return !r.outlying; });
    if (!withOutlying) std::erase_if(readings, [](const ReadingOff& r) { return r.outlying; });
    const std::string unit = tag()->unit;
    const auto take = [&](const auto& fit, const FixBody& body, const std::string& sure) {
        leaveOut_->setVisible(fit && withOutlying && !outlying.empty());
        leaveOut_->setText(outlying.size() == 1 ? "Fit without it" : "Fit without them");
        setRole(misfit_, fit ? "good" : "bad");
        misfit_->setText(fit ? misfitText(fit->readings, fit->misfitBefore, fit->misfitAfter, outlying, sure)
                             : QString::fromStdString(fit.error().message));
        if (fit) draft_.body = body;
    };
    if (draft_.kind() == FixKind::Bend) {
        auto fit = fitBend(readings);
        if (fit)
            for (BendFix::Knot& knot : fit->bend.knots) knot.by = fittedDigits(knot.by);
        take(fit, fit ? FixBody(fit->bend) : draft_.body, fit ? sureWords(*fit, unit) : "");
    } else {
        // One end stays at what it is: a drift starts where the sensor still read true.
        const auto fit = fitRamp(readings, {draft_.from, draft_.to}, gripsOf(draft_).front().by.value_or(0));
        take(fit, fit ? FixBody(RampFix{fittedDigits(fit->startBy), fittedDigits(fit->endBy)}) : draft_.body,
             fit ? sureWords(*fit, true, unit) : "");
    }
    showDraft();
}

QString FixesPage::misfitText(int readings, double before, double after,
                              const std::vector<ReadingOff>& outlying, const std::string& sure) const {
    const QString unit = QString::fromStdString(tag()->unit);
    QString text = QString("Misfit at %1: %2 (RMS)")
                       .arg(readings == 1 ? QString("one reading") : QString("%1 readings").arg(readings),
                            beforeAndAfter(before, after, unit));
    for (const ReadingOff& r : outlying)
        text += QString("\n%1 does not go with the others: %2")
                    .arg(QString::fromStdString(session_.zone().shortText(r.reading.time)),
                         valueText(r.reading.value, unit));
    text += "\n" + QString::fromStdString(sure);
    const auto within = recalibrationsIn(session_.study(), draft_);
    if (!within.empty()) text += "\n" + QString::fromStdString(recalibrationWords(within, session_.zone()));
    return text;
}

void FixesPage::enter() {
    readFields();
    if (!tag()) return;
    draft_.tag = tag()->id;
    if (!whyIsSaid()) return;
    draft_.why = why_->text().trimmed().toStdString();
    if (changesNothing(draft_)) {
        emit session_.failed("The fix in hand changes nothing. Drag a handle or type an amount.");
        return;
    }
    const Fix entered = draft_;
    draft_ = newFix(entered.kind(), entered.tag, {entered.from, entered.to});
    bool good = false;
    const bool done = session_.tryChange([&] {
        good = entered.id ? session_.report(editFix(session_.study(), entered))
                          : session_.report(enterFix(session_.study(), entered));
    });
    if (!done || !good)
        draft_ = entered;
    else
        why_->clear();
    showDraft();
}

}  // namespace jacinth::app
