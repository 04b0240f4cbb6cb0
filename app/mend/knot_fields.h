// Fields of the fixes with many places: the knots of a bend, the points of a calibration curve.
#pragma once

#include <QPushButton>
#include <QTableWidget>

#include "app/base/time_field.h"
#include "app/mend/fix_fields.h"

namespace jacinth::app {

/// A row a knot: its time, by how much it changes, what it must read. Each cell is typed over.
class BendFields : public FixFields {
    Q_OBJECT
  public:
    explicit BendFields(Session& session);
    void show(const Fix& fix, const FixContext& context) override;
    bool take(Fix& fix, const FixContext& context) override;
    QString says() const override;

  private:
    void showRow(int row);
    bool takeRow(int row, BendFix::Knot& knot, const FixContext& context);
    bool wrong(int row, int column, const QString& why);
    void addKnot();
    void removeKnot();
    Session& session_;
    QTableWidget* table_;
    QPushButton *add_, *remove_;
    std::vector<BendFix::Knot> knots_;
    FixContext context_;
    std::vector<QStringList> shown_;  ///< the cells before anything is typed over them
    bool showing_ = false;
};

/// One calibration, or two at different times.
class CurveFields : public FixFields {
    Q_OBJECT
  public:
    explicit CurveFields(Session& session);
    void show(const Fix& fix, const FixContext& context) override;
    bool take(Fix& fix, const FixContext& context) override;
    QString says() const override;

  private:
    MomentField* at_[2];
    QLineEdit* points_[2];
};

}  // namespace jacinth::app
