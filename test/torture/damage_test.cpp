// Damage anywhere in a study file: no crash, no hang, and no result that is different while `check` says that
// the study is clean. Damages come from a seed: JACINTH_DAMAGES says how many, JACINTH_SEED where to begin.
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdlib>
#include <fstream>
#include <map>
#include <random>

#include "test/cli_runner.h"
#include "test/torture/damage.h"
#include "test/torture/full_study.h"

namespace jacinth::test {
namespace {

constexpr unsigned kLongest = 30;  // seconds

enum Outcome { kSame = 0, kNoticed = 1, kRefused = 2, kChangedUnnoticed = 3 };

/// What becomes of a damaged study, in a process of its own.
Outcome readDamaged(const std::string& path, std::size_t expected) {
    try {
        auto opened = Study::open(path);
        if (!opened) return kRefused;
        const bool clean = (*opened)->check().empty() && (*opened)->damage().empty();
        std::size_t found = 0;
        try {
            found = std::hash<std::string>{}(readAll(**opened));
        } catch (const std::exception&) {
            return clean ? kChangedUnnoticed : kNoticed;
        }
        if (!clean) return kNoticed;
        return found == expected ? kSame : kChangedUnnoticed;
    } catch (const std::exception&) {
        return kRefused;
    }
}

TEST(Damage, IsNoticedWhereverItLies) {
    Folder folder("damage");
    const std::string whole = folder / "whole.jacinth";
    {
        auto study = std::move(*Study::create(whole));
        fillStudy(*study, 1);
    }
    std::size_t expected = 0;
    {
        auto study = std::move(*Study::open(whole));
        ASSERT_EQ(study->check(), std::vector<std::string>{});
        expected = std::hash<std::string>{}(readAll(*study));
    }
    const std::string bytes = bytesOf(whole);
    const char* text = std::getenv("JACINTH_DAMAGES");
    const int damages = text ? std::atoi(text) : 150;
    const char* seedText = std::getenv("JACINTH_SEED");
    const unsigned first = seedText ? static_cast<unsigned>(std::atoi(seedText)) : 1;
    std::map<int, int> outcomes;
    for (unsigned seed = first; seed < first + static_cast<unsigned>(damages); ++seed) {
        const std::string path = folder / "damaged.jacinth";
        for (const char* end : {"", "-wal", "-shm"}) fs::remove(path + end);
        const std::string what = writeDamaged(bytes, seed, path);
        const pid_t child = ::fork();
        if (child == 0) {
            ::alarm(kLongest);
            ::_exit(readDamaged(path, expected));
        }
        int status = 0;
        ::waitpid(child, &status, 0);
        ASSERT_TRUE(WIFEXITED(status))
            << "seed " << seed << " (" << what << ") ended by signal " << WTERMSIG(status);
        ++outcomes[WEXITSTATUS(status)];
        EXPECT_NE(WEXITSTATUS(status), kChangedUnnoticed) << "seed " << seed << ": " << what;
    }
    std::printf("%d damages: %d without effect, %d noticed, %d refused, %d unnoticed\n", damages,
                outcomes[kSame], outcomes[kNoticed], outcomes[kRefused], outcomes[kChangedUnnoticed]);
    EXPECT_GT(outcomes[kNoticed] + outcomes[kRefused], damages / 3);
}

}  // namespace
}  // namespace jacinth::test
