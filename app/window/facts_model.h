// Facts as a table: a row a thing (an asset, a tag, a run, a label, a failure), a column a fact; cells are
// edited in place, one or many as one step.
#pragma once

#include <QAbstractTableModel>

#include "app/base/session.h"
#include "core/span/fact_kind.h"
#include "work/settings/facts.h"

namespace jacinth::app {

enum class FactsOf { Assets, Tags, Runs, Labels, Failures };

class FactsModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    explicit FactsModel(Session& session, QObject* parent) : QAbstractTableModel(parent), session_(session) {}
    static constexpr int kSortRole = Qt::UserRole + 2;
    void show(FactsOf of);  ///< and again after a change
    int rowCount(const QModelIndex& parent = {}) const override {
        return parent.isValid() ? 0 : static_cast<int>(rows_.size());
    }
    int columnCount(const QModelIndex& = {}) const override { return static_cast<int>(names_.size()) + 1; }
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    Qt::ItemFlags flags(const QModelIndex& index) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;
    /// The same value in these cells, as one step; false, with what is wrong told, where it cannot be.
    bool setMany(const QModelIndexList& cells, const QString& value);
    const FactKinds& kinds() const { return kinds_; }
    QString factOf(int column) const;  ///< empty for the first

  signals:
    void wrong(const QString& why);

  private:
    struct Row {
        FactOwner owner;
        QString name;
        Facts facts;
    };
    void addSpans(const char* kind);
    Session& session_;
    FactKinds kinds_;
    std::vector<std::string> names_;  ///< of facts, by column
    std::vector<Row> rows_;
};

}  // namespace jacinth::app
