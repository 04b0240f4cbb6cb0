// More like this: stretches that look like a marked example, on a contact sheet, each accepted or rejected.
#pragma once

#include <QCheckBox>

#include "app/base/bench_page.h"
#include "app/base/check_menu.h"
#include "app/base/ui.h"
#include "app/label/contact_sheet.h"
#include "store/tracks.h"
#include "work/label/more_like.h"

class QScrollArea;

namespace jacinth::app {

class AlikePage : public BenchPage {
    Q_OBJECT
  public:
    explicit AlikePage(Session& session);
    void entered() override;
    QString title() const override;
    QString state() const override { return state_; }
    ContactSheet* sheet() const { return sheet_; }
    /// Takes this mark as the example and searches.
    void startFrom(SpanId label);

  private:
    /// What a search found, before any verdict.
    struct Found {
        MoreLike question;
        TimeRange marked;  ///< the example without the margin
        Duration margin{};
        std::vector<std::vector<double>> example;
        std::vector<ContactSheet::Cell> cells;
        std::vector<std::vector<double>> comparable;
        std::vector<double> exampleComparable;
    };
    void build();
    void refresh() override;
    void fillRoles();
    void offerTags(AssetId asset, const std::vector<std::int64_t>& ticked);
    void fillKinds();
    void search();
    Duration usualMargin(const Span& label, const std::vector<std::int64_t>& tags) const;
    void take(std::shared_ptr<Found> found);
    void judge(int cell, HitVerdict verdict);
    void readLabels();  ///< which stretches are labelled already
    void arrange();     ///< by score, as the order says
    std::optional<Span> example() const;
    std::string kind() const;
    TimeRange labelRange(const ContactSheet::Cell& cell) const;
    bool accept(const ContactSheet::Cell& cell);
    void takeBack(const ContactSheet::Cell& cell);
    std::vector<SpanId> labelsOver(const ContactSheet::Cell& cell) const;
    void say(const QString& state);

    SpanId label_;
    std::shared_ptr<Found> found_;
    ContactSheet* sheet_;
    QScrollArea* area_;
    QLabel* exampleText_;
    CheckButton* roles_;
    QComboBox *kind_, *scope_, *order_;
    QLineEdit *margin_, *stretch_, *most_;
    QCheckBox* level_;
    QPushButton* search_;
    QString state_;
    AssetId rolesOf_;
};

}  // namespace jacinth::app
