#include "app/screen/limits_dialog.h"

#include "app/base/tables.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/limits/screening.h"

namespace jacinth::app {
namespace {

QString methodOf(const LimitSet& set) {
    if (set.byRole.empty()) return {};
    const LimitSpec& spec = set.byRole.begin()->second.spec;
    return QString("%1, by %2").arg(limitMethodName(spec.method), lineUpName(spec.lineUp));
}

}  // namespace

LimitsDialog::LimitsDialog(Session& session, QWidget* parent) : QDialog(parent), session_(session) {
    setObjectName("limitsDialog");
    setWindowTitle("Golden limits");
    resize(820, 480);
    model_ = new RowsModel({"name", "version", "tags", "golden runs", "method", "made", "by"}, this);
    table_ = makeTable(model_, "limitsTable", {0, 60, 50, 84, 170, 130, 90});
    detail_ = makeLabel("", "second");
    detail_->setObjectName("limitsMadeFrom");
    detail_->setWordWrap(true);
    name_ = makeField("limitsNewName", "New name");
    name_->setPlaceholderText("another name");
    rename_ = makeButton("Rename", "limitsRename");
    remove_ = makeButton("Remove this version", "limitsRemove");
    screen_ = makeButton("Screen all runs with this version", "limitsScreen", true);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(name_);
    buttons->addWidget(rename_);
    buttons->addWidget(remove_);
    buttons->addStretch();
    buttons->addWidget(screen_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 14);
    column->setSpacing(8);
    column->addWidget(table_, 1);
    column->addWidget(detail_);
    column->addLayout(buttons);
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this, &LimitsDialog::showChosen);
    connect(name_, &QLineEdit::textChanged, this, &LimitsDialog::showChosen);
    connect(rename_, &QPushButton::clicked, this, &LimitsDialog::rename);
    connect(remove_, &QPushButton::clicked, this, &LimitsDialog::remove);
    for (QPushButton* b : {screen_, remove_}) addRowCommand(table_, b);
    connect(screen_, &QPushButton::clicked, this, &LimitsDialog::screenAgain);
    connect(&session, &Session::studyChanged, this, &LimitsDialog::fill);
    fill();
}

void LimitsDialog::fill() {
    const auto before = currentId<LimitSetId>(table_);
    std::vector<RowsModel::Row> rows;
    for (const LimitSet& set : session_.study().judgement().limitSets()) {
        rows.push_back(
            {set.id,
             {QString::fromStdString(set.name), QString::number(set.version),
              QString::number(set.byRole.size()), QString::number(set.goldenRuns.size()), methodOf(set),
              QString::fromStdString(session_.zone().text(set.made)), QString::fromStdString(set.who)}});
        rows.back().sortBy(5, set.made);
    }
    std::reverse(rows.begin(), rows.end());
    model_->setRows(std::move(rows));
    if (model_->rowCount() > 0) table_->selectRow(std::max(0, model_->rowOf(before)));
    showChosen();
}

std::optional<LimitSet> LimitsDialog::chosen() const {
    const auto id = currentId<LimitSetId>(table_);
    for (LimitSet& set : session_.study().judgement().limitSets())
        if (set.id == id) return std::move(set);
    return {};
}

QString LimitsDialog::madeFrom(const LimitSet& set) const {
    QStringList parts;
    std::size_t there = 0;
    for (const SpanId run : set.goldenRuns) there += session_.study().tracks().span(run).has_value();
    parts << QString("Made from %1 golden runs%2")
                 .arg(set.goldenRuns.size())
                 .arg(there < set.goldenRuns.size() ? QString(", of which %1 are still there").arg(there)
                                                    : QString());
    if (!set.forRuns.empty()) parts << "for runs where " + QString::fromStdString(set.forRuns);
    if (set.validFrom != kNoInstant)
        parts << "valid from " + QString::fromStdString(session_.zone().text(set.validFrom));
    QStringList roles;
    bool leavesOut = true;
    for (const auto& [role, limits] : set.byRole) {
        const auto flagged = set.flagged.find(role);
        roles << QString("%1: limits in %2 of %3 slices%4")
                     .arg(QString::fromStdString(role), QString::number(slicesWithLimits(limits)),
                          QString::number(limits.slices.size()),
                          flagged == set.flagged.end() ? QString()
                                                       : "; flags " + QString::fromStdString(flaggedWords(
                                                                          flagged->second, limits.widened)));
        leavesOut = leavesOut && limits.spec.leaveOutAbnormal;
    }
    if (leavesOut) parts << "without labelled events, stops and unsound stretches in them";
    return parts.join(", ") + ".\nEach golden run judged without itself:\n" + roles.join("\n");
}

void LimitsDialog::showChosen() {
    const auto set = chosen();
    detail_->setText(
        set ? madeFrom(*set)
            : QString("No limits yet. Choose golden runs in Screen, then build limits on the sheet."));
    remove_->setEnabled(set.has_value());
    screen_->setEnabled(set.has_value());
    rename_->setEnabled(set && !name_->text().trimmed().isEmpty());
}

void LimitsDialog::rename() {
    const auto set = chosen();
    if (!set) return;
    const std::string name = name_->text().trimmed().toStdString();
    session_.tryChange([&] {
        if (session_.report(renameLimits(session_.study(), set->name, name))) name_->clear();
    });
}

void LimitsDialog::remove() {
    if (const auto set = chosen())
        session_.tryChange([&] { session_.report(removeLimits(session_.study(), set->name, set->version)); });
}

void LimitsDialog::screenAgain() {
    const auto set = chosen();
    if (!set) return;
    const Which which = session_.view().which();
    session_.runJob(
        &session_, "screening", "Screening",
        [session = &session_, set = *set, track = set->track, which,
         spec = screenSpecOf(session_.study())](JobContext& job) -> std::function<void()> {
            bool stopped = false;
            const std::vector<Span> runs = job.study.tracks().spans(track);
            auto found = screenBy(job.study, set, runs, spec, which, [&](double share) {
                stopped = job.progress.stopped(share);
                return !stopped;
            });
            return [session, track, spec, which, stopped, found = std::move(found)] {
                if (stopped) return;
                session->tryChange([&] { keepExcursions(session->study(), track, spec, found, which); });
                std::size_t n = 0;
                for (const ScreenedRun& run : found) n += run.excursions.size();
                emit session->notified(QString("%1 excursions").arg(n));
            };
        });
    accept();
}

}  // namespace jacinth::app
