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

    auto* row = new QHBoxLayout;
    row->setSpacing(2);
    addWay(SurveyWay::Traces, "Traces", "Traces", row);
    addWay(SurveyWay::Fleet, "Fleet", "Fleet", row);
    addWay(SurveyWay::ByState, "ByState", "By state", row);
    addWay(SurveyWay::Parts, "Parts", "Parts", row);
    addWay(SurveyWay::Peaks, "Peaks", "Peaks", row);
    addWay(SurveyWay::Resample, "Resample", "Resample", row);
    addWay(SurveyWay::Cycles, "Cycles", "Cycles", row);
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
    pageOf(SurveyWay::Traces);
    ways_->button(0)->setChecked(true);
    followPage();
}

void SurveyBench::addWay(SurveyWay way, const char* name, const QString& says, QHBoxLayout* row) {
    const int id = static_cast<int>(way);
    auto* button = makeButton(says, QString("way") + name);
    button->setCheckable(true);
    button->setProperty("pill", true);
    button->setFixedHeight(24);
    button->setToolTip(QString("%1 (Alt+%2)").arg(says).arg(id + 1));
    button->setShortcut(QKeySequence(QString("Alt+%1").arg(id + 1)));
    ways_->addButton(button, id);
    row->addWidget(button);
}

SurveyPage* SurveyBench::newPage(SurveyWay way) {
    switch (way) {
        case SurveyWay::Traces: {
            auto* page = new TracesPage(session_);
            connect(page, &TracesPage::labelAsked, this, &SurveyBench::labelAsked);
            connect(page, &TracesPage::mendAsked, this, &SurveyBench::mendAsked);
            connect(page, &TracesPage::ruleAsked, this, &SurveyBench::ruleAsked);
            return page;
        }
        case SurveyWay::Fleet:
            return new FleetPage(session_);
        case SurveyWay::ByState: {
            auto* page = new StatePage(session_);
            connect(page, &StatePage::labelAsked, this, &SurveyBench::labelAsked);
            return page;
        }
        case SurveyWay::Parts:
            return new PartsPage(session_);
        case SurveyWay::Peaks: {
            auto* page = new PeaksPage(session_);
            connect(page, &PeaksPage::mendAsked, this, &SurveyBench::mendAsked);
            return page;
        }
        case SurveyWay::Resample:
            return new ResamplePage(session_);
        case SurveyWay::Cycles:
            break;
    }
    return new CyclesPage(session_);
}

SurveyPage* SurveyBench::pageOf(SurveyWay way) {
    SurveyPage*& page = of_[static_cast<std::size_t>(way)];
    if (!page) connectPage(page = newPage(way));
    return page;
}

void SurveyBench::connectPage(SurveyPage* page) {
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
    ways_->button(static_cast<int>(way))->setChecked(true);
    if (way_ == way) return;
    pageOf(way);
    way_ = way;
    followPage();
    page()->entered();
}

void SurveyBench::followPage() {
    pages_->setCurrentWidget(page());
    inspectors_->setCurrentWidget(page()->inspector());
    title_->setText(page()->title());
}

}  // namespace jacinth::app
