// The commands themselves on damaged studies: none ends by a signal, hangs, or says something else about a
// study that `check` calls clean. JACINTH_COMMAND_DAMAGES says how many, JACINTH_SEED where to begin.
#include <gtest/gtest.h>

#include "test/cli_runner.h"
#include "test/torture/damage.h"
#include "test/torture/full_study.h"
#include "test/torture/seeds.h"

namespace jacinth::test {
namespace {

/// `a`: a command ended by a signal, or with an exit code that it does not have.
enum CommandOutcome : char { kUnchanged = 's', kSaid = 'n', kMisled = 'c', kAbnormal = 'a' };

/// In the order a user would take them; `screen` last, because it writes.
std::vector<std::vector<std::string>> commandsOn(const std::string& path) {
    return {{"check", path},
            {"tags", path, "--json"},
            {"read", path, "--tag", "Press 1/Temp", "--tag", "Press 2/Step", "--tag", "Press 1/Work"},
            {"prove", path, "--rule", "mean(@temp over 30m) > 58 for 10m", "--json"},
            {"screen", path, "--limits", "Usual", "--json"}};
}

/// What each command says of the undamaged study.
std::vector<std::string> undamaged(const std::string& path) {
    std::vector<std::string> out;
    for (const auto& command : commandsOn(path)) {
        const Said said = run(command);
        EXPECT_EQ(said.code, 0) << command.front() << ": " << said.err;
        out.push_back(said.out);
    }
    return out;
}

CommandOutcome tryAll(const std::string& path, const std::vector<std::string>& expected,
                      const std::string& what) {
    CommandOutcome outcome = kUnchanged;
    const auto commands = commandsOn(path);
    for (std::size_t i = 0; i < commands.size(); ++i) {
        const Said said = run(commands[i]);
        const std::string& name = commands[i].front();
        if (said.code != 0 && said.code != 1) {
            std::fprintf(stderr, "%s: `%s` ended with %d: %s\n", what.c_str(), name.c_str(), said.code,
                         said.err.c_str());
            return kAbnormal;
        }
        if (name == "check" && said.code != 0) outcome = kSaid;
        if (outcome == kUnchanged && said.out != expected[i]) {
            std::fprintf(stderr, "%s: `%s` says something else\n", what.c_str(), name.c_str());
            return kMisled;
        }
    }
    return outcome;
}

TEST(CommandDamage, NoCommandBreaksOrMisleads) {
    Folder folder("command-damage");
    const std::string whole = folder / "whole.jacinth";
    {
        auto study = std::move(*Study::create(whole));
        fillStudy(*study, 1);
    }
    const std::string bytes = bytesOf(whole);
    const std::vector<std::string> expected = undamaged(whole);
    Trials trials;
    trials.first = static_cast<unsigned>(fromEnvironment("JACINTH_SEED", 1));
    trials.count = static_cast<unsigned>(fromEnvironment("JACINTH_COMMAND_DAMAGES", 40));
    trials.batch = 25;
    const auto begin = [&]() -> std::function<char(unsigned)> {
        return [&](unsigned seed) {
            const std::string path = folder / "damaged.jacinth";
            for (const char* end : {"", "-wal", "-shm"}) fs::remove(path + end);
            const std::string what = writeDamaged(bytes, seed, path);
            return tryAll(path, expected, "seed " + std::to_string(seed) + ", " + what);
        };
    };
    auto outcomes = outcomesOf(trials, begin, [](unsigned seed, char outcome) {
        EXPECT_NE(outcome, kMisled) << "seed " << seed;
        EXPECT_NE(outcome, kAbnormal) << "seed " << seed;
    });
    std::printf("%u damages, five commands each: %d without effect, %d noticed by check\n", trials.count,
                outcomes[kUnchanged], outcomes[kSaid]);
    EXPECT_GT(outcomes[kSaid], static_cast<int>(trials.count) / 6);
}

}  // namespace
}  // namespace jacinth::test
