#include "app/screen/run_table_model.h"

#include <cmath>

#include "app/base/names.h"
#include "app/base/ui.h"
#include "core/base/missing.h"

namespace jacinth::app {
QString RunTableModel::goldenWords(SpanId run) const {
    const auto found = golden_.find(run);
    return found == golden_.end() ? QString() : "golden: " + QString::fromStdString(found->second);
}

void RunTableModel::setTable(RunTable table, std::map<SpanId, std::string> golden,
                             std::map<SpanId, int> worst) {
    const bool sameColumns = table.columns.size() == table_.columns.size() &&
                             std::equal(table.columns.begin(), table.columns.end(), table_.columns.begin(),
                                        [](const auto& a, const auto& b) { return a.column == b.column; });
    beginResetModel();
    table_ = std::move(table);
    golden_ = std::move(golden);
    worst_ = std::move(worst);
    if (!sameColumns) brushes_.clear();
    endResetModel();
    arrange();
}

double RunTableModel::number(std::size_t row, int column) const {
    const RunTable::Row& r = table_.rows[row];
    if (column == 0) return factNumber(r.run.facts, "number");
    if (column == 1) return static_cast<double>(epochNanoseconds(r.run.start));
    if (column == 2) {
        const auto found = worst_.find(r.run.id);
        return found == worst_.end() ? 0 : found->second;
    }
    const SpanValue& cell = r.cells[static_cast<std::size_t>(column - kFixed)];
    if (const auto* number = std::get_if<double>(&cell)) return *number;
    if (const auto* truth = std::get_if<Truth>(&cell))
        return *truth == Truth::Unknown ? kMissing : *truth == Truth::True ? 1 : 0;
    return kMissing;
}

QString RunTableModel::text(std::size_t row, int column) const {
    const RunTable::Row& r = table_.rows[row];
    if (column == 0) return runName(session_.study(), r.run);
    if (column == 1) return QString::fromStdString(session_.zone().shortText(r.run.start));
    if (column == 2) return {};
    const auto i = static_cast<std::size_t>(column - kFixed);
    return QString::fromStdString(cellText(r.cells[i], table_.columns[i].type));
}

void RunTableModel::arrange() {
    emit layoutAboutToBeChanged();
    order_.clear();
    for (std::size_t i = 0; i < table_.rows.size(); ++i) {
        const bool kept = std::all_of(brushes_.begin(), brushes_.end(), [&](const auto& brush) {
            const double v = number(i, brush.first);
            return v >= brush.second.first && v <= brush.second.second;
        });
        if (kept) order_.push_back(i);
    }
    const int c = sortColumn_;
    const bool down = sortOrder_ == Qt::DescendingOrder;
    if (c < columnCount())
        std::stable_sort(order_.begin(), order_.end(), [&](std::size_t a, std::size_t b) {
            const double x = number(a, c), y = number(b, c);
            if (std::isnan(x) != std::isnan(y)) return std::isnan(y);  // without value last, either way
            if (!std::isnan(x) && x != y) return down ? x > y : x < y;
            const int words = text(a, c).localeAwareCompare(text(b, c));
            return c == 0 || std::isnan(x) ? (down ? words > 0 : words < 0) : false;
        });
    emit layoutChanged();
    emit rowsChanged();
}

void RunTableModel::setBrush(int column, std::optional<std::pair<double, double>> between) {
    if (between)
        brushes_[column] = *between;
    else
        brushes_.erase(column);
    arrange();
}

std::optional<std::pair<double, double>> RunTableModel::brush(int column) const {
    const auto found = brushes_.find(column);
    if (found == brushes_.end()) return {};
    return found->second;
}

void RunTableModel::clearBrushes() {
    brushes_.clear();
    arrange();
}

std::vector<double> RunTableModel::figures(int column, bool shownOnly) const {
    std::vector<double> out;
    if (column < kFixed || column >= columnCount()) return out;
    const auto take = [&](std::size_t i) {
        const double v = number(i, column);
        if (std::isfinite(v)) out.push_back(v);
    };
    if (shownOnly)
        for (const std::size_t i : order_) take(i);
    else
        for (std::size_t i = 0; i < table_.rows.size(); ++i) take(i);
    return out;
}

int RunTableModel::rowOf(SpanId run) const {
    for (std::size_t i = 0; i < order_.size(); ++i)
        if (table_.rows[order_[i]].run.id == run) return static_cast<int>(i);
    return -1;
}

QString RunTableModel::columnName(int column) const {
    if (column < kFixed) return column == 0 ? "run" : column == 1 ? "start" : "worst";
    const RunTable::Column& c = table_.columns[static_cast<std::size_t>(column - kFixed)];
    QString name = QString::fromStdString(c.column.name.empty() ? c.column.text : c.column.name);
    if (!c.unit.empty() && c.type != ValueType::DurationValue) name += ", " + QString::fromStdString(c.unit);
    return name;
}

QString RunTableModel::brushWords() const {
    QStringList out;
    for (const auto& [column, between] : brushes_) {
        const auto i = static_cast<std::size_t>(column - kFixed);
        const ValueType type = table_.columns[i].type;
        out << QString("%1 %2 – %3")
                   .arg(columnName(column), QString::fromStdString(cellText(between.first, type)),
                        QString::fromStdString(cellText(between.second, type)));
    }
    return out.join(" · ");
}

int RunTableModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(order_.size());
}

int RunTableModel::columnCount(const QModelIndex&) const {
    return kFixed + static_cast<int>(table_.columns.size());
}

QVariant RunTableModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid()) return {};
    const std::size_t row = order_[static_cast<std::size_t>(index.row())];
    const int c = index.column();
    const bool numeric = c >= kFixed && std::isfinite(number(row, c));
    if (role == Qt::DisplayRole) return text(row, c);
    if (role == Qt::TextAlignmentRole)
        return QVariant(Qt::AlignVCenter | (numeric ? Qt::AlignRight : Qt::AlignLeft));
    if (role == Qt::UserRole && c == 0) return isGolden(table_.rows[row].run.id);
    if (role == Qt::UserRole && c == 2) return static_cast<int>(number(row, 2));
    if (role == Qt::ToolTipRole && c == 0) {
        QString out = goldenWords(table_.rows[row].run.id);
        for (const auto& [name, fact] : table_.rows[row].run.facts)
            out += (out.isEmpty() ? "" : "\n") + QString::fromStdString(name + ": " + factText(fact));
        return plainTip(out);
    }
    if (role == Qt::ToolTipRole && numeric) {
        const auto& column = table_.columns[static_cast<std::size_t>(c - kFixed)];
        return plainTip(
            QString("%1 over the run\n%2").arg(QString::fromStdString(column.column.text), text(row, c)));
    }
    return {};
}

QVariant RunTableModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal) return {};
    if (role == Qt::DisplayRole) return columnName(section);
    if (role == Qt::ToolTipRole && section >= kFixed) {
        const auto& c = table_.columns[static_cast<std::size_t>(section - kFixed)];
        return plainTip(c.error ? QString::fromStdString(c.error->message)
                                : QString::fromStdString(c.column.text) +
                                      "\nclick sorts, drag over the bars to cut");
    }
    return {};
}

void RunTableModel::sort(int column, Qt::SortOrder order) {
    sortColumn_ = column;
    sortOrder_ = order;
    arrange();
}

}  // namespace jacinth::app
