// What the menu of every table offers.
#include <QApplication>
#include <QClipboard>
#include <QMenu>
#include <QMessageBox>
#include <QPointer>
#include <QRegularExpression>
#include <QShortcut>
#include <algorithm>

#include "app/base/file_dialogs.h"
#include "app/base/tables.h"
#include "core/base/text.h"
#include "store/write_file.h"

namespace jacinth::app {
namespace {

std::vector<int> allRows(const QTableView* table) {
    std::vector<int> out;
    for (int row = 0; row < table->model()->rowCount(); ++row)
        if (!table->isRowHidden(row)) out.push_back(row);
    return out;
}

std::vector<int> chosenRows(const QTableView* table) {
    std::vector<int> out;
    for (const QModelIndex& index : table->selectionModel()->selectedRows()) out.push_back(index.row());
    std::sort(out.begin(), out.end());
    return out;
}

void copyRows(const QTableView* table, const std::vector<int>& rows) {
    QGuiApplication::clipboard()->setText(tableText(table, rows, TableForm::Tabs));
}

void saveRows(QTableView* table) {
    const QString path =
        askFileToSave(table, {"Save the table", " " + table->objectName() + ".csv", "CSV (*.csv)"});
    if (path.isEmpty()) return;
    const QString text = tableText(table, allRows(table), TableForm::Csv);
    if (const Status done = writeWhole(path.toStdString(), text.toStdString()); !done)
        QMessageBox::warning(table, "Save the table", QString::fromStdString(done.error().message));
}

void fillColumns(QMenu* menu, QTableView* table) {
    const auto* model = table->model();
    int shown = 0;
    for (int c = 0; c < model->columnCount(); ++c) shown += !table->isColumnHidden(c);
    for (int c = 0; c < model->columnCount(); ++c) {
        const QString name = model->headerData(c, Qt::Horizontal).toString();
        QAction* column = menu->addAction(name.isEmpty() ? QString("column %1").arg(c + 1) : name);
        column->setCheckable(true);
        column->setChecked(!table->isColumnHidden(c));
        column->setEnabled(table->isColumnHidden(c) || shown > 1);
        QObject::connect(column, &QAction::toggled, table,
                         [table, c](bool on) { table->setColumnHidden(c, !on); });
    }
}

constexpr const char* kButton = "row command's button";

/// The commands of the table itself, as far as the current row and their buttons allow them now.
void addOwnCommands(QMenu& menu, const QTableView* table) {
    for (QAction* command : table->actions()) {
        const auto* button = command->property(kButton).value<QAbstractButton*>();
        if (button) command->setText(button->text());
        command->setVisible(!button || !button->isHidden());
        command->setEnabled(table->currentIndex().isValid() && (!button || button->isEnabled()));
        menu.addAction(command);
    }
    if (!table->actions().isEmpty()) menu.addSeparator();
}

void showMenu(QTableView* table, const QPoint& at) {
    if (const QModelIndex under = table->indexAt(at);
        under.isValid() && !table->selectionModel()->isRowSelected(under.row()))
        // Not selectRow(): where several rows can be chosen it would add this one to them.
        table->selectionModel()->setCurrentIndex(
            under, QItemSelectionModel::ClearAndSelect | QItemSelectionModel::Rows);
    QMenu menu(table);
    menu.setObjectName("tableMenu");
    addOwnCommands(menu, table);
    const std::vector<int> chosen = chosenRows(table), all = allRows(table);
    QAction* copy = menu.addAction(chosen.size() == 1 ? "Copy row" : "Copy rows", table,
                                   [table, chosen] { copyRows(table, chosen); });
    copy->setShortcut(QKeySequence::Copy);
    copy->setEnabled(!chosen.empty());
    menu.addAction("Copy all rows", table, [table, all] { copyRows(table, all); })->setEnabled(!all.empty());
    menu.addAction("Save as CSV…", table, [table] { saveRows(table); })->setEnabled(!all.empty());
    menu.addSeparator();
    fillColumns(menu.addMenu("Columns"), table);
    menu.exec(table->viewport()->mapToGlobal(at));
}

}  // namespace

QString tableText(const QTableView* table, const std::vector<int>& rows, TableForm form) {
    const auto* model = table->model();
    std::vector<int> columns;
    for (int c = 0; c < model->columnCount(); ++c)
        if (!table->isColumnHidden(c)) columns.push_back(c);
    QString out;
    const auto line = [&](const auto& textOf) {
        for (std::size_t i = 0; i < columns.size(); ++i) {
            if (i > 0) out += form == TableForm::Csv ? ',' : '\t';
            const QString text = textOf(columns[i]);
            out += form == TableForm::Csv ? QString::fromStdString(guardedField(text.toStdString()))
                                          : QString(text).replace(QRegularExpression("[\t\r\n]+"), " ");
        }
        out += '\n';
    };
    const auto either = [&](const auto& dataOf) {
        const QVariant exact = form == TableForm::Csv ? dataOf(RowsModel::kExactRole) : QVariant();
        return exact.isValid() ? exact.toString() : dataOf(Qt::DisplayRole).toString();
    };
    line([&](int c) { return either([&](int role) { return model->headerData(c, Qt::Horizontal, role); }); });
    for (const int row : rows)
        line([&](int c) { return either([&](int role) { return model->index(row, c).data(role); }); });
    return out;
}

void addRowCommand(QTableView* table, const QString& text, std::function<void()> run) {
    auto* command = new QAction(text, table);
    QObject::connect(command, &QAction::triggered, table, [run = std::move(run)] { run(); });
    table->addAction(command);
}

void addRowCommand(QTableView* table, QAbstractButton* button) {
    addRowCommand(table, button->text(), [button = QPointer(button)] {
        if (button) button->click();
    });
    table->actions().back()->setProperty(kButton, QVariant::fromValue(button));
}

void giveTableCommands(QTableView* table) {
    table->setContextMenuPolicy(Qt::CustomContextMenu);
    QObject::connect(table, &QTableView::customContextMenuRequested, table,
                     [table](const QPoint& at) { showMenu(table, at); });
    auto* copy = new QShortcut(QKeySequence::Copy, table);
    copy->setContext(Qt::WidgetShortcut);
    QObject::connect(copy, &QShortcut::activated, table, [table] {
        if (const auto rows = chosenRows(table); !rows.empty()) copyRows(table, rows);
    });
}

}  // namespace jacinth::app
