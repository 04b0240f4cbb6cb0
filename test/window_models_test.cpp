// Every table's model under the toolkit's model tester while the study changes, and the commands that tables
// have of their own on the right button.
#include <QAbstractItemModelTester>
#include <QAbstractItemView>
#include <set>

#include "app/screen/limits_dialog.h"
#include "app/window/derived_dialog.h"
#include "app/window/imports_dialog.h"
#include "app/window/ledger_dialog.h"
#include "app/window/tags_dialog.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/dialogs.h"
#include "test/window_driver.h"
#include "work/label/labels.h"
#include "work/mend/mending.h"
#include "work/runs/edit_runs.h"

namespace jacinth::test {
namespace {

class Models : public ::testing::Test {
  protected:
    Models() : folder("models") {
        copyDemo(folder / "s.jacinth");
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->settle();
    }
    /// Puts every model of our own that a view below `root` shows under a tester that aborts at a fault.
    void test(QWidget* root) {
        for (auto* view : root->findChildren<QAbstractItemView*>()) {
            QAbstractItemModel* model = view->model();
            if (!model || !QByteArray(model->metaObject()->className()).startsWith("jacinth")) continue;
            if (!tested.insert(model).second) continue;
            new QAbstractItemModelTester(model, QAbstractItemModelTester::FailureReportingMode::Fatal, model);
            names << view->objectName();
        }
    }
    void visitAll() {
        for (const app::BenchId id : {app::BenchId::Survey, app::BenchId::Mend, app::BenchId::Screen,
                                      app::BenchId::Label, app::BenchId::Prove}) {
            d->bench(id);
            if (auto* paged = qobject_cast<app::PagedBench*>(d->window().current()))
                for (int page = 0; page < paged->pageNames().size(); ++page) {
                    paged->turnToPage(page);
                    d->settle();
                    test(&d->window());
                }
            d->settle();
            test(&d->window());
        }
    }
    Fix someFix() {
        const TagId tag = d->tagId("Kiln 1/Air-on temp");
        const TimeRange r = d->view().record();
        return {{}, tag, ShiftFix{0.5}, r.from + kDay, r.from + 2 * kDay, true, "knock"};
    }
    /// The middle of a row, where the right button is pressed.
    static QPoint inRow(const QTableView* table, int row) {
        return table->visualRect(table->model()->index(row, 1)).center();
    }
    QStringList take(QTableView* table, int row, const QString& command) {
        table->scrollTo(table->model()->index(row, 1));
        return takeFromMenu(table->viewport(), "tableMenu", command, inRow(table, row));
    }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
    std::set<const QAbstractItemModel*> tested;
    QStringList names;
};

TEST_F(Models, KeepTheRulesOfTheToolkitWhileTheStudyChanges) {
    visitAll();
    EXPECT_GE(tested.size(), 12u) << names.join(", ").toStdString();
    const auto track = d->study().tracks().firstOf(track_kind::kRuns);
    d->session().tryChange([&] { ASSERT_TRUE(enterFix(d->study(), someFix())); });
    d->session().tryChange([&] {
        const TimeRange r{d->view().record().from + kDay, d->view().record().from + 2 * kDay};
        ASSERT_TRUE(addLabelled(d->study(), {{}, d->view().asset(), {}, r.from, r.to, {}}, "", "x"));
    });
    if (track)
        d->session().tryChange([&] {
            const auto runs = d->study().tracks().spans(track->id);
            ASSERT_TRUE(leaveOutRuns(d->study(), {runs.front().id, runs.back().id}, "test"));
        });
    d->settle();
    visitAll();
    d->clickAsset("Kiln 2");
    d->settle();
    while (d->study().history().nextUndo()) {
        d->session().undo();
        if (d->study().history().undoName().empty()) break;
        d->settle();
        if (d->study().judgement().allFixes().empty()) break;
    }
    visitAll();
}

TEST_F(Models, OfDialogsAsWell) {
    app::TagsDialog tags(d->session(), {}, &d->window());
    app::DerivedDialog derived(d->session(), {}, &d->window());
    app::LimitsDialog limits(d->session(), &d->window());
    app::ImportsDialog imports(d->session(), &d->window());
    app::LedgerDialog ledger(d->session(), &d->window());
    for (QDialog* dialog : std::initializer_list<QDialog*>{&tags, &derived, &limits, &imports, &ledger})
        test(dialog);
    EXPECT_GE(tested.size(), 6u) << names.join(", ").toStdString();
    auto* filter = tags.findChild<QLineEdit*>("tagsFilter");
    ASSERT_TRUE(filter);
    for (const char* words : {"temp", "no such tag", ""}) {
        filter->setText(words);
        QApplication::processEvents();
    }
    d->session().tryChange([&] { ASSERT_TRUE(enterFix(d->study(), someFix())); });
    d->settle();
    d->session().undo();
    d->settle();
}

TEST_F(Models, AFixIsSwitchedAndRemovedFromTheMenuOfItsRow) {
    d->bench(app::BenchId::Mend);
    d->clickTag("Kiln 1/Air-on temp");
    d->session().tryChange([&] { ASSERT_TRUE(enterFix(d->study(), someFix())); });
    d->settle();
    QTableView* ledger = d->window().mend()->ledger();
    const auto fix = [&]() -> std::optional<Fix> {
        const auto all = d->study().judgement().allFixes();
        return all.empty() ? std::nullopt : std::optional(all.back());
    };
    const auto before = d->study().judgement().allFixes().size();
    auto* model = qobject_cast<app::RowsModel*>(ledger->model());
    const int row = model->rowOf(fix()->id);
    ASSERT_GE(row, 0);
    const QStringList offered = take(ledger, row, "Switch on or off");
    EXPECT_TRUE(offered.contains("Edit this fix") && offered.contains("Copy row"))
        << offered.join(", ").toStdString();
    d->settle();
    EXPECT_FALSE(fix()->on);
    take(ledger, model->rowOf(fix()->id), d->find<QPushButton>("removeFix")->text());
    d->settle();
    EXPECT_EQ(d->study().judgement().allFixes().size(), before - 1);
    d->session().undo();
    d->settle();
    EXPECT_EQ(d->study().judgement().allFixes().size(), before);
}

TEST_F(Models, ARowCommandIsOnThatRowAndNotOnTheOneThatWasChosen) {
    d->bench(app::BenchId::Label);
    const TimeRange r = d->view().record();
    SpanId first, second;
    d->session().tryChange([&] {
        first = *addLabelled(d->study(), {{}, d->view().asset(), {}, r.from, r.from + kDay, {}}, "", "a");
        second = *addLabelled(d->study(),
                              {{}, d->view().asset(), {}, r.from + 2 * kDay, r.from + 3 * kDay, {}}, "", "b");
    });
    d->settle();
    QTableView* list = d->window().label()->list();
    auto* model = qobject_cast<app::RowsModel*>(list->model());
    list->selectRow(model->rowOf(first));
    take(list, model->rowOf(second), "Remove the chosen marks");
    d->settle();
    EXPECT_TRUE(d->study().tracks().span(first));
    EXPECT_FALSE(d->study().tracks().span(second));
}

TEST_F(Models, AnAlarmOfASortedTableIsTheOneThatIsOpened) {
    d->bench(app::BenchId::Prove);
    QTest::keyClicks(d->window().prove()->editor(), "mean(@bearing_vibration over 2h) > 2.75 for 20m");
    QTest::qWait(400);  // the text is checked when typing stops
    d->settle();
    d->click("proveButton");
    d->settle();
    ASSERT_TRUE(d->window().prove()->proof());
    const Proof proof = *d->window().prove()->proof();
    ASSERT_GE(proof.alarms.size(), 3u);
    QTableView* alarms = d->window().prove()->alarms();
    alarms->model()->sort(2, Qt::DescendingOrder);
    // A row that does not stand where it was given.
    int row = 0;
    const auto numberOf = [&](int r) { return alarms->model()->index(r, 0).data(Qt::UserRole).toLongLong(); };
    while (row + 1 < alarms->model()->rowCount() && numberOf(row) == row + 1) ++row;
    const std::int64_t number = numberOf(row);
    ASSERT_NE(number, row + 1);
    take(alarms, row, "See it in Survey");
    d->settle();
    EXPECT_EQ(d->view().bench(), app::BenchId::Survey);
    const AlarmVerdict& alarm = proof.alarms[static_cast<std::size_t>(number - 1)];
    EXPECT_EQ(d->view().asset(), alarm.asset);
    EXPECT_EQ(*d->view().cursor(0), alarm.range.from);
}

}  // namespace
}  // namespace jacinth::test
