#include "app/screen/compare_page.h"

#include "app/base/id_variant.h"
#include "app/base/names.h"
#include "app/base/tables.h"
#include "core/base/missing.h"
#include "store/judgement.h"
#include "store/tracks.h"

namespace jacinth::app {
namespace {

constexpr std::array<LimitMethod, 5> kMethods{LimitMethod::Tolerance, LimitMethod::MeanSd,
                                              LimitMethod::MedianMad, LimitMethod::Quantile,
                                              LimitMethod::Envelope};

/// A method with the figures it has unless said otherwise.
QString wordsFor(LimitMethod method) {
    const LimitSpec usual;
    switch (method) {
        case LimitMethod::Tolerance:
            return QString("tolerance interval, %1 % / %2 %")
                .arg(usual.coverage * 100)
                .arg(usual.confidence * 100);
        case LimitMethod::MeanSd:
            return QString("mean ± %1·s").arg(usual.k);
        case LimitMethod::MedianMad:
            return QString("median ± %1·MAD").arg(usual.k);
        case LimitMethod::Quantile:
            return QString("quantiles, %1 % each side").arg(usual.q * 100);
        case LimitMethod::Envelope:
            break;
    }
    return "envelope";
}

}  // namespace

ComparePage::ComparePage(Session& session, ScreenState& state) : BenchPage(session, false), screen_(state) {
    buildMiddle();
    buildInspector();
    connect(&screen_, &ScreenState::trackChanged, this, &ComparePage::refreshSoon);
    refreshSoon();
}

void ComparePage::buildMiddle() {
    overlay_ = new OverlayPlot(session_);
    overlay_->setObjectName("compareOverlay");
    legend_ = makeLabel("", "second");
    axis_ = makeLabel("", "second");
    auto* foot = new QHBoxLayout;
    foot->addWidget(legend_, 1);
    foot->addWidget(axis_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 2);
    column->setSpacing(4);
    column->addWidget(overlay_, 1);
    column->addLayout(foot);
    connect(overlay_, &OverlayPlot::pointed, this, &BenchPage::pointerMoved);
}

void ComparePage::buildInspector() {
    side_->addWidget(makeLabel("Compare", "section"));
    role_ = makeChoice("compareRole", "Tag", {});
    a_ = makeChoice("compareA", "These limits", {});
    b_ = makeChoice("compareB", "with these", {});
    addRow(side_, "Tag", role_);
    addRow(side_, "Gold, filled", a_);
    addRow(side_, "Blue, dashed", b_);
    for (QComboBox* box : {role_, a_, b_}) {
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(8);
        connect(box, &QComboBox::activated, this, &ComparePage::refresh);
    }
    says_ = makeLabel("", "");
    says_->setObjectName("compareSays");
    says_->setWordWrap(true);
    side_->addWidget(says_);
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("Runs they judge differently", "section"));
    model_ = new RowsModel({"run", "start", "flagged by"}, this);
    table_ = makeTable(model_, "compareTable", {84, 62, 0});
    side_->addWidget(table_, 1);
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this, &ComparePage::showRun);
}

void ComparePage::fillChoices() {
    const Study& study = session_.study();
    const auto fill = [&](QComboBox* box, int usual) {
        const QString before = box->currentText();
        box->clear();
        for (const LimitSet& set : study.judgement().limitSets())
            if (set.track == screen_.trackId())
                box->addItem(QString::fromStdString(limitsTitle(set)), toVariant(set.id));
        const int versions = box->count();
        for (const LimitMethod m : kMethods) box->addItem(wordsFor(m), qlonglong(0));
        const int kept = box->findText(before);
        box->setCurrentIndex(kept >= 0 ? kept : usual >= 0 ? versions + usual : std::max(0, versions - 1));
    };
    fill(a_, -1);
    fill(b_, 1);
    QStringList roles;
    for (const LimitSet& set : study.judgement().limitSets())
        for (const auto& [role, limits] : set.byRole) roles << QString::fromStdString(role);
    for (const TagId id : session_.view().shown())
        if (const Tag* t = session_.tag(id); t && t->kind != TagKind::State)
            roles << QString::fromStdString(t->role);
    roles.removeDuplicates();
    const QString before = role_->currentText();
    role_->clear();
    role_->addItems(roles);
    const Tag* current = session_.tag(session_.view().tag());
    const int kept = role_->findText(before);
    role_->setCurrentIndex(
        kept >= 0 ? kept : std::max(0, current ? role_->findText(QString::fromStdString(current->role)) : 0));
}

ComparePage::Choice ComparePage::choiceOf(const QComboBox* box) const {
    Choice out;
    out.set = idFrom<LimitSetId>(box->currentData());
    for (const LimitMethod m : kMethods)
        if (box->currentText() == wordsFor(m)) out.method = m;
    return out;
}

void ComparePage::refresh() {
    fillChoices();
    const TrackId track = screen_.trackId();
    if (!track || session_.study().judgement().goldenRuns(track).empty() || role_->count() == 0) {
        made_.reset();
        overlay_->show({});
        model_->setRows({});
        words_.clear();
        says_->setText(
            "Find runs and choose golden ones first; then methods can be held against each other.");
        emit titleChanged();
        return;
    }
    const Choice a = choiceOf(a_), b = choiceOf(b_);
    const std::string role = role_->currentText().toStdString();
    const Which which = session_.view().which();
    session_.runJob(this, "compare", "Comparing limits", [=, this](JobContext& job) -> std::function<void()> {
        const auto setOf = [&](const Choice& c, const char* name) -> Result<LimitSet> {
            for (const LimitSet& set : job.study.judgement().limitSets())
                if (c.set && set.id == c.set) return set;
            LimitSpec spec = proposedLimits(job.study, track);
            spec.method = c.method;
            return makeLimits(job.study, name, track, {role}, spec, which);
        };
        const auto left = setOf(a, "these"), right = setOf(b, "those");
        Result<LimitComparison> made = Error::cancelled();
        if (!left)
            made = left.error();
        else if (!right)
            made = right.error();
        else
            made =
                compareLimits(job.study, *left, *right, role, screenSpecOf(job.study), which, job.progress);
        return [this, made = std::move(made)] {
            if (made) return show_(*made);
            says_->setText(QString::fromStdString(made.error().message));
            overlay_->show({});
            model_->setRows({});
        };
    });
}

void ComparePage::show_(LimitComparison made) {
    made_ = std::move(made);
    const LimitComparison& c = *made_;
    const Study& study = session_.study();
    const auto counted = [](std::size_t n) { return QString("%1 run%2").arg(n).arg(n == 1 ? "" : "s"); };
    says_->setText(QString("Of %1, both flag %2; gold alone %3, blue alone %4.\n"
                           "Hours outside: gold %5, blue %6. Median width: gold %7, blue %8.")
                       .arg(counted(c.runs))
                       .arg(c.both.size())
                       .arg(c.onlyA.size())
                       .arg(c.onlyB.size())
                       .arg(c.hoursA, 0, 'f', 1)
                       .arg(c.hoursB, 0, 'f', 1)
                       .arg(valueText(c.widthA), valueText(c.widthB)));
    words_ = QString("%1 flagged by gold · %2 by blue")
                 .arg(c.both.size() + c.onlyA.size())
                 .arg(c.both.size() + c.onlyB.size());
    std::vector<RowsModel::Row> rows;
    const auto add = [&](const std::vector<SpanId>& ids, const QString& by) {
        for (const SpanId id : ids) {
            const auto run = study.tracks().span(id);
            const Asset* asset = run ? study.catalog().asset(run->asset) : nullptr;
            if (!asset) continue;
            rows.push_back(
                {id,
                 {runName(study, *run), QString::fromStdString(session_.zone().shortDate(run->start)), by}});
        }
    };
    add(c.onlyA, "gold alone");
    add(c.onlyB, "blue alone");
    add(c.both, "both");
    model_->setRows(std::move(rows));
    emit titleChanged();
    showRun();
}

void ComparePage::showRun() {
    if (!made_) return;
    const auto id = currentId<SpanId>(table_);
    const Which which = session_.view().which();
    session_.runJob(
        this, "compare run", "Lining up", [=, this, made = *made_](JobContext& job) -> std::function<void()> {
            LineUpPicture picture = lineUpOfComparison(job.study, made, id, which);
            return [this, picture = std::move(picture)]() mutable {
                const bool unlike = !picture.other.has_value();
                overlay_->show(std::move(picture));
                axis_->setText(overlay_->axisWords());
                legend_->setText(unlike ? "lined up differently: only the gold one can be drawn on this axis"
                                        : overlay_->countWords());
            };
        });
}

QString ComparePage::pointerText() const {
    QString out = overlay_->pointerWords(kMissing);
    const auto place = overlay_->pointerPlace();
    if (place && overlay_->picture().other) {
        const LimitsAt l = limitsAt(*overlay_->picture().other, *place);
        if (std::isfinite(l.low))
            out += QString(" · blue %1 – %2")
                       .arg(valueText(l.low),
                            valueText(l.high, QString::fromStdString(overlay_->picture().unit)));
    }
    return out;
}

}  // namespace jacinth::app
