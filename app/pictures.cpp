#include "app/pictures.h"

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <cstdio>

#include "app/base/tables.h"
#include "app/mend/tag_picker.h"
#include "app/window/import_dialog.h"
#include "app/window/main_window.h"
#include "app/window/welcome_page.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/label/labels.h"
#include "work/limits/screening.h"

namespace jacinth::app {
namespace {

void settle(MainWindow& window) {
    QElapsedTimer timer;
    timer.start();
    do QApplication::processEvents(QEventLoop::AllEvents, 50);
    while ((window.session().busy() && timer.elapsed() < 60000) || timer.elapsed() < 600);
}

bool save(QWidget& widget, const QString& folder, const QString& name) {
    const QString path = QDir(folder).filePath(name + ".png");
    const bool good = widget.grab().save(path);
    std::printf("%s\n", path.toUtf8().constData());
    return good;
}

void pointTo(Session& session, const std::string& asset, const std::string& role) {
    const Catalog& catalog = session.study().catalog();
    const Asset* a = catalog.assetNamed(asset);
    const Tag* t = a ? catalog.tagInRole(a->id, role) : nullptr;
    if (!t) return;
    session.view().select(a->id, t->id);
    std::vector<TagId> shown;
    for (const char* r :
         {"air_on_temp", "air_off_temp", "air_off_rh", "bearing_vibration", "bed_dp", "kiln_step"})
        if (const Tag* x = catalog.tagInRole(a->id, r)) shown.push_back(x->id);
    session.view().setShown(std::move(shown));
}

/// The asset and moment of the first failure: where there is something to see.
std::pair<std::string, Instant> worthSeeing(const Study& study) {
    const auto failures = study.tracks().spansOf(track_kind::kFailures);
    if (failures.empty())
        return {study.catalog().assets().empty() ? "" : study.catalog().assets().front().name,
                study.record().from};
    const Span& f = failures[failures.size() / 2];
    return {study.catalog().asset(f.asset)->name, f.start};
}

/// The stretch after a fix, of the same length, with a ramp fitted to its check readings as the current fix.
void showFixInHand(MainWindow& window, const Fix& fix) {
    window.mend()->openFix(fix.id);
    for (const int c : {0, 1}) window.session().view().setCursor(c, {});
    const Duration length = std::min<Duration>(fix.to - fix.from, 8 * kDay);
    window.session().view().setView({fix.to - 3 * kDay, fix.to + length + 36 * kHour});
    window.mend()->takeInHand({fix.to + 2 * kHour, fix.to + length});
    if (auto* fit = window.findChild<QPushButton*>("fitToReadings")) fit->click();
    if (auto* why = window.findChild<QLineEdit*>("fixWhy")) why->setText("drift again after recalibration");
}

/// A flame loss with the camera's frame beside the traces and marks in lanes; then what looks like it.
bool takeLabelPictures(MainWindow& window, const QString& folder) {
    Session& session = window.session();
    ViewState& view = session.view();
    const auto sources = session.study().judgement().evidence();
    const Asset* asset = sources.empty() ? nullptr : session.study().catalog().asset(sources.front().asset);
    if (!asset) {
        view.setBench(BenchId::Label);
        settle(window);
        return save(window, folder, "label");
    }
    pointTo(session, asset->name, "gas_flow");
    std::vector<TagId> shown;
    for (const char* role : {"gas_flow", "air_on_temp", "bed_dp"})
        if (const Tag* t = session.study().catalog().tagInRole(asset->id, role)) shown.push_back(t->id);
    view.setShown(shown);
    view.setBench(BenchId::Label);
    MarksPage& marks = *window.label()->marks();
    marks.showEvidence(true);
    settle(window);
    const auto& players = marks.evidence()->players();
    if (players.empty() || !players.front()->pictures().start()) return false;
    const Instant first = *players.front()->pictures().start() + players.front()->source().offset;
    SpanId example;
    for (const Span& s : labelsOf(session.study()))
        if (s.asset == asset->id && s.start >= first && !example) {
            example = s.id;
            // The picture shows work half done: a wider mark that nobody has named, and a doubtful one.
            const AssetId on = asset->id;
            session.tryChange([&] {
                Span doubtful{{}, on, {}, s.start - 20 * kMinute, s.end + 35 * kMinute, {}};
                doubtful.facts[label_fact::kCertainty] = std::string("unsure");
                session.report(addLabels(session.study(), {doubtful}, "normal"));
                session.report(addLabels(
                    session.study(), {Span{{}, on, {}, s.end + 20 * kMinute, s.end + 50 * kMinute, {}}}, ""));
            });
            view.setView({s.start - 40 * kMinute, s.end + kHour});
            view.setCursor(0, s.start - 30 * kSecond);
        }
    marks.choose({example});
    settle(window);
    bool good = save(window, folder, "label");
    view.setCursor(0, {});
    marks.searchAlike();
    settle(window);
    good &= save(window, folder, "label-alike");
    marks.showEvidence(false);
    for (int undone = 0; undone < 2; ++undone) session.undo();
    return good;
}

/// The suspected steps of the fleet, one of two tags on one mount in hand.
bool takeStepsPicture(MainWindow& window, const QString& folder) {
    for (const char* button : {"toSteps", "findSteps"})
        if (auto* b = window.findChild<QPushButton*>(button)) b->click();
    settle(window);
    const auto* table = window.findChild<QTableView*>("stepList");
    for (int row = 0; table && row < table->model()->rowCount(); ++row)
        if (table->model()->index(row, 7).data().toString().contains("mount"))
            table->selectionModel()->setCurrentIndex(
                table->model()->index(row, 0),
                QItemSelectionModel::ClearAndSelect | QItemSelectionModel::Rows);
    settle(window);
    const bool good = save(window, folder, "mend-steps");
    if (auto* ledger = window.findChild<QPushButton*>("toLedger")) ledger->click();
    return good;
}

/// A pressure against the current of the fan that makes it: the step of its sensor stands out.
bool takeRelationPicture(MainWindow& window, const QString& folder) {
    Session& session = window.session();
    const auto of = session.study().catalog().tagAt("Kiln 4/Bed ΔP"),
               on = session.study().catalog().tagAt("Kiln 4/Fan current");
    if (!of || !on) return true;  // not the demo plant
    session.view().select(of->asset, of->id);
    session.view().setView(session.view().record());
    window.mend()->turnTo(MendWay::Relation);
    settle(window);
    window.findChild<TagPicker*>()->setChosen({on->id});
    if (auto* every = window.findChild<QLineEdit*>("relationEvery")) every->setText("6h");
    if (auto* check = window.findChild<QPushButton*>("checkRelation")) check->click();
    settle(window);
    auto* moments = window.mend()->relationPage()->moments();
    if (moments->model()->rowCount() > 0) moments->selectRow(0);
    settle(window);
    const bool good = save(window, folder, "mend-relation");
    window.mend()->turnTo(MendWay::Fixes);
    return good;
}

void showWorstExcursion(MainWindow& window) {
    const auto all = excursionsOf(window.session().study());
    const KeptExcursion* worst = nullptr;
    for (const KeptExcursion& e : all)
        if (e.role == "air_off_temp" && e.side == Side::High &&
            (!worst || e.severity > worst->severity ||
             (e.severity == worst->severity && e.peak > worst->peak &&
              e.span.end - e.span.start < 5 * kHour)))
            worst = &e;
    if (worst) window.screen()->openSpan(worst->span.id);
}

void type(MainWindow& window, const char* field, const QString& text) {
    if (auto* editor = window.findChild<ExpressionEditor*>(field)) {
        editor->setPlainText(text);
        emit editor->editingFinished();
    }
    if (auto* f = window.findChild<QLineEdit*>(field)) {
        f->setText(text);
        emit f->editingFinished();
        emit f->textEdited(text);
    }
}

void press(MainWindow& window, const char* button) {
    if (auto* b = window.findChild<QPushButton*>(button)) b->click();
    settle(window);
}

/// A rule in two versions: its proof, a false alarm, the search over two settings (dark), side by side.
bool takeProvePictures(MainWindow& window, const QString& folder) {
    Session& session = window.session();
    session.view().setBench(BenchId::Prove);
    settle(window);
    ProveBench& bench = *window.prove();
    bool good = save(window, folder, "prove");
    Rule rule = bench.state().rule();
    rule.name = "Fan bearing wearing out";
    rule.text = "mean(@bearing_vibration over {hours}h) > {limit}";
    rule.settings = {{"hours", 6}, {"limit", 3.2}};
    bench.state().take(rule);
    settle(window);
    bench.state().keep(rule);
    rule.settings = {{"hours", 1}, {"limit", 2.2}};
    rule.note = "a lower limit, sooner";
    bench.state().take(rule);
    settle(window);
    bench.state().keep(rule);
    bench.turnTo(ProveWay::Alarms);
    settle(window);
    good &= save(window, folder, "prove-alarms");
    bench.turnTo(ProveWay::Search);
    for (const auto& [field, number] : {std::pair{"varyLow_hours", "1"},
                                        {"varyHigh_hours", "24"},
                                        {"varySteps_hours", "24"},
                                        {"varyLow_limit", "1.5"},
                                        {"varyHigh_limit", "6"},
                                        {"varySteps_limit", "31"}})
        type(window, field, number);
    press(window, "searchStart");
    const Theme theme = session.theme();
    session.setTheme(darkTheme());
    settle(window);
    good &= save(window, folder, "prove-search");
    session.setTheme(theme);
    bench.turnTo(ProveWay::Rules);
    settle(window);
    if (auto* list = window.findChild<QTableView*>("ruleList"))
        for (int row = 0; row < std::min(3, list->model()->rowCount()); ++row)
            list->model()->setData(list->model()->index(row, 0), Qt::Checked, Qt::CheckStateRole);
    settle(window);
    return save(window, folder, "prove-rules") && good;
}

/// Ways of Survey beside Traces, each on what it shows best in the demo plant.
bool takeSurveyPictures(MainWindow& window, const QString& folder) {
    Session& session = window.session();
    ViewState& view = session.view();
    view.setBench(BenchId::Survey);
    const TimeRange all = view.record();
    struct Shot {
        SurveyWay way;
        const char *name, *asset, *role;
        TimeRange range;
    };
    const std::array<Shot, 3> shots{{{SurveyWay::Fleet, "survey-fleet", "Kiln 4", "air_on_temp", all},
                                     {SurveyWay::Parts, "survey-parts", "Site", "outside_temp", all},
                                     {SurveyWay::Cycles, "survey-cycles", "Kiln 2", "bed_dp", all}}};
    bool good = true;
    for (const Shot& shot : shots) {
        pointTo(session, shot.asset, shot.role);
        view.setView(shot.range);
        window.survey()->turnTo(shot.way);
        if (shot.way == SurveyWay::Fleet)
            if (auto* role = window.findChild<QComboBox*>("fleetRole")) role->setCurrentText(shot.role);
        if (shot.way == SurveyWay::Cycles) {
            type(window, "cyclesWords", "belt");
            type(window, "cyclesOnly", "@kiln_step is \"Free-dry\"");
        }
        settle(window);
        good &= save(window, folder, shot.name);
    }
    window.survey()->turnTo(SurveyWay::Traces);
    return good;
}

/// The ways of Screen, on the worst excursion of the demo plant.
bool takeScreenPictures(MainWindow& window, const QString& folder) {
    window.session().view().setBench(BenchId::Screen);
    showWorstExcursion(window);
    settle(window);
    bool good = save(window, folder, "screen");
    const std::array<std::pair<ScreenWay, const char*>, 3> shots{
        {{ScreenWay::Runs, "screen-runs"},
         {ScreenWay::Excursions, "screen-excursions"},
         {ScreenWay::Causes, "screen-causes"}}};
    for (const auto& [way, name] : shots) {
        window.screen()->turnTo(way);
        settle(window);
        if (way == ScreenWay::Excursions) window.screen()->excursionsPage()->table()->selectRow(0);
        settle(window);
        good &= save(window, folder, name);
    }
    window.screen()->turnTo(ScreenWay::Sheet);
    return good;
}

/// What a new, empty study shows.
bool takeWelcomePicture(const QString& folder, ThemeChoice theme, const QSize& size) {
    const QString path = QDir(folder).filePath("empty-study.jacinth");
    auto study = Study::create(path.toStdString());
    if (!study) return false;
    bool good = false;
    {
        MainWindow window(std::move(*study), theme);
        window.resize(size);
        window.show();
        // What else was open on this machine is nobody's business.
        window.findChild<WelcomePage*>("welcome")->setRecent({});
        settle(window);
        good = save(window, folder, "welcome");
    }
    for (const char* end : {"", "-wal", "-shm"}) QFile::remove(path + end);
    return good;
}

bool takeImportPicture(MainWindow& window, const QString& folder) {
    const QString sample = QDir(folder).filePath("preview-sample.csv");
    QFile file(sample);
    if (!file.open(QIODevice::WriteOnly)) return false;
    file.write("time;Kiln 7/Air-on temp [°C];Kiln 7/Air-off RH [%];Kiln 7/Burner mode\n");
    for (int i = 0; i < 60; ++i) {
        const QString when = QString("29.03.2026 0%1:%2").arg(1 + i / 30).arg(i % 30 * 2, 2, 10, QChar('0'));
        file.write(QString("%1;%2;%3;%4\n")
                       .arg(when)
                       .arg(58.1 + i * 0.07, 0, 'f', 1)
                       .arg(i == 17 ? QString("??") : QString::number(88.4 - i * 0.1, 'f', 1))
                       .arg(i % 40 < 30 ? "Auto" : "Manual")
                       .replace(".", ",")
                       .replace("29,03,2026", "29.03.2026")
                       .toUtf8());
    }
    file.close();
    ImportDialog dialog(window.session(), {sample}, &window);
    dialog.show();
    settle(window);
    const bool good = save(dialog, folder, "import");
    QFile::remove(sample);
    return good;
}

}  // namespace

int takePictures(MainWindow& window, const QString& folder, const QSize& size) {
    QDir().mkpath(folder);
    window.resize(size);
    window.show();
    window.resize(size);
    Session& session = window.session();
    ViewState& view = session.view();
    const auto [asset, moment] = worthSeeing(session.study());
    pointTo(session, asset, "bearing_vibration");
    view.setBench(BenchId::Survey);
    view.setView({moment - 2 * kDay, moment + kDay});
    view.setCursor(0, moment - 20 * kHour);
    view.setCursor(1, moment - 4 * kHour);
    settle(window);
    bool good = save(window, folder, "survey");

    for (const int c : {0, 1}) view.setCursor(c, {});
    good &= takeSurveyPictures(window, folder);

    view.setBench(BenchId::Mend);
    const auto fixes = session.study().judgement().allFixes();
    if (!fixes.empty()) showFixInHand(window, fixes.front());
    settle(window);
    good &= save(window, folder, "mend");
    good &= takeStepsPicture(window, folder);
    good &= takeRelationPicture(window, folder);

    if (auto* why = window.findChild<QLineEdit*>("fixWhy")) why->clear();
    good &= takeScreenPictures(window, folder);

    good &= takeLabelPictures(window, folder);

    good &= takeProvePictures(window, folder);

    good &= takeImportPicture(window, folder);
    good &= takeWelcomePicture(folder, window.themeChoice(), size);
    return good ? 0 : 1;
}

}  // namespace jacinth::app
