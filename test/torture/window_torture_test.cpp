// The window on damaged studies, killed in the middle of an import, and killed with a command beside it.
// Seeds as in the other two: JACINTH_WINDOW_DAMAGES and JACINTH_WINDOW_KILLS say how many, JACINTH_SEED where
// to begin.
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <QAction>
#include <QApplication>
#include <QDialog>
#include <QPushButton>
#include <QStandardPaths>
#include <QThread>
#include <QTimer>
#include <map>
#include <random>
#include <set>
#include <thread>

#include "app/window/application.h"
#include "app/window/import_dialog.h"
#include "app/window/main_window.h"
#include "store/tracks.h"
#include "test/cli_runner.h"
#include "test/torture/damage.h"
#include "test/torture/full_study.h"
#include "test/torture/long_import.h"
#include "test/torture/seeds.h"

namespace jacinth::test {
namespace {

/// In a process of its own: a test that has an application cannot be forked.
app::Application& application() {
    static int argc = 1;
    static char name[] = "jacinth";
    static char* argv[] = {name, nullptr};
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QStandardPaths::setTestModeEnabled(true);
    static app::Application made(argc, argv);
    return made;
}

void settle(app::Session& session) {
    for (int quiet = 0; quiet < 3;) {
        QApplication::processEvents();
        QThread::msleep(2);
        quiet = session.busy() ? 0 : quiet + 1;
    }
}

std::unique_ptr<app::MainWindow> windowOn(std::unique_ptr<Study> study) {
    auto window = std::make_unique<app::MainWindow>(std::move(study), app::ThemeChoice::Light);
    window->resize(1280, 800);
    window->show();
    settle(window->session());
    return window;
}

enum Outcome : char { kOpened = 'o', kRefused = 'r', kNoWindow = 'w', kSilent = 's' };

/// Every bench once, on what is whole.
Outcome lookThrough(const std::string& path) {
    auto opened = Study::open(path);
    if (!opened) return kRefused;
    const bool damaged = !(*opened)->damage().empty();
    std::unique_ptr<app::MainWindow> window;
    try {
        window = windowOn(std::move(*opened));
    } catch (const StoreError& e) {
        std::fprintf(stderr, "no window: %s\n", e.what());
        return kNoWindow;
    }
    for (const app::BenchId bench : {app::BenchId::Survey, app::BenchId::Mend, app::BenchId::Screen,
                                     app::BenchId::Label, app::BenchId::Prove}) {
        window->session().view().setBench(bench);
        settle(window->session());
    }
    const auto* box = window->findChild<QWidget*>("damageBox");
    const bool said = box && box->isVisible();
    window->close();
    return damaged && !said ? kSilent : kOpened;
}

TEST(WindowDamage, OpensWithWhatIsWholeAndSaysWhatIsNot) {
    Folder folder("window-damage");
    const std::string whole = folder / "whole.jacinth";
    {
        auto study = std::move(*Study::create(whole));
        fillStudy(*study, 1);
    }
    const std::string bytes = bytesOf(whole);
    Trials trials;
    trials.first = static_cast<unsigned>(fromEnvironment("JACINTH_SEED", 1));
    trials.count = static_cast<unsigned>(fromEnvironment("JACINTH_WINDOW_DAMAGES", 25));
    trials.batch = 25;
    const auto begin = [&]() -> std::function<char(unsigned)> {
        application();
        return [&](unsigned seed) {
            const std::string path = folder / "damaged.jacinth";
            for (const char* end : {"", "-wal", "-shm"}) fs::remove(path + end);
            (void)writeDamaged(bytes, seed, path);
            return lookThrough(path);
        };
    };
    auto outcomes = outcomesOf(trials, begin, [](unsigned seed, char outcome) {
        EXPECT_NE(outcome, kSilent) << "seed " << seed << ": nothing was said about the damage";
        if (outcome == kNoWindow) std::printf("seed %u has no window\n", seed);
    });
    std::printf("%u damaged studies: %d opened in the window, %d refused, %d without a window\n",
                trials.count, outcomes[kOpened], outcomes[kRefused], outcomes[kNoWindow]);
    EXPECT_LT(outcomes[kNoWindow] * 20, static_cast<int>(trials.count));
}

[[noreturn]] void importInWindow(const std::string& path, const std::string& file, int pipe) {
    application();
    auto window = windowOn(std::move(*Study::open(path)));
    app::ImportDialog dialog(window->session(), {QString::fromStdString(file)}, window.get());
    dialog.show();
    settle(window->session());
    auto* import = dialog.findChild<QPushButton*>("importStart");
    if (!import || !import->isEnabled()) ::_exit(2);
    import->click();
    const char started = 's';
    if (::write(pipe, &started, 1) != 1) ::_exit(3);
    settle(window->session());
    ::_exit(0);
}

TEST(WindowKill, AnImportThatIsKilledLosesNothingAndARepeatCompletesIt) {
    const int kills = fromEnvironment("JACINTH_WINDOW_KILLS", 4), seed = fromEnvironment("JACINTH_SEED", 1);
    Folder folder("window-kill");
    const LongImport import(folder.path(), 700'000);
    std::mt19937 random(static_cast<unsigned>(seed));
    std::map<LongImport::Killed, int> when;
    for (int kill = 0; kill < kills && !::testing::Test::HasFailure(); ++kill) {
        const std::string path = import.freshCopy();
        int ends[2];
        ASSERT_EQ(::pipe(ends), 0);
        const pid_t child = ::fork();
        if (child == 0) {
            ::close(ends[0]);
            importInWindow(path, import.file(), ends[1]);
        }
        ::close(ends[1]);
        char started = 0;
        EXPECT_EQ(::read(ends[0], &started, 1), 1) << "the import did not start";
        const auto after = std::chrono::milliseconds(random() % 1200);
        std::this_thread::sleep_for(after);
        ::kill(child, SIGKILL);
        ::close(ends[0]);
        int status = 0;
        ::waitpid(child, &status, 0);
        SCOPED_TRACE("killed after " + std::to_string(after.count()) + " ms");
        ++when[import.completeAfterKill(path)];
    }
    std::printf("%d kills of an import in the window, %d of them in the middle of it, %d after it\n", kills,
                when[LongImport::Killed::InTheMiddle], when[LongImport::Killed::After]);
}

/// Opens each question for a file and leaves it, as somebody does who looks for something.
int openAndLeaveDialogs(app::MainWindow& window) {
    QTimer leave;
    int seen = 0;
    QObject::connect(&leave, &QTimer::timeout, [&seen] {
        auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
        if (!dialog) return;
        ++seen;
        dialog->reject();
    });
    leave.start(120);
    for (const char* keys : {"Ctrl+O", "Ctrl+I"})
        for (QAction* action : window.findChildren<QAction*>())
            if (action->shortcut() == QKeySequence(keys)) {
                action->trigger();
                break;
            }
    return seen;
}

/// Labels, counted from `first`; writes the number of each to the pipe once it is committed.
[[noreturn]] void labelInWindow(const std::string& path, int first, int pipe) {
    application();
    auto window = windowOn(std::move(*Study::open(path)));
    if (openAndLeaveDialogs(*window) < 2) ::_exit(4);
    settle(window->session());
    const AssetId asset = window->session().study().catalog().assets().front().id;
    for (int n = first;; ++n) {
        const bool done = window->session().tryChange([&] {
            Study& study = window->session().study();
            study.change("label", "", {}, [&] {
                const TrackId labels = study.tracks().put("Labels", track_kind::kLabels);
                const Instant from = study.record().from + (n - first) * kMinute;
                study.tracks().addSpan(labels,
                                       {{}, asset, {}, from, from + kMinute, {{"window", double(n)}}});
            });
        });
        if (!done || ::write(pipe, &n, sizeof n) != sizeof n) ::_exit(3);
        QApplication::processEvents();
    }
}

/// The numbers that labels have in a fact.
std::set<int> numbersOf(const Study& study, const char* fact) {
    std::set<int> out;
    for (const Span& s : study.tracks().spansOf(track_kind::kLabels))
        if (s.facts.contains(fact)) out.insert(static_cast<int>(factNumber(s.facts, fact)));
    return out;
}

TEST(WindowKill, AWindowAfterDialogsAndACommandBesideItLoseNothingThatWasCommitted) {
    const int kills = fromEnvironment("JACINTH_WINDOW_KILLS", 4), seed = fromEnvironment("JACINTH_SEED", 1);
    Folder folder("window-beside");
    const std::string path = folder / "s.jacinth";
    {
        auto study = std::move(*Study::create(path));
        fillStudy(*study, 1);
    }
    const std::string asset = (*Study::open(path))->catalog().assets().front().name;
    std::mt19937 random(static_cast<unsigned>(seed));
    std::set<int> byWindow, byCommand;
    int command = 0, midCommand = 0;
    for (int kill = 0; kill < kills && !::testing::Test::HasFailure(); ++kill) {
        const std::size_t before = numbersOf(**Study::open(path, true), "window").size();
        const int first = kill * 1'000'000;
        int ends[2];
        ASSERT_EQ(::pipe(ends), 0);
        const pid_t child = ::fork();
        if (child == 0) {
            ::close(ends[0]);
            labelInWindow(path, first, ends[1]);
        }
        ::close(ends[1]);
        int last = -1, n = 0;
        ASSERT_EQ(::read(ends[0], &n, sizeof n), static_cast<ssize_t>(sizeof n))
            << "the window labelled nothing";
        last = n;
        const auto label = [&](int number) {
            return std::vector<std::string>{"label",
                                            "add",
                                            path,
                                            "--asset",
                                            asset,
                                            "--from",
                                            "2026-03-01T00:00:00Z",
                                            "--to",
                                            "2026-03-01T01:00:00Z",
                                            "--kind",
                                            "fault",
                                            "--note",
                                            "command " + std::to_string(number)};
        };
        for (unsigned k = 0; k < random() % 3; ++k)
            if (const Said said = run(label(command)); said.code == 0)
                byCommand.insert(command++);
            else
                ADD_FAILURE() << said.err;
        midCommand += runAndKill(label(command++), std::chrono::microseconds(random() % 40'000));
        ::kill(child, SIGKILL);
        int status = 0;
        ::waitpid(child, &status, 0);
        while (::read(ends[0], &n, sizeof n) == static_cast<ssize_t>(sizeof n)) last = n;
        ::close(ends[0]);
        const auto study = std::move(*Study::open(path));
        const auto faults = study->check();
        EXPECT_TRUE(faults.empty()) << faults.front();
        const std::set<int> there = numbersOf(*study, "window");
        for (int i = first; i <= last; ++i)
            EXPECT_TRUE(there.contains(i)) << "kill " << kill << ": label " << i;
        EXPECT_GE(there.size(), before);
        std::set<std::string> notes;
        for (const Span& s : study->tracks().spansOf(track_kind::kLabels))
            notes.insert(factText(s.facts, "note"));
        for (const int i : byCommand)
            EXPECT_TRUE(notes.contains("command " + std::to_string(i))) << "kill " << kill;
        byWindow.insert(there.begin(), there.end());
    }
    std::printf(
        "%d kills of window and command together: %zu labels of the window, %zu commands whole, %d amid "
        "one\n",
        kills, byWindow.size(), byCommand.size(), midCommand);
}

}  // namespace
}  // namespace jacinth::test
