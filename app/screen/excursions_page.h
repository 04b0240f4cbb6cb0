// Every excursion in a list with filters, counted below by week, phase, asset, tag or fact.
#pragma once

#include <QCheckBox>

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/screen/excursion_bars.h"
#include "app/screen/screen_state.h"

namespace jacinth::app {

class ExcursionsPage : public BenchPage {
    Q_OBJECT
  public:
    ExcursionsPage(Session& session, ScreenState& state);
    QString title() const override { return "Excursions"; }
    QString state() const override { return words_; }
    QTableView* table() const { return table_; }
    ExcursionBars* bars() const { return bars_; }

  signals:
    void excursionAsked(SpanId excursion);  ///< to be seen on the sheet

  protected:
    void refresh() override;

  private:
    void buildMiddle();
    void buildInspector();
    void fillChoices();
    void showList();
    void showCounts();
    void showChosen();
    void dismiss(bool takeBack);
    void narrowTo(int bar);
    const KeptExcursion* chosen() const;
    QString phaseAt(const KeptExcursion& e) const;
    bool isInBar(const KeptExcursion& e) const;
    CountBy countedBy() const;
    std::string countedFact() const;

    ScreenState& screen_;
    QComboBox *severity_, *tag_, *where_, *highLow_, *by_, *figure_;
    QCheckBox* dismissed_;
    RowsModel* model_;
    QTableView* table_;
    ExcursionBars* bars_;
    QLabel *changeSays_, *chosenSays_, *narrowed_;
    QPushButton *sheet_, *survey_, *label_, *dismiss_, *all_;
    QLineEdit* why_;
    QString words_;
    std::vector<Span> runs_;
    std::vector<KeptExcursion> kept_, shown_;
    PhasesOfRuns phases_;
    std::optional<ExcursionCount> only_;  ///< the bar clicked, and by what it was counted
    CountBy onlyBy_ = CountBy::Week;
    std::string onlyFact_;  ///< of CountBy::RunFact and CountBy::AssetGroup
};

}  // namespace jacinth::app
