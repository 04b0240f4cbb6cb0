// The widgets of the sheet, and what follows what.
#include <QMenu>
#include <nlohmann/json.hpp>

#include "app/base/tables.h"
#include "app/base/value_in_sight.h"
#include "app/screen/sheet_page.h"
#include "core/base/missing.h"
#include "core/series/resample.h"
#include "store/tracks.h"
#include "work/limits/excursion_tables.h"
#include "work/runs/edit_runs.h"
#include "work/runs/run_figures.h"

namespace jacinth::app {

void SheetPage::buildMiddle() {
    sheet_ = new RunSheet(session_);
    overlay_ = new OverlayPlot(session_);
    multiples_ = new MultiplesView(session_);
    overlayTitle_ = makeLabel("", "section");
    overlayState_ = makeLabel("", "second");
    countWords_ = makeLabel("", "second");
    countWords_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    countWords_->setToolTip("Flags: golden runs that the limits flag, each judged by limits made without it");
    axisWords_ = makeLabel("", "second");
    fleet_ = makeChoice("sheetFleet", "Runs of", {"this asset", "the whole fleet"});
    show_ = makeChoice("overlayShow", "Show", {"this run", "all runs", "side by side by asset"});
    limits_ = makeChoice("overlayLimits", "Limits", {"limits that judge the run"});
    limits_->setToolTip("Which limits the corridor shows; screening is not changed by it");
    below_ = new QStackedWidget;
    below_->addWidget(overlay_);
    below_->addWidget(multiples_);
    auto* head = new QHBoxLayout;
    head->addWidget(overlayTitle_);
    head->addSpacing(8);
    head->addWidget(overlayState_, 1);
    head->addWidget(limits_);
    head->addWidget(show_);
    auto* top = new QHBoxLayout;
    top->addWidget(
        makeLabel("click the golden row, or G, to choose · or drag a box over the lines below", "second"));
    top->addStretch();
    top->addWidget(fleet_);
    auto* foot = new QHBoxLayout;
    foot->addWidget(countWords_, 1);
    foot->addWidget(axisWords_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 2);
    column->setSpacing(4);
    column->addLayout(top);
    column->addWidget(sheet_);
    column->addLayout(head);
    column->addWidget(below_, 1);
    column->addLayout(foot);
}

void SheetPage::buildInspector() {
    side_->setSpacing(5);
    side_->addWidget(makeLabel("Golden limits", "section"));
    goldenCount_ = makeLabel("", "second");
    goldenCount_->setWordWrap(true);
    side_->addWidget(goldenCount_);
    form_ = new LimitsForm(session_);
    side_->addWidget(form_);
    build_ = makeButton("Build limits and screen", "buildLimits", true);
    side_->addWidget(build_);
    side_->addWidget(makeRule());
    excursionTitle_ = makeLabel("Excursions", "section");
    side_->addWidget(excursionTitle_);
    excursionModel_ = new RowsModel({"tag", "start", "hours", "peak"}, this);
    excursions_ = makeTable(excursionModel_, "excursionTable", {0, 52, 48, 50});
    excursions_->setMinimumHeight(80);
    side_->addWidget(excursions_, 1);
    auto* buttons = new QHBoxLayout;
    openMoment_ = makeButton("See it in Survey", "openExcursion");
    label_ = makeButton("Label it", "labelExcursion");
    for (QPushButton* b : {openMoment_, label_}) addRowCommand(excursions_, b);
    buttons->addWidget(openMoment_);
    buttons->addWidget(label_);
    side_->addLayout(buttons);
    auto* weekTitle = makeLabel("Hours outside, by week", "second");
    side_->addWidget(weekTitle);
    weeks_ = new WeekBars(session_);
    side_->addWidget(weeks_);
    // All of it together would be taller than a small screen.
    connect(form_, &LimitsForm::moreShown, this, [this, weekTitle](bool on) {
        weekTitle->setVisible(!on);
        weeks_->setVisible(!on);
    });
}

void SheetPage::connectAll() {
    connect(sheet_, &RunSheet::cellChosen, this,
            [this](SpanId run, const QString& role) { chooseCell(run, role.toStdString()); });
    connect(sheet_, &RunSheet::goldenToggled, this, &SheetPage::toggleGolden);
    connect(sheet_, &RunSheet::cellOpened, this, [this](SpanId run, const QString&) {
        if (const auto span = session_.study().tracks().span(run))
            emit asked(ShowMoment{span->range(), session_.view().tag()});
    });
    connect(overlay_, &OverlayPlot::momentChosen, this, [this](Instant t) {
        emit asked(ShowMoment{{t - 3 * kHour, t + 3 * kHour}, session_.view().tag()});
    });
    connect(overlay_, &OverlayPlot::boxed, this, &SheetPage::offerRunsIn);
    connect(limits_, &QComboBox::activated, this, &SheetPage::refreshOverlay);
    connect(overlay_, &OverlayPlot::pointed, this, &BenchPage::pointerMoved);
    connect(fleet_, &QComboBox::currentIndexChanged, this, &SheetPage::refresh);
    connect(&session_.view(), &ViewState::groupingChanged, this, &SheetPage::refresh);
    connect(&screen_, &ScreenState::trackChanged, this, &SheetPage::refreshSoon);
    connect(show_, &QComboBox::currentIndexChanged, this, [this] {
        below_->setCurrentIndex(show_->currentIndex() >= 2);
        refreshOverlay();
    });
    connect(multiples_, &MultiplesView::panelChosen, this, [this](int panel) {
        const auto& runs = multiples_->picture().panels[static_cast<std::size_t>(panel)].runs;
        if (!runs.empty()) chooseCell(runs.back()->run, role());
    });
    connect(&session_, &Session::studyChanged, this, [this] {
        aligned_.reset();
        runs_.reset();
    });
    connect(&session_.view(), &ViewState::whichChanged, this, [this] { aligned_.reset(); });
    connect(&session_.view(), &ViewState::shownChanged, this, &SheetPage::refreshSoon);
    connect(&session_, &Session::themeChanged, this, &SheetPage::refreshExcursions);
    connect(build_, &QPushButton::clicked, this, &SheetPage::buildAndScreen);
    const auto openCurrent = [this] {
        const auto id = currentId<SpanId>(excursions_);
        for (const KeptExcursion& e : kept_)
            if (e.span.id == id) emit asked(ShowMoment{e.span.range(), e.span.tag});
    };
    connect(openMoment_, &QPushButton::clicked, this, openCurrent);
    connect(excursions_, &QTableView::doubleClicked, this, openCurrent);
    connect(excursions_, &QTableView::activated, this, openCurrent);
    connect(label_, &QPushButton::clicked, this, [this] {
        if (const auto id = currentId<SpanId>(excursions_)) emit asked(LabelExcursion{id});
    });
    connect(excursions_, &QTableView::clicked, this, [this] {
        const auto id = currentId<SpanId>(excursions_);
        for (const KeptExcursion& e : kept_)
            if (e.span.id == id) {
                role_ = e.role;
                session_.view().selectRun(e.run);
                session_.view().select(e.span.asset, e.span.tag);
                refreshOverlay();
            }
        openMoment_->setEnabled(bool(id));
        label_->setEnabled(bool(id));
    });
}

}  // namespace jacinth::app
