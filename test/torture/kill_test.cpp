// A kill at any moment of any work loses nothing that was committed. The moments come from a seed:
// JACINTH_KILLS says how many (a few by themselves), JACINTH_SEED where to begin.
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdlib>
#include <filesystem>
#include <functional>
#include <random>
#include <thread>

#include "test/cli_runner.h"
#include "test/torture/full_study.h"
#include "test/torture/seeds.h"

namespace jacinth::test {
namespace {

constexpr int kSteps = 12;

/// What is read of a study, without what differs between one go and two: derived samples are made again by
/// themselves, and imports that were broken off leave their record.
std::size_t stateOf(Study& study) {
    study.reload();  // as it would be opened
    return std::hash<std::string>{}(readAll(study));
}

/// Does the steps from `first` on and says each one's number through the pipe when it is done.
[[noreturn]] void work(const std::string& path, unsigned seed, int first, int pipe) {
    try {
        auto study = std::move(*Study::open(path));
        for (int i = first; i < kSteps; ++i) {
            doStep(*study, seed, i);
            const auto done = static_cast<unsigned char>(i);
            if (::write(pipe, &done, 1) != 1) ::_exit(3);
        }
    } catch (const std::exception& e) {
        std::fprintf(stderr, "step failed: %s\n", e.what());
        ::_exit(2);
    }
    ::_exit(0);
}

class KillAnywhere : public ::testing::Test {
  protected:
    KillAnywhere() : folder("kill-anywhere") {
        auto study = std::move(*Study::create(folder / "full.jacinth"));
        fillStudy(*study, 1);
    }

    /// The states that an undisturbed go passes through: before each step and after the last.
    std::vector<std::size_t> undisturbed(unsigned seed) {
        const std::string path = copy("undisturbed.jacinth");
        auto study = std::move(*Study::open(path));
        std::vector<std::size_t> out{stateOf(*study)};
        for (int i = 0; i < kSteps; ++i) {
            doStep(*study, seed, i);
            out.push_back(stateOf(*study));
        }
        return out;
    }
    std::string copy(const char* name) {
        const std::string path = folder / name;
        for (const char* end : {"-wal", "-shm"}) fs::remove(path + end);
        fs::copy_file(folder / "full.jacinth", path, fs::copy_options::overwrite_existing);
        return path;
    }
    /// The number of the last step that was reported before the kill; -1 for none.
    int workAndKill(const std::string& path, unsigned seed, int first, std::chrono::microseconds after) {
        int ends[2];
        if (::pipe(ends) != 0) return -2;
        const pid_t child = ::fork();
        if (child == 0) {
            ::close(ends[0]);
            work(path, seed, first, ends[1]);
        }
        ::close(ends[1]);
        std::this_thread::sleep_for(after);
        ::kill(child, SIGKILL);
        int status = 0;
        ::waitpid(child, &status, 0);
        EXPECT_FALSE(WIFEXITED(status) && WEXITSTATUS(status) == 2) << "a step failed";
        int last = first - 1;
        unsigned char done = 0;
        while (::read(ends[0], &done, 1) == 1) last = done;
        ::close(ends[0]);
        return last;
    }
    Folder folder;
};

TEST_F(KillAnywhere, NothingCommittedIsLostAndARepeatEndsWhereAnUndisturbedGoEnds) {
    const int kills = fromEnvironment("JACINTH_KILLS", 40), first = fromEnvironment("JACINTH_SEED", 1);
    if (kills == 0) GTEST_SKIP();
    std::mt19937 random(static_cast<unsigned>(first));
    int killed = 0, inTheMiddle = 0;
    for (unsigned seed = static_cast<unsigned>(first); killed < kills && !HasFailure(); ++seed) {
        const auto states = undisturbed(seed);
        const std::string path = copy("killed.jacinth");
        int next = 0;
        while (next < kSteps && killed < kills && !HasFailure()) {
            SCOPED_TRACE("seed " + std::to_string(seed) + ", step " + std::to_string(next));
            const auto after = std::chrono::microseconds(2000 + random() % 60'000);
            const int last = workAndKill(path, seed, next, after);
            ++killed;
            auto opened = Study::open(path);
            ASSERT_TRUE(opened) << opened.error().message;
            Study& study = **opened;
            ASSERT_EQ(study.check(), std::vector<std::string>{});
            // Every step that was reported is there, and the one under way is there as a whole or not at all.
            const std::size_t now = stateOf(study);
            const auto done = static_cast<std::size_t>(last) + 1;
            const bool whole = now == states[done] || (done + 1 < states.size() && now == states[done + 1]);
            EXPECT_TRUE(whole) << "after a kill in step " << last + 1 << " (" << stepName(seed, last + 1)
                               << ")";
            if (const char* dump = std::getenv("JACINTH_DUMP"); dump && !whole) {
                std::ofstream(std::string(dump) + "/killed") << readAll(study);
                auto other = std::move(*Study::open(copy("undisturbed.jacinth")));
                for (int i = 0; i <= last; ++i) doStep(*other, seed, i);
                std::ofstream(std::string(dump) + "/before") << readAll(*other);
                if (last + 1 < kSteps) doStep(*other, seed, last + 1);
                std::ofstream(std::string(dump) + "/after") << readAll(*other);
            }
            inTheMiddle += last + 1 < kSteps;
            next = last + 1;
            if (next < kSteps && now == states[done + 1] && now != states[done]) ++next;
        }
        if (next >= kSteps && !HasFailure()) {
            auto study = std::move(*Study::open(path));
            EXPECT_EQ(stateOf(*study), states.back()) << "seed " << seed;
        }
    }
    std::printf("%d kills, %d of them in the middle of the work\n", killed, inTheMiddle);
    EXPECT_GT(inTheMiddle, killed / 3);
}

}  // namespace
}  // namespace jacinth::test
