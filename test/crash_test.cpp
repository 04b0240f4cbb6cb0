// A kill at any moment of an import leaves a study that opens, is clean, and holds whole batches.
// JACINTH_SEED gives other moments.
#include <gtest/gtest.h>

#include <random>

#include "store/imports.h"
#include "store/sample_store.h"
#include "store/study.h"
#include "test/cli_runner.h"
#include "test/torture/seeds.h"
#include "work/derived/derived_expressions.h"

namespace jacinth::test {
namespace {

/// How long a command takes when nothing disturbs it: a machine under load takes several times as long.
std::chrono::milliseconds durationOf(const std::vector<std::string>& command) {
    const auto start = std::chrono::steady_clock::now();
    EXPECT_EQ(run(command).code, 0);
    return std::chrono::duration_cast<std::chrono::milliseconds>(std::chrono::steady_clock::now() - start);
}

TEST(Kill, AtTwentyRandomMomentsOfAnImport) {
    Folder folder("kill");
    const std::string files = std::string(JACINTH_DEMO_FOLDER) + "/files/";
    // A fan's record alone is one batch; with the wide files there are several commits to fall between.
    const auto importOf = [&](const std::string& study) {
        return std::vector<std::string>{"import",
                                        study,
                                        files + "record-states.csv",
                                        files + "record-kiln-1-10-s.csv",
                                        files + "record-kiln-1-30-s.csv",
                                        files + "record-kiln-2-10-s.csv",
                                        files + "record-kiln-2-30-s.csv"};
    };
    const auto whole = durationOf(importOf(folder / "whole.jacinth"));
    std::mt19937 random(static_cast<unsigned>(fromEnvironment("JACINTH_SEED", 1)));
    int killed = 0, withData = 0;
    for (int i = 0; i < 20; ++i) {
        const std::string study = folder / ("s" + std::to_string(i) + ".jacinth");
        killed += runAndKill(importOf(study), whole * static_cast<int>(random() % 1000) / 1000);
        if (!fs::exists(study)) continue;  // killed before the file was made
        auto opened = Study::open(study);
        if (!opened) {
            // Between making the file and its tables there is nothing to lose, and the message says what it
            // is.
            EXPECT_LT(fs::file_size(study), 200'000u) << opened.error().message;
            continue;
        }
        Study& s = **opened;
        const auto faults = s.check();
        EXPECT_TRUE(faults.empty()) << faults.front();
        // Whole batches: what an import says it stored is what is there.
        std::int64_t said = 0, there = 0;
        for (const ImportRecord& r : s.imports().all()) said += r.samples;
        for (const Tag& t : s.catalog().tags()) there += s.samples().whole(t.id).count;
        EXPECT_EQ(said, there);
        withData += there > 0;
        // And it can go on from there.
        const Said again = run({"import", study, files + "record-states.csv"});
        EXPECT_EQ(again.code, 0) << again.err;
    }
    std::printf("killed while running: %d of 20, with data on record: %d\n", killed, withData);
    EXPECT_GE(killed, 10);
    EXPECT_GE(withData, 3);
}

TEST(Kill, WhileDerivedTagsAreCalculated) {
    Folder folder("kill-derived");
    const std::string study = folder / "s.jacinth";
    copyDemo(study);
    std::mt19937 random(static_cast<unsigned>(fromEnvironment("JACINTH_SEED", 1)));
    int killed = 0;
    for (int i = 0; i < 12; ++i) {
        const std::string text = "mean(@air_on_temp over " + std::to_string(i + 1) + "h)";
        killed += runAndKill({"tag", "derive", study, "--name", "Slow air", text},
                             std::chrono::milliseconds(20 + random() % 380));
        auto opened = Study::open(study);
        ASSERT_TRUE(opened) << opened.error().message;
        const auto faults = (*opened)->check();
        EXPECT_TRUE(faults.empty()) << faults.front();
        // Where it is made at all its samples are all there and of its own text, or known not to be.
        for (const DerivedExpression& d : derivedExpressions(**opened))
            if (!d.stale) EXPECT_GT((*opened)->samples().whole(d.tag.id).count, 50'000u);
    }
    std::printf("killed while running: %d of 12\n", killed);
    EXPECT_GE(killed, 4);
    const Said list = run({"tag", "derived", study});
    EXPECT_EQ(list.code, 0) << list.err;
    auto opened = Study::open(study);
    for (const DerivedExpression& d : derivedExpressions(**opened)) {
        EXPECT_FALSE(d.stale);
        const Tag on = *(*opened)->catalog().tagAt(d.tag.assetName + "/Air-on temp");
        EXPECT_GE((*opened)->samples().whole(d.tag.id).count,
                  (*opened)->samples().whole(on.id).count * 9 / 10);
    }
}

}  // namespace
}  // namespace jacinth::test
