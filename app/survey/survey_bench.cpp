#include "app/survey/survey_bench.h"

#include "app/shell/time_field.h"

namespace jacinth::app {

SurveyBench::SurveyBench(Session& session)
    : Bench(session),
      ways_(new QButtonGroup(this)),
      pages_(new QStackedWidget),
      inspectors_(new QStackedWidget) {
    title_ = makeLabel("", "title");
    title_->setObjectName("surveyTitle");
    traces_ = new TracesPage(session);
    fleet_ = new FleetPage(session);
    byState_ = new StatePage(session);
    parts_ = new PartsPage(session);
    peaks_ = new PeaksPage(session);
    resample_ = new ResamplePage(session);
    cycles_ = new CyclesPage(session);

    auto* row = new QHBoxLayout;
    row->setSpacing(2);
    addPage(traces_, "Traces", row);
    addPage(fleet_, "Fleet", row);
    addPage(byState_, "By state", row);
    addPage(parts_, "Parts", row);
    addPage(peaks_, "Peaks", row);
    addPage(resample_, "Resample", row);
    addPage(cycles_, "Cycles", row);
    row->addStretch();
    row->addWidget(new TimeField(session));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 8, 4);
    column->setSpacing(6);
    column->addLayout(row);
    column->addWidget(title_);
    column->addWidget(pages_, 1);
    auto* side = new QVBoxLayout(inspector_);
    side->setContentsMargins(0, 0, 0, 0);
    side->addWidget(inspectors_);

    connect(ways_, &QButtonGroup::idClicked, this, [this](int id) { turnTo(static_cast<SurveyWay>(id)); });
    connect(traces_, &TracesPage::labelAsked, this, &SurveyBench::labelAsked);
    connect(byState_, &StatePage::labelAsked, this, &SurveyBench::labelAsked);
    connect(traces_, &TracesPage::mendAsked, this, &SurveyBench::mendAsked);
    connect(peaks_, &PeaksPage::mendAsked, this, &SurveyBench::mendAsked);
    connect(traces_, &TracesPage::ruleAsked, this, &SurveyBench::ruleAsked);
    ways_->button(0)->setChecked(true);
    followPage();
}

void SurveyBench::addPage(SurveyPage* page, const QString& name, QHBoxLayout* row) {
    auto* button = makeButton(name, "way" + page->objectName());
    button->setCheckable(true);
    button->setProperty("pill", true);
    button->setFixedHeight(24);
    const int id = pages_->count();
    button->setToolTip(QString("%1 (Alt+%2)").arg(name).arg(id + 1));
    button->setShortcut(QKeySequence(QString("Alt+%1").arg(id + 1)));
    ways_->addButton(button, id);
    row->addWidget(button);
    pages_->addWidget(page);
    inspectors_->addWidget(page->inspector());
    connect(page, &SurveyPage::titleChanged, this, [this, page] {
        if (page == this->page()) title_->setText(page->title());
    });
    connect(page, &SurveyPage::pointerMoved, this, &Bench::pointerMoved);
    connect(page, &SurveyPage::tracesAsked, this, [this] { turnTo(SurveyWay::Traces); });
}

void SurveyBench::entered() {
    page()->entered();
}

void SurveyBench::turnTo(SurveyWay way) {
    const int id = static_cast<int>(way);
    ways_->button(id)->setChecked(true);
    if (pages_->currentIndex() == id) return;
    pages_->setCurrentIndex(id);
    followPage();
    page()->entered();
}

void SurveyBench::followPage() {
    inspectors_->setCurrentIndex(pages_->currentIndex());
    title_->setText(page()->title());
}

}  // namespace jacinth::app
