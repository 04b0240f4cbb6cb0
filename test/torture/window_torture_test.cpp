// The window on damaged studies, and killed in the middle of an import. Seeds as in the other two:
// JACINTH_WINDOW_DAMAGES and JACINTH_WINDOW_KILLS say how many, JACINTH_SEED where to begin.
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <QApplication>
#include <QPushButton>
#include <QStandardPaths>
#include <QThread>
#include <map>
#include <random>
#include <thread>

#include "app/shell/application.h"
#include "app/shell/import_dialog.h"
#include "app/shell/main_window.h"
#include "test/cli_runner.h"
#include "test/torture/damage.h"
#include "test/torture/full_study.h"

namespace jacinth::test {
namespace {

constexpr unsigned kLongest = 60;  // seconds for one study
constexpr unsigned kBatch = 25;    // studies that one process opens after each other

int fromEnvironment(const char* name, int otherwise) {
    const char* text = std::getenv(name);
    return text ? std::atoi(text) : otherwise;
}

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

void openBatch(const std::string& bytes, const std::string& path, unsigned first, unsigned count, int pipe) {
    application();
    for (unsigned seed = first; seed < first + count; ++seed) {
        for (const char* end : {"", "-wal", "-shm"}) fs::remove(path + end);
        (void)writeDamaged(bytes, seed, path);
        ::alarm(kLongest);
        const char outcome = lookThrough(path);
        if (::write(pipe, &outcome, 1) != 1) ::_exit(3);
    }
    ::_exit(0);
}

TEST(WindowDamage, OpensWithWhatIsWholeAndSaysWhatIsNot) {
    Folder folder("window-damage");
    const std::string whole = folder / "whole.jacinth";
    {
        auto study = std::move(*Study::create(whole));
        fillStudy(*study, 1);
    }
    const std::string bytes = bytesOf(whole);
    const auto damages = static_cast<unsigned>(fromEnvironment("JACINTH_WINDOW_DAMAGES", 25)),
               first = static_cast<unsigned>(fromEnvironment("JACINTH_SEED", 1));
    std::map<char, int> outcomes;
    for (unsigned done = 0; done < damages;) {
        const unsigned count = std::min(kBatch, damages - done);
        int ends[2];
        ASSERT_EQ(::pipe(ends), 0);
        const pid_t child = ::fork();
        if (child == 0) {
            ::close(ends[0]);
            openBatch(bytes, folder / "damaged.jacinth", first + done, count, ends[1]);
        }
        ::close(ends[1]);
        unsigned seed = first + done;
        char outcome = 0;
        for (; ::read(ends[0], &outcome, 1) == 1; ++seed) {
            ++outcomes[outcome];
            if (outcome == kNoWindow) std::printf("seed %u has no window\n", seed);
            EXPECT_NE(outcome, kSilent) << "seed " << seed << ": nothing was said about the damage";
        }
        ::close(ends[0]);
        int status = 0;
        ::waitpid(child, &status, 0);
        EXPECT_TRUE(WIFEXITED(status)) << "seed " << seed << " ended by signal " << WTERMSIG(status);
        done = seed - first + (WIFEXITED(status) ? 0 : 1);
        if (WIFEXITED(status) && WEXITSTATUS(status) != 0) break;
    }
    std::printf("%u damaged studies: %d opened in the window, %d refused, %d without a window\n", damages,
                outcomes[kOpened], outcomes[kRefused], outcomes[kNoWindow]);
    EXPECT_LT(outcomes[kNoWindow] * 20, static_cast<int>(damages));
}

/// Two known tags and a new one, long enough that a kill can fall into any part of it.
std::string longFile() {
    std::string out = "time,Press 1/Temp,Press 2/Temp,Press 3/Temp\n";
    for (int i = 0; i < 700'000; ++i)
        out += toIso(*fromIso("2026-04-01T00:00:00Z") + i * 5 * kSecond) + ",1" + std::to_string(i % 977) +
               ",2" + std::to_string(i % 31) + ",3" + std::to_string(i % 7) + "\n";
    return out;
}

/// All logged samples of all tags that no expression gives, as one number.
std::size_t samplesOf(const std::string& path) {
    auto study = std::move(*Study::open(path));
    std::size_t out = 0;
    const auto add = [&](std::size_t v) { out = out * 1099511628211u + v; };
    for (const Tag& t : study->catalog().tags()) {
        if (!study->derivedDefinition(t.id).is_null()) continue;
        add(std::hash<std::string>{}(t.path()));
        const Series s = study->read(t, study->record(), Which::AsLogged);
        for (std::size_t i = 0; i < s.size(); ++i) {
            add(static_cast<std::size_t>(s.times[i]));
            add(std::hash<double>{}(s.values[i]));
        }
    }
    return out;
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
    const std::string before = folder / "before.jacinth", file = folder / "long.csv";
    {
        auto study = std::move(*Study::create(before));
        fillStudy(*study, 1);
    }
    std::ofstream(file) << longFile();
    const auto copy = [&](const std::string& to) {
        for (const char* end : {"-wal", "-shm"}) fs::remove(to + end);
        fs::copy_file(before, to, fs::copy_options::overwrite_existing);
        return to;
    };
    const auto importAgain = [&](const std::string& path) {
        const Said said = run({"import", path, file});
        EXPECT_EQ(said.code, 0) << said.err;
        return samplesOf(path);
    };
    const std::size_t undisturbed = importAgain(copy(folder / "undisturbed.jacinth"));
    std::mt19937 random(static_cast<unsigned>(seed));
    int inTheMiddle = 0, ended = 0;
    for (int kill = 0; kill < kills && !::testing::Test::HasFailure(); ++kill) {
        const std::string path = copy(folder / "killed.jacinth");
        int ends[2];
        ASSERT_EQ(::pipe(ends), 0);
        const pid_t child = ::fork();
        if (child == 0) {
            ::close(ends[0]);
            importInWindow(path, file, ends[1]);
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
        auto study = std::move(*Study::open(path));
        EXPECT_EQ(study->check(), std::vector<std::string>{}) << "killed after " << after.count() << " ms";
        const auto imports = study->imports();
        const bool begun = !imports.empty() && imports.back().file == "long.csv";
        inTheMiddle += begun && !imports.back().complete;
        ended += begun && imports.back().complete;
        study.reset();
        EXPECT_EQ(importAgain(path), undisturbed) << "killed after " << after.count() << " ms";
    }
    std::printf("%d kills of an import in the window, %d of them in the middle of it, %d after it\n", kills,
                inTheMiddle, ended);
}

}  // namespace
}  // namespace jacinth::test
