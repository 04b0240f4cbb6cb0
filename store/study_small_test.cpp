// Small things that a study holds, and writing several of them together.
#include <nlohmann/json.hpp>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/imports.h"
#include "store/sample_store.h"
#include "store/study_file_fixture.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

TEST_F(StudyTest, ABatchThatIsNotCommittedLeavesNothing) {
    const TagId id = tag();
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
    const TagId id = tag();
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
    const TagId id = tag();
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
        study->imports().putRecipe("press", R"({"zone":"UTC"})");
        study->imports().putRecipe("arm", "{}");
        study->imports().putRecipe("press", R"({"zone":"Europe/Oslo"})");
    });
    const std::vector<std::pair<std::string, std::string>> expected{{"arm", "{}"},
                                                                    {"press", R"({"zone":"Europe/Oslo"})"}};
    EXPECT_EQ(study->imports().recipes(), expected);
    ASSERT_TRUE(study->history().undo());
    EXPECT_TRUE(study->imports().recipes().empty());
    ASSERT_TRUE(study->history().redo());
    reopen();
    EXPECT_EQ(study->imports().recipes(), expected);
}

TEST_F(StudyTest, SpansAboutATagAreCountedByTheirFirstTrack) {
    const TagId id = tag();
    EXPECT_FALSE(study->tracks().spansAbout(id));
    study->change("spans", "", {}, [&] {
        const auto peaks = study->tracks().put("Peaks", "spans"),
                   others = study->tracks().put("Others", "spans");
        study->tracks().addSpan(peaks, {{}, {}, id, at(1), at(2), {}});
        study->tracks().addSpan(peaks, {{}, {}, id, at(3), at(4), {}});
        study->tracks().addSpan(others, {{}, {}, {}, at(3), at(4), {}});
    });
    const auto about = study->tracks().spansAbout(id);
    ASSERT_TRUE(about);
    EXPECT_EQ(about->first, "Peaks");
    EXPECT_EQ(about->second, 2);
}

TEST_F(StudyTest, StepsCanBeForgottenAndWhatTheyDidStays) {
    TrackId track;
    study->change("track", "", {}, [&] { track = study->tracks().put("Runs", track_kind::kRuns); });
    EXPECT_GT(study->history().newest(), StepId());
    study->history().forget();
    EXPECT_EQ(study->history().newest(), StepId());
    EXPECT_FALSE(study->history().nextUndo());
    EXPECT_EQ(study->tracks().named("Runs")->id, track);
    EXPECT_EQ(study->history().ledger().size(), 1u);  // which forgets nothing
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
