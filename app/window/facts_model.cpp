#include "app/window/facts_model.h"

#include <set>

#include "app/base/ui.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/label/labels.h"

namespace jacinth::app {

void FactsModel::addSpans(const char* kind) {
    const bool labels = kind == std::string(track_kind::kLabels);
    for (const Span& s : session_.study().tracks().spansOf(kind)) {
        const Asset* asset = session_.study().catalog().asset(s.asset);
        QString name = asset ? QString::fromStdString(asset->name) : "the plant";
        name += " · " + QString::fromStdString(session_.zone().shortText(s.start));
        const std::string what = factText(s.facts, labels ? label_fact::kKind : "number");
        if (!what.empty()) name += " · " + QString::fromStdString(what);
        rows_.push_back({s.id, name, labels ? ownFacts(s) : s.facts});
    }
}

void FactsModel::show(FactsOf of) {
    beginResetModel();
    rows_.clear();
    kinds_ = session_.study().judgement().factKinds();
    const Catalog& catalog = session_.study().catalog();
    if (of == FactsOf::Assets)
        for (const Asset& a : catalog.assets())
            rows_.push_back({a.id, QString::fromStdString(a.name), a.facts});
    if (of == FactsOf::Tags)
        for (const Tag& t : catalog.tags())
            rows_.push_back({t.id, QString::fromStdString(t.path()), t.facts});
    if (of == FactsOf::Runs) addSpans(track_kind::kRuns);
    if (of == FactsOf::Labels) addSpans(track_kind::kLabels);
    if (of == FactsOf::Failures) addSpans(track_kind::kFailures);
    std::set<std::string> names;
    for (const Row& row : rows_)
        for (const auto& [name, value] : row.facts) names.insert(name);
    for (const FactKind& kind : kinds_) names.insert(kind.name);
    names_.assign(names.begin(), names.end());
    endResetModel();
}

QString FactsModel::factOf(int column) const {
    return column <= 0 || column > std::ssize(names_)
               ? QString()
               : QString::fromStdString(names_[static_cast<std::size_t>(column - 1)]);
}

QVariant FactsModel::data(const QModelIndex& index, int role) const {
    const Row& row = rows_[static_cast<std::size_t>(index.row())];
    const bool text = role == Qt::DisplayRole || role == Qt::EditRole || role == kSortRole;
    if (index.column() == 0) return text ? QVariant(row.name) : QVariant();
    const std::string& name = names_[static_cast<std::size_t>(index.column() - 1)];
    const auto own = row.facts.find(name);
    if (!text || own == row.facts.end()) return {};
    if (role == kSortRole)
        if (const double* number = std::get_if<double>(&own->second)) return *number;
    // A unit would be read back as well, but a time is edited as it is shown.
    return QString::fromStdString(role == Qt::EditRole
                                      ? factText(own->second)
                                      : sayFact(findFactKind(kinds_, name), own->second, session_.zone()));
}

QVariant FactsModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal) return {};
    if (role == Qt::DisplayRole) return section == 0 ? QString("of") : factOf(section);
    if (role != Qt::ToolTipRole || section == 0) return {};
    const FactKind* kind = findFactKind(kinds_, factOf(section).toStdString());
    return kind ? plainTip(QString("%1 %2\n%3")
                               .arg(factTypeName(kind->type), QString::fromStdString(kind->unit),
                                    QString::fromStdString(kind->meaning)))
                : QString("any text or number: no kind is defined");
}

Qt::ItemFlags FactsModel::flags(const QModelIndex& index) const {
    const Qt::ItemFlags plain = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
    return index.column() > 0 ? plain | Qt::ItemIsEditable : plain;
}

bool FactsModel::setData(const QModelIndex& index, const QVariant& value, int role) {
    return role == Qt::EditRole && index.column() > 0 && setMany({index}, value.toString());
}

bool FactsModel::setMany(const QModelIndexList& cells, const QString& value) {
    std::vector<FactOwner> owners;
    int column = 0;
    for (const QModelIndex& cell : cells) {
        if (cell.column() == 0 || (column && cell.column() != column)) continue;
        column = cell.column();
        if (data(cell, Qt::EditRole).toString() != value)
            owners.push_back(rows_[static_cast<std::size_t>(cell.row())].owner);
    }
    if (owners.empty()) return true;
    const auto change = factChange(session_.study(), factOf(column).toStdString(), value.toStdString());
    if (!change) {
        emit wrong(QString::fromStdString(change.error().message));
        return false;
    }
    bool good = false;
    session_.tryChange([&] { good = session_.report(changeFacts(session_.study(), owners, {*change})); });
    return good;
}

}  // namespace jacinth::app
