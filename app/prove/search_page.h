// A better rule: its settings searched, the best of them, and whether it is more than luck.
#pragma once

#include <QCheckBox>
#include <QGridLayout>

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/prove/prove_state.h"
#include "app/prove/search_charts.h"

namespace jacinth::app {

class SearchPage : public BenchPage {
    Q_OBJECT
  public:
    SearchPage(Session& session, ProveState& state);
    QString title() const override { return "Search for a better one"; }
    QString state() const override { return words_.isEmpty() ? shownOf_ : words_; }
    const ShownSearch* shown() const { return search_.get(); }
    SearchCurve* curve() const { return curve_; }
    SearchMap* map() const { return map_; }
    QTableView* table() const { return table_; }

  protected:
    void refresh() override;

  private:
    struct Range {
        std::string name;
        QLineEdit *low, *high, *steps;
        QCheckBox* vary;
        bool typed = false;  ///< the user gave it another range
    };
    void buildMiddle();
    void buildInspector();
    void fillRanges();
    void addRange(const std::string& name);
    void proposeRanges();
    void followAim();
    void nameNumbers();
    std::optional<SearchRequest> request();
    void start();
    void take(std::shared_ptr<ShownSearch> search, bool whole);
    void showFound();
    void fillTable();
    void pick(std::size_t setting);
    void takeSetting(std::size_t setting);
    void running(bool on);
    LeftOut leftOutShown() const;
    QString bestWords() const;
    QString soFarWords() const;

    ProveState& prove_;
    std::shared_ptr<ShownSearch> search_;
    bool whole_ = false;      ///< was it judged against what it had not seen too?
    bool searching_ = false;  ///< is more of it to come?
    Rule searched_;           ///< the rule of that search
    SearchCurve* curve_;
    SearchMap* map_;
    TradeOff* tradeOff_;
    QLabel *verdict_, *best_, *empty_, *none_;
    RowsModel* model_;
    QTableView* table_;
    QWidget* ranges_;
    QGridLayout* grid_;
    std::vector<Range> fields_;
    QComboBox *aim_, *leaveOut_;
    QLineEdit *falseAtMost_, *alarmedAtMost_, *missed_, *false_, *caught_, *tries_;
    QWidget *falseRow_, *costRow_;
    QPushButton *start_, *stop_, *name_, *takeBest_, *takePicked_;
    std::optional<std::size_t> picked_;
    QString words_, shownOf_;
};

}  // namespace jacinth::app
