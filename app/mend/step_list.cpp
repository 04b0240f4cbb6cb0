#include "app/mend/step_list.h"

#include <QStyledItemDelegate>

#include "app/base/label_menu.h"
#include "app/base/sketch.h"
#include "app/base/ui.h"
#include "app/base/value_in_sight.h"
#include "work/mend/step_search.h"

namespace jacinth::app {
namespace {

constexpr int kSketchColumn = 2, kRangeColumn = 4;
constexpr int kSketchPoints = 60;

/// What a row's sketch shows: two hours around a step that was seen, four days around one that was not.
TimeRange sketchRange(const SuspectedStep& step) {
    const Duration half = step.seen ? 2 * kHour : 4 * kDay;
    return {step.time - half, step.time + half};
}

class SketchDelegate : public QStyledItemDelegate {
  public:
    using Paint = std::function<void(QPainter*, const QRectF&, const QModelIndex&)>;
    SketchDelegate(QObject* parent, Paint draw) : QStyledItemDelegate(parent), draw_(std::move(draw)) {}
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        QStyledItemDelegate::paint(p, option, index);
        p->save();
        p->setRenderHint(QPainter::Antialiasing);
        draw_(p, QRectF(option.rect).adjusted(6, 3, -6, -3), index);
        p->restore();
    }

  private:
    Paint draw_;
};

}  // namespace

StepList::StepList(Session& session) : ListUnderPlot(session) {
    model_ = new RowsModel({"when", "tag", "", "step", "range", "returns after", "sure", "what"}, this);
    table_ = makeTable(model_, "stepList", {98, 138, 84, 92, 118, 92, 44, 0});
    table_->setColumnHidden(kRangeColumn, true);  // the sentence has it; the table's menu shows it
    table_->setItemDelegateForColumn(
        kSketchColumn,
        new SketchDelegate(table_, [this](QPainter* p, const QRectF& box, const QModelIndex& index) {
            const auto place =
                static_cast<std::size_t>(model_->rows()[static_cast<std::size_t>(index.row())].key - 1);
            if (place >= found_.steps.size()) return;
            const Listed& of = found_.steps[place];
            paintSketch(p, box, of.sketch, of.sketched, session_.theme().traces[0]);
        }));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    buildHead();
    column->addWidget(table_, 1);
    buildFoot(column);
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this] {
        say();
        emit chosenChanged();
    });
    addRowCommand(table_, "Go there", [this] { emit chosenChanged(); });
    for (QPushButton* b : {takeOut_, process_, leave_, forget_}) addRowCommand(table_, b);
    addLabelCommand(
        table_, "Label it as…", session_, [this] { return spansOf(chosen()); }, "Suspected steps");
    say();
}

void StepList::buildHead() {
    scope_ = makeScope("stepScope", "Look for steps in");
    find_ = makeButton("Find", "findSteps");
    all_ = new QCheckBox("set aside too");
    all_->setObjectName("stepsJudged");
    headRow_->addWidget(find_);
    headRow_->addWidget(all_);
    status_ = makeStatus("stepStatus");
    connect(find_, &QPushButton::clicked, this, &StepList::find);
    connect(all_, &QCheckBox::clicked, this, &StepList::fill);
}

void StepList::buildFoot(QVBoxLayout* column) {
    sentence_ = makeLabel("", "second");
    sentence_->setObjectName("stepSentence");
    sentence_->setWordWrap(true);
    takeOut_ = makeButton("Take out", "takeOutStep", true);
    takeOut_->setToolTip("Enter the shift in hand, and those of the tags on the same mount");
    process_ = makeButton("It is the process", "stepIsProcess");
    leave_ = makeButton("Leave it", "leaveStep");
    forget_ = makeButton("Forget the verdict", "forgetVerdict");
    process_->setToolTip("Remember that the process changed, for the reason in the field Why");
    leave_->setToolTip("Remember to leave it as it is, for the reason in the field Why");
    auto* foot = new QHBoxLayout;
    foot->addWidget(sentence_, 1);
    for (QPushButton* b : {forget_, leave_, process_, takeOut_}) {
        b->setFixedHeight(24);
        foot->addWidget(b);
    }
    column->addLayout(foot);
    connect(takeOut_, &QPushButton::clicked, this, &StepList::takeOutAsked);
    connect(process_, &QPushButton::clicked, this, [this] { emit judged(StepVerdict::Process); });
    connect(leave_, &QPushButton::clicked, this, [this] { emit judged(StepVerdict::Leave); });
    connect(forget_, &QPushButton::clicked, this, &StepList::forget);
}

StepList::Found StepList::lookedFor(JobContext& job, AssetId asset, TagId only, std::string& trouble) {
    StepSearch search;
    if (asset) search.assets = {asset};
    auto found = findSteps(job.study, search, job.progress);
    Found out;
    if (!found) {
        if (!found.error().isCancelled()) trouble = found.error().message;
        return out;
    }
    if (only) std::erase_if(found->steps, [only](const SuspectedStep& s) { return s.tag != only; });
    out.samples = found->samples;
    for (const SuspectedStep& step : found->steps) {
        const TimeRange range = sketchRange(step);
        out.steps.push_back(
            {step, job.study.columns(*job.study.catalog().tag(step.tag), range, kSketchPoints, Which::Mended),
             range});
    }
    return out;
}

void StepList::find() {
    if (!scopeIsChosen(scope_)) return;
    // A tag is judged beside the others of its asset, so these are looked at in any case.
    const TagId only = scope_->currentIndex() == kTag ? session_.view().tag() : TagId();
    const AssetId asset = scope_->currentIndex() != kFleet ? session_.view().asset() : AssetId();
    find_->setEnabled(false);
    status_->setText("looking …");
    session_.runJob(
        this, "steps", "Looking for steps",
        [this, asset, only](JobContext& job) -> std::function<void()> {
            std::string trouble;
            Found found = lookedFor(job, asset, only, trouble);
            if (job.progress.stopped(1)) return {};
            return [this, found = std::move(found), trouble] {
                if (trouble.empty()) return take(found);
                emit session_.failed(QString::fromStdString(trouble));
            };
        },
        false,
        [this] {
            find_->setEnabled(true);
            fill();
        });
}

void StepList::take(Found found) {
    found_ = std::move(found);
    looked_ = true;
    table_->clearSelection();
    table_->setCurrentIndex({});
    fill();
}

const StepList::Listed* StepList::current() const {
    const auto key = currentKey(table_);
    return key > 0 && static_cast<std::size_t>(key) <= found_.steps.size()
               ? &found_.steps[static_cast<std::size_t>(key - 1)]
               : nullptr;
}

/// There and back where it returns; else the time within which it happened.
std::vector<Span> StepList::spansOf(const std::vector<SuspectedStep>& steps) const {
    std::vector<Span> out;
    for (const SuspectedStep& s : steps) {
        const Tag* tag = session_.tag(s.tag);
        const Instant from = s.returns ? s.time : std::min(s.between.from, s.time - kMinute);
        const Instant to = s.returns ? *s.returns : std::max(s.between.to, s.time);
        if (tag) out.push_back({{}, tag->asset, s.tag, from, to, {}});
    }
    return out;
}

std::vector<SuspectedStep> StepList::all() const {
    std::vector<SuspectedStep> out;
    for (const Listed& l : found_.steps) out.push_back(l.step);
    return out;
}

std::vector<SuspectedStep> StepList::chosen() const {
    const Listed* now = current();
    std::vector<SuspectedStep> out;
    if (!now) return out;
    const std::vector<SuspectedStep> all = this->all();
    for (const std::size_t i : mountMates(all, static_cast<std::size_t>(now - found_.steps.data())))
        out.push_back(all[i]);
    return out;
}

RowsModel::Row StepList::rowOf(std::size_t place, const std::optional<JudgedStep>& judged) const {
    const SuspectedStep& s = found_.steps[place].step;
    const Tag& tag = *session_.tag(s.tag);
    const QString unit = QString::fromStdString(tag.unit);
    const bool takenOut = isTakenOut(session_.study(), s);
    QString what = s.kind == StepKind::Process    ? "companions moved"
                   : s.kind == StepKind::DriftEnd ? "a drift taken back"
                   : s.sharedWith.empty()         ? "lonely"
                                                  : "lonely, one mount";
    if (takenOut) what = "taken out";
    if (judged) what = judged->verdict == StepVerdict::Process ? "judged: the process" : "judged: left";
    const auto sign = [](double v) { return (v > 0 ? "+" : "") + valueText(v); };
    RowsModel::Row row{
        static_cast<std::int64_t>(place + 1),
        {QString::fromStdString(session_.zone().shortText(s.time)), QString::fromStdString(tag.path()), "",
         sign(s.size) + (unit.isEmpty() ? "" : " " + unit), valueText(s.low()) + " … " + valueText(s.high()),
         s.returns ? QString::fromStdString(sayDuration(*s.returns - s.time)) : "stays",
         QString::number(std::min(999.0, s.significance()), 'f', 0), what}};
    row.sortBy(0, s.time);
    row.number(3, s.size, unit);
    if (s.returns) row.sortBy(5, *s.returns - s.time);
    row.number(6, s.significance());
    if (takenOut || judged) row.ink = session_.theme().second;
    return row;
}

void StepList::fill() {
    const auto before = currentKey(table_);
    std::erase_if(found_.steps, [this](const Listed& l) { return !session_.tag(l.step.tag); });
    const std::vector<SuspectedStep> steps = all();
    const auto verdicts = verdictsOn(session_.study(), steps);
    std::vector<RowsModel::Row> rows;
    std::size_t hidden = 0;
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const bool done = verdicts[i] || steps[i].kind == StepKind::DriftEnd;
        if (done && !all_->isChecked())
            ++hidden;
        else
            rows.push_back(rowOf(i, verdicts[i]));
    }
    const std::size_t shown = rows.size();
    {
        // The choice stays as it was; the user did not make it again, so nothing follows from it.
        const QSignalBlocker quiet(table_->selectionModel());
        model_->setRows(std::move(rows));
        if (const int row = model_->rowOf(before); before > 0 && row >= 0) table_->selectRow(row);
    }
    table_->viewport()->update();
    if (!looked_)
        status_->setText("not looked for yet");
    else
        status_->setText(
            QString("%1%2").arg(shown).arg(hidden ? QString(" · %1 set aside").arg(hidden) : " found"));
    status_->setToolTip(
        looked_
            ? QString("Looked at %1 million samples, as mended. Set aside: judged ones, and ends of drifts.")
                  .arg(static_cast<double>(found_.samples) / 1e6, 0, 'f', 1)
            : QString());
    say();
}

bool StepList::chosenIsOpen() const {
    const Listed* now = current();
    return now && !isTakenOut(session_.study(), now->step) &&
           !verdictsOn(session_.study(), {now->step}).front();
}

void StepList::say() {
    const Listed* now = current();
    std::optional<JudgedStep> judged;
    if (now) judged = verdictsOn(session_.study(), {now->step}).front();
    const bool open = chosenIsOpen();
    takeOut_->setEnabled(open);
    process_->setEnabled(open);
    leave_->setEnabled(open);
    forget_->setVisible(judged.has_value());
    QString text =
        now ? QString::fromStdString(stepSentence(session_.study(), now->step))
            : "Looks for moments at which a sensor's level changes and the process does not. Choose a "
              "row to see it and to have its shift in hand.";
    if (judged)
        text +=
            QString(" %1: %2").arg(QString::fromStdString(judged->who), QString::fromStdString(judged->why));
    sentence_->setText(text);
}

void StepList::forget() {
    const Listed* now = current();
    if (!now) return;
    const SuspectedStep step = now->step;
    session_.tryChange([&] { session_.report(forgetVerdict(session_.study(), step)); });
}

}  // namespace jacinth::app
