#include "app/survey/state_page.h"

#include "app/base/tables.h"
#include "core/stats/stats.h"
#include "work/survey/kept_spans.h"
#include "work/survey/tag_by_state.h"

namespace jacinth::app {

StatePage::StatePage(Session& session) : BenchPage(session) {
    setObjectName("ByState");
    view_ = new StateView(session);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(view_, 1);

    side_->addWidget(makeLabel("Split by", "section"));
    by_ = makeChoice("splitBy", "States of", {});
    addRow(side_, "states of", by_);
    auto* how = makeLabel("The values are those of the tag chosen in the plant panel, in the time in view.",
                          "second");
    how->setWordWrap(true);
    side_->addWidget(how);
    addCopyButton(side_);
    side_->addWidget(makeRule());
    clusterTitle_ = makeLabel("A cluster", "section");
    side_->addWidget(clusterTitle_);
    clusterSays_ = makeLabel("Drag over a part of a strip to see when the values lay there.", "second");
    clusterSays_->setWordWrap(true);
    clusterSays_->setObjectName("clusterSays");
    side_->addWidget(clusterSays_);
    model_ = new RowsModel({"when", "how long"}, this);
    table_ = makeTable(model_, "clusterTable", {0, 92});
    side_->addWidget(table_, 1);
    label_ = makeButton("Label the chosen one", "labelCluster");
    addRowCommand(table_, label_);
    label_->setEnabled(false);
    side_->addWidget(label_);
    keep_ = makeButton("Keep as spans", "keepCluster");
    keep_->setToolTip("They stand in a lane under the traces, and can become labels");
    keep_->setEnabled(false);
    side_->addWidget(keep_);
    connect(keep_, &QPushButton::clicked, this, &StatePage::keep);

    connect(by_, &QComboBox::currentTextChanged, this, [this] {
        if (!filling_) refreshSoon();
    });
    connect(view_, &StateView::picked, this, &StatePage::pick);
    connect(view_, &StateView::pointed, this, &BenchPage::pointerMoved);
    const auto go = [this](const QModelIndex& i) {
        const auto k = static_cast<std::size_t>(i.data(Qt::UserRole).toLongLong());
        if (k >= when_.size()) return;
        session_.view().setCursor(0, when_[k].from);
        session_.view().goTo(when_[k].from, when_[k].to);
        emit tracesAsked();
    };
    connect(table_, &QTableView::activated, this, go);
    connect(table_, &QTableView::doubleClicked, this, go);
    connect(table_, &QTableView::clicked, this, [this] { label_->setEnabled(true); });
    connect(label_, &QPushButton::clicked, this, [this] {
        const auto k = static_cast<std::size_t>(currentKey(table_));
        if (k < when_.size()) emit asked(LabelStretch{when_[k]});
    });
    fillChoices();
}

void StatePage::fillChoices() {
    filling_ = true;
    const QString before = by_->currentText();
    by_->clear();
    for (const Tag& t : session_.study().catalog().tags())
        if (t.asset == session_.view().asset() && t.kind == TagKind::State)
            by_->addItem(QString::fromStdString(t.name));
    if (const int at = by_->findText(before); at >= 0) by_->setCurrentIndex(at);
    filling_ = false;
}

const Tag* StatePage::stateTag() const {
    for (const Tag& t : session_.study().catalog().tags())
        if (t.asset == session_.view().asset() && t.kind == TagKind::State &&
            QString::fromStdString(t.name) == by_->currentText())
            return &t;
    return nullptr;
}

QString StatePage::title() const {
    const Tag* tag = numberTag();
    if (!tag) return "By state";
    return QString::fromStdString(tag->path()).replace("/", " · ") +
           (by_->currentText().isEmpty() ? "" : " by " + by_->currentText());
}

void StatePage::refresh() {
    fillChoices();
    emit titleChanged();
    const Tag *tag = numberTag(), *by = stateTag();
    view_->setCluster({});
    keep_->setEnabled(false);
    if (!tag) return view_->say("Choose a tag with numbers in the plant panel.");
    if (!by)
        return view_->say(
            "This asset has no tag with states. States come in as text values with File › Import.");
    const TimeRange range = session_.view().view();
    const Which which = session_.view().which();
    session_.runJob(
        this, "by state", "Splitting by state",
        [this, id = tag->id, byId = by->id, range, which](JobContext& job) -> std::function<void()> {
            const Tag *values = job.study.catalog().tag(id), *states = job.study.catalog().tag(byId);
            auto picture = std::make_shared<StateView::Picture>();
            picture->tag = QString::fromStdString(values->name);
            picture->unit = QString::fromStdString(values->unit);
            for (const std::string& s : states->states) picture->states.push_back(QString::fromStdString(s));
            if (job.progress.stopped(0.1)) return {};
            auto split = tagByState(job.study, *values, *states, range, which);
            if (!split)
                return [this, why = split.error().message] { view_->say(QString::fromStdString(why)); };
            picture->values = std::move(*split);
            return [this, picture] {
                picture_ = picture;
                view_->show(picture);
            };
        });
}

void StatePage::pick(const StateView::Cluster& cluster) {
    const Tag *tag = numberTag(), *by = stateTag();
    if (!tag || !by || cluster.state < 0) return;
    view_->setCluster(cluster);
    const TimeRange range = session_.view().view();
    session_.runJob(this, "cluster", "Looking up when",
                    [this, cluster, id = tag->id, byId = by->id, range,
                     which = session_.view().which()](JobContext& job) -> std::function<void()> {
                        const Tag *values = job.study.catalog().tag(id),
                                  *states = job.study.catalog().tag(byId);
                        auto found = whenTagInCluster(job.study, *values, *states, range, which,
                                                      cluster.state, cluster.low, cluster.high);
                        if (!found) return {};
                        auto when = std::make_shared<std::vector<TimeRange>>(std::move(*found));
                        return [this, cluster, when] { showWhen(cluster, std::move(*when)); };
                    });
}

void StatePage::showWhen(const StateView::Cluster& cluster, std::vector<TimeRange> when) {
    when_ = std::move(when);
    cluster_ = cluster;
    keep_->setEnabled(!when_.empty());
    std::vector<RowsModel::Row> rows;
    for (std::size_t i = 0; i < when_.size() && i < 2000; ++i) {
        rows.push_back({static_cast<std::int64_t>(i),
                        {QString::fromStdString(session_.zone().shortText(when_[i].from)),
                         QString::fromStdString(sayDuration(when_[i].length()))}});
        rows.back().sortBy(0, when_[i].from);
        rows.back().sortBy(1, when_[i].length());
    }
    model_->setRows(std::move(rows));
    label_->setEnabled(false);
    const QString unit = picture_ ? picture_->unit : QString();
    clusterSays_->setText(
        QString("%1 and %2 to %3: %4 stretches, %5 in all. Double-click one to go there.")
            .arg(picture_ ? picture_->states[static_cast<std::size_t>(cluster.state)] : QString(),
                 valueText(cluster.low), valueText(cluster.high, unit))
            .arg(when_.size())
            .arg(QString::fromStdString(sayDuration(totalLength(when_) / kSecond * kSecond))));
}

void StatePage::keep() {
    const Tag* tag = numberTag();
    if (!tag || !picture_ || cluster_.state < 0) return;
    const Tag copy = *tag;
    const QString state = picture_->states[static_cast<std::size_t>(cluster_.state)];
    const QString track = QString("%1 in %2, %3 to %4")
                              .arg(QString::fromStdString(copy.path()), state, valueText(cluster_.low),
                                   valueText(cluster_.high));
    const Facts facts{{"state", state.toStdString()}, {"from", cluster_.low}, {"to", cluster_.high}};
    if (session_.tryChange([&] {
            const auto kept = keepStretches(session_.study(), track.toStdString(), copy, when_, facts);
            if (!kept) throw StoreError(kept.error().message);
        }))
        emit session_.notified(QString("%1 spans kept on “%2”").arg(when_.size()).arg(track));
}

QString StatePage::figures() const {
    QString out = "state\thours\tsamples\tleast\t5 %\t25 %\t50 %\t75 %\t95 %\tgreatest\n";
    if (!picture_) return out;
    for (const StateValues& v : picture_->values) {
        out += picture_->states[static_cast<std::size_t>(v.state)] + "\t" + fullNumber(toHours(v.time)) +
               "\t" + QString::number(v.sorted.size());
        for (const double q : {0.0, 0.05, 0.25, 0.5, 0.75, 0.95, 1.0})
            out += "\t" + fullNumber(quantileOfSorted(v.sorted, q));
        out += "\n";
    }
    return out;
}

}  // namespace jacinth::app
