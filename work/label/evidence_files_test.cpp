// Where evidence lies, what can be told of it without decoding it, and how it is kept: each change one step.
#include "work/label/evidence_files.h"

#include <fstream>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "work/base/study_fixture.h"

namespace jacinth {
namespace {

namespace fs = std::filesystem;

class EvidenceFiles : public NewStudy {
  protected:
    void fill() override {
        asset = study->catalog().addAsset("Kiln 1");
        folder = fs::path(path).parent_path() / ("frames-" + fs::path(path).stem().string());
        fs::create_directories(folder);
        for (const char* name : {"20260305-141510Z.png", "20260305-141500Z.png", "notes.txt", "no time.png"})
            std::ofstream(folder / name) << "not decoded";
    }
    void TearDown() override {
        fs::remove_all(folder);
        NewStudy::TearDown();
    }
    EvidenceSource source(EvidenceKind kind, const fs::path& of, const char* name = "Camera") {
        EvidenceSource out;
        out.name = name;
        out.kind = kind;
        out.path = evidencePathFor(*study, of);
        out.asset = asset;
        out.begins = at(kDay);
        return out;
    }
    std::vector<EvidenceSource> kept() { return study->judgement().evidence(); }
    AssetId asset;
    fs::path folder;
};

TEST_F(EvidenceFiles, AFolderHasThoseFramesThatTellTheirTimeInOrder) {
    const EvidenceSource frames = source(EvidenceKind::Frames, folder);
    EXPECT_EQ(frames.path, folder.filename().string()) << "from where the study lies";
    const auto found = framesOf(*study, frames);
    ASSERT_TRUE(found) << found.error().message;
    ASSERT_EQ(found->size(), 2u);
    EXPECT_EQ((*found)[0].file, "20260305-141500Z.png");
    EXPECT_EQ((*found)[1].time - (*found)[0].time, 10 * kSecond);
    EXPECT_EQ(evidenceFolder(*study, frames), folder);
    EXPECT_TRUE(checkEvidence(*study, frames));
    fs::remove(folder / "20260305-141500Z.png");
    fs::remove(folder / "20260305-141510Z.png");
    EXPECT_NE(checkEvidence(*study, frames).error().message.find("none tells its time"), std::string::npos);
    fs::remove_all(folder);
    EXPECT_NE(checkEvidence(*study, frames).error().message.find("cannot be read"), std::string::npos);
}

TEST_F(EvidenceFiles, OnePictureIsItsOnlyFrame) {
    const EvidenceSource picture = source(EvidenceKind::Picture, folder / "no time.png");
    const auto found = framesOf(*study, picture);
    ASSERT_TRUE(found) << found.error().message;
    EXPECT_EQ(*found, (std::vector<Frame>{{at(kDay), "no time.png"}}));
    EXPECT_EQ(evidenceFolder(*study, picture), folder);
    const auto wrong = checkEvidence(*study, source(EvidenceKind::Picture, folder / "notes.txt"));
    EXPECT_NE(wrong.error().message.find("is not a picture"), std::string::npos);
    EXPECT_FALSE(framesOf(*study, source(EvidenceKind::Picture, folder / "gone.png")));
    EXPECT_FALSE(checkEvidence(*study, source(EvidenceKind::Picture, folder)));
}

TEST_F(EvidenceFiles, AVideoHasNoFramesOnFile) {
    const EvidenceSource video = source(EvidenceKind::Video, folder / "notes.txt");
    EXPECT_TRUE(checkEvidence(*study, video)) << "whether it can be decoded is seen when it is shown";
    EXPECT_FALSE(framesOf(*study, video));
    EXPECT_FALSE(checkEvidence(*study, source(EvidenceKind::Video, folder / "gone.avi")));
}

TEST_F(EvidenceFiles, EveryKindIsReadBackAsItWasKept) {
    for (const auto& [kind, name] :
         {std::pair(EvidenceKind::Frames, "a"), std::pair(EvidenceKind::Video, "b"),
          std::pair(EvidenceKind::Picture, "c")}) {
        EvidenceSource given = source(kind, folder / "no time.png", name);
        given.offset = -40 * kSecond;
        given.how = "by hand";
        ASSERT_TRUE(keepEvidence(*study, given));
        const EvidenceSource back = kept().back();
        EXPECT_EQ(std::tuple(back.name, back.kind, back.path, back.asset, back.offset, back.begins, back.how),
                  std::tuple(given.name, given.kind, given.path, given.asset, given.offset, given.begins,
                             given.how));
    }
    EXPECT_EQ(kept().size(), 3u);
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(kept().size(), 2u);
}

TEST_F(EvidenceFiles, NamesAreEachOnesOwn) {
    EXPECT_EQ(freeEvidenceName(*study, "Camera"), "Camera");
    const auto first = keepEvidence(*study, source(EvidenceKind::Frames, folder));
    ASSERT_TRUE(first);
    EXPECT_FALSE(keepEvidence(*study, source(EvidenceKind::Frames, folder))) << "the name is taken";
    EXPECT_EQ(freeEvidenceName(*study, "Camera"), "Camera 2");
    ASSERT_TRUE(keepEvidence(*study, source(EvidenceKind::Frames, folder, "Camera 2")));
    EXPECT_EQ(freeEvidenceName(*study, "Camera"), "Camera 3");
    ASSERT_TRUE(setEvidenceOffset(*study, *first, 3 * kSecond, "as told"));
    EXPECT_EQ(kept().front().offset, 3 * kSecond);
    ASSERT_TRUE(removeEvidence(*study, *first));
    EXPECT_FALSE(removeEvidence(*study, *first));
    EXPECT_FALSE(setEvidenceOffset(*study, *first, {}, ""));
    EXPECT_EQ(freeEvidenceName(*study, "Camera"), "Camera");
}

}  // namespace
}  // namespace jacinth
