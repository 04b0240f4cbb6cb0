#include "app/screen/sheet_page.h"

#include <QMenu>
#include <nlohmann/json.hpp>

#include "app/base/asset_choice.h"
#include "app/base/id_variant.h"
#include "app/base/tables.h"
#include "app/base/value_in_sight.h"
#include "core/base/missing.h"
#include "core/series/resample.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/limits/excursion_tables.h"
#include "work/runs/edit_runs.h"
#include "work/runs/run_figures.h"

namespace jacinth::app {

namespace {

std::set<AssetId> assetsOf(const std::vector<Span>& runs) {
    std::set<AssetId> out;
    for (const Span& run : runs) out.insert(run.asset);
    return out;
}

/// The runs may be elsewhere: then it says where.
QString whyNoRuns(const Study& study, const std::vector<Span>& runs, AssetId asset) {
    QStringList names;
    for (const AssetId id : assetsOf(runs))
        if (const Asset* a = study.catalog().asset(id)) names << QString::fromStdString(a->name);
    const Asset* here = study.catalog().asset(asset);
    if (names.isEmpty() || !here)
        return "No runs yet. Turn to Runs, say when one lasts, and press Find runs.";
    constexpr qsizetype kNamed = 4;
    const qsizetype more = names.size() - kNamed;
    QString where = names.mid(0, kNamed).join(", ");
    if (more > 0) where += QString(" and %1 more").arg(more);
    return QString("No runs of this track on %1; it has some on %2.")
        .arg(QString::fromStdString(here->name), where);
}

}  // namespace

SheetPage::SheetPage(Session& session, ScreenState& state) : BenchPage(session, false), screen_(state) {
    buildMiddle();
    buildInspector();
    connectAll();
}

QString SheetPage::title() const {
    const Asset* asset = session_.study().catalog().asset(session_.view().asset());
    if (fleet_->currentIndex() == 1) return "Runs of " + fleetWords(session_, "the fleet");
    return asset ? "Runs of " + QString::fromStdString(asset->name) : "Runs";
}

void SheetPage::entered() {
    BenchPage::entered();
    sheet_->setFocus();
    goWhereRunsAre();
    refresh();
}

/// A sheet that opens empty, while other assets have runs, would only ask to be led elsewhere.
void SheetPage::goWhereRunsAre() {
    const std::set<AssetId> assets = assetsOf(runsOf(screen_.trackId()));
    if (!assets.empty() && !assets.contains(session_.view().asset())) session_.lookAt(*assets.begin());
}

std::string SheetPage::role() const {
    if (!role_.empty()) return role_;
    const auto roles = form_->roles();
    return roles.empty() ? "" : roles.front();
}

void SheetPage::chooseCell(SpanId run, const std::string& role) {
    role_ = role;
    session_.view().selectRun(run);
    if (const auto span = session_.study().tracks().span(run))
        if (const Tag* tag = session_.study().catalog().tagInRole(span->asset, role_))
            session_.view().select(span->asset, tag->id);
    refreshOverlay();
    refreshExcursions();
}

void SheetPage::refresh() {
    const Study& study = session_.study();
    track_ = screen_.trackId();
    sets_ = track_ ? limitSetsOf(study, track_) : std::vector<LimitSet>{};
    kept_ = excursionsOf(study);
    std::erase_if(kept_, [](const KeptExcursion& e) { return !e.dismissed.empty(); });
    fillLimits();
    if (!sets_.empty())
        form_->take(sets_.back());
    else if (track_)
        form_->propose(track_);
    if (track_)  // facts that distinguish runs are ways to lay them side by side
        for (const std::string& fact : countableFacts(runsOf(track_))) {
            const QString says = "side by side by " + QString::fromStdString(fact);
            if (show_->findText(says) < 0) show_->addItem(says, QString::fromStdString(fact));
        }
    refreshSheet();
    refreshOverlay();
    refreshExcursions();
    refreshWeeks();
    emit titleChanged();
}

/// Read once until the study changes: there may be many thousands, and every look at the sheet needs them.
const std::vector<Span>& SheetPage::runsOf(TrackId track) {
    if (!runs_ || runs_->first != track)
        runs_ = {track, track ? session_.study().tracks().spans(track) : std::vector<Span>()};
    return runs_->second;
}

void SheetPage::refreshSheet() {
    nameFleet(fleet_, 1, session_);
    const Study& study = session_.study();
    const bool fleet = fleet_->currentIndex() == 1;
    const AssetId asset = session_.view().asset();
    const auto golden = track_ ? study.judgement().goldenRuns(track_) : std::vector<SpanId>{};
    std::vector<Span> runs, stops = study.tracks().spansOf(track_kind::kStops);
    for (const Span& s : runsOf(track_))
        if (s.asset == asset || (fleet && isIn(study, session_.view().grouping(), s.asset)))
            runs.push_back(s);
    const AssetGroups groups(study, session_.view().grouping().fact);
    std::stable_sort(runs.begin(), runs.end(),
                     [&](const Span& a, const Span& b) { return groups.isBefore(a.asset, b.asset); });
    std::set<std::string> limited;
    for (const LimitSet& set : sets_)
        for (const auto& [role, limits] : set.byRole) limited.insert(role);
    if (!form_->rolesTouched()) {
        std::vector<std::string> roles(limited.begin(), limited.end());
        if (limited.empty())
            for (const TagId id : session_.view().shown())
                if (const Tag* t = session_.tag(id);
                    t && t->kind != TagKind::State &&
                    std::find(roles.begin(), roles.end(), t->role) == roles.end())
                    roles.push_back(t->role);
        form_->setRoles(roles);
    }
    std::vector<RunSheet::RowName> rows;
    const std::vector<std::string> asked = form_->roles();
    for (const Tag& t : study.catalog().tags()) {
        const bool row = limited.empty() ? std::find(asked.begin(), asked.end(), t.role) != asked.end()
                                         : limited.contains(t.role);
        if (t.asset == asset && row) rows.push_back({t.role, QString::fromStdString(t.name)});
    }
    std::set<SpanId> flagged;
    for (const KeptExcursion& e : kept_) flagged.insert(e.run);
    const auto count = [&](const auto& is) { return std::count_if(runs.begin(), runs.end(), is); };
    const std::set<SpanId> goldenSet(golden.begin(), golden.end());
    state_ = !track_ ? QString()
                     : QString("%1 runs · %2 golden here · %3 with excursions")
                           .arg(runs.size())
                           .arg(count([&](const Span& s) { return goldenSet.contains(s.id); }))
                           .arg(count([&](const Span& s) { return flagged.contains(s.id); }));
    const LimitSet* last = sets_.empty() ? nullptr : &sets_.back();
    const bool changed = last && last->forRuns.empty() && last->goldenRuns != golden;
    goldenCount_->setText(
        golden.empty() ? "No golden runs yet: click in the golden row of the sheet, or choose them in Runs."
                       : QString("From %1 golden runs%2")
                             .arg(golden.size())
                             .arg(changed ? ", changed since the limits were made" : ""));
    build_->setEnabled(!golden.empty());
    sheet_->sayWhenEmpty(whyNoRuns(study, runsOf(track_), asset));
    sheet_->setSheet(std::move(runs), std::move(rows), kept_,
                     track_ ? goldenReasons(study, track_) : std::map<SpanId, std::string>{}, stops);
}

std::optional<Span> SheetPage::currentRun() const {
    auto run = session_.study().tracks().span(session_.view().run());
    if (run && run->asset == session_.view().asset()) return run;
    for (const Span& r : sheet_->runs())
        if (r.asset == session_.view().asset()) return r;
    return {};
}

void SheetPage::refreshOverlay() {
    const Study& study = session_.study();
    const auto run = currentRun();
    const std::string r = role();
    sheet_->setCurrent(run ? run->id : SpanId(), r);
    const Tag* tag = study.catalog().tagInRole(session_.view().asset(), r);
    if (!run || !tag) {
        overlayTitle_->setText("Lined-up runs");
        overlayState_->setText(track_ ? "choose a run in the sheet" : "");
        countWords_->clear();
        axisWords_->clear();
        overlay_->show({});
        multiples_->show({});
        return;
    }
    overlayTitle_->setText(QString::fromStdString(tag->path()).replace("/", " · ") +
                           (tag->unit.empty() ? "" : ", " + QString::fromStdString(tag->unit)));
    overlayState_->setText(QString("run %1 · %2 · %3%4")
                               .arg(factNumber(run->facts, "number"))
                               .arg(QString::fromStdString(session_.zone().shortText(run->start)),
                                    QString::fromStdString(sayDuration(run->end - run->start)),
                                    run->facts.contains("unfinished") ? " so far" : ""));
    LineUpRequest request{*run, r, session_.view().which(), idFrom<LimitSetId>(limits_->currentData()),
                          {},   {}};
    // What the fields would make of the golden runs, where no limits apply.
    request.otherwise.track = track_;
    request.otherwise.goldenRuns = study.judgement().goldenRuns(track_);
    request.otherwise.byRole[r].spec = form_->specOr(LimitSpec{});
    request.withAll = showsAll() || show_->currentIndex() >= 2;
    session_.runJob(this, "overlay", "Lining up runs",
                    [this, request, before = aligned_](JobContext& job) -> std::function<void()> {
                        return [this, made = lineUpRun(job.study, request, before)]() mutable {
                            aligned_ = std::move(made.aligned);
                            showOverlay(std::move(made.picture));
                        };
                    });
}

void SheetPage::showOverlay(OverlayPlot::Picture picture) {
    for (const KeptExcursion& e : kept_)
        if (e.run == picture.runSpan.id && e.role == role())
            picture.excursions.push_back({e.span.start, e.span.end, e.peakTime, e.outside, e.side, e.peak,
                                          e.area, e.halfWidths, e.severity});
    overlay_->show(std::move(picture));
    countWords_->setText(overlay_->countWords());
    axisWords_->setText(overlay_->axisWords());
    if (show_->currentIndex() >= 2) refreshMultiples();
    emit pointerMoved();
}

void SheetPage::refreshMultiples() {
    if (!aligned_ || !aligned_->all) return;
    const Study& study = session_.study();
    const std::vector<Span>& runs = runsOf(track_);
    const std::string fact = show_->currentData().toString().toStdString();
    MultiplesView::Picture picture;
    picture.limits = overlay_->picture().limits;
    picture.all = aligned_->all;
    picture.run = session_.view().run();
    for (const KeptExcursion& e : kept_)
        if (e.role == role()) picture.outside.insert(e.run);
    std::map<SpanId, const Span*> byId;
    for (const Span& s : runs) byId[s.id] = &s;
    std::map<std::string, std::size_t> places;
    for (const AlignedRun& a : *aligned_->all) {
        const auto span = byId.find(a.run);
        if (span == byId.end()) continue;
        const Asset* asset = study.catalog().asset(span->second->asset);
        std::string name = fact.empty() ? (asset ? asset->name : "") : factText(span->second->facts, fact);
        if (name.empty()) name = "not said";
        const auto [place, fresh] = places.try_emplace(name, picture.panels.size());
        if (fresh) picture.panels.push_back({QString::fromStdString(name), {}, 0});
        MultiplesView::Panel& panel = picture.panels[place->second];
        panel.runs.push_back(&a);
        panel.flagged += picture.outside.contains(a.run);
    }
    std::sort(picture.panels.begin(), picture.panels.end(),
              [](const auto& a, const auto& b) { return a.name < b.name; });
    multiples_->show(std::move(picture));
}

void SheetPage::refreshExcursions() {
    const auto run = session_.study().tracks().span(session_.view().run());
    const bool tagInAll = sheet_->pick() == RunSheet::Pick::Tag;
    const bool oneRun = !tagInAll && run && run->asset == session_.view().asset();
    std::set<SpanId> onSheet;
    for (const Span& s : sheet_->runs()) onSheet.insert(s.id);
    std::vector<const KeptExcursion*> list;
    for (const KeptExcursion& e : kept_)
        if (oneRun ? e.run == run->id : onSheet.contains(e.run) && (!tagInAll || e.role == role()))
            list.push_back(&e);
    std::stable_sort(list.begin(), list.end(),
                     [](const auto* a, const auto* b) { return a->severity > b->severity; });
    std::vector<RowsModel::Row> rows;
    for (const KeptExcursion* e : list) {
        const Tag* tag = session_.tag(e->span.tag);
        RowsModel::Row row{
            e->span.id,
            {tag ? QString::fromStdString(tag->name) : "",
             oneRun ? QString("+%1").arg(toHours(e->span.start - run->start), 0, 'f', 1)
                    : QString::fromStdString(session_.zone().shortDate(e->span.start)),
             QString::number(toHours(e->outside), 'f', 1),
             QString::number(e->peak, 'g', 3).replace('-', "−").prepend(e->peak > 0 ? "+" : "")}};
        row.gem = e->severity;
        row.sortBy(1, e->span.start);
        row.number(2, toHours(e->outside));
        row.number(3, e->peak, tag ? QString::fromStdString(tag->unit) : QString());
        rows.push_back(std::move(row));
    }
    const Tag* tag = session_.study().catalog().tagInRole(session_.view().asset(), role());
    excursionTitle_->setText(
        oneRun            ? QString("Excursions of run %1, in hours").arg(factNumber(run->facts, "number"))
        : tagInAll && tag ? "Excursions of " + QString::fromStdString(tag->name)
                          : QString("Excursions"));
    excursionModel_->setGemColours(session_.theme().accent, session_.theme().plot);
    const auto chosen = currentId<SpanId>(excursions_);
    excursionModel_->setRows(std::move(rows));
    if (const int row = excursionModel_->rowOf(chosen); chosen && row >= 0) excursions_->selectRow(row);
    openMoment_->setEnabled(bool(currentId<SpanId>(excursions_)));
    label_->setEnabled(bool(currentId<SpanId>(excursions_)));
}

void SheetPage::refreshWeeks() {
    std::vector<std::pair<QString, double>> weeks;
    std::set<SpanId> onSheet;
    for (const Span& s : sheet_->runs()) onSheet.insert(s.id);
    std::vector<KeptExcursion> here;
    for (const KeptExcursion& e : kept_)
        if (onSheet.contains(e.run)) here.push_back(e);
    if (!here.empty())
        for (const ExcursionCount& c :
             countExcursions(session_.study(), sheet_->runs(), here, CountBy::Week)) {
            const WallTime w = session_.zone().wall(c.from);
            weeks.emplace_back(QString("%1/%2").arg(w.day).arg(w.month), c.hours);
        }
    weeks_->setHours(std::move(weeks));
}

QString SheetPage::pointerText() const {
    const auto t = overlay_->pointer();
    if (!t) return overlay_->pointerWords(kMissing);
    const auto& p = overlay_->picture();
    const Tag* tag = session_.study().catalog().tagInRole(p.runSpan.asset, role());
    QString out = QString::fromStdString(session_.zone().text(*t));
    double value = kMissing;
    if (tag && tag->kind != TagKind::State) {
        value = valueInSight(session_, *tag, *t, session_.view().which());
        out += " · " + QString::fromStdString(tag->name) + " " +
               valueText(value, QString::fromStdString(p.unit));
    }
    return out + " · " + overlay_->pointerWords(value);
}

void SheetPage::open(SpanId id) {
    for (const KeptExcursion& e : kept_)
        if (e.span.id == id) {
            role_ = e.role;
            session_.view().selectRun(e.run);
            session_.view().select(e.span.asset, e.span.tag);
            refresh();
            excursions_->selectRow(excursionModel_->rowOf(id));
            return;
        }
    if (const auto span = session_.study().tracks().span(id)) {
        session_.view().select(span->asset, {});
        session_.view().selectRun(id);
        refresh();
    }
}

void SheetPage::buildAndScreen() {
    const auto request = form_->request();
    if (!request || !track_) return;
    build_->setEnabled(false);
    const Which which = session_.view().which();
    // The limits are kept first, so that screening sees which limits judge which run; to the user both are
    // one step.
    session_.runJob(
        this, "screen", "Making limits",
        [this, request = *request, which, track = track_](JobContext& job) -> std::function<void()> {
            auto set = makeLimits(job.study, request.name, track, request.roles, request.spec, which,
                                  request.forRuns);
            return [this, set = std::move(set), request, which, track]() mutable {
                form_->showTagsError(set ? "" : QString::fromStdString(set.error().message));
                if (!session_.report(set)) return;
                set->validFrom = request.validFrom;
                session_.tryChange([&] { keepLimits(session_.study(), *set); });
                const StepId kept = session_.study().history().newest();
                session_.runJob(
                    this, "screening", "Screening",
                    [this, which, track, kept,
                     spec = request.screen](JobContext& more) -> std::function<void()> {
                        bool stopped = false;
                        auto screened = screenTrack(more.study, track, "", spec, which, [&](double share) {
                            stopped = more.progress.stopped(share);
                            return !stopped;
                        });
                        return [this, track, kept, spec, which, stopped, screened = std::move(screened)] {
                            if (stopped) return;
                            session_.tryChange([&] {
                                keepExcursions(session_.study(), track, spec, screened, which);
                                session_.study().history().join(kept);
                            });
                            std::size_t n = 0;
                            std::set<SpanId> runs;
                            std::set<std::string> roles;
                            for (const ScreenedRun& s : screened) {
                                n += s.excursions.size();
                                runs.insert(s.run.id);
                                roles.insert(s.role);
                            }
                            emit session_.notified(QString("%1 runs screened in %2 tags: %3 excursions")
                                                       .arg(runs.size())
                                                       .arg(roles.size())
                                                       .arg(n));
                        };
                    });
            };
        },
        false, [this] { build_->setEnabled(true); });
}

/// The sets and versions of the track, newest first; the one chosen stays.
void SheetPage::fillLimits() {
    const QVariant before = limits_->currentData();
    while (limits_->count() > 1) limits_->removeItem(1);
    for (auto set = sets_.rbegin(); set != sets_.rend(); ++set)
        limits_->addItem(QString::fromStdString(set->name) + QString(", version %1").arg(set->version),
                         toVariant(set->id));
    limits_->setCurrentIndex(before.isValid() ? std::max(0, limits_->findData(before)) : 0);
    limits_->setVisible(sets_.size() > 1);
}

void SheetPage::offerRunsIn(const QRect& box) {
    const std::vector<SpanId> runs = overlay_->runsIn(box);
    if (runs.empty()) return emit session_.notified("No run passes there");
    overlay_->setMarked(runs);
    const Tag* tag = session_.study().catalog().tagInRole(session_.view().asset(), role());
    const QString why =
        QString("by eye: %1 %2").arg(tag ? QString::fromStdString(tag->name) : "", overlay_->boxWords(box));
    auto* menu = new QMenu(this);
    menu->setObjectName("boxMenu");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const bool one = runs.size() == 1;
    menu->addSection(one ? QString("1 run passes there") : QString("%1 runs pass there").arg(runs.size()));
    const auto offer = [&](const QString& says, Golden how) {
        menu->addAction(says, this, [this, runs, how, why] {
            session_.tryChange(
                [&] { session_.report(markGolden(session_.study(), track_, runs, how, why.toStdString())); });
        });
    };
    offer(one ? "It is golden" : "They are golden", Golden::Also);
    offer(one ? "It is not golden" : "They are not golden", Golden::NoLonger);
    offer(one ? "Only it is golden" : "Only they are golden", Golden::Only);
    if (one) menu->addAction("Look at it", this, [this, run = runs.front()] { chooseCell(run, role()); });
    connect(menu, &QMenu::aboutToHide, this, [this] { overlay_->setMarked({}); });
    menu->popup(overlay_->mapToGlobal(box.bottomRight()));
}

void SheetPage::toggleGolden(SpanId run) {
    if (!track_) return;
    session_.view().selectRun(run);
    session_.tryChange([&] { jacinth::toggleGolden(session_.study(), track_, run); });
}

}  // namespace jacinth::app
