// How the page of fixes is laid out: plot and ledger in the middle, the fix in hand in the inspector.
#include <QButtonGroup>
#include <QGridLayout>
#include <QStackedWidget>

#include "app/mend/fix_ledger.h"
#include "app/mend/fixes_page.h"
#include "app/mend/sample_list.h"
#include "app/mend/step_list.h"
#include "app/mend/stuck_list.h"
#include "app/mend/trust_fields.h"

namespace jacinth::app {
namespace {

constexpr int kKinds = static_cast<int>(std::variant_size_v<FixBody>);

}  // namespace

void FixesPage::buildMiddle() {
    plot_ = new TimePlot(session_);
    plot_->setObjectName("mendPlot");
    plot_->setLaysOver(false);  // it shows all of it by itself
    plot_->setAccessibleName("As logged and mended");
    plot_->setEmptyText("Choose a tag of numbers in the plant panel to mend it.");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    column->addWidget(plot_, 1);
    buildLower(column);
    buildReadings();
    connect(plot_, &TimePlot::handleTaken, this, &FixesPage::takeHandle);
    connect(plot_, &TimePlot::handleMoved, this, &FixesPage::moveHandle);
    connect(plot_, &TimePlot::handleDropped, this, [this](int id) {
        if (marksTwoStretches() && id > 1) return takeTwoStretches();
        showDraft();
    });
    connect(plot_, &TimePlot::handleStepped, this, &FixesPage::stepHandle);
    connect(plot_, &TimePlot::pointed, this, &BenchPage::pointerMoved);
}

/// A row of buttons with the controls of the list that is shown, and the list.
void FixesPage::buildLower(QVBoxLayout* column) {
    lower_ = new QStackedWidget;
    lowerHeads_ = new QStackedWidget;
    lowerHeads_->setFixedHeight(28);
    lowerButtons_ = new QButtonGroup(this);
    auto* row = new QHBoxLayout;
    row->setSpacing(2);
    struct Way {
        UnderPlot list;
        const char *words, *name, *tip;
    };
    for (const Way& way :
         {Way{UnderPlot::Ledger, "Fix ledger", "toLedger", "The fixes, in the order in which they act"},
          Way{UnderPlot::Steps, "Suspected steps", "toSteps", "Look for false steps"},
          Way{UnderPlot::Stuck, "Stuck", "toStuck", "Look for sensors that stand still"},
          Way{UnderPlot::Samples, "Samples", "toSamples", "The samples in view, as logged and mended"}}) {
        QPushButton* b = makeButton(way.words, way.name);
        b->setCheckable(true);
        b->setProperty("pill", true);
        b->setFixedHeight(24);
        b->setToolTip(way.tip);
        lowerButtons_->addButton(b, static_cast<int>(way.list));
        row->addWidget(b);
    }
    row->addSpacing(8);
    row->addWidget(lowerHeads_, 1);
    column->addLayout(row);
    column->addWidget(lower_);
    ledger_ = static_cast<FixLedger*>(list(UnderPlot::Ledger));
    connect(lowerButtons_, &QButtonGroup::idClicked, this,
            [this](int id) { showUnderPlot(static_cast<UnderPlot>(id)); });
    showUnderPlot(UnderPlot::Ledger);
}

ListUnderPlot* FixesPage::list(UnderPlot which) {
    ListUnderPlot*& made = lists_[static_cast<std::size_t>(which)];
    if (made) return made;
    if (which == UnderPlot::Ledger) {
        auto* ledger = new FixLedger(session_);
        connect(ledger, &FixLedger::opened, this, &FixesPage::openFix);
        connect(ledger, &FixLedger::chosenChanged, this, &FixesPage::light);
        made = ledger;
    } else if (which == UnderPlot::Steps) {
        auto* steps = new StepList(session_);
        connect(steps, &StepList::chosenChanged, this, &FixesPage::takeStep);
        connect(steps, &StepList::takeOutAsked, this, &FixesPage::takeOutStep);
        connect(steps, &StepList::judged, this, &FixesPage::judgeChosen);
        made = steps;
    } else if (which == UnderPlot::Stuck) {
        auto* stuck = new StuckList(session_);
        connect(stuck, &StuckList::chosenChanged, this, &FixesPage::takeStuck);
        made = stuck;
    } else {
        made = new SampleList(session_);
    }
    lower_->addWidget(made);
    lowerHeads_->addWidget(made->head());
    return made;
}

void FixesPage::showUnderPlot(UnderPlot which) {
    ListUnderPlot* shown = list(which);
    lowerButtons_->button(static_cast<int>(which))->setChecked(true);
    lower_->setCurrentWidget(shown);
    lower_->setFixedHeight(shown->wantedHeight());
    lowerHeads_->setCurrentWidget(shown->head());
    shown->fill();
}

StepList* FixesPage::steps() {
    return static_cast<StepList*>(list(UnderPlot::Steps));
}

StuckList* FixesPage::stuck() {
    return static_cast<StuckList*>(list(UnderPlot::Stuck));
}

void FixesPage::buildKinds(QVBoxLayout* side) {
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
void FixesPage::buildWays(QVBoxLayout* side) {
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
void FixesPage::buildHidden(QVBoxLayout* side) {
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
    connect(plot_, &TimePlot::pointClicked, this, [this](int, Instant t) { pointTaken(t); });
}

FixFields* FixesPage::fieldsOf(FixKind kind) const {
    FixFields*& made = fields_[static_cast<std::size_t>(kind)];
    if (made) return made;
    made = makeFixFields(kind, session_);
    connect(made, &FixFields::edited, this, &FixesPage::readFields);
    connect(made, &FixFields::spikesAsked, this, &FixesPage::findSpikes);
    connect(made, &FixFields::labelPartsAsked, this, &FixesPage::labelParts);
    connect(made, &FixFields::levelsAsked, this, &FixesPage::takeLevels);
    connect(made, &FixFields::twoStretchesAsked, this, &FixesPage::markTwoStretches);
    fieldsRoom_->addWidget(made);
    return made;
}

void FixesPage::buildInspector() {
    QVBoxLayout* side = side_;
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
    fieldsRoom_ = new QVBoxLayout;
    side->addLayout(fieldsRoom_);
    fields_.resize(kKinds);
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
    connect(enter_, &QPushButton::clicked, this, &FixesPage::enter);
    connect(leave_, &QPushButton::clicked, this, [this] {
        draft_.id = {};
        why_->clear();
        takeKind(draft_.kind());
    });
}

}  // namespace jacinth::app
