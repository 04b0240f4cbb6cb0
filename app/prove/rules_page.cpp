#include "app/prove/rules_page.h"

#include <QScrollArea>

#include "app/prove/proof_words.h"
#include "app/prove/rule_commands.h"
#include "work/prove/combining.h"

namespace jacinth::app {

RulesPage::RulesPage(Session& session, ProveState& state) : BenchPage(session, false), prove_(state) {
    buildMiddle();
    buildInspector();
    connect(&state, &ProveState::proved, this, &RulesPage::refreshSoon);
    connect(&state, &ProveState::ruleChanged, this, &RulesPage::refreshSoon);
    connect(&state, &ProveState::ruleTaken, this, &RulesPage::refreshSoon);
    connect(&session, &Session::studyChanged, this, [this] {
        curves_.clear();
        ++changes_;
    });
    list();
    showList();
}

void RulesPage::buildMiddle() {
    model_ = new RowsModel({"rule", "version", "caught", "came true", "false a month", "proved", ""}, this);
    table_ = makeTable(model_, "ruleList", {0, 54, 60, 76, 90, 96, 136});
    matrix_ = new FailureMatrix(session_);
    together_ = makeLabel("", "second");
    together_->setObjectName("comparedWords");
    auto* head = new QHBoxLayout;
    head->addWidget(makeLabel("Failure by failure", "section"), 1);
    head->addWidget(together_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    column->addWidget(table_, 2);
    column->addLayout(head);
    column->addWidget(makeScrolled(matrix_), 3);
    connect(model_, &RowsModel::tickToggled, this, [this](std::int64_t key, bool on) {
        if (key < 1 || key > std::ssize(listed_)) return;
        const QString name = keyOf(listed_[static_cast<std::size_t>(key - 1)]);
        if (on)
            ticked_.insert(name);
        else
            ticked_.erase(name);
        showList();
        compare();
    });
    connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this, &RulesPage::showDetail);
    connect(table_, &QTableView::doubleClicked, this, &RulesPage::openRule);
    connect(matrix_, &FailureMatrix::opened, this, [this](AssetId asset, Instant t) {
        session_.view().select(asset, prove_.tagOf(asset));
        emit asked(ShowMoment{{t - 3 * kDay, t}, prove_.tagOf(asset)});
    });
}

void RulesPage::buildInspector() {
    side_->addWidget(makeLabel("The chosen rule", "section"));
    detail_ = makeLabel("", "second");
    detail_->setObjectName("ruleDetail");
    detail_->setWordWrap(true);
    detail_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    side_->addWidget(detail_);
    take_ = makeButton("Open this rule", "ruleTake", true);
    rename_ = makeButton("Rename…", "ruleRename");
    remove_ = makeButton("Remove…", "ruleRemove");
    again_ = makeButton("Prove it again", "ruleProveAgain");
    again_->setToolTip("Says what is different now, and keeps the new proof");
    side_->addWidget(take_);
    auto* row = new QHBoxLayout;
    row->addWidget(rename_);
    row->addWidget(remove_);
    side_->addLayout(row);
    side_->addWidget(again_);
    side_->addWidget(makeRule());
    trades_ = new RuleTrades(session_);
    side_->addWidget(makeLabel("Caught against false alarms", "section"));
    side_->addWidget(trades_);
    connect(trades_, &RuleTrades::opened, this, &RulesPage::takeFromCurve);
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("The ticked ones as one rule", "section"));
    how_ = makeChoice("combineHow", "How they are combined", {"any of them", "all of them"});
    addRow(side_, "True while", how_);
    combine_ = makeButton("Combine them", "combineRules");
    side_->addWidget(combine_);
    auto* says = makeLabel(
        "Tick two or more to compare them on the same failures. Golden limits count as alarms while a tag is "
        "outside of them.",
        "second");
    says->setWordWrap(true);
    side_->addWidget(says);
    side_->addStretch();
    addRowCommand(table_, take_);
    addRowCommand(table_, again_);
    addRowCommand(table_, rename_);
    addRowCommand(table_, remove_);
    connect(take_, &QPushButton::clicked, this, &RulesPage::openRule);
    connect(rename_, &QPushButton::clicked, this, [this] {
        if (const Listed* l = current()) renameKept(session_, prove_, l->rule.name, this);
    });
    connect(remove_, &QPushButton::clicked, this, [this] {
        if (const Listed* l = current()) removeKept(session_, l->rule.name, this);
    });
    connect(again_, &QPushButton::clicked, this, &RulesPage::proveAgain);
    connect(combine_, &QPushButton::clicked, this, &RulesPage::combine);
}

QString RulesPage::keyOf(const Listed& l) const {
    return l.unkept ? QString("current rule") : l.name + (l.limits ? " limits" : "");
}

/// The current rule where it is kept nowhere, the newest version of each, older ones below it, and limits.
void RulesPage::list() {
    listed_.clear();
    const Judgement& judgement = session_.study().judgement();
    if (prove_.provable() && !prove_.keptAs()) listed_.push_back({prove_.rule(), "current rule", true});
    for (const Rule& newest : judgement.rules()) {
        const auto versions = judgement.ruleVersions(newest.name);
        for (auto v = versions.rbegin(); v != versions.rend(); ++v) {
            Listed l{*v, QString::fromStdString(v->name)};
            l.older = v->version != newest.version;
            if (l.older) l.name += QString(", version %1").arg(v->version);
            listed_.push_back(std::move(l));
        }
    }
    for (const auto& [name, roles] : judgement.limitNames()) {
        const auto text = limitsAsRule(session_.study(), name);
        if (!text) continue;
        Listed l;
        l.rule = prove_.rule();
        l.rule.id = {}, l.rule.version = 0;
        l.rule.name = name, l.rule.text = *text, l.rule.settings.clear();
        l.name = "Limits " + QString::fromStdString(name);
        l.limits = true;
        listed_.push_back(std::move(l));
    }
}

void RulesPage::refresh() {
    list();
    showList();
    readProofs();
    compare();
}

/// Beside the interface: whether a proof still stands takes a look at every tag that it reads.
void RulesPage::readProofs() {
    session_.runJob(this, "proofs", "Looking at the proofs",
                    [this, rules = listed_](JobContext& job) -> std::function<void()> {
                        std::map<RuleId, Proved> out;
                        for (const Listed& l : rules) {
                            if (job.progress.stopped(0)) return {};
                            auto kept = l.rule.id ? lastProof(job.study, l.rule.id) : std::nullopt;
                            if (!kept) continue;
                            auto old = outOfDate(job.study, l.rule, *kept);
                            out[l.rule.id] = {std::move(*kept), std::move(old)};
                        }
                        return [this, out = std::move(out)] {
                            proofs_ = out;
                            showList();
                        };
                    });
}

QString RulesPage::stateOf(const Listed& l) const {
    if (l.unkept) return "not kept";
    if (l.limits) return "golden limits";
    const auto proved = proofs_.find(l.rule.id);
    if (proved == proofs_.end()) return "not proved";
    const auto& old = proved->second.outOfDate;
    if (old.empty()) return {};
    return "out of date: " + QString::fromStdString(old.front()) +
           (old.size() > 1 ? QString(" and %1 more").arg(old.size() - 1) : "");
}

void RulesPage::showList() {
    std::vector<RowsModel::Row> rows;
    const Theme& theme = session_.theme();
    for (const Listed& l : listed_) {
        RowsModel::Row row{std::ssize(rows) + 1,
                           {l.older ? QString("    version %1").arg(l.rule.version) : l.name, "", "", "", "",
                            "", stateOf(l)}};
        row.ticked = ticked_.contains(keyOf(l));
        const auto proved = proofs_.find(l.rule.id);
        const bool now = l.unkept && prove_.proofIsCurrent();
        const Proof* proof = now                                    ? &*prove_.proof()
                             : l.rule.id && proved != proofs_.end() ? &proved->second.kept.proof
                                                                    : nullptr;
        if (l.rule.version > 0 && !l.unkept) row.cells[1] = QString::number(l.rule.version);
        if (proof) {
            row.cells[2] = QString("%1 of %2").arg(proof->caught).arg(proof->caught + proof->missed);
            row.cells[3] = QString("%1 of %2").arg(proof->cameTrue).arg(proof->cameTrue + proof->falseAlarms);
            row.cells[4] = QString::number(proof->falsePerAssetMonth, 'f', 2);
            row.number(4, proof->falsePerAssetMonth);
            row.cells[5] = now ? QString("now")
                               : QString::fromStdString(session_.zone().shortText(proved->second.kept.made));
            if (!now) row.sortBy(5, proved->second.kept.made);
        }
        if (row.cells[6].startsWith("out of date"))
            row.ink = theme.accent;
        else if (l.older || l.limits)
            row.ink = theme.second;
        rows.push_back(std::move(row));
    }
    model_->setRows(std::move(rows));
    words_ = listed_.empty() ? "none is kept yet: Keep… above" : "";
    emit titleChanged();
    showDetail();
}

const RulesPage::Listed* RulesPage::current() const {
    const std::int64_t key = currentKey(table_);
    return key < 1 || key > std::ssize(listed_) ? nullptr : &listed_[static_cast<std::size_t>(key - 1)];
}

std::vector<const RulesPage::Listed*> RulesPage::ticked() const {
    std::vector<const Listed*> out;
    for (const Listed& l : listed_)
        if (ticked_.contains(keyOf(l))) out.push_back(&l);
    return out;
}

void RulesPage::showDetail() {
    const Listed* l = current();
    const bool kept = l && l->rule.id, writable = !session_.study().readOnly();
    take_->setEnabled(l && !l->unkept);
    rename_->setEnabled(kept && writable);
    remove_->setEnabled(kept && writable);
    again_->setEnabled(kept && writable);
    combine_->setEnabled(ticked().size() > 1);
    QStringList how{"any of them", "all of them"};
    for (std::size_t k = 2; k < ticked().size(); ++k) how << QString("at least %1 of them").arg(k);
    if (how_->count() != how.size()) {
        const int was = std::min<int>(how_->currentIndex(), static_cast<int>(how.size()) - 1);
        how_->clear();
        how_->addItems(how);
        how_->setCurrentIndex(std::max(0, was));
    }
    if (!l) return detail_->setText(listed_.empty() ? "No rule is kept yet." : "Choose a rule in the list.");
    QStringList lines{QString::fromStdString(l->rule.text)};
    for (const auto& [name, value] : l->rule.settings)
        lines << QString("%1 = %2").arg(QString::fromStdString(name)).arg(value, 0, 'g', 6);
    if (kept) lines << "Severity " + severityWords()[l->rule.severity - kLeastSeverity];
    for (const auto& [words, text] :
         {std::pair{"Meaning: ", l->rule.meaning}, {"Advice: ", l->rule.advice}, {"Note: ", l->rule.note}})
        if (!text.empty()) lines << words + QString::fromStdString(text);
    if (kept) lines << QString::fromStdString(l->rule.who + ", " + session_.zone().text(l->rule.made));
    if (const auto proved = proofs_.find(l->rule.id); kept && proved != proofs_.end())
        for (const std::string& why : proved->second.outOfDate)
            lines << "Since the proof: " + QString::fromStdString(why);
    if (kept && differs_ && differs_->first == l->rule.id) lines += differs_->second;
    detail_->setText(lines.join("\n"));
}

void RulesPage::compare() {
    const auto chosen = ticked();
    showDetail();
    const int asked = ++asked_;
    if (chosen.size() < 2) {
        compared_.reset();
        together_->setText({});
        trades_->say("Tick two rules or more.");
        return matrix_->say("Tick two rules or more: they are proved on the same failures, side by side.");
    }
    std::vector<NamedRule> rules;
    std::vector<Rule> from;
    for (const Listed* l : chosen) {
        // On the same failures, with the same times and masks: those of the current rule.
        ProveRequest request = prove_.request();
        request.rule = l->rule.text;
        request.settings = l->rule.settings;
        request.spec.offDelay = l->rule.spec.offDelay;
        rules.push_back({l->name.toStdString(), request});
        from.push_back(l->rule);
    }
    session_.runJob(this, "compare", "Comparing",
                    [this, rules, from, asked](JobContext& job) -> std::function<void()> {
                        auto found = compareRules(job.study, rules, job.progress);
                        return [this, rules, from, asked, found = std::move(found)] {
                            if (asked != asked_) return;
                            if (session_.report(found)) showCompared(rules, from, *found);
                        };
                    });
}

void RulesPage::showCompared(const std::vector<NamedRule>& rules, const std::vector<Rule>& from,
                             const ComparedRules& found) {
    compared_ = found;
    comparedRules_ = from;
    std::vector<QString> names;
    for (const NamedRule& r : rules) names.push_back(QString::fromStdString(r.name));
    matrix_->show(names, compared_);
    together_->setText(QString("together they catch %1 of %2 on record")
                           .arg(compared_->caughtByAny)
                           .arg(compared_->failures.size()));
    drawCurves(rules);
}

/// What is known at once; the other curves follow, as each takes a search.
void RulesPage::drawCurves(const std::vector<NamedRule>& rules) {
    std::vector<RuleTrade> trades;
    std::vector<ProveRequest> missing;
    for (std::size_t i = 0; i < rules.size(); ++i) {
        const ProveRequest& request = rules[i].request;
        trades.push_back({QString::fromStdString(rules[i].name), compared_->proofs[i], {}, false});
        const auto known = std::find_if(curves_.begin(), curves_.end(),
                                        [&](const auto& one) { return one.first == request; });
        if (known != curves_.end())
            trades.back().curve = known->second, trades.back().curveIsKnown = true;
        else
            missing.push_back(request);
    }
    trades_->show(std::move(trades));
    if (missing.empty()) return;
    session_.runJob(
        this, "curves", "Curves of the rules",
        [this, rules, missing, asOf = changes_, asked = asked_](JobContext& job) -> std::function<void()> {
            std::vector<std::optional<TradeCurve>> found;
            for (const ProveRequest& request : missing) {
                const double n = static_cast<double>(found.size()), all = static_cast<double>(missing.size());
                const Progress progress = job.progress.part(n / all, (n + 1) / all);
                auto curve = tradeCurveOf(job.study, request, progress);
                if (progress.stopped(0)) return {};
                // What cannot be searched has no curve, and the others still have theirs.
                found.push_back(curve ? std::move(*curve) : std::nullopt);
            }
            return [this, rules, missing, asOf, asked, found = std::move(found)] {
                if (asOf != changes_) return;
                for (std::size_t i = 0; i < missing.size(); ++i) curves_.emplace_back(missing[i], found[i]);
                if (asked == asked_) drawCurves(rules);
            };
        });
}

void RulesPage::takeFromCurve(std::size_t rule, double limit) {
    const auto& curve = trades_->rules()[rule].curve;
    Rule taken = comparedRules_[rule];
    taken.text = curve->rule;
    taken.settings = curve->settings;
    taken.settings[curve->limit] = limit;
    prove_.take(taken);
}

/// Proves the chosen version as it is kept, says what is different, and keeps the new proof.
void RulesPage::proveAgain() {
    const Listed* l = current();
    if (!l || !l->rule.id) return;
    session_.runJob(
        this, "again", "Proving again",
        [this, rule = l->rule, which = session_.view().which()](JobContext& job) -> std::function<void()> {
            ProveRequest request = requestOf(rule);
            request.which = which;
            auto proof = proveRule(job.study, request, job.progress);
            const auto before = lastProof(job.study, rule.id);
            QStringList lines;
            if (proof && before) {
                const auto differs = whatDiffers(job.study, before->proof, *proof);
                if (differs.empty()) lines << "Proved again: the same as before.";
                for (const std::string& line : differs)
                    lines << "Proved again: " + QString::fromStdString(line);
            }
            return [this, rule, request, lines, proof = std::move(proof)] {
                if (!session_.report(proof)) return;
                differs_ = {rule.id, lines};
                session_.tryChange(
                    [&] { session_.report(keepProofOf(session_.study(), rule, request, *proof)); });
            };
        });
}

void RulesPage::openRule() {
    const Listed* l = current();
    if (!l || l->unkept) return;
    Rule rule = l->rule;
    if (l->limits) rule.name.clear();
    prove_.take(rule);
}

void RulesPage::combine() {
    std::vector<Rule> rules;
    for (const Listed* l : ticked()) rules.push_back(l->rule);
    const int how = how_->currentIndex();
    const std::size_t least = how == 0 ? 1 : how == 1 ? rules.size() : static_cast<std::size_t>(how);
    const auto text = atLeastOf(rules, least);
    if (!session_.report(text)) return;
    Rule rule;
    rule.text = *text;
    rule.spec = prove_.rule().spec;
    rule.failures = prove_.rule().failures;
    rule.masks = prove_.rule().masks;
    prove_.take(rule);
    emit session_.notified("The combination is the current rule now");
}

}  // namespace jacinth::app
