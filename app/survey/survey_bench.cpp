#include "app/survey/survey_bench.h"

#include <QTimer>

#include "app/plot/tag_trace.h"
#include "app/shell/time_field.h"
#include "work/screening.h"

namespace jacinth::app {
namespace {

struct WrittenKind {
    const char* track;
    const char* words;
    const char* fact;
};
constexpr std::array<WrittenKind, 6> kWritten{{{track_kind::kFailures, "Failure", "note"},
                                               {track_kind::kWorkOrders, "Work order", "text"},
                                               {track_kind::kStops, "Stop", "reason"},
                                               {track_kind::kReadings, "Check reading", ""},
                                               {track_kind::kLog, "Shift log", "text"},
                                               {track_kind::kAlarms, "Alarm", "text"}}};

}  // namespace

SurveyBench::SurveyBench(Session& session) : Bench(session), slow_(new QTimer(this)) {
    title_ = makeLabel("", "title");
    plot_ = new TimePlot(session);
    plot_->setObjectName("surveyPlot");
    plot_->setAccessibleName("Traces");
    plot_->setEmptyText(
        "No traces are shown. Choose a tag in the plant panel and press Space, or import a file with File › "
        "Import.");
    writtenModel_ = new RowsModel({"kind", "when", "asset", "what was written", "by"}, this);
    written_ = makeTable(writtenModel_, "writtenTable", {100, 96, 130, 0, 80});
    written_->horizontalHeader()->hide();
    written_->setFixedHeight(132);
    writtenState_ = makeLabel("", "second");

    auto* head = new QHBoxLayout;
    head->addWidget(makeLabel("What was written down", "section"));
    head->addStretch();
    head->addWidget(writtenState_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 8, 4);
    column->setSpacing(6);
    column->addLayout(makeTitleRow(title_, session));
    column->addWidget(plot_, 1);
    column->addLayout(head);
    column->addWidget(written_);

    auto* side = new QVBoxLayout(inspector_);
    side->setContentsMargins(12, 10, 12, 10);
    figures_ = new CursorFigures(session);
    side->addWidget(figures_);
    side->addStretch();
    connect(figures_, &CursorFigures::labelAsked, this, &SurveyBench::labelAsked);
    connect(figures_, &CursorFigures::mendAsked, this, &SurveyBench::mendAsked);

    slow_->setSingleShot(true);
    slow_->setInterval(120);
    connect(slow_, &QTimer::timeout, this, &SurveyBench::updateWritten);
    connect(&session.view(), &ViewState::viewChanged, slow_, qOverload<>(&QTimer::start));
    connect(&session.view(), &ViewState::shownChanged, this, &SurveyBench::rebuildPanes);
    connect(&session.view(), &ViewState::selectionChanged, this, [this] {
        updateTitle();
        updateMarks();
        updateWritten();
    });
    connect(&session, &Session::studyChanged, this, [this] {
        rebuildPanes();
        updateMarks();
        updateWritten();
    });
    connect(&session, &Session::themeChanged, this, [this] {
        rebuildPanes();
        updateMarks();
    });
    connect(written_, &QTableView::clicked, this, &SurveyBench::goToWritten);
    connect(written_, &QTableView::activated, this, &SurveyBench::goToWritten);
    connect(plot_, &TimePlot::pointed, this, &Bench::pointerMoved);
    updateTitle();
    rebuildPanes();
    updateMarks();
    updateWritten();
}

void SurveyBench::entered() {
    plot_->setFocus();
}

QString SurveyBench::pointerText() const {
    const auto t = plot_->pointer();
    if (!t) return {};
    QString out = QString::fromStdString(session_.zone().preciseText(*t));
    const Asset* asset = session_.study().catalog().asset(session_.view().asset());
    if (asset) out += " · " + QString::fromStdString(asset->name);
    for (const std::int64_t id : session_.view().shown()) {
        const Tag* tag = session_.tag(id);
        if (!tag || tag->kind != TagKind::State) continue;
        const double code = session_.study().valueAt(*tag, *t, Which::AsLogged);
        if (code >= 0 && code < static_cast<double>(tag->states.size()))
            out += " · " + QString::fromStdString(tag->states[static_cast<std::size_t>(code)]);
    }
    return out;
}

void SurveyBench::rebuildPanes() {
    plot_->setPanes(panesOfShown(session_, PaneGrouping::ByUnit));
}

void SurveyBench::updateTitle() {
    const Asset* asset = session_.study().catalog().asset(session_.view().asset());
    title_->setText(asset ? QString::fromStdString(asset->name) : "The record");
}

void SurveyBench::updateMarks() {
    std::vector<SpanMark> marks;
    const Study& study = session_.study();
    const std::int64_t asset = session_.view().asset();
    const LabelBook book = study.labelBook();
    for (const Span& s : study.spansOf(track_kind::kStops))
        if (s.asset == asset)
            marks.push_back({s.range(), session_.theme().second,
                             QString::fromStdString("stop: " + factText(s.facts, "reason"))});
    for (const Span& s : study.spansOf(track_kind::kLabels)) {
        const LabelKind* kind = findKind(book, factText(s.facts, "kind"));
        if (s.asset == asset)
            marks.push_back({s.range(),
                             kind ? QColor(QString::fromStdString(kind->colour)) : session_.theme().second,
                             QString::fromStdString(factText(s.facts, "kind"))});
    }
    for (const KeptExcursion& e : excursionsOf(study)) {
        const auto& shown = session_.view().shown();
        if (e.span.asset == asset && e.severity >= 3 &&
            std::find(shown.begin(), shown.end(), e.span.tag) != shown.end())
            marks.push_back({e.span.range(), session_.theme().accent,
                             QString::fromStdString(session_.tag(e.span.tag)->name) + " outside"});
    }
    for (const Span& s : study.spansOf(track_kind::kFailures))
        if (s.asset == asset)
            marks.push_back({{s.start, s.start + kMinute}, session_.theme().ink, {}, false, 0, true});
    plot_->setMarks(std::move(marks));
}

void SurveyBench::updateWritten() {
    const TimeRange view = session_.view().view();
    const Study& study = session_.study();
    std::vector<std::pair<Instant, RowsModel::Row>> found;
    for (const WrittenKind& kind : kWritten)
        for (const Span& s : study.spansOf(kind.track)) {
            if (s.start >= view.to || s.end < view.from) continue;
            const Asset* asset = study.catalog().asset(s.asset);
            const Tag* tag = session_.tag(s.tag);
            QString text = QString::fromStdString(factText(s.facts, kind.fact));
            if (tag)
                text = QString::fromStdString(tag->name) + " reads " +
                       valueText(factNumber(s.facts, "value"), QString::fromStdString(tag->unit));
            if (s.end > s.start) text += " (" + QString::fromStdString(sayDuration(s.end - s.start)) + ")";
            const std::string by =
                factText(s.facts, "by").empty() ? factText(s.facts, "author") : factText(s.facts, "by");
            RowsModel::Row row{
                s.id,
                {(kind.track == std::string(track_kind::kFailures) ? "▼ " : "") + QString(kind.words),
                 QString::fromStdString(session_.zone().shortText(s.start)),
                 asset ? QString::fromStdString(asset->name) : "plant", text, QString::fromStdString(by)}};
            if (s.asset != session_.view().asset()) row.ink = session_.theme().second;
            found.emplace_back(s.start, std::move(row));
        }
    std::sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    std::vector<RowsModel::Row> rows;
    for (auto& [t, row] : found) rows.push_back(std::move(row));
    writtenState_->setText(
        rows.empty()
            ? "nothing in the time in view"
            : QString("%1 in view · work orders, shift log, readings, alarms, failures").arg(rows.size()));
    writtenModel_->setRows(std::move(rows));
}

void SurveyBench::goToWritten(const QModelIndex& index) {
    const auto span = session_.study().span(index.data(Qt::UserRole).toLongLong());
    if (!span) return;
    if (span->asset) session_.lookAt(span->asset, span->tag);  // that asset's tags come with it
    session_.view().goTo(span->start, span->end);
    session_.view().setCursor(0, span->start);
}

}  // namespace jacinth::app
