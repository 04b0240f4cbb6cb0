// Small things that a study holds, and writing several of them together.
#include <nlohmann/json.hpp>

#include "store/study_file_fixture.h"

namespace jacinth {
namespace {

TEST_F(StudyTest, ABatchThatIsNotCommittedLeavesNothing) {
    const std::int64_t id = tag();
    {
        WriteBatch batch(*study);
        study->samples().write(id, wavy(100));
        study->setSetting("plant", "Two presses");
    }
    study->reload();
    EXPECT_EQ(study->samples().whole(id).count, 0u);
    EXPECT_EQ(study->setting("plant"), "");
    {
        WriteBatch batch(*study);
        study->samples().write(id, wavy(100));
        study->setSetting("plant", "Two presses");
        batch.commit();
    }
    reopen();
    EXPECT_EQ(study->samples().whole(id).count, 100u);
    EXPECT_EQ(study->plantName(), "Two presses");
    EXPECT_TRUE(study->check().empty());
}

TEST_F(StudyTest, ABatchThatThrowsLeavesNothing) {
    const std::int64_t id = tag();
    EXPECT_THROW(
        {
            WriteBatch batch(*study);
            study->samples().write(id, wavy(100));
            throw std::runtime_error("in the middle");
        },
        std::runtime_error);
    study->reload();
    EXPECT_EQ(study->samples().whole(id).count, 0u);
    EXPECT_EQ(write(id, wavy(50)).added, 50);  // and the next one can be written
}

TEST_F(StudyTest, ACommittedBatchIsSeenByOthersAndTheJournalCanBeFolded) {
    const std::int64_t id = tag();
    auto other = std::move(*Study::open(path, true));
    write(id, wavy(2000));
    EXPECT_TRUE(other->refresh());
    EXPECT_FALSE(other->refresh());
    EXPECT_EQ(other->samples().whole(id).count, 2000u);
    other.reset();
    EXPECT_GT(fs::file_size(path + "-wal"), 0u);
    study->foldJournal();
    EXPECT_EQ(fs::file_size(path + "-wal"), 0u);
    study->releaseMemory();
    EXPECT_EQ(study->samples().whole(id).count, 2000u);
}

TEST_F(StudyTest, RecipesAreKeptByNameAndReplaced) {
    study->change("recipes", "", {}, [&] {
        study->putRecipe("press", R"({"zone":"UTC"})");
        study->putRecipe("arm", "{}");
        study->putRecipe("press", R"({"zone":"Europe/Oslo"})");
    });
    const std::vector<std::pair<std::string, std::string>> expected{{"arm", "{}"},
                                                                    {"press", R"({"zone":"Europe/Oslo"})"}};
    EXPECT_EQ(study->recipes(), expected);
    ASSERT_TRUE(study->undo());
    EXPECT_TRUE(study->recipes().empty());
    ASSERT_TRUE(study->redo());
    reopen();
    EXPECT_EQ(study->recipes(), expected);
}

TEST_F(StudyTest, SpansAboutATagAreCountedByTheirFirstTrack) {
    const std::int64_t id = tag();
    EXPECT_FALSE(study->spansAbout(id));
    study->change("spans", "", {}, [&] {
        const auto peaks = study->putTrack("Peaks", "spans"), others = study->putTrack("Others", "spans");
        study->addSpan(peaks, {0, 0, id, 1, 2, {}});
        study->addSpan(peaks, {0, 0, id, 3, 4, {}});
        study->addSpan(others, {0, 0, 0, 3, 4, {}});
    });
    const auto about = study->spansAbout(id);
    ASSERT_TRUE(about);
    EXPECT_EQ(about->first, "Peaks");
    EXPECT_EQ(about->second, 2);
}

TEST_F(StudyTest, StepsCanBeForgottenAndWhatTheyDidStays) {
    std::int64_t track = 0;
    study->change("track", "", {}, [&] { track = study->putTrack("Runs", track_kind::kRuns); });
    EXPECT_GT(study->newestStep(), 0);
    study->forgetSteps();
    EXPECT_EQ(study->newestStep(), 0);
    EXPECT_FALSE(study->nextUndo());
    EXPECT_EQ(study->trackNamed("Runs")->id, track);
    EXPECT_EQ(study->ledger().size(), 1u);  // which forgets nothing
    EXPECT_TRUE(study->check().empty());
}

TEST_F(StudyTest, StatesAreReplacedAsAWhole) {
    WriteBatch batch(*study);
    const auto id = study->catalog().addTag(study->catalog().addAsset("Press 1"), "Step", "", TagKind::State);
    for (const char* name : {"Rest", "Hot", "Cold"}) study->catalog().addState(id, name);
    study->catalog().setStates(id, {"Off", "On"});
    batch.commit();
    reopen();
    EXPECT_EQ(study->catalog().tag(id)->states, (std::vector<std::string>{"Off", "On"}));
    EXPECT_TRUE(study->check().empty());
}

}  // namespace
}  // namespace jacinth
