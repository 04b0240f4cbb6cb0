// Damage anywhere in a study file: no crash, no hang, and no result that is different while `check` says that
// the study is clean. Damages come from a seed: JACINTH_DAMAGES says how many, JACINTH_SEED where to begin.
#include <gtest/gtest.h>

#include "test/cli_runner.h"
#include "test/torture/damage.h"
#include "test/torture/full_study.h"
#include "test/torture/seeds.h"

namespace jacinth::test {
namespace {

enum Outcome : char { kSame = 's', kNoticed = 'n', kRefused = 'r', kChangedUnnoticed = 'c' };

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
    const int damages = fromEnvironment("JACINTH_DAMAGES", 150);
    Trials trials;
    trials.first = static_cast<unsigned>(fromEnvironment("JACINTH_SEED", 1));
    trials.count = static_cast<unsigned>(damages);
    trials.batch = 25;
    const auto begin = [&]() -> std::function<char(unsigned)> {
        return [&](unsigned seed) {
            const std::string path = folder / "damaged.jacinth";
            for (const char* end : {"", "-wal", "-shm"}) fs::remove(path + end);
            const std::string what = writeDamaged(bytes, seed, path);
            const Outcome outcome = readDamaged(path, expected);
            if (outcome == kChangedUnnoticed) std::fprintf(stderr, "seed %u: %s\n", seed, what.c_str());
            return outcome;
        };
    };
    auto outcomes = outcomesOf(trials, begin, [](unsigned seed, char outcome) {
        EXPECT_NE(outcome, kChangedUnnoticed) << "seed " << seed;
    });
    std::printf("%d damages: %d without effect, %d noticed, %d refused, %d unnoticed\n", damages,
                outcomes[kSame], outcomes[kNoticed], outcomes[kRefused], outcomes[kChangedUnnoticed]);
    EXPECT_GT(outcomes[kNoticed] + outcomes[kRefused], damages / 3);
}

}  // namespace
}  // namespace jacinth::test
