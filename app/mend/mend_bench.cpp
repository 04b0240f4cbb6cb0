#include "app/mend/mend_bench.h"

#include "app/base/tables.h"
#include "app/base/value_in_sight.h"
#include "app/plot/tag_trace.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/mend/mending.h"
#include "work/survey/tag_peaks.h"

namespace jacinth::app {
namespace {

std::optional<double> numberIn(const QLineEdit* field) {
    QString text = field->text().trimmed();
    text.replace("−", "-").replace(",", ".");
    bool ok = false;
    const double v = text.section(' ', 0, 0).toDouble(&ok);
    return ok && std::isfinite(v) ? std::optional(v) : std::nullopt;
}

/// As many digits as it takes to read the same number again.
QString amountText(double v) {
    if (v == 0) return "0";
    return QString::number(v, std::abs(v) >= 1e-4 && std::abs(v) < 1e15 ? 'f' : 'g',
                           QLocale::FloatingPointShortest);
}

/// To the digits that a pixel of the scale can show.
double toPixelDigits(double v, double perPixel) {
    if (!(perPixel > 0) || !std::isfinite(perPixel)) return v;
    const double step = std::pow(10, std::floor(std::log10(perPixel)));
    // Divided by a whole number where there is one: 0.3 and not 0.30000000000000004.
    return step >= 1 ? std::round(v / step) * step : std::round(v / step) / std::round(1 / step);
}

}  // namespace

MendBench::MendBench(Session& session) : Bench(session) {
    buildMiddle();
    buildInspector();
    connect(&session.view(), &ViewState::selectionChanged, this, &MendBench::rebuild);
    connect(&session, &Session::studyChanged, this, [this] {
        builtFor_ = {};
        rebuild();
    });
    connect(&session, &Session::themeChanged, this, [this] {
        builtFor_ = {};
        rebuild();
    });
    newDraft(FixKind::Ramp);
    rebuild();
}

void MendBench::buildMiddle() {
    title_ = makeLabel("", "title");
    plot_ = new TimePlot(session_);
    plot_->setObjectName("mendPlot");
    plot_->setAccessibleName("As logged and mended");
    plot_->setEmptyText("Choose a tag of numbers in the plant panel to mend it.");
    ledgerModel_ = new RowsModel({"on", "fix", "from – to", "amount", "why", "by", "entered"}, this);
    ledger_ = makeTable(ledgerModel_, "fixLedger", {34, 60, 210, 110, 0, 66, 90});
    ledger_->setFixedHeight(140);
    auto* head = new QHBoxLayout;
    head->addWidget(makeLabel("Fix ledger", "section"));
    head->addStretch();
    head->addWidget(makeLabel("nothing is overwritten: every fix can be switched off", "second"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 8, 4);
    column->setSpacing(6);
    column->addLayout(makeTitleRow(title_, session_));
    column->addWidget(plot_, 1);
    column->addLayout(head);
    column->addWidget(ledger_);
    connect(plot_, &TimePlot::handleTaken, this, &MendBench::takeHandle);
    connect(plot_, &TimePlot::handleMoved, this, &MendBench::moveHandle);
    connect(plot_, &TimePlot::handleDropped, this, [this] { showDraft(); });
    connect(plot_, &TimePlot::pointed, this, &Bench::pointerMoved);
    connect(ledgerModel_, &RowsModel::tickToggled, this, [this](std::int64_t id, bool on) {
        session_.tryChange([&] { session_.report(switchFix(session_.study(), FixId(id), on)); });
    });
    connect(ledger_, &QTableView::doubleClicked, this, [this] { openFix(currentId<FixId>(ledger_)); });
    connect(ledger_->selectionModel(), &QItemSelectionModel::currentChanged, this,
            [this] { remove_->setEnabled(bool(currentId<FixId>(ledger_))); });
    addRowCommand(ledger_, "Open this fix", [this] { openFix(currentId<FixId>(ledger_)); });
    addRowCommand(ledger_, "Switch on or off", [this] { switchChosen(); });
}

void MendBench::buildInspector() {
    auto* side = new QVBoxLayout(inspector_);
    side->setContentsMargins(12, 10, 12, 10);
    side->setSpacing(6);
    side->addWidget(makeLabel("Current fix", "section"));
    ramp_ = makeButton("Ramp", "kindRamp");
    shift_ = makeButton("Shift", "kindShift");
    auto* kinds = new QHBoxLayout;
    for (QPushButton* b : {ramp_, shift_}) {
        b->setCheckable(true);
        b->setAutoExclusive(true);
        kinds->addWidget(b);
    }
    side->addLayout(kinds);
    from_ = new MomentField(session_, "fixFrom", "From");
    to_ = new MomentField(session_, "fixTo", "To");
    startBy_ = makeField("fixStartBy", "Start changes by");
    endBy_ = makeField("fixEndBy", "End changes by");
    endReads_ = makeField("fixEndReads", "End reads");
    why_ = makeField("fixWhy", "Why");
    why_->setPlaceholderText("reason, for the ledger");
    addRow(side, "From", from_);
    addRow(side, "To", to_);
    addRow(side, "Start changes by", startBy_);
    endRows_ = new QWidget;
    auto* rows = new QVBoxLayout(endRows_);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(6);
    addRow(rows, "End changes by", endBy_);
    addRow(rows, "End reads", endReads_);
    side->addWidget(endRows_);
    addRow(side, "Why", why_);
    fit_ = makeButton("Fit to readings", "fitToReadings");
    enter_ = makeButton("Enter in ledger", "enterFix", true);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(fit_);
    buttons->addWidget(enter_);
    side->addLayout(buttons);
    misfit_ = makeLabel("", "second");
    misfit_->setObjectName("misfit");
    misfit_->setWordWrap(true);
    side->addWidget(misfit_);
    side->addWidget(makeRule());
    side->addWidget(makeLabel("In the ledger", "section"));
    remove_ = makeButton("Remove the chosen fix", "removeFix");
    remove_->setEnabled(false);
    side->addWidget(remove_);
    auto* legend = makeLabel(
        "Grey is as logged, colour is mended, dashes are the current fix. Lozenges are check readings. Drag "
        "a handle sideways to move it, up and down to change the amount.",
        "second");
    legend->setWordWrap(true);
    side->addWidget(legend);
    side->addStretch();
    connect(ramp_, &QPushButton::clicked, this, [this] { newDraft(FixKind::Ramp); });
    connect(shift_, &QPushButton::clicked, this, [this] { newDraft(FixKind::Shift); });
    for (QLineEdit* f : {static_cast<QLineEdit*>(from_), static_cast<QLineEdit*>(to_), startBy_, endBy_})
        connect(f, &QLineEdit::editingFinished, this, &MendBench::readFields);
    connect(endReads_, &QLineEdit::editingFinished, this, [this] {
        const auto v = numberIn(endReads_);
        const double now = tag() ? valueInSight(session_, *tag(), draft_.to, Which::Mended) : std::nan("");
        if (!v || !endReads_->isModified() || !std::isfinite(now)) return;
        endReads_->setModified(false);
        draft_.endBy = *v - now;
        showDraft();
    });
    connect(fit_, &QPushButton::clicked, this, &MendBench::fitToReadings);
    connect(enter_, &QPushButton::clicked, this, &MendBench::enter);
    addRowCommand(ledger_, remove_);
    connect(remove_, &QPushButton::clicked, this, [this] {
        const auto id = currentId<FixId>(ledger_);
        if (id) session_.tryChange([&] { session_.report(removeFix(session_.study(), id)); });
    });
}

void MendBench::switchChosen() {
    const auto id = currentId<FixId>(ledger_);
    for (const Fix& f : session_.study().judgement().allFixes())
        if (f.id == id) session_.tryChange([&] { session_.report(switchFix(session_.study(), id, !f.on)); });
}

const Tag* MendBench::tag() const {
    const Tag* t = session_.tag(session_.view().tag());
    return t && t->kind != TagKind::State ? t : nullptr;
}

void MendBench::entered() {
    if (draft_.to <= session_.view().view().from || draft_.from >= session_.view().view().to) {
        newDraft(draft_.kind);
    }
    plot_->setFocus();
}

QString MendBench::pointerText() const {
    const auto t = plot_->pointer();
    if (!t || !tag()) return {};
    const QString unit = QString::fromStdString(tag()->unit);
    return QString("%1 · logged %2 · mended %3")
        .arg(QString::fromStdString(session_.zone().preciseText(*t)),
             valueText(valueInSight(session_, *tag(), *t, Which::AsLogged), unit),
             valueText(valueInSight(session_, *tag(), *t, Which::Mended), unit));
}

void MendBench::newDraft(FixKind kind) {
    const TimeRange view = session_.view().view();
    const bool keep = draft_.from > view.from && draft_.to < view.to && draft_.to > draft_.from;
    const TimeRange stretch = keep ? TimeRange{draft_.from, draft_.to}
                                   : TimeRange{view.from + view.length() / 4, view.to - view.length() / 4};
    const std::string why = draft_.why;
    draft_ = Fix{};
    draft_.kind = kind;
    draft_.from = std::chrono::floor<std::chrono::minutes>(stretch.from);
    draft_.to = std::chrono::floor<std::chrono::minutes>(stretch.to);
    draft_.why = why;
    misfit_->setText({});
    showDraft();
}

void MendBench::takeInHand(TimeRange stretch) {
    draft_.from = stretch.from;
    draft_.to = stretch.to;
    showDraft();
}

void MendBench::openFix(FixId id) {
    for (const Fix& f : session_.study().judgement().allFixes()) {
        if (f.id != id) continue;
        const Tag* t = session_.tag(f.tag);
        if (t) session_.view().select(t->asset, t->id);
        session_.view().goTo(f.from, f.to);
        if (draft_.startBy == 0 && draft_.endBy == 0) {
            draft_.from = draft_.to = {};  // nothing current yet: a new stretch in the new view
            newDraft(draft_.kind);
        }
        ledger_->selectRow(ledgerModel_->rowOf(id));
    }
}

std::vector<Fix> MendBench::withDraft() const {
    std::vector<Fix> all = tag() ? session_.study().judgement().fixes(tag()->id) : std::vector<Fix>{};
    all.push_back(draft_);
    return all;
}

/// The trace with the current fix, between its edges.
Reading MendBench::draftReading(TagId id) const {
    return [id, fix = draft_](Study& study, TimeRange range, int pixels) {
        const TimeRange part{std::max(range.from, fix.from), std::min(range.to, fix.to + kNanosecond)};
        if (part.length() <= Duration::zero() || (fix.startBy == 0 && fix.endBy == 0))
            return std::vector<Summary>{};
        const int wide =
            std::max(2, static_cast<int>(static_cast<double>(pixels) * toNanoseconds(part.length()) /
                                         toNanoseconds(range.length())));
        std::vector<Fix> fixes = study.judgement().fixes(id);
        fixes.push_back(fix);
        auto columns = study.reader(id).columns(id, part, wide, fixes);
        std::erase_if(columns,
                      [&](const Summary& c) { return c.firstTime < fix.from || c.lastTime > fix.to; });
        return columns;
    };
}

/// What all fixes change, at the view's columns and at every edge.
Reading MendBench::changeReading() const {
    return [fixes = withDraft()](Study&, TimeRange range, int pixels) {
        std::vector<Summary> out;
        std::vector<Instant> times;
        for (int i = 0; i <= pixels; ++i) times.push_back(range.from + range.length() / pixels * i);
        for (const Fix& f : fixes)
            for (const Instant edge : {f.from - kNanosecond, f.from, f.to, f.to + kNanosecond})
                times.push_back(edge);
        std::sort(times.begin(), times.end());
        for (const Instant at : times) {
            if (at < range.from || at > range.to) continue;
            Summary s;
            s.add(at, changeAt(fixes, at), true);
            out.push_back(s);
        }
        return out;
    };
}

std::vector<PointMark> MendBench::pointsOf(TagId id) const {
    std::vector<PointMark> points;
    for (const CheckReading& r : session_.study().judgement().checkReadings(id))
        points.push_back({r.time, r.value});
    // Spikes that Survey proposed: they wait here with a tick above them.
    if (const auto track = session_.study().tracks().named(kSpikesToMend))
        for (const Span& s : session_.study().tracks().spans(track->id))
            if (s.tag == id)
                points.push_back(
                    {s.start + (s.end - s.start) / 2, factNumber(s.facts, "height"), PointLook::Tick});
    return points;
}

void MendBench::rebuild() {
    const Tag* t = tag();
    fillLedger();
    enter_->setEnabled(t);
    fit_->setEnabled(t);
    if (t && builtFor_ == t->id) return;
    builtFor_ = t ? t->id : TagId();
    if (!t) {
        title_->setText("Mend");
        plot_->setPanes({});
        return;
    }
    const QString unit = QString::fromStdString(t->unit);
    title_->setText(QString::fromStdString(t->path()).replace("/", " · ") +
                    (unit.isEmpty() ? "" : ", " + unit));
    const TagId id = t->id;
    TraceSpec logged = traceOf(session_, id, Which::AsLogged), mended = traceOf(session_, id, Which::Mended),
              draft = mended;
    logged.name = "as logged";
    logged.colour = session_.theme().dark ? QColor("#76716A") : QColor("#B4ADA3");
    mended.name = "mended";
    mended.colour = session_.theme().traces[0];
    draft.name = "with the current fix";
    draft.colour = session_.theme().accent;
    draft.style = Qt::DashLine;
    draft.width = 1.2;
    draft.reading = [this, id] { return draftReading(id); };
    draft.at = {};
    TraceSpec change;
    change.name = "What mending changed";
    change.unit = unit;
    change.colour = session_.theme().accent;
    change.bridging = {TagKind::Continuous, kWithoutEnd};
    change.reading = [this] { return changeReading(); };
    change.at = [this](Instant at) { return changeAt(withDraft(), at); };
    std::vector<PaneSpec> panes{PaneSpec{{std::move(logged), std::move(mended), std::move(draft)}},
                                PaneSpec{{std::move(change)}}};
    panes[0].stretch = 4;
    panes[1].stretch = 1;
    panes[1].zeroLine = true;
    plot_->setPanes(std::move(panes));
    plot_->setPoints(0, pointsOf(id));
    showDraft();
}

double MendBench::grippedValue(Instant t) const {
    const double now = tag() ? valueInSight(session_, *tag(), t, Which::Mended) : std::nan("");
    return std::isfinite(now) ? now + draft_.changeAt(t) : std::nan("");
}

void MendBench::showDraft() {
    showing_ = true;
    ramp_->setChecked(draft_.kind == FixKind::Ramp);
    shift_->setChecked(draft_.kind == FixKind::Shift);
    endRows_->setVisible(draft_.kind == FixKind::Ramp);
    if (draft_.kind == FixKind::Shift) draft_.endBy = draft_.startBy;
    from_->setMoment(draft_.from);
    to_->setMoment(draft_.to);
    startBy_->setText(amountText(draft_.startBy));
    endBy_->setText(amountText(draft_.endBy));
    const double end = grippedValue(draft_.to);
    endReads_->setText(std::isfinite(end) ? QString::number(end, 'g', 7) : "");
    const auto pill = [](const char* what, double v) {
        return QString("%1 %2").arg(what, valueText(v, {}, true));
    };
    std::vector<Handle> handles;
    if (tag()) {
        const double start = grippedValue(draft_.from);
        handles.push_back({0, draft_.from, 0, pill("start", draft_.startBy),
                           std::isfinite(start) ? std::optional(start) : std::nullopt});
        handles.push_back({1, draft_.to, 0, pill("end", draft_.endBy),
                           std::isfinite(end) ? std::optional(end) : std::nullopt});
    }
    plot_->setHandles(std::move(handles));
    plot_->setShade(tag() ? std::optional(TimeRange{draft_.from, draft_.to}) : std::nullopt);
    plot_->reloadSoon();
    showing_ = false;
}

void MendBench::readFields() {
    if (showing_) return;
    const auto from = from_->moment(), to = to_->moment();
    const auto start = numberIn(startBy_), end = numberIn(endBy_);
    markWrong(from_, !from, "no time");
    markWrong(to_, !to || (from && *to <= *from), "the end lies before the start");
    markWrong(startBy_, !start, "no number");
    markWrong(endBy_, !end && draft_.kind == FixKind::Ramp, "no number");
    if (!from || !to || *to <= *from || !start) return;
    // A moment shown to the minute stays as exact as it was unless it was typed again.
    if (from_->isModified()) draft_.from = *from;
    if (to_->isModified()) draft_.to = *to;
    if (startBy_->isModified()) draft_.startBy = *start;
    if (end && endBy_->isModified()) draft_.endBy = *end;
    showDraft();
}

void MendBench::takeHandle(int id) {
    takenAmount_ = id == 0 || draft_.kind == FixKind::Shift ? draft_.startBy : draft_.endBy;
}

void MendBench::moveHandle(int id, Instant t, double lifted) {
    if (!tag()) return;
    // The amount follows the pointer up and down alone: a sideways pull keeps it.
    Instant& edge = id == 0 ? draft_.from : draft_.to;
    const Instant before = edge;
    edge = edgeAt(session_, *plot_, tag()->id, t);
    if (draft_.to <= draft_.from) edge = before;
    double& amount = id == 0 || draft_.kind == FixKind::Shift ? draft_.startBy : draft_.endBy;
    amount = lifted == 0 ? takenAmount_
                         : toPixelDigits(takenAmount_ + lifted,
                                         std::abs(plot_->valueAt(0, 0) - plot_->valueAt(0, 1)));
    if (draft_.kind == FixKind::Shift) draft_.endBy = draft_.startBy;
    showDraft();
}

void MendBench::fitToReadings() {
    if (!tag()) return;
    // One end stays at what it is: a drift starts where the sensor still read true.
    const auto fit =
        jacinth::fitToReadings(session_.study(), *tag(), {draft_.from, draft_.to}, draft_.startBy);
    if (!fit) {
        setRole(misfit_, "bad");
        misfit_->setText(QString::fromStdString(fit.error().message));
        return;
    }
    draft_.kind = FixKind::Ramp;
    draft_.startBy = fit->startBy;
    draft_.endBy = fit->endBy;
    setRole(misfit_, "good");
    const QString unit = QString::fromStdString(tag()->unit);
    misfit_->setText(
        QString("Misfit at %1: %2 → %3 (RMS)")
            .arg(fit->readings == 1 ? QString("one reading") : QString("%1 readings").arg(fit->readings))
            .arg(valueText(fit->misfitBefore), valueText(fit->misfitAfter, unit)));
    showDraft();
}

void MendBench::enter() {
    readFields();
    if (!tag()) return;
    draft_.tag = tag()->id;
    draft_.why = why_->text().trimmed().toStdString();
    markWrong(why_, draft_.why.empty(), "the ledger keeps the reason");
    if (draft_.why.empty()) {
        why_->setFocus();
        emit session_.failed("Say why: the ledger keeps the reason with the fix.");
        return;
    }
    if (draft_.startBy == 0 && draft_.endBy == 0) {
        emit session_.failed("The current fix changes nothing. Drag a handle or type an amount.");
        return;
    }
    Fix entered = draft_;
    draft_.startBy = draft_.endBy = 0;
    const bool done = session_.tryChange([&] {
        if (!session_.report(enterFix(session_.study(), entered))) draft_ = entered;
    });
    if (!done)
        draft_ = entered;
    else
        why_->clear();
    showDraft();
}

void MendBench::fillLedger() {
    std::vector<RowsModel::Row> rows;
    for (const Fix& f : session_.study().judgement().allFixes()) {
        const Tag* t = session_.tag(f.tag);
        const bool own = tag() && f.tag == tag()->id;
        const QString unit = t ? QString::fromStdString(t->unit) : "";
        const QString amount = f.kind == FixKind::Shift ? valueText(f.startBy, unit, true)
                                                        : valueText(f.startBy, {}, f.startBy != 0) + " → " +
                                                              valueText(f.endBy, unit, true);
        RowsModel::Row row{
            f.id,
            {"", fixKindName(f.kind),
             QString::fromStdString(session_.zone().shortText(f.from) + " – " +
                                    session_.zone().shortText(f.to)),
             amount, QString::fromStdString(own || !t ? f.why : t->path() + ": " + f.why),
             QString::fromStdString(f.who), QString::fromStdString(session_.zone().shortText(f.entered))}};
        row.ticked = f.on;
        row.sortBy(0, f.on);
        row.sortBy(2, f.from);
        row.sortBy(6, f.entered);
        if (!own || !f.on) row.ink = session_.theme().second;
        rows.push_back(std::move(row));
    }
    std::stable_partition(rows.begin(), rows.end(),
                          [&](const RowsModel::Row& r) { return !r.ink.isValid(); });
    ledgerModel_->setRows(std::move(rows));
    remove_->setEnabled(false);
}

}  // namespace jacinth::app
