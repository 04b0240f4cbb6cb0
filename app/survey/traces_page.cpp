#include "app/survey/traces_page.h"

#include <QMenu>
#include <algorithm>

#include "app/base/save_picture.h"
#include "app/base/swatch.h"
#include "app/base/value_in_sight.h"
#include "app/plot/pane_layout.h"
#include "app/plot/tag_trace.h"
#include "app/plot/trust_bands.h"
#include "app/survey/kept_lanes.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/limits/screening.h"
#include "work/runs/edit_runs.h"

namespace jacinth::app {

TracesPage::TracesPage(Session& session) : BenchPage(session) {
    setObjectName("Traces");
    plot_ = new TimePlot(session);
    plot_->setObjectName("surveyPlot");
    plot_->setAccessibleName("Traces");
    plot_->setEmptyText(
        "No traces are shown. Choose a tag in the plant panel and press Space, drag it here, or import a "
        "file with "
        "File › Import.");
    written_ = new WrittenList(session);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    column->addWidget(plot_, 1);
    column->addWidget(written_);

    figures_ = new CursorFigures(session);
    side_->addWidget(figures_);
    side_->addStretch();
    connect(figures_, &CursorFigures::asked, this, &TracesPage::asked);
    connect(&session.view(), &ViewState::shownChanged, this, &TracesPage::rebuildPanes);
    connect(&session.view(), &ViewState::selectionChanged, this, [this] {
        emit titleChanged();
        if (lanesOf_ != session_.view().asset()) rebuildPanes();
        updateMarks();
    });
    for (const auto signal : {&Session::studyChanged, &Session::themeChanged})
        connect(&session, signal, this, [this] {
            rebuildPanes();
            updateMarks();
        });
    connect(plot_, &TimePlot::pointed, this, &BenchPage::pointerMoved);
    connect(plot_, &TimePlot::tagDropped, this,
            [this](TagId tag, int pane) { putIntoPane(session_, tag, pane); });
    connect(plot_, &TimePlot::paneMenuAsked, this, &TracesPage::paneMenu);
    rebuildPanes();
    updateMarks();
}

void TracesPage::entered() {
    plot_->setFocus();
}

void TracesPage::paneMenu(int pane, const QPoint& at) {
    const PaneLayout layout = paneLayout(session_);
    if (const PaneSpec& spec = plot_->paneSpec(pane); spec.lane) return laneMenu(spec, at);
    if (pane >= static_cast<int>(layout.panes.size())) return;
    const PaneLayout::Pane& chosen = layout.panes[static_cast<std::size_t>(pane)];
    QMenu menu(this);
    menu.setObjectName("paneMenu");
    if (pane > 0) menu.addAction("Move up", this, [this, pane] { movePane(session_, pane, -1); });
    if (pane + 1 < static_cast<int>(layout.panes.size()))
        menu.addAction("Move down", this, [this, pane] { movePane(session_, pane, 1); });
    const bool bands = session_.tag(chosen.tags.front())->kind == TagKind::State;
    if (!bands)
        menu.addAction(chosen.folded ? "Unfold" : "Fold", this,
                       [this, pane, fold = !chosen.folded] { foldPane(session_, pane, fold); });
    menu.addSeparator();
    for (const TagId id : chosen.tags) {
        const QString name = QString::fromStdString(session_.tag(id)->name);
        menu.addAction("Hide " + name, this, [this, id] { hideTag(session_, id); });
        if (chosen.tags.size() > 1)
            menu.addAction(name + " in a pane of its own", this,
                           [this, id] { putIntoPane(session_, id, -1); });
    }
    addRunActions(menu, plot_->timeAt(plot_->mapFromGlobal(at).x()));
    menu.addSeparator();
    addPictureCommands(&menu, plot_);
    menu.exec(at);
}

void TracesPage::laneMenu(const PaneSpec& lane, const QPoint& at) {
    QMenu menu(this);
    menu.setObjectName("laneMenu");
    addLaneActions(menu, session_, *plot_, lane, plot_->mapFromGlobal(at));
    menu.addSeparator();
    addPictureCommands(&menu, plot_);
    menu.exec(at);
}

/// What can be done with the run that lies there.
void TracesPage::addRunActions(QMenu& menu, Instant t) {
    const Study& study = session_.study();
    const auto track = study.tracks().firstOf(track_kind::kRuns);
    if (!track) return;
    const auto golden = study.judgement().goldenRuns(track->id);
    for (const Span& run : study.tracks().spans(track->id)) {
        if (run.asset != session_.view().asset() || t < run.start || t >= run.end) continue;
        const bool is = std::find(golden.begin(), golden.end(), run.id) != golden.end();
        menu.addSeparator();
        menu.addAction(
            QString("Run %1 is %2golden")
                .arg(QString::fromStdString(factText(run.facts, "number")), is ? "no longer " : ""),
            this, [this, track = track->id, id = run.id] {
                session_.view().selectRun(id);
                session_.tryChange([&] { toggleGolden(session_.study(), track, id); });
            });
    }
}

QString TracesPage::title() const {
    const Asset* asset = session_.study().catalog().asset(session_.view().asset());
    return asset ? QString::fromStdString(asset->name) : "The record";
}

QString TracesPage::pointerText() const {
    const auto t = plot_->pointer();
    if (!t) return {};
    QString out = QString::fromStdString(session_.zone().preciseText(*t));
    const Asset* asset = session_.study().catalog().asset(session_.view().asset());
    if (asset) out += " · " + QString::fromStdString(asset->name);
    for (const TagId id : session_.view().shown()) {
        const Tag* tag = session_.tag(id);
        if (!tag || tag->kind != TagKind::State) continue;
        const double code = valueInSight(session_, *tag, *t, Which::AsLogged);
        if (code >= 0 && code < static_cast<double>(tag->states.size()))
            out += " · " + QString::fromStdString(tag->states[static_cast<std::size_t>(code)]);
    }
    return out + mendingWords(*t);
}

/// What was done to the selected tag there, and how far it may be believed.
QString TracesPage::mendingWords(Instant t) const {
    const Tag* tag = session_.tag(session_.view().tag());
    if (!tag) return {};
    QString out;
    if (session_.view().which() == Which::Mended)
        for (const Fix& f : session_.study().judgement().fixes(tag->id))
            if (f.on && f.touches({t, t + kNanosecond})) out += QString(", ") + fixKindName(f.kind());
    if (const QString trust = trustWords(session_, tag->id, t); !trust.isEmpty()) out += ", " + trust;
    return out.isEmpty() ? out : " · " + QString::fromStdString(tag->name) + ": " + out.mid(2);
}

void TracesPage::rebuildPanes() {
    lanesOf_ = session_.view().asset();
    std::vector<PaneSpec> panes = panesOfShown(session_), lanes = lanesOfKept(session_);
    // Without traces the words on what to do first stand there.
    if (!panes.empty()) panes.insert(panes.end(), lanes.begin(), lanes.end());
    plot_->setPanes(std::move(panes));
}

void TracesPage::updateMarks() {
    std::vector<SpanMark> marks;
    const Study& study = session_.study();
    const AssetId asset = session_.view().asset();
    const LabelBook book = study.judgement().labelBook();
    for (const Span& s : study.tracks().spansOf(track_kind::kStops))
        if (s.asset == asset)
            marks.push_back({s.range(), session_.theme().second,
                             QString::fromStdString("stop: " + factText(s.facts, "reason"))});
    for (const Span& s : study.tracks().spansOf(track_kind::kLabels)) {
        const LabelKind* kind = findKind(book, factText(s.facts, "kind"));
        if (s.asset == asset)
            marks.push_back({s.range(),
                             kind ? onGround(session_.theme(), QColor(QString::fromStdString(kind->colour)))
                                  : session_.theme().second,
                             QString::fromStdString(factText(s.facts, "kind"))});
    }
    for (const KeptExcursion& e : excursionsOf(study)) {
        const auto& shown = session_.view().shown();
        if (e.span.asset == asset && e.severity >= 3 &&
            std::find(shown.begin(), shown.end(), e.span.tag) != shown.end())
            marks.push_back({e.span.range(), session_.theme().accent,
                             QString::fromStdString(session_.tag(e.span.tag)->name) + " outside"});
    }
    for (const Span& s : study.tracks().spansOf(track_kind::kFailures))
        if (s.asset == asset)
            marks.push_back({{s.start, s.start + kMinute}, session_.theme().ink, {}, false, {}, true});
    plot_->setMarks(std::move(marks));
}

}  // namespace jacinth::app
