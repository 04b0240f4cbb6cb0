// Relation: a tag against companions on a regular step; the moments at which the relation does not hold, each
// to become a fix, a label or a remembered event.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <memory>
#include <optional>

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/plot/time_plot.h"
#include "work/mend/relation_moments.h"

namespace jacinth::app {

class TagPicker;

class RelationPage : public BenchPage {
    Q_OBJECT
  public:
    explicit RelationPage(Session& session);
    QString title() const override;
    QString state() const override;
    QString pointerText() const override;
    QString figures() const override;
    TimePlot* plot() const { return plot_; }
    QTableView* moments() const { return moments_; }

  signals:
    void fixAsked(const jacinth::Fix& fix, const QString& why);  ///< to be taken in hand

  protected:
    void refresh() override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    /// What was asked and found, with the samples it was found in.
    struct Checked {
        RelationQuestion question;
        TagRelation made;
        std::string mark;  ///< of the samples
    };
    void buildMiddle();
    void buildInspector();
    void proposeCompanions();
    std::optional<RelationQuestion> question();
    void check();
    void take(std::shared_ptr<const Checked> checked);
    void showPanes();
    void showTables();
    void showMarks();
    std::vector<std::pair<QString, QString>> fitFigures() const;
    void showFit();
    std::string markOf(const RelationQuestion& question) const;
    const FoundIndicator* chosen() const;
    void go();
    void fix();
    void label();
    void remember();

    TimePlot* plot_;
    RowsModel *momentRows_, *coefficientRows_;
    QTableView *moments_, *coefficients_;
    QLabel *says_, *fit_, *byChance_;
    TagPicker* picker_;
    QLineEdit *every_, *alpha_, *why_;
    QComboBox *of_, *over_;
    QCheckBox *points_, *levels_, *trends_;
    QPushButton *check_, *fixIt_, *label_, *remember_;
    std::shared_ptr<const Checked> checked_;
    TagId proposedFor_;
};

}  // namespace jacinth::app
