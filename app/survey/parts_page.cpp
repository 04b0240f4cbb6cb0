#include "app/survey/parts_page.h"

#include "app/plot/memory_trace.h"
#include "core/stats/stats.h"
#include "work/derived/derived_inputs.h"

namespace jacinth::app {
PartsPage::PartsPage(Session& session) : BenchPage(session) {
    setObjectName("Parts");
    plot_ = new TimePlot(session);
    plot_->setObjectName("partsPlot");
    plot_->setAccessibleName("Parts");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(plot_, 1);

    side_->addWidget(makeLabel("Take apart", "section"));
    every_ = makeField("partsEvery", "Step");
    every_->setPlaceholderText("as the view asks");
    take_ = makeChoice("partsTake", "Figure of each step", {"mean", "min", "max", "last"});
    period_ = makeField("partsPeriod", "Length of the cycle");
    period_->setPlaceholderText("proposed");
    kind_ = makeChoice("partsKind", "Put together", {"as proposed", "added", "multiplied"});
    way_ = makeChoice("partsWay", "Way", {"LOESS", "classical"});
    robust_ = new QCheckBox("outliers count for less");
    robust_->setObjectName("partsRobust");
    addRow(side_, "step", every_);
    addRow(side_, "its figure", take_);
    addRow(side_, "cycle", period_);
    addRow(side_, "parts are", kind_);
    addRow(side_, "way", way_);
    addRow(side_, "", robust_);
    auto* again = makeButton("Take this view apart", "partsAgain");
    side_->addWidget(again);
    connect(again, &QPushButton::clicked, this, [this] {
        remake_ = true;
        refreshSoon();
    });
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("Found", "section"));
    found_ = makeLabel("");
    found_->setObjectName("partsFound");
    found_->setWordWrap(true);
    found_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    reason_ = makeLabel("", "second");
    reason_->setWordWrap(true);
    side_->addWidget(found_);
    side_->addWidget(reason_);
    keep_ = makeButton("Keep as derived tags", "keepParts", true);
    side_->addWidget(keep_);
    addCopyButton(side_);
    side_->addStretch();

    for (QLineEdit* f : {every_, period_})
        connect(f, &QLineEdit::editingFinished, this, &PartsPage::refreshSoon);
    for (QComboBox* c : {take_, kind_, way_})
        connect(c, &QComboBox::currentIndexChanged, this, &PartsPage::refreshSoon);
    connect(robust_, &QCheckBox::toggled, this, &PartsPage::refreshSoon);
    connect(way_, &QComboBox::currentIndexChanged, this, [this](int i) { robust_->setEnabled(i == 0); });
    connect(keep_, &QPushButton::clicked, this, &PartsPage::keep);
    connect(plot_, &TimePlot::pointed, this, &BenchPage::pointerMoved);
    connect(&session, &Session::themeChanged, this, [this] {
        if (parts_) show(parts_, madeOf_, made_);
    });
    keep_->setEnabled(false);
}

QString PartsPage::title() const {
    const Tag* tag = numberTag();
    return tag ? QString::fromStdString(tag->path()).replace("/", " · ") + " in parts" : "Parts";
}

QString PartsPage::pointerText() const {
    const auto t = plot_->pointer();
    return t ? QString::fromStdString(session_.zone().preciseText(*t)) : QString();
}

std::optional<PartsSpec> PartsPage::spec() {
    PartsSpec out;
    out.every = proposedStep(session_.view().view().length());
    const auto read = [](QLineEdit* field, Duration& to) {
        const std::string text = field->text().trimmed().toStdString();
        const auto d = parseDuration(text);
        const bool wrong = !text.empty() && (!d || *d <= Duration::zero());
        markWrong(field, wrong, "write a length like 15m, 6h or 1d");
        if (!text.empty() && !wrong) to = *d;
        return !wrong;
    };
    if (!read(every_, out.every) || !read(period_, out.period)) return {};
    out.take = *takeNamed(take_->currentText().toStdString());
    out.kind = static_cast<PartsKind>(kind_->currentIndex());
    out.loess = way_->currentIndex() == 0;
    out.robust = robust_->isChecked();
    return out;
}

void PartsPage::refresh() {
    emit titleChanged();
    const Tag* tag = numberTag();
    const auto wanted = spec();
    if (!tag) return say("Choose a tag with numbers in the plant panel.");
    if (!wanted) return;
    // What was taken apart stays while the view moves inside it: one looks closer at the same parts.
    const TimeRange range = session_.view().view();
    const auto which = session_.view().which();
    const QString asked =
        QString("%1 %2 %3 %4 %5 %6 %7 %8")
            .arg(QString::fromStdString(std::to_string(tag->id.number) + " " +
                                        StudyMarks(session_.study()).ofSamples(*tag, which)))
            .arg(every_->text(), period_->text())
            .arg(take_->currentIndex())
            .arg(kind_->currentIndex())
            .arg(way_->currentIndex())
            .arg(robust_->isChecked())
            .arg(static_cast<int>(which));
    if (parts_ && asked == asked_ && !remake_ && range.from >= madeOver_.from && range.to <= madeOver_.to)
        return;
    asked_ = asked;
    remake_ = false;
    session_.runJob(this, "parts", "Taking apart",
                    [this, id = tag->id, range, spec = *wanted,
                     which = session_.view().which()](JobContext& job) -> std::function<void()> {
                        auto result = std::make_shared<Result<TagParts>>(partsOf(
                            job.study, *job.study.catalog().tag(id), range, spec, which, job.progress));
                        return [this, result, id, spec, range] {
                            if (!*result) return say(QString::fromStdString(result->error().message));
                            madeOver_ = range;
                            show(std::make_shared<const TagParts>(std::move(**result)), id, spec);
                        };
                    });
}

void PartsPage::say(const QString& instead) {
    parts_.reset();
    keep_->setEnabled(false);
    found_->setText(instead);
    reason_->clear();
    plot_->setEmptyText(instead);
    plot_->setPanes({});
}

void PartsPage::show(std::shared_ptr<const TagParts> parts, TagId id, const PartsSpec& spec) {
    parts_ = std::move(parts);
    made_ = spec;
    madeOf_ = id;
    const Tag* tag = session_.tag(id);
    if (!tag) return;
    const Theme& theme = session_.theme();
    const QString unit = QString::fromStdString(tag->unit), name = QString::fromStdString(tag->name);
    const bool multiplied = parts_->parts.multiplied;
    const auto series = [&](const std::vector<double>& values) {
        auto s = std::make_shared<Series>();
        for (std::size_t i = 0; i < values.size(); ++i) s->push(parts_->grid.edges[i], values[i]);
        return s;
    };
    const Bridging bridging{TagKind::Continuous, spec.every * 3 / 2};
    const auto trace = [&](const std::vector<double>& values, const QString& what, const QString& u,
                           const QColor& c) { return memoryTrace(series(values), what, u, c, bridging); };
    const QString ratio = multiplied ? "×" : unit;
    std::vector<PaneSpec> panes;
    panes.push_back({{trace(parts_->grid.values, name, unit, faded(theme.second, 0.8)),
                      trace(parts_->parts.trend, "trend", unit, theme.accent)}});
    panes.back().traces[1].width = 2;
    panes.back().stretch = 2;
    panes.push_back({{trace(parts_->parts.cycle, "cycle", ratio, theme.traces[1])}});
    panes.push_back({{trace(parts_->parts.remainder, "remainder", ratio, theme.traces[2])}});
    panes[1].zeroLine = panes[2].zeroLine = !multiplied;
    plot_->setPanes(std::move(panes));
    const auto spread = [](std::vector<double> v) {
        std::erase_if(v, [](double x) { return !std::isfinite(x); });
        return standardDeviation(v);
    };
    const double cycle = spread(parts_->parts.cycle), rest = spread(parts_->parts.remainder);
    showFigures(found_,
                {{"cycle", QString::fromStdString(sayDuration(spec.every * parts_->period))},
                 {"autocorrelation there",
                  spec.period > Duration::zero() ? "–" : QString::number(parts_->proposed.strength, 'f', 2)},
                 {"s of the cycle", valueText(cycle, ratio)},
                 {"s of the remainder", valueText(rest, ratio)},
                 {"steps", QString("%1 of %2")
                               .arg(parts_->grid.values.size())
                               .arg(QString::fromStdString(formatDuration(spec.every)))}},
                parts_->bridged
                    ? QString("%1 steps without values were bridged by a line.").arg(parts_->bridged)
                    : QString());
    reason_->setText(parts_->kindReason.empty() ? (multiplied ? "Multiplied, as said." : "Added, as said.")
                                                : QString::fromStdString(parts_->kindReason));
    keep_->setEnabled(true);
}

void PartsPage::keep() {
    const Tag* tag = session_.tag(madeOf_);
    if (!tag || !parts_) return;
    const Tag copy = *tag;
    const auto parts = parts_;
    session_.tryChange([&] {
        const auto ids = keepDerived(session_.study(), partsToKeep(copy, *parts, made_));
        if (!ids) throw StoreError(ids.error().message);
        emit session_.notified(
            QString("Kept as %1 trend, cycle and remainder").arg(QString::fromStdString(copy.path())));
    });
}

QString PartsPage::figures() const {
    QString out = "time\tvalue\ttrend\tcycle\tremainder\n";
    if (!parts_) return out;
    for (std::size_t i = 0; i < parts_->grid.values.size(); ++i)
        out += QString::fromStdString(toIso(parts_->grid.edges[i])) + "\t" +
               fullNumber(parts_->grid.values[i]) + "\t" + fullNumber(parts_->parts.trend[i]) + "\t" +
               fullNumber(parts_->parts.cycle[i]) + "\t" + fullNumber(parts_->parts.remainder[i]) + "\n";
    return out;
}

}  // namespace jacinth::app
