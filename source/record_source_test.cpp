// A source that is not a text file, made up here, through the writer that all sources share.
#include "source/record_source.h"

#include <gtest/gtest.h>

#include "core/time/times_for_tests.h"
#include "source/import_record.h"
#include "source/text_record.h"
#include "store/history.h"
#include "store/study_file_fixture.h"

namespace jacinth {
namespace {

/// Two tags of a press and one with names of states, in blocks of an hour; chooses tags and times.
class Press : public RecordSource {
  public:
    SourceFacts facts() const override { return {"press line", "made up", 0, true, true}; }
    Result<std::vector<SourceTag>> tags(const std::string& like) override {
        std::vector<SourceTag> out;
        for (const char* name : {"Temp", "Flow", "Step"})
            if (std::string(name).find(like) != std::string::npos)
                out.push_back({std::string("Press 1/") + name, "", "", {}, between(0, 6 * kHour), 360});
        return out;
    }
    Result<std::unique_ptr<BlockStream>> read(const ReadRequest& request, TagKinds& kinds) override {
        return std::unique_ptr<BlockStream>(std::make_unique<Blocks>(*this, request, kinds));
    }

    Duration failsAt = kWeek;       ///< the source goes away there
    bool changesMeanwhile = false;  ///< its content has changed by the time it is stored
    bool badRow = false;            ///< the first block holds one
    double offset = 0;              ///< on every value

  private:
    class Blocks : public BlockStream {
      public:
        Blocks(const Press& press, ReadRequest request, TagKinds& kinds)
            : press_(press), request_(std::move(request)), kinds_(kinds) {}
        Result<std::optional<RecordBlock>> next() override {
            if (at_ >= at(press_.failsAt)) return Error{"press line: the connection was lost"};
            if (at_ >= at(6 * kHour)) return std::optional<RecordBlock>();
            RecordBlock block;
            add(block, "Temp", TagKind::Continuous);
            add(block, "Flow", TagKind::Continuous);
            add(block, "Step", TagKind::State);
            block.rows = 60 + press_.badRow;
            if (press_.badRow && at_ == Instant()) {
                block.aside.rows = 1;
                block.aside.kept.push_back({7, "the value is missing", "x", {}});
            }
            (void)kinds_.learn(block);
            at_ += kHour;
            return std::optional<RecordBlock>(std::move(block));
        }
        double share() const override { return toHours(at_.time_since_epoch()) / 6; }
        Status stillTrue(std::vector<std::string>&) override {
            return press_.changesMeanwhile ? Status(Error{"press line was written again"}) : Status(Done{});
        }
        std::vector<std::string> notes() const override { return {"read by the hour"}; }

      private:
        void add(RecordBlock& block, const std::string& name, TagKind kind) {
            const std::string path = "Press 1/" + name;
            if (!request_.tags.empty() && request_.tags.front() != path) return;
            auto tag = std::make_unique<TagBlock>();
            tag->path = path, tag->name.asset = "Press 1", tag->name.tag = name, tag->name.unit = "u",
            tag->kind = kind;
            if (kind == TagKind::State) tag->texts = {"Rest", "Press"};
            for (Instant t = at_; t < at_ + kHour; t += kMinute)
                if (!request_.range || request_.range->contains(t))
                    tag->series.push(t, kind == TagKind::State
                                            ? t.time_since_epoch() / kHour % 2
                                            : press_.offset + toHours(t.time_since_epoch()));
            block.tags.push_back(std::move(tag));
        }

        const Press& press_;
        ReadRequest request_;
        TagKinds& kinds_;
        Instant at_{};
    };
};

class Sources : public StudyTest {
  protected:
    std::size_t count(const std::string& tagPath) const {
        return study->reader({}).whole(study->catalog().tagAt(tagPath)->id).count;
    }
    Press press;
};

TEST_F(Sources, ARecordComesInWithItsStatesAndIsOnRecordAsAnImport) {
    press.badRow = true;
    const auto r = importRecord(*study, press);
    ASSERT_TRUE(r) << r.error().message;
    EXPECT_EQ(r->samples, 3 * 360);
    EXPECT_EQ(r->badRowCount, 1);
    EXPECT_EQ(r->tags, (std::vector<std::string>{"Press 1/Temp", "Press 1/Flow", "Press 1/Step"}));
    EXPECT_EQ(r->notes, std::vector<std::string>{"read by the hour"});
    const Tag step = *study->catalog().tagAt("Press 1/Step");
    EXPECT_EQ(step.kind, TagKind::State);
    EXPECT_EQ(step.states, (std::vector<std::string>{"Rest", "Press"}));
    EXPECT_EQ(study->valueAt(step, at(90 * kMinute), Which::AsLogged), 1);
    const auto imports = study->imports().all();
    ASSERT_EQ(imports.size(), 1u);
    EXPECT_EQ(imports[0].file, "press line");
    EXPECT_EQ(imports[0].kind, "made up");
    EXPECT_TRUE(imports[0].complete);
    EXPECT_EQ(study->imports().badRows(imports[0].id).at(0).reason, "the value is missing");
    EXPECT_EQ(study->history().ledger().back().what, "import press line");
}

TEST_F(Sources, TheSameAgainChangesNothingAndOtherValuesGiveWayWhenTheyAreRemoved) {
    ASSERT_TRUE(importRecord(*study, press));
    const auto again = importRecord(*study, press);
    EXPECT_EQ(again->samples, 0);
    EXPECT_EQ(again->unchanged, 3 * 360);
    press.offset = 100;
    const auto other = importRecord(*study, press);
    EXPECT_EQ(other->replaced, 2 * 360);
    const Tag temp = *study->catalog().tagAt("Press 1/Temp");
    EXPECT_EQ(study->valueAt(temp, at(kHour), Which::AsLogged), 101);
    ASSERT_TRUE(study->imports().remove(other->import, ""));
    EXPECT_EQ(study->valueAt(temp, at(kHour), Which::AsLogged), 1);
}

TEST_F(Sources, SomeTagsAndAStretchAloneWhereTheSourceCanChoose) {
    ASSERT_EQ(press.tags("Fl")->size(), 1u);
    const auto r = importRecord(*study, press, {{"Press 1/Flow"}, between(2 * kHour, 3 * kHour)});
    ASSERT_TRUE(r) << r.error().message;
    EXPECT_EQ(r->samples, 60);
    EXPECT_EQ(study->catalog().tags().size(), 1u);
    const auto file = TextRecord::open({"f.csv", "time,K 1/a\n2026-03-01 00:00:00,1\n"}, {}, Zone());
    ASSERT_TRUE(file);
    EXPECT_EQ((*file)->tags("A")->front().path, "K 1/a");
    EXPECT_TRUE((*file)->tags("no such")->empty());
    EXPECT_FALSE(importRecord(*study, **file, {{"K 1/a"}, {}}));
    EXPECT_FALSE(importRecord(*study, **file, {{}, between(0, kDay)}));
    EXPECT_EQ(study->catalog().tags().size(), 1u);  // nothing was made
}

TEST_F(Sources, ALostConnectionOrAChangedSourceStoresNothingOfTheBatch) {
    press.failsAt = 3 * kHour;
    EXPECT_EQ(importRecord(*study, press).error().message, "press line: the connection was lost");
    EXPECT_TRUE(study->catalog().tags().empty());
    press.failsAt = kWeek;
    press.changesMeanwhile = true;
    const auto changed = importRecord(*study, press);
    ASSERT_FALSE(changed);
    EXPECT_NE(changed.error().message.find("was written again"), std::string::npos);
    EXPECT_TRUE(study->imports().all().empty());
    press.changesMeanwhile = false;
    ASSERT_TRUE(importRecord(*study, press));
    EXPECT_EQ(count("Press 1/Temp"), 360u);
}

TEST_F(Sources, StoppedItLeavesNoHalfBatch) {
    int asked = 0;
    const auto r = importRecord(*study, press, {}, Progress([&](double share) {
        EXPECT_LE(share, 1);
        return ++asked < 3;
    }));
    ASSERT_TRUE(r);
    EXPECT_TRUE(r->cancelled);
    EXPECT_TRUE(study->catalog().tags().empty());
}

}  // namespace
}  // namespace jacinth
