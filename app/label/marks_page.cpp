#include "app/label/marks_page.h"

#include <QApplication>
#include <QKeyEvent>
#include <QSplitter>
#include <unordered_set>

#include "app/plot/tag_trace.h"
#include "store/judgement.h"
#include "work/label/labels.h"

namespace jacinth::app {

MarksPage::MarksPage(Session& session) : BenchPage(session, false) {
    build();
    connectBrackets();
    connect(plot_, &TimePlot::marked, this, &MarksPage::addMarks);
    connect(plot_, &TimePlot::handleMoved, this, [this](int id, Instant t, double) { moveEdge(id, t); });
    connect(plot_, &TimePlot::handleDropped, this, [this] { commitMoved("move label"); });
    connect(plot_, &TimePlot::handleStepped, this,
            [this](int id, int samples, int) { stepEdge(id, samples); });
    connect(plot_, &TimePlot::pointed, this, &BenchPage::pointerMoved);
    connect(list_, &LabelList::chosen, this, [this](const std::vector<SpanId>& ids) {
        chosen_ = ids;
        showMarks();
    });
    connect(list_, &LabelList::opened, this, &MarksPage::open);
    connect(fields_, &LabelFields::named, this, &MarksPage::name);
    connect(fields_, &LabelFields::bookAsked, this, &MarksPage::bookAsked);
    connect(fields_, &LabelFields::alikeAsked, this, &MarksPage::searchAlike);
    connect(fields_, &LabelFields::removeAsked, this, &MarksPage::removeChosen);
    connect(fields_, &LabelFields::edited, this,
            [this](const std::vector<Span>& labels, const QString& step) {
                session_.tryChange(
                    [&] { session_.report(changeLabels(session_.study(), labels, step.toStdString())); });
            });
    connect(&session, &Session::studyChanged, this, [this] {
        stale_ = true;
        if (isVisible()) fill();
    });
    connect(&session, &Session::themeChanged, this, [this] {
        rebuildPanes();
        stale_ = true;
        if (isVisible()) fill();
    });
    connect(&session.view(), &ViewState::groupingChanged, fields_, &LabelFields::fillAssets);
    connect(&session.view(), &ViewState::shownChanged, this, &MarksPage::rebuildPanes);
    connect(&session.view(), &ViewState::selectionChanged, this, [this] {
        makeBrackets();
        showMarks();
        emit titleChanged();
    });
    rebuildPanes();
    fill();
}

void MarksPage::build() {
    plot_ = new TimePlot(session_);
    plot_->setObjectName("labelPlot");
    plot_->setAccessibleName("Traces with marks");
    plot_->setDragMarks(true);
    plot_->setEmptyText(
        "No traces are shown. Choose a tag in the plant panel and press Space, then drag over its trace to "
        "mark a stretch.");
    plot_->installEventFilter(this);
    list_ = new LabelList(session_);
    list_->table()->installEventFilter(this);
    beside_ = new QSplitter(Qt::Horizontal);
    beside_->setObjectName("evidenceSplit");
    beside_->addWidget(plot_);
    beside_->setStretchFactor(0, 1);
    beside_->setChildrenCollapsible(false);
    split_ = new QSplitter(Qt::Vertical);
    split_->addWidget(beside_);
    split_->addWidget(list_);
    split_->setStretchFactor(0, 1);
    split_->setChildrenCollapsible(false);
    split_->setSizes({420, 190});
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(split_);
    evidenceButton_ = makeButton("Evidence beside the traces", "showEvidence");
    evidenceButton_->setCheckable(true);
    side_->addWidget(evidenceButton_);
    connect(evidenceButton_, &QPushButton::toggled, this, &MarksPage::showEvidence);
    fields_ = new LabelFields(session_, side_);
    addRowCommand(list_->table(), "Go to this mark", [this] { open(currentId<SpanId>(list_->table())); });
    addRowCommand(list_->table(), "Remove the chosen marks", [this] { removeChosen(); });
    addRowCommand(list_->table(), "Make one of the chosen marks", [this] { mergeChosen(); });
}

void MarksPage::connectBrackets() {
    BracketLanes* lanes = plot_->brackets();
    connect(lanes, &BracketLanes::clicked, this, &MarksPage::clickBracket);
    connect(lanes, &BracketLanes::doubleClicked, this, &MarksPage::open);
    connect(lanes, &BracketLanes::pulled, this, &MarksPage::pull);
    connect(lanes, &BracketLanes::dropped, this,
            [this] { commitMoved(chosen_.size() > 1 ? "move labels" : "move label"); });
    connect(lanes, &BracketLanes::banded, this, &MarksPage::band);
}

void MarksPage::entered() {
    if (stale_) fill();
    plot_->setFocus();
}

void MarksPage::showEvidence(bool on) {
    evidenceButton_->setChecked(on);
    if (on && !evidence_) {
        evidence_ = new EvidencePanel(session_);
        evidence_->setMinimumWidth(200);
        beside_->addWidget(evidence_);
        beside_->setSizes({460, 230});
    }
    if (evidence_) evidence_->setVisible(on);
}

void MarksPage::refresh() {
    if (stale_) fill();
}

QString MarksPage::title() const {
    const Asset* asset = session_.study().catalog().asset(session_.view().asset());
    return asset ? "Labels on " + QString::fromStdString(asset->name) : "Labels";
}

QString MarksPage::pointerText() const {
    return plot_->pointer() ? QString::fromStdString(session_.zone().preciseText(*plot_->pointer()))
                            : QString();
}

void MarksPage::rebuildPanes() {
    plot_->setPanes(panesOfShown(session_));
}

void MarksPage::fill() {
    stale_ = false;
    labels_ = labelsOf(session_.study());
    places_.clear();
    for (std::size_t i = 0; i < labels_.size(); ++i) places_.emplace(labels_[i].id, i);
    std::erase_if(chosen_, [&](SpanId id) { return !places_.contains(id); });
    fields_->fillBook(labels_);
    list_->fill(labels_);
    list_->showChosen(chosen_);
    makeBrackets();
    showMarks();
    emit titleChanged();
}

std::vector<Span> MarksPage::chosenSpans() const {
    std::vector<Span> out;
    for (const SpanId id : chosen_)
        if (const auto at = places_.find(id); at != places_.end()) out.push_back(labels_[at->second]);
    return out;
}

void MarksPage::makeBrackets() {
    const LabelBook book = session_.study().judgement().labelBook();
    std::map<std::string, QColor> colours;
    for (const LabelKind& k : book) colours[k.name] = labelColour(session_, book, k.name);
    brackets_.clear();
    for (const Span& s : labels_) {
        if (s.asset != session_.view().asset()) continue;
        const std::string kind = factText(s.facts, label_fact::kKind);
        const auto colour = colours.find(kind);
        brackets_.push_back({s.id, s.range(),
                             colour == colours.end() ? session_.theme().second : colour->second, labelName(s),
                             false, kind.empty() || certaintyOf(s) != kCertainties[0], tagsOf(s)});
    }
}

/// The brackets, the handles of a single chosen mark, and the fields.
void MarksPage::showMarks() {
    std::unordered_map<SpanId, const Span*> moved;
    for (const Span& m : moving_) moved.emplace(m.id, &m);
    const std::unordered_set<SpanId> isChosen(chosen_.begin(), chosen_.end());
    std::vector<Bracket> brackets = brackets_;
    if (!isChosen.empty())
        for (Bracket& b : brackets) {
            b.chosen = isChosen.contains(b.id);
            if (const auto now = moved.find(b.id); now != moved.end()) b.range = now->second->range();
        }
    plot_->brackets()->setBrackets(std::move(brackets));
    std::vector<Span> chosen = chosenSpans();
    for (Span& s : chosen)
        if (const auto now = moved.find(s.id); now != moved.end()) s = *now->second;
    std::vector<Handle> handles;
    if (chosen.size() == 1 && chosen[0].asset == session_.view().asset())
        handles = {{0, chosen[0].start, paneOf(chosen[0]), {}, {}},
                   {1, chosen[0].end, paneOf(chosen[0]), {}, {}}};
    plot_->setHandles(std::move(handles));
    fields_->show(chosen);
}

/// The first pane that shows a tag the mark is about.
int MarksPage::paneOf(const Span& label) const {
    const std::vector<TagId> tags = tagsOf(label);
    for (int pane = 0; pane < plot_->paneCount(); ++pane)
        for (const TraceSpec& t : plot_->paneSpec(pane).traces)
            if (std::find(tags.begin(), tags.end(), t.tag) != tags.end()) return pane;
    return 0;
}

void MarksPage::choose(std::vector<SpanId> ids) {
    chosen_ = std::move(ids);
    moving_.clear();
    list_->showChosen(chosen_);
    showMarks();
}

void MarksPage::open(SpanId id) {
    const auto span = session_.study().tracks().span(id);
    if (!span) return;
    if (stale_) fill();
    session_.lookAt(span->asset, span->tag);
    const TimeRange view = session_.view().view();
    if (span->start < view.from || span->end > view.to) session_.view().goTo(span->start, span->end);
    choose({id});
}

void MarksPage::mark(Span span) {
    span.start = std::chrono::floor<std::chrono::seconds>(span.start);
    span.end = std::chrono::ceil<std::chrono::seconds>(span.end);
    session_.tryChange([&] {
        const auto id = addLabelled(session_.study(), span, "", {});
        if (session_.report(id)) chosen_ = {*id};
    });
    if (stale_) fill();
    plot_->setFocus();
}

/// A drag over the traces. With Alt the mark is about the tags of the pane where it was made.
void MarksPage::addMarks(TimeRange range) {
    const TimeRange edges{snapped(range.from), snapped(range.to)};
    const TimeRange stretch = edges.to > edges.from ? edges : range;
    std::vector<TagId> tags;
    const int pane = plot_->pressedPane();
    if (QApplication::keyboardModifiers().testFlag(Qt::AltModifier) && pane >= 0)
        for (const TraceSpec& t : plot_->paneSpec(pane).traces)
            if (t.tag) tags.push_back(t.tag);
    std::vector<Span> spans;
    for (const AssetId asset : fields_->assetsFor(session_.view().asset())) {
        Span& s = spans.emplace_back(Span{{}, asset, {}, stretch.from, stretch.to, {}});
        std::vector<TagId> own;
        for (const TagId id : tags)
            if (const Tag* tag = session_.tag(id))
                if (const Tag* there = session_.study().catalog().tagInRole(asset, tag->role))
                    own.push_back(there->id);
        setTags(s, own);
    }
    session_.tryChange([&] {
        const auto ids = addLabels(session_.study(), spans, "");
        if (session_.report(ids)) chosen_ = *ids;
    });
    plot_->setFocus();
}

}  // namespace jacinth::app
