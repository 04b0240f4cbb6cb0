// The locks of an open study, seen by another program; and what becomes of a file that is replaced.
#include "store/file_locks.h"

#include <unistd.h>

#include <cstdlib>
#include <fstream>

#include "store/study_file_fixture.h"
#include "store/tracks.h"
#include "store/write_file.h"

namespace jacinth {
namespace {

class FileLocks : public StudyTest {
  protected:
    /// Opens the study as another program would, reads, and closes it: the last one to close removes the
    /// journal.
    void readByAnotherProgram() const {
        const std::string command = "/usr/bin/python3 -c \"import sqlite3; c = sqlite3.connect('" + path +
                                    "'); c.execute('select count(*) from setting').fetchall(); c.close()\"";
        ASSERT_EQ(std::system(command.c_str()), 0);
    }
    void readInThisProcess() const {
        for (const char* end : {"", "-wal", "-shm"}) {
            std::ifstream file(path + end, std::ios::binary);
            std::string some(100, '\0');
            file.read(some.data(), 100);
        }
    }
    void addLabel(int hour) {
        study->change("label", "", {}, [&] {
            const TrackId track = study->tracks().put("Labels", track_kind::kLabels);
            study->tracks().addSpan(track, {{}, {}, {}, at(hour * kHour), at((hour + 1) * kHour), {}});
        });
    }
    std::size_t labels() const { return study->tracks().spansOf(track_kind::kLabels).size(); }
    bool journalIsThere() const { return fs::exists(path + "-wal") && fs::exists(path + "-shm"); }
};

TEST_F(FileLocks, StayWhenTheFileIsReadAndClosedElsewhereInTheProcess) {
    addLabel(1);
    ASSERT_TRUE(journalIsThere());
    readInThisProcess();
    readByAnotherProgram();
    EXPECT_TRUE(journalIsThere()) << "the other program believed that nobody has the study open";
    addLabel(2);
    reopen();
    EXPECT_EQ(labels(), 2u);
    EXPECT_TRUE(study->check().empty());
}

TEST_F(FileLocks, OfSeveralConnectionsHoldUntilTheLastIsClosed) {
    addLabel(1);
    auto second = std::move(*Study::open(path));
    auto third = std::move(*Study::open(path, true));
    second.reset();
    readInThisProcess();
    readByAnotherProgram();
    EXPECT_TRUE(journalIsThere());
    study.reset();
    readByAnotherProgram();
    EXPECT_TRUE(journalIsThere());
    third.reset();
    EXPECT_FALSE(isOpenInThisProcess(path));
    readByAnotherProgram();
    EXPECT_FALSE(fs::exists(path + "-wal")) << "nobody holds the study any more";
    study = std::move(*Study::open(path));
    EXPECT_EQ(labels(), 1u);
}

TEST_F(FileLocks, KeepAnotherProgramFromWritingInTheMiddleOfAStep) {
    const std::string write = "/usr/bin/python3 -c \"import sqlite3, sys; c = sqlite3.connect('" + path +
                              "', timeout=0)\ntry: c.execute('BEGIN IMMEDIATE')\nexcept "
                              "sqlite3.OperationalError: sys.exit(7)\"";
    study->change("label", "", {}, [&] {
        study->tracks().put("Labels", track_kind::kLabels);
        readInThisProcess();
        EXPECT_EQ(WEXITSTATUS(std::system(write.c_str())), 7);
    });
    EXPECT_EQ(WEXITSTATUS(std::system(write.c_str())), 0);
}

TEST_F(FileLocks, ItIsKnownWhatIsOpenHere) {
    EXPECT_TRUE(isOpenInThisProcess(path));
    EXPECT_TRUE(isStudyFile(path));
    fs::create_hard_link(path, dir / "other name");
    EXPECT_TRUE(isOpenInThisProcess((dir / "other name").string()));
    EXPECT_FALSE(isOpenInThisProcess((dir / "missing").string()));
    study.reset();
    EXPECT_FALSE(isOpenInThisProcess(path));
    EXPECT_TRUE(isStudyFile(path));
}

TEST_F(FileLocks, AStudyIsOneFromItsFirstMoment) {
    // By its first bytes on the disk alone, before anything was folded from the journal.
    std::ifstream file(path, std::ios::binary);
    std::string head(72, '\0');
    ASSERT_TRUE(file.read(head.data(), 72));
    EXPECT_EQ(head.substr(0, 15), "SQLite format 3");
    EXPECT_EQ(head.substr(68, 4), "JACI");
    EXPECT_FALSE(writeWhole(path, "labels"));
}

TEST_F(FileLocks, TwoThatMakeOneStudyDoNotMakeItTwice) {
    EXPECT_FALSE(Study::create(path));
    EXPECT_TRUE(study->check().empty());
    study.reset();
    fs::remove(path);
    ASSERT_TRUE(writeWhole(path, ""));
    const auto made = Study::create(path);
    ASSERT_FALSE(made);
    EXPECT_NE(made.error().message.find("exists already"), std::string::npos);
    study = std::move(*Study::open(path));
}

TEST_F(FileLocks, NothingIsWrittenOnceTheFileIsReplaced) {
    addLabel(1);
    const std::string copy = (dir / "copy.jacinth").string(), kept = (dir / "kept.jacinth").string();
    ASSERT_TRUE(study->saveCopy(copy));
    EXPECT_FALSE(study->isReplaced());
    fs::rename(copy, path);
    EXPECT_TRUE(study->isReplaced());
    EXPECT_THROW(addLabel(2), StoreError);
    EXPECT_THROW(study->setSetting("plant", "another"), StoreError);
    EXPECT_EQ(labels(), 1u) << "what is open can still be read";
    ASSERT_TRUE(study->saveCopy(kept)) << "and saved elsewhere";
    const auto other = Study::open(kept);
    ASSERT_TRUE(other);
    EXPECT_EQ((*other)->tracks().spansOf(track_kind::kLabels).size(), 1u);
    EXPECT_FALSE((*other)->isReplaced());
}

TEST_F(FileLocks, ThatItIsGoneIsSeenToo) {
    fs::rename(path, dir / "moved.jacinth");
    EXPECT_TRUE(study->isReplaced());
    fs::rename(dir / "moved.jacinth", path);
    EXPECT_FALSE(study->isReplaced());
    addLabel(1);
    fs::rename(path + "-wal", dir / "journal");
    EXPECT_TRUE(study->isReplaced()) << "commits would go into a journal that nobody finds";
    EXPECT_THROW(addLabel(2), StoreError);
    fs::rename(dir / "journal", path + "-wal");
    addLabel(3);
    EXPECT_EQ(labels(), 2u);
}

TEST_F(FileLocks, TheNewFileIsItselfWhileTheOldOneIsStillOpen) {
    const std::string copy = (dir / "copy.jacinth").string();
    ASSERT_TRUE(study->saveCopy(copy));
    addLabel(1);
    fs::rename(copy, path);
    // The journal beside it is of the old file: read into the new one it would damage it.
    study->leavePlace();
    EXPECT_FALSE(fs::exists(path + "-wal"));
    auto now = std::move(*Study::open(path));
    EXPECT_NE(now->fileIdentity(), study->fileIdentity());
    EXPECT_FALSE(now->isReplaced());
    EXPECT_TRUE(study->isReplaced());
    now->setSetting("plant", "of the new file");
    EXPECT_EQ(now->setting("plant"), "of the new file");
    EXPECT_TRUE(now->check().empty());
    EXPECT_EQ(labels(), 1u);
    EXPECT_TRUE(now->tracks().spansOf(track_kind::kLabels).empty());
}

TEST_F(FileLocks, AFileThatWasMovedHasEverythingOnceItsPlaceIsLeft) {
    addLabel(1);
    fs::rename(path, dir / "moved.jacinth");
    study->leavePlace();
    EXPECT_EQ(labels(), 1u);
    const auto moved = Study::open((dir / "moved.jacinth").string());
    ASSERT_TRUE(moved);
    EXPECT_EQ((*moved)->tracks().spansOf(track_kind::kLabels).size(), 1u);
    EXPECT_TRUE((*moved)->check().empty());
}

}  // namespace
}  // namespace jacinth
