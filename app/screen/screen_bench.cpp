#include "app/screen/screen_bench.h"

#include <QPainter>
#include <nlohmann/json.hpp>

#include "work/find_runs.h"

namespace jacinth::app {
namespace {
const char* const kTrack = "Runs";
const char* const kLimits = "Golden limits";
}  // namespace

void WeekBars::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& theme = session_.theme();
    QFont small = uiFont();
    small.setPixelSize(10);
    p.setFont(small);
    if (weeks_.empty()) return;
    double most = 1;
    for (const auto& [name, h] : weeks_) most = std::max(most, h);
    const double wide = static_cast<double>(width()) / static_cast<double>(weeks_.size());
    const double floor = height() - 16;
    for (std::size_t i = 0; i < weeks_.size(); ++i) {
        const double tall = weeks_[i].second / most * (floor - 16);
        const QRectF bar(static_cast<double>(i) * wide + 2, floor - tall, wide - 5, tall);
        p.fillRect(bar, weeks_[i].second > 0.6 * most ? theme.accent : faded(theme.accent, 0.35));
        p.setPen(theme.second);
        p.drawText(QRectF(bar.left() - 4, bar.top() - 14, bar.width() + 8, 13), Qt::AlignCenter,
                   weeks_[i].second > 0 ? QString::number(weeks_[i].second, 'f', 0) : "");
        p.drawText(QRectF(bar.left() - 4, floor + 2, bar.width() + 8, 13), Qt::AlignCenter, weeks_[i].first);
    }
    p.fillRect(QRectF(0, floor, width(), 1), theme.hairline);
}

ScreenBench::ScreenBench(Session& session) : Bench(session) {
    title_ = makeLabel("", "title");
    state_ = makeLabel("", "second");
    sheet_ = new RunSheet(session);
    overlayTitle_ = makeLabel("", "section");
    overlayState_ = makeLabel("", "second");
    overlay_ = new OverlayPlot(session);
    auto* top = new QHBoxLayout;
    top->addWidget(title_, 1);
    top->addWidget(state_);
    auto* head = new QHBoxLayout;
    head->addWidget(overlayTitle_, 1);
    head->addWidget(overlayState_);
    auto* foot = new QHBoxLayout;
    foot->addWidget(makeLabel("gold: between the limits; thin: golden runs; ink: this run", "second"));
    foot->addStretch();
    foot->addWidget(makeLabel("hours since the start of the run", "second"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 8, 6);
    column->setSpacing(4);
    column->addLayout(top);
    column->addWidget(sheet_);
    column->addLayout(head);
    column->addWidget(overlay_, 1);
    column->addLayout(foot);
    buildInspector();
    connect(sheet_, &RunSheet::cellChosen, this, [this](std::int64_t run, const QString& role) {
        role_ = role.toStdString();
        session_.view().selectRun(run);
        const auto span = session_.study().span(run);
        if (span)
            if (const Tag* tag = session_.study().catalog().tagInRole(span->asset, role_))
                session_.view().select(span->asset, tag->id);
        refreshOverlay();
        refreshExcursions();
    });
    connect(sheet_, &RunSheet::goldenToggled, this, &ScreenBench::toggleGolden);
    connect(sheet_, &RunSheet::cellOpened, this, [this](std::int64_t run, const QString&) {
        const auto span = session_.study().span(run);
        if (span) emit momentAsked(span->range(), session_.view().tag());
    });
    connect(overlay_, &OverlayPlot::momentChosen, this, [this](Instant t) {
        emit momentAsked({t - 3 * kHour, t + 3 * kHour}, session_.view().tag());
    });
    connect(overlay_, &OverlayPlot::pointed, this, &Bench::pointerMoved);
    connect(&session, &Session::studyChanged, this, &ScreenBench::refresh);
    connect(&session, &Session::themeChanged, this, &ScreenBench::refresh);
    connect(&session.view(), &ViewState::selectionChanged, this, &ScreenBench::refresh);
    connect(&session.view(), &ViewState::whichChanged, this, &ScreenBench::refreshOverlay);
    connect(&session.view(), &ViewState::shownChanged, this, [this] {
        if (!tagsTouched_ && !set_) tags_->setText({});
        refresh();
    });
    refresh();
}

void ScreenBench::buildInspector() {
    auto* side = new QVBoxLayout(inspector_);
    side->setContentsMargins(12, 10, 12, 10);
    side->setSpacing(5);
    side->addWidget(makeLabel("Runs", "section"));
    where_ = makeField("runsWhere", "A run lasts while");
    where_->setPlaceholderText("@kiln_step is not \"Idle\"");
    least_ = makeField("runsLeast", "Least length");
    least_->setText("1h");
    find_ = makeButton("Find runs", "findRuns");
    addRow(side, "A run lasts while", where_);
    auto* findRow = new QHBoxLayout;
    findRow->addWidget(makeLabel("at least", "second"));
    least_->setFixedWidth(60);
    findRow->addWidget(least_);
    findRow->addStretch();
    findRow->addWidget(find_);
    side->addLayout(findRow);
    side->addWidget(makeRule());
    side->addWidget(makeLabel("Golden limits", "section"));
    goldenCount_ = makeLabel("", "second");
    goldenCount_->setWordWrap(true);
    side->addWidget(goldenCount_);
    tags_ = makeField("limitTags", "Tags, by role");
    tags_->setToolTip("Roles, with commas between them");
    every_ = makeField("limitEvery", "Slice every");
    every_->setText("2m");
    method_ = makeChoice("limitMethod", "Method", {"mean ± k·s", "median ± k·MAD", "quantiles", "envelope"});
    k_ = makeField("limitK", "k");
    k_->setText("3");
    lineUp_ = makeChoice("limitLineUp", "Line up by", {"start", "end"});
    ignore_ = makeField("screenIgnore", "Ignore shorter than");
    ignore_->setText("20m");
    join_ = makeField("screenJoin", "Join returns under");
    join_->setText("10m");
    addRow(side, "Tags", tags_);
    addRow(side, "Method", method_);
    const auto two = [&](const QString& words, QWidget* a, const QString& between, QWidget* b) {
        auto* row = new QHBoxLayout;
        row->setSpacing(8);
        auto* label = makeLabel(words, "second");
        label->setMinimumWidth(104);
        row->addWidget(label);
        row->addWidget(a, 1);
        row->addWidget(makeLabel(between, "second"));
        row->addWidget(b, 1);
        side->addLayout(row);
    };
    two("Slice every", every_, "k", k_);
    addRow(side, "Line up by", lineUp_);
    two("Ignore under", ignore_, "join", join_);
    build_ = makeButton("Build limits and screen", "buildLimits", true);
    side->addWidget(build_);
    side->addWidget(makeRule());
    excursionTitle_ = makeLabel("Excursions", "section");
    side->addWidget(excursionTitle_);
    excursionModel_ = new RowsModel({"tag", "start", "length", "peak"}, this);
    excursions_ = makeTable(excursionModel_, "excursionTable", {0, 62, 48, 50});
    excursions_->setMinimumHeight(80);
    side->addWidget(excursions_, 1);
    auto* buttons = new QHBoxLayout;
    openMoment_ = makeButton("See it in Survey", "openExcursion");
    label_ = makeButton("Label it", "labelExcursion");
    buttons->addWidget(openMoment_);
    buttons->addWidget(label_);
    side->addLayout(buttons);
    side->addWidget(makeLabel("Hours outside, by week", "second"));
    weeks_ = new WeekBars(session_);
    side->addWidget(weeks_);
    connect(find_, &QPushButton::clicked, this, &ScreenBench::findThem);
    connect(where_, &QLineEdit::returnPressed, this, &ScreenBench::findThem);
    connect(build_, &QPushButton::clicked, this, &ScreenBench::buildAndScreen);
    connect(tags_, &QLineEdit::textEdited, this, [this] { tagsTouched_ = true; });
    const auto openCurrent = [this] {
        const std::int64_t id = currentKey(excursions_);
        for (const KeptExcursion& e : kept_)
            if (e.span.id == id) emit momentAsked(e.span.range(), e.span.tag);
    };
    connect(openMoment_, &QPushButton::clicked, this, openCurrent);
    connect(excursions_, &QTableView::doubleClicked, this, openCurrent);
    connect(excursions_, &QTableView::activated, this, openCurrent);
    connect(label_, &QPushButton::clicked, this, [this] {
        if (const std::int64_t id = currentKey(excursions_)) emit labelAsked(id);
    });
    connect(excursions_, &QTableView::clicked, this, [this] {
        const std::int64_t id = currentKey(excursions_);
        for (const KeptExcursion& e : kept_)
            if (e.span.id == id) {
                role_ = e.role;
                session_.view().selectRun(e.run);
                session_.view().select(e.span.asset, e.span.tag);
                refreshOverlay();
            }
        openMoment_->setEnabled(id != 0);
        label_->setEnabled(id != 0);
    });
}

void ScreenBench::entered() {
    sheet_->setFocus();
    refresh();
}

std::string ScreenBench::role() const {
    if (!role_.empty()) return role_;
    return set_ && !set_->byRole.empty() ? set_->byRole.begin()->first : "";
}

void ScreenBench::refresh() {
    const Study& study = session_.study();
    const auto track = study.firstTrackOf(track_kind::kRuns);
    track_ = track ? track->id : 0;
    if (track && where_->text().isEmpty()) {
        const auto d = nlohmann::json::parse(track->definition, nullptr, false);
        if (d.is_object()) where_->setText(QString::fromStdString(d.value("where", "")));
    }
    const auto sets = study.limitSets();
    set_ = sets.empty() ? std::nullopt : std::optional(sets.back());
    kept_ = excursionsOf(study);
    const auto golden = track_ ? study.goldenRuns(track_) : std::vector<std::int64_t>{};
    std::vector<Span> runs, stops;
    for (const Span& s : track_ ? study.spans(track_) : std::vector<Span>{})
        if (s.asset == session_.view().asset()) runs.push_back(s);
    for (const Span& s : study.spansOf(track_kind::kStops))
        if (s.asset == session_.view().asset()) stops.push_back(s);
    if (tags_->text().isEmpty() && !tags_->hasFocus()) {
        QStringList names;
        if (set_)
            for (const auto& [role, limits] : set_->byRole) names << QString::fromStdString(role);
        else
            for (const std::int64_t id : session_.view().shown())
                if (const Tag* t = session_.tag(id); t && t->kind != TagKind::State)
                    names << QString::fromStdString(t->role);
        names.removeDuplicates();
        tags_->setText(names.join(", "));
        tags_->setCursorPosition(0);
    }
    std::vector<RunSheet::RowName> rows;
    std::vector<std::string> roles = rolesIn(tags_->text());
    if (set_) {
        roles.clear();
        for (const Tag& t : study.catalog().tags())
            if (t.asset == session_.view().asset() && set_->byRole.contains(t.role)) roles.push_back(t.role);
    }
    for (const std::string& r : roles) {
        const Tag* t = study.catalog().tagInRole(session_.view().asset(), r);
        rows.push_back({r, QString::fromStdString(t ? t->name : r)});
    }
    std::size_t without = 0;
    std::set<std::int64_t> flagged;
    for (const KeptExcursion& e : kept_) flagged.insert(e.run);
    for (const Span& r : runs) without += flagged.contains(r.id);
    const Asset* asset = study.catalog().asset(session_.view().asset());
    title_->setText(asset ? "Runs of " + QString::fromStdString(asset->name) : "Runs");
    state_->setText(QString("%1 runs · %2 golden here · %3 with excursions")
                        .arg(runs.size())
                        .arg(std::count_if(runs.begin(), runs.end(),
                                           [&](const Span& s) {
                                               return std::find(golden.begin(), golden.end(), s.id) !=
                                                      golden.end();
                                           }))
                        .arg(without));
    goldenCount_->setText(
        golden.empty()
            ? "No golden runs yet: click in the golden row of the sheet, or press G on a run."
            : QString("From %1 golden runs%2")
                  .arg(golden.size())
                  .arg(set_ && set_->goldenRuns != golden ? ", changed since the limits were made" : ""));
    build_->setEnabled(!golden.empty());
    sheet_->setSheet(std::move(runs), std::move(rows), kept_, golden, std::move(stops));
    refreshOverlay();
    refreshExcursions();
    refreshWeeks();
}

void ScreenBench::refreshOverlay() {
    Study& study = session_.study();
    auto run = study.span(session_.view().run());
    if (run && run->asset != session_.view().asset()) run.reset();
    const auto& runs = sheet_->runs();
    if (!run && !runs.empty()) run = runs.front();
    const std::string r =
        role().empty() && !rolesIn(tags_->text()).empty() ? rolesIn(tags_->text()).front() : role();
    sheet_->setCurrent(run ? run->id : 0, r);
    const Tag* tag = study.catalog().tagInRole(session_.view().asset(), r);
    OverlayPlot::Picture picture;
    if (!run || !tag) {
        overlayTitle_->setText("Lined-up runs");
        overlayState_->setText(track_ ? "choose a run in the sheet" : "");
        overlay_->show(std::move(picture));
        return;
    }
    picture.runSpan = *run;
    picture.bridging = tag->bridging();
    picture.unit = QString::fromStdString(tag->unit);
    picture.run = study.read(*tag, {run->start, run->end + 1}, session_.view().which());
    if (const auto spec = specFromFields()) picture.limits.spec = *spec;
    if (set_ && set_->byRole.contains(r)) {
        picture.limits = limitsFor(study, *set_, r, run->id, session_.view().which());
        for (const KeptExcursion& e : kept_)
            if (e.run == run->id && e.role == r)
                picture.excursions.push_back({e.span.start, e.span.end, e.span.start, e.side, e.peak, e.area,
                                              e.halfWidths, e.severity});
    }
    const auto golden = study.goldenRuns(track_);
    for (const Span& g : study.spans(track_)) {
        if (std::find(golden.begin(), golden.end(), g.id) == golden.end() || picture.golden.size() >= 60)
            continue;
        if (const Tag* t = study.catalog().tagInRole(g.asset, r))
            picture.golden.push_back(alignRun(study.read(*t, {g.start, g.end + 1}, session_.view().which()),
                                              t->bridging(), g, picture.limits.spec));
    }
    overlayTitle_->setText(QString::fromStdString(tag->path()).replace("/", " · ") +
                           (tag->unit.empty() ? "" : ", " + picture.unit));
    overlayState_->setText(QString("run %1 · %2 · %3")
                               .arg(factNumber(run->facts, "number"))
                               .arg(QString::fromStdString(session_.zone().shortText(run->start)),
                                    QString::fromStdString(sayDuration(run->end - run->start))));
    overlay_->show(std::move(picture));
}

void ScreenBench::refreshExcursions() {
    const auto run = session_.study().span(session_.view().run());
    const bool oneRun = run && run->asset == session_.view().asset();
    std::vector<const KeptExcursion*> list;
    for (const KeptExcursion& e : kept_)
        if (oneRun ? e.run == run->id : e.span.asset == session_.view().asset()) list.push_back(&e);
    std::stable_sort(list.begin(), list.end(),
                     [](const auto* a, const auto* b) { return a->severity > b->severity; });
    std::vector<RowsModel::Row> rows;
    for (const KeptExcursion* e : list) {
        const Tag* tag = session_.tag(e->span.tag);
        RowsModel::Row row{
            e->span.id,
            {tag ? QString::fromStdString(tag->name) : "",
             oneRun ? QString("+%1 h").arg(toHours(e->span.start - run->start), 0, 'f', 1)
                    : QString::fromStdString(session_.zone().shortDate(e->span.start)),
             QString("%1 h").arg(toHours(e->span.end - e->span.start), 0, 'f', 1),
             QString::number(e->peak, 'g', 3).replace('-', "−").prepend(e->peak > 0 ? "+" : "")}};
        row.gem = e->severity;
        rows.push_back(std::move(row));
    }
    excursionTitle_->setText(oneRun ? QString("Excursions of run %1").arg(factNumber(run->facts, "number"))
                                    : QString("Excursions"));
    excursionModel_->setGemColours(session_.theme().accent, session_.theme().plot);
    const std::int64_t chosen = currentKey(excursions_);
    excursionModel_->setRows(std::move(rows));
    if (const int row = excursionModel_->rowOf(chosen); chosen && row >= 0) excursions_->selectRow(row);
    openMoment_->setEnabled(currentKey(excursions_) != 0);
    label_->setEnabled(currentKey(excursions_) != 0);
}

void ScreenBench::refreshWeeks() {
    const TimeRange record = session_.view().record();
    std::vector<std::pair<QString, double>> weeks;
    const Zone& zone = session_.zone();
    const Instant first = zone.startOfDay(record.from);
    if (!kept_.empty())
        for (Instant t = first; t < record.to && weeks.size() < 14; t = zone.addDays(t, 7)) {
            double hours = 0;
            for (const KeptExcursion& e : kept_)
                if (e.span.asset == session_.view().asset() && e.span.start >= t &&
                    e.span.start < zone.addDays(t, 7))
                    hours += toHours(e.span.end - e.span.start);
            const WallTime w = zone.wall(t);
            weeks.emplace_back(QString("%1/%2").arg(w.day).arg(w.month), hours);
        }
    weeks_->setHours(std::move(weeks));
}

QString ScreenBench::pointerText() const {
    const auto t = overlay_->pointer();
    if (!t) return {};
    const auto& p = overlay_->picture();
    const Duration offset = p.limits.spec.lineUp == LineUp::Start ? *t - p.runSpan.start : p.runSpan.end - *t;
    const LimitsAt limits = limitsAt(p.limits, offset);
    const Tag* tag = session_.tag(session_.view().tag());
    QString out =
        QString::fromStdString(session_.zone().text(*t) + " · +" + sayDuration(*t - p.runSpan.start));
    if (tag && tag->kind != TagKind::State)
        out += " · " + QString::fromStdString(tag->name) + " " +
               valueText(session_.study().valueAt(*tag, *t, session_.view().which()), p.unit);
    if (std::isfinite(limits.low))
        out += QString(" · limits %1 – %2").arg(valueText(limits.low), valueText(limits.high, p.unit));
    return out;
}

void ScreenBench::open(std::int64_t id) {
    for (const KeptExcursion& e : kept_)
        if (e.span.id == id) {
            role_ = e.role;
            session_.view().selectRun(e.run);
            session_.view().select(e.span.asset, e.span.tag);
            refresh();
            excursions_->selectRow(excursionModel_->rowOf(id));
            return;
        }
    if (const auto span = session_.study().span(id)) {
        session_.view().select(span->asset, 0);
        session_.view().selectRun(id);
        refresh();
    }
}

void ScreenBench::findThem() {
    RunSearch search;
    search.where = where_->text().toStdString();
    if (search.where.empty()) {
        markWrong(where_, true, "a condition that is true while a run lasts");
        emit session_.failed("Say when a run lasts, for example " + where_->placeholderText());
        return;
    }
    const auto least = parseDuration(least_->text().toStdString());
    markWrong(least_, !least && !least_->text().isEmpty(), "a duration like 1h");
    search.least = least ? *least : 0;
    const Which which = session_.view().which();
    find_->setEnabled(false);
    session_.runJob("runs", "Finding runs", [this, search, which](JobContext& job) -> std::function<void()> {
        auto found = findRuns(job.study, search, which);
        return [this, search, found = std::move(found)] {
            find_->setEnabled(true);
            markWrong(where_, !found, found ? "" : QString::fromStdString(found.error().message));
            if (!session_.tell(found)) return;
            session_.tryChange([&] { keepRuns(session_.study(), kTrack, search, *found); });
            emit session_.told(QString("%1 runs found").arg(found->size()));
        };
    });
}

std::optional<LimitSpec> ScreenBench::specFromFields() {
    LimitSpec spec;
    const auto every = parseDuration(every_->text().toStdString());
    bool ok = false;
    spec.k = k_->text().toDouble(&ok);
    markWrong(every_, !every || *every <= 0, "a duration like 2m");
    markWrong(k_, !ok || spec.k <= 0, "a number above 0");
    if (!every || *every <= 0 || !ok || spec.k <= 0) return {};
    spec.every = *every;
    spec.method = static_cast<LimitMethod>(method_->currentIndex());
    spec.lineUp = static_cast<LineUp>(lineUp_->currentIndex());
    return spec;
}

std::optional<ScreenSpec> ScreenBench::screenSpecFromFields() {
    const auto ignore = parseDuration(ignore_->text().toStdString()),
               join = parseDuration(join_->text().toStdString());
    markWrong(ignore_, !ignore, "a duration like 20m");
    markWrong(join_, !join, "a duration like 10m");
    if (!ignore || !join) return {};
    return ScreenSpec{*ignore, *join};
}

void ScreenBench::buildAndScreen() {
    const auto spec = specFromFields();
    const auto screen = screenSpecFromFields();
    if (!spec || !screen || !track_) return;
    const std::vector<std::string> roles = rolesIn(tags_->text());
    markWrong(tags_, roles.empty(), "roles, with commas between them");
    if (roles.empty()) return;
    build_->setEnabled(false);
    const Which which = session_.view().which();
    session_.runJob(
        "screen", "Screening",
        [this, roles, spec = *spec, screen = *screen, which,
         track = track_](JobContext& job) -> std::function<void()> {
            auto set = makeLimits(job.study, kLimits, track, roles, spec, which);
            std::vector<ScreenedRun> screened;
            if (set) screened = screenRuns(job.study, *set, screen, which, job.progress);
            return [this, set = std::move(set), screened = std::move(screened), screen] {
                build_->setEnabled(true);
                markWrong(tags_, !set, set ? "" : QString::fromStdString(set.error().message));
                if (!session_.tell(set)) return;
                session_.tryChange([&] {
                    keepLimits(session_.study(), *set);
                    keepExcursions(session_.study(), *set, screen, screened);
                });
                std::size_t n = 0;
                for (const ScreenedRun& s : screened) n += s.excursions.size();
                emit session_.told(QString("%1 runs screened in %2 tags: %3 excursions")
                                       .arg(screened.size() / std::max<std::size_t>(1, set->byRole.size()))
                                       .arg(set->byRole.size())
                                       .arg(n));
            };
        });
}

void ScreenBench::toggleGolden(std::int64_t run) {
    if (!track_) return;
    auto golden = session_.study().goldenRuns(track_);
    const auto found = std::find(golden.begin(), golden.end(), run);
    const bool adding = found == golden.end();
    if (adding)
        golden.push_back(run);
    else
        golden.erase(found);
    const auto span = session_.study().span(run);
    const Asset* asset = span ? session_.study().catalog().asset(span->asset) : nullptr;
    const std::string name = std::string(adding ? "golden: " : "not golden: ") + (asset ? asset->name : "") +
                             " run " + (span ? factText(span->facts, "number") : "");
    session_.view().selectRun(run);
    session_.tryChange([&] {
        session_.study().change(name, "chosen by hand", {{"run", run}},
                                [&] { session_.study().setGoldenRuns(track_, golden, "chosen by hand"); });
    });
}

}  // namespace jacinth::app
