#include "app/window/ledger_dialog.h"

#include "app/base/tables.h"
#include "app/base/ui.h"
#include "store/history.h"

namespace jacinth::app {

LedgerDialog::LedgerDialog(Session& session, QWidget* parent) : QDialog(parent) {
    setWindowTitle("Ledger");
    resize(860, 480);
    auto* model = new RowsModel({"when", "who", "what", "why"}, this);
    auto* table = makeTable(model, "ledgerTable", {130, 90, 330, 0});
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(14, 12, 14, 12);
    column->addWidget(makeLabel(
        "Everything that changed data or judgement, newest first. Entries are never changed.", "second"));
    column->addWidget(table);
    const auto fill = [model, &session] {
        std::vector<RowsModel::Row> rows;
        for (const LedgerEntry& e : session.study().history().ledger()) {
            rows.push_back({e.id,
                            {QString::fromStdString(session.zone().text(e.at)), QString::fromStdString(e.who),
                             QString::fromStdString(e.what), QString::fromStdString(e.why)}});
            rows.back().sortBy(0, e.at);
        }
        std::reverse(rows.begin(), rows.end());
        model->setRows(std::move(rows));
    };
    connect(&session, &Session::studyChanged, this, fill);
    fill();
}

}  // namespace jacinth::app
