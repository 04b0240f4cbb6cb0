// How Mend is laid out: plot and ledger in the middle, the fix in hand in the inspector.
#include <QButtonGroup>
#include <QGridLayout>
#include <QStackedWidget>

#include "app/mend/fix_ledger.h"
#include "app/mend/mend_bench.h"
#include "app/mend/step_list.h"
#include "app/mend/trust_fields.h"

namespace jacinth::app {
namespace {

constexpr int kKinds = static_cast<int>(std::variant_size_v<FixBody>);

}  // namespace

void MendBench::buildMiddle() {
    title_ = makeLabel("", "title");
    plot_ = new TimePlot(session_);
    plot_->setObjectName("mendPlot");
    plot_->setAccessibleName("As logged and mended");
    plot_->setEmptyText("Choose a tag of numbers in the plant panel to mend it.");
    ledger_ = new FixLedger(session_);
    steps_ = new StepList(session_);
    lower_ = new QStackedWidget;
    for (QWidget* page : {static_cast<QWidget*>(ledger_), static_cast<QWidget*>(steps_)})
        lower_->addWidget(page);
    showLower(ledger_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 8, 4);
    column->setSpacing(6);
    column->addLayout(makeTitleRow(title_, session_));
    column->addWidget(plot_, 1);
    column->addWidget(lower_);
    connect(plot_, &TimePlot::handleTaken, this, &MendBench::takeHandle);
    connect(plot_, &TimePlot::handleMoved, this, &MendBench::moveHandle);
    connect(plot_, &TimePlot::handleDropped, this, [this] { showDraft(); });
    connect(plot_, &TimePlot::handleStepped, this, &MendBench::stepHandle);
    connect(plot_, &TimePlot::pointed, this, &Bench::pointerMoved);
    connect(ledger_, &FixLedger::opened, this, &MendBench::openFix);
    connect(ledger_, &FixLedger::chosenChanged, this, &MendBench::light);
    connect(ledger_, &FixLedger::stepsAsked, this, [this] { showLower(steps_); });
    connect(steps_, &StepList::ledgerAsked, this, [this] { showLower(ledger_); });
    connect(steps_, &StepList::chosenChanged, this, &MendBench::takeStep);
    connect(steps_, &StepList::takeOutAsked, this, &MendBench::takeOutStep);
    connect(steps_, &StepList::judged, this, &MendBench::judgeChosen);
}

void MendBench::buildKinds(QVBoxLayout* side) {
    kinds_ = new QButtonGroup(this);
    auto* grid = new QGridLayout;
    grid->setSpacing(5);
    for (int i = 0; i < kKinds; ++i) {
        const QString name = fixKindName(static_cast<FixKind>(i));
        const QString words = name.left(1).toUpper() + name.mid(1);
        QPushButton* b = makeButton(words, "kind" + words);
        b->setCheckable(true);
        b->setFixedHeight(24);
        kinds_->addButton(b, i);
        b->setProperty("compact", true);
        grid->addWidget(b, i / 5, i % 5);
    }
    connect(kinds_, &QButtonGroup::idClicked, this, [this](int id) { takeKind(static_cast<FixKind>(id)); });
    side->addLayout(grid);
}

/// To the ends of the fix, and back to the view before.
void MendBench::buildWays(QVBoxLayout* side) {
    auto* row = new QHBoxLayout;
    const auto add = [&](const char* words, const char* name, const char* tip, auto go) {
        QPushButton* b = makeButton(words, name);
        b->setFixedHeight(24);
        b->setToolTip(tip);
        connect(b, &QPushButton::clicked, this, go);
        row->addWidget(b);
    };
    add("To start", "fixToStart", "Look at the start of the fix", [this] { lookAt(draft_.from); });
    add("To end", "fixToEnd", "Look at the end of the fix", [this] { lookAt(draft_.to); });
    add("Back", "fixBack", "Back to the view before", [this] { session_.view().goBack(); });
    side->addLayout(row);
}

/// Hidden samples, seen again on demand.
void MendBench::buildHidden(QVBoxLayout* side) {
    showHidden_ = new QCheckBox("show hidden samples");
    showHidden_->setObjectName("showHidden");
    showHidden_->setToolTip("As hollow rings; a click brings one back, switching the fix off brings all");
    side->addWidget(showHidden_);
    const auto follow = [this] {
        if (tag()) plot_->setPoints(0, pointsOf(tag()->id));
        plot_->replot(QCustomPlot::rpQueuedReplot);
    };
    connect(showHidden_, &QCheckBox::toggled, this, follow);
    connect(&session_.view(), &ViewState::viewChanged, this, [this, follow] {
        if (showHidden_->isChecked() && isVisible()) follow();
    });
    connect(plot_, &TimePlot::pointClicked, this, [this](int, Instant t) { bringBackAt(t); });
}

void MendBench::buildInspector() {
    auto* outer = new QVBoxLayout(inspector_);
    outer->setContentsMargins(0, 0, 0, 0);
    auto* inside = new QWidget;
    outer->addWidget(makeScrolled(inside));
    auto* side = new QVBoxLayout(inside);
    side->setContentsMargins(12, 10, 12, 10);
    side->setSpacing(6);
    handTitle_ = makeLabel("", "section");
    handTitle_->setObjectName("fixInHand");
    side->addWidget(handTitle_);
    buildKinds(side);
    says_ = makeLabel("", "second");
    says_->setWordWrap(true);
    side->addWidget(says_);
    from_ = new MomentField(session_, "fixFrom", "From");
    to_ = new MomentField(session_, "fixTo", "To");
    addRow(side, "From", from_);
    addRow(side, "To", to_);
    for (int i = 0; i < kKinds; ++i) {
        FixFields* fields = makeFixFields(static_cast<FixKind>(i), session_);
        connect(fields, &FixFields::edited, this, &MendBench::readFields);
        connect(fields, &FixFields::spikesAsked, this, &MendBench::findSpikes);
        side->addWidget(fields);
        fields_.push_back(fields);
    }
    fit_ = makeButton("Fit to readings", "fitToReadings");
    side->addWidget(fit_);
    buildWays(side);
    why_ = makeField("fixWhy", "Why");
    why_->setPlaceholderText("reason, for the ledger");
    addRow(side, "Why", why_);
    leave_ = makeButton("Leave it", "leaveFix");
    enter_ = makeButton("Enter in ledger", "enterFix", true);
    auto* buttons = new QHBoxLayout;
    for (QPushButton* b : {leave_, enter_}) buttons->addWidget(b);
    side->addLayout(buttons);
    misfit_ = makeLabel("", "second");
    misfit_->setObjectName("misfit");
    misfit_->setWordWrap(true);
    side->addWidget(misfit_);
    leaveOut_ = makeButton("Fit without it", "leaveOutReadings");
    leaveOut_->setToolTip("Fit again without the readings that do not go with the others");
    leaveOut_->hide();
    side->addWidget(leaveOut_);
    figures_ = makeLabel("", "second");
    figures_->setObjectName("fixFigures");
    figures_->setWordWrap(true);
    side->addWidget(figures_);
    side->addWidget(makeRule());
    side->addWidget(makeLabel("Chosen in the ledger", "section"));
    side->addWidget(ledger_->makeButtons());
    buildHidden(side);
    side->addWidget(makeRule());
    trust_ = new TrustFields(session_);
    side->addWidget(trust_);
    side->addStretch();
    for (MomentField* f : {from_, to_})
        connect(f, &QLineEdit::editingFinished, this, [this, f] {
            if (f->isModified()) readFields();
        });
    connect(fit_, &QPushButton::clicked, this, [this] { fitToReadings(true); });
    connect(leaveOut_, &QPushButton::clicked, this, [this] { fitToReadings(false); });
    connect(enter_, &QPushButton::clicked, this, &MendBench::enter);
    connect(leave_, &QPushButton::clicked, this, [this] {
        draft_.id = {};
        why_->clear();
        takeKind(draft_.kind());
    });
}

}  // namespace jacinth::app
