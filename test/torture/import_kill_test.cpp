// An import by the command line that is killed at any moment. JACINTH_IMPORT_KILLS says how many kills,
// JACINTH_SEED where to begin.
#include <random>

#include "test/cli_runner.h"
#include "test/torture/long_import.h"
#include "test/torture/seeds.h"

namespace jacinth::test {
namespace {

TEST(ImportKill, LosesNothingAndARepeatCompletesIt) {
    const int kills = fromEnvironment("JACINTH_IMPORT_KILLS", 12), seed = fromEnvironment("JACINTH_SEED", 1);
    Folder folder("import-kill");
    const LongImport import(folder.path(), 150'000);
    std::mt19937 random(static_cast<unsigned>(seed));
    std::map<LongImport::Killed, int> when;
    for (int kill = 0; kill < kills && !::testing::Test::HasFailure(); ++kill) {
        const std::string path = import.freshCopy();
        const auto after = std::chrono::milliseconds(5 + random() % 400);
        SCOPED_TRACE("kill " + std::to_string(kill) + " after " + std::to_string(after.count()) + " ms");
        (void)runAndKill({"import", path, import.file()}, after);
        ++when[import.completeAfterKill(path)];
    }
    std::printf("%d kills of an import: %d before it stored anything, %d in the middle of it, %d after it\n",
                kills, when[LongImport::Killed::Before], when[LongImport::Killed::InTheMiddle],
                when[LongImport::Killed::After]);
}

}  // namespace
}  // namespace jacinth::test
