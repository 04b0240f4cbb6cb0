#include "app/survey/resample_page.h"

#include <nlohmann/json.hpp>

#include "app/plot/memory_trace.h"
#include "app/plot/tag_trace.h"
#include "work/derived/derived_tags.h"

namespace jacinth::app {

ResamplePage::ResamplePage(Session& session) : BenchPage(session) {
    setObjectName("Resample");
    plot_ = new TimePlot(session);
    plot_->setObjectName("resamplePlot");
    plot_->setAccessibleName("Resampled");
    calendar_ = new CalendarView(session);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(plot_, 1);
    column->addWidget(calendar_);

    side_->addWidget(makeLabel("One figure each", "section"));
    period_ = makeChoice("resamplePeriod", "Period", {"15m", "1h", "6h", "day", "week", "month"});
    period_->setEditable(true);
    period_->setCurrentText("6h");
    take_ = makeChoice("resampleTake", "Figure",
                       {"mean", "sample-mean", "min", "max", "first", "last", "count", "sum"});
    addRow(side_, "period", period_);
    addRow(side_, "figure", take_);
    auto* how = makeLabel(
        "The mean is weighted by time over what is covered; a period covered by less than half has "
        "none. Days, weeks and months are the plant's: a day may have 23 or 25 hours.",
        "second");
    how->setWordWrap(true);
    side_->addWidget(how);
    side_->addWidget(makeRule());
    found_ = makeLabel("");
    found_->setObjectName("resampleFound");
    found_->setWordWrap(true);
    side_->addWidget(found_);
    name_ = makeField("resampleName", "Name of the derived tag");
    addRow(side_, "keep as", name_);
    keep_ = makeButton("Keep as a derived tag", "keepResampled", true);
    side_->addWidget(keep_);
    addCopyButton(side_);
    side_->addStretch();

    connect(period_, &QComboBox::currentTextChanged, this, &ResamplePage::refreshSoon);
    connect(take_, &QComboBox::currentIndexChanged, this, &ResamplePage::refreshSoon);
    connect(keep_, &QPushButton::clicked, this, &ResamplePage::keep);
    connect(plot_, &TimePlot::pointed, this, &BenchPage::pointerMoved);
    connect(calendar_, &CalendarView::pointed, this, &BenchPage::pointerMoved);
    connect(calendar_, &CalendarView::picked, this, [this](Instant day) {
        session_.view().setView({day, session_.zone().addDays(day, 1)});
    });
}

QString ResamplePage::title() const {
    const Tag* tag = numberTag();
    return tag ? QString("%1 · %2 of each %3")
                     .arg(QString::fromStdString(tag->path()).replace("/", " · "), take_->currentText(),
                          period_->currentText())
               : "Resample";
}

QString ResamplePage::pointerText() const {
    if (!calendar_->pointerText().isEmpty()) return calendar_->pointerText();
    const auto t = plot_->pointer();
    return t ? QString::fromStdString(session_.zone().preciseText(*t)) : QString();
}

std::optional<Period> ResamplePage::period() {
    const auto p = periodNamed(period_->currentText().trimmed().toStdString());
    markWrong(period_->lineEdit(), !p, p ? QString() : QString::fromStdString(p.error().message));
    return p ? std::optional(*p) : std::nullopt;
}

void ResamplePage::refresh() {
    emit titleChanged();
    const Tag* tag = numberTag();
    const auto wanted = period();
    keep_->setEnabled(false);
    if (!tag) return say("Choose a tag with numbers in the plant panel.");
    if (!wanted) return;
    const Take take = *takeNamed(take_->currentText().toStdString());
    session_.runJob(
        this, "resample", "Resampling",
        [this, id = tag->id, wanted = *wanted, take, range = session_.view().view(),
         record = session_.view().record(),
         which = session_.view().which()](JobContext& job) -> std::function<void()> {
            const Tag* t = job.study.catalog().tag(id);
            auto result = std::make_shared<Result<TagGrid>>(
                gridOf(job.study, *t, range, wanted, take, which, job.progress.part(0, 0.5)));
            auto hours = std::make_shared<CalendarView::Hours>();
            if (*result && range.length() < 1100 * kDay) {
                const TimeRange inside{std::max(range.from, record.from), std::min(range.to, record.to)};
                auto hourly = gridOf(job.study, *t, inside, {Period::Unit::Length, kHour}, Take::Mean, which,
                                     job.progress.part(0.5, 1));
                if (hourly)
                    *hours = {std::move(hourly->edges), std::move(hourly->values),
                              QString::fromStdString(t->unit)};
            }
            return [this, result, hours, id, wanted, take] {
                made_ = wanted;
                madeTake_ = take;
                if (!*result) return say(QString::fromStdString(result->error().message));
                show(std::make_shared<const TagGrid>(std::move(**result)), std::move(*hours), id);
            };
        });
}

void ResamplePage::say(const QString& instead) {
    grid_.reset();
    found_->setText(instead);
    plot_->setEmptyText(instead);
    plot_->setPanes({});
    calendar_->show({});
}

void ResamplePage::show(std::shared_ptr<const TagGrid> grid, CalendarView::Hours hours, TagId id) {
    grid_ = std::move(grid);
    madeOf_ = id;
    const Tag* tag = session_.tag(id);
    if (!tag) return;
    auto steps = std::make_shared<Series>();
    std::size_t with = 0;
    for (std::size_t i = 0; i < grid_->values.size(); ++i) {
        steps->push(grid_->edges[i], grid_->values[i]);
        // The last step is held to its end; a missing one ends the line.
        if (std::isfinite(grid_->values[i])) {
            ++with;
            steps->push(grid_->edges[i + 1] - kNanosecond, grid_->values[i]);
        }
    }
    TraceSpec raw = traceOf(session_, id);
    raw.colour = faded(session_.theme().second, 0.55);
    TraceSpec figures = memoryTrace(steps, title().section(" · ", 2), raw.unit, session_.theme().accent,
                                    {TagKind::Stepped, longestGapOf(made_)});
    figures.width = 2;
    const bool same = take_->currentText() != "count" && take_->currentText() != "sum";
    std::vector<PaneSpec> panes;
    panes.push_back({{raw}});
    if (same)
        panes.back().traces.push_back(figures);
    else
        panes.push_back({{figures}});
    plot_->setPanes(std::move(panes));
    calendar_->show(std::move(hours));
    found_->setText(QString("%1 periods, %2 without a figure.")
                        .arg(grid_->values.size())
                        .arg(grid_->values.size() - with));
    name_->setPlaceholderText(
        QString("%1 %2 %3")
            .arg(QString::fromStdString(tag->name), take_->currentText(), period_->currentText()));
    keep_->setEnabled(with > 0);
}

void ResamplePage::keep() {
    const Tag* tag = session_.tag(madeOf_);
    if (!tag || !grid_) return;
    const std::string name =
        (name_->text().trimmed().isEmpty() ? name_->placeholderText() : name_->text().trimmed())
            .toStdString();
    const Tag copy = *tag;
    session_.tryChange([&] {
        const auto ids = keepDerived(session_.study(), gridToKeep(copy, *grid_, made_, madeTake_, name));
        if (!ids) throw StoreError(ids.error().message);
        emit session_.notified("Kept as " + QString::fromStdString(name));
    });
}

QString ResamplePage::figures() const {
    QString out = "period from\tvalue\n";
    if (grid_)
        for (std::size_t i = 0; i < grid_->values.size(); ++i)
            out +=
                QString::fromStdString(toIso(grid_->edges[i])) + "\t" + fullNumber(grid_->values[i]) + "\n";
    return out;
}

}  // namespace jacinth::app
