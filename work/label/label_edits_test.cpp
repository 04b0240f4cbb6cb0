// Marks changed, split, merged and named together; the label book changed with its marks; each undone.
#include <gtest/gtest.h>

#include <cstdlib>
#include <fstream>
#include <nlohmann/json.hpp>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/label/kinds.h"
#include "work/label/labels.h"
#include "work/settings/facts.h"

namespace jacinth {
namespace {

class LabelEdits : public NewStudy {
  protected:
    void fill() override {
        for (const char* name : {"Press 1", "Press 2"}) {
            const auto asset = study->catalog().addAsset(name);
            for (const char* tag : {"Temp", "Oil", "Speed"})
                study->catalog().addTag(asset, tag, "", TagKind::Continuous);
        }
        study->judgement().setLabelBook({{"fault", "", "#332288", 'f', false, ""},
                                         {"leak", "", "#88CCEE", 'l', false, "fault"},
                                         {"normal", "", "#117733", 'n', true, ""}});
    }
    AssetId asset(int n) { return study->catalog().assets()[static_cast<std::size_t>(n)].id; }
    TagId tag(const char* called) { return study->catalog().tagAt(called)->id; }
    SpanId mark(int fromHour, int toHour, const char* kind = "", int on = 0) {
        return *addLabelled(*study, {{}, asset(on), {}, at(fromHour * kHour), at(toHour * kHour), {}}, kind,
                            "");
    }
    Span label(SpanId id) { return *study->tracks().span(id); }
    std::string kindOf(SpanId id) { return factText(label(id).facts, "kind"); }
    std::size_t count() { return labelsOf(*study).size(); }
};

TEST_F(LabelEdits, NamingKeepsTheOtherFactsAndTags) {
    Span s{{}, asset(0), {}, at(0), at(kHour), {{"note", std::string("seen")}}};
    setTags(s, {tag("Press 1/Temp"), tag("Press 1/Oil"), tag("Press 1/Speed")});
    const SpanId id = *addLabelled(*study, s, "", "");
    const SpanId other = mark(5, 6, "normal");
    ASSERT_TRUE(nameLabels(*study, {id}, "fault"));
    EXPECT_EQ(tagsOf(label(id)).size(), 3u);
    EXPECT_EQ(factText(label(id).facts, "note"), "seen");
    EXPECT_EQ(kindOf(other), "normal");
    // Only labels are found by their ids, in the order of time, each once.
    const TrackId runs = study->tracks().put("Runs", track_kind::kRuns);
    const SpanId run = study->tracks().addSpan(runs, {{}, asset(0), {}, at(0), at(kHour), {}});
    const auto found = study->tracks().spansOf(track_kind::kLabels, {other, run, id, id, SpanId(9999)});
    ASSERT_EQ(found.size(), 2u);
    EXPECT_EQ(found[0].id, id);
    EXPECT_EQ(found[0].furtherTags.size(), 2u);
    EXPECT_EQ(found[1].id, other);
    EXPECT_TRUE(study->tracks().spansOf(track_kind::kLabels, {}).empty());
    EXPECT_FALSE(nameLabels(*study, {run}, "fault")) << "a run is not a label";
}

TEST_F(LabelEdits, WithSamplesALabelLiesInTheRecordAndWithoutAnywhere) {
    EXPECT_TRUE(addLabelled(*study, {{}, asset(0), {}, at(0), at(kHour), {}}, "", ""));
    EXPECT_TRUE(addLabelled(*study, {{}, asset(0), {}, at(900 * kDay), at(901 * kDay), {}}, "", ""));
    {
        WriteBatch batch(*study);
        Series samples;
        for (int h = 0; h <= 240; ++h) samples.push(at(h * kHour), h);
        study->samples().write(tag("Press 1/Temp"), samples);
        batch.commit();
    }
    study->catalog().reload();
    const auto add = [&](Duration from, Duration to) {
        return addLabelled(*study, {{}, asset(1), {}, at(from), at(to), {}}, "", "");
    };
    const auto outside = add(20 * kDay, 21 * kDay);
    ASSERT_FALSE(outside);
    EXPECT_NE(outside.error().message.find("outside the record"), std::string::npos);
    EXPECT_TRUE(add(9 * kDay, 21 * kDay)) << "a part lies in it";
    // Of a list those outside are left out, and said.
    const auto listed = labelSpans(*study,
                                   {{{}, asset(0), {}, at(kDay), at(2 * kDay), {}},
                                    {{}, asset(0), {}, at(30 * kDay), at(31 * kDay), {}},
                                    {{}, asset(0), {}, at(3 * kDay), at(3 * kDay), {}}},
                                   "fault", "Stops");
    ASSERT_TRUE(listed) << listed.error().message;
    EXPECT_EQ(listed->added.size(), 1u);
    EXPECT_EQ(listed->outside, 1u);
    EXPECT_EQ(listed->moments, 1u);
}

TEST_F(LabelEdits, SeveralAreNamedAsOneStep) {
    const std::vector<SpanId> ids{mark(0, 1), mark(2, 3), mark(4, 5)};
    ASSERT_TRUE(nameLabels(*study, ids, "leak"));
    for (const SpanId id : ids) EXPECT_EQ(kindOf(id), "leak");
    EXPECT_EQ(study->history().undoName(), "name 3 labels leak");
    EXPECT_FALSE(nameLabels(*study, ids, "gremlins"));
    EXPECT_FALSE(nameLabels(*study, {ids[0], SpanId(999)}, "fault"));
    EXPECT_EQ(kindOf(ids[0]), "leak") << "all or nothing";
    ASSERT_TRUE(study->history().undo());
    for (const SpanId id : ids) EXPECT_EQ(kindOf(id), "");
    ASSERT_TRUE(removeLabels(*study, ids));
    EXPECT_EQ(count(), 0u);
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(count(), 3u);
}

TEST_F(LabelEdits, AMarkMayBeAboutSeveralTags) {
    Span s{{}, asset(0), {}, at(0), at(kHour), {}};
    setTags(s, {tag("Press 1/Oil"), tag("Press 1/Temp"), tag("Press 1/Oil")});
    const SpanId id = *addLabelled(*study, s, "leak", "");
    EXPECT_EQ(tagsOf(label(id)), (std::vector<TagId>{tag("Press 1/Oil"), tag("Press 1/Temp")}));
    EXPECT_TRUE(study->tracks().spansAbout(tag("Press 1/Temp"))) << "a tag with labels is not removed unseen";
    Span changed = label(id);
    setTags(changed, {tag("Press 1/Temp")});
    ASSERT_TRUE(changeLabels(*study, {changed}, "about less"));
    EXPECT_EQ(tagsOf(label(id)), std::vector<TagId>{tag("Press 1/Temp")});
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(tagsOf(label(id)).size(), 2u);
    EXPECT_TRUE(study->check().empty());
    study->tracks().removeSpan(id);
    EXPECT_TRUE(study->check().empty()) << "nothing of it is left behind";
}

TEST_F(LabelEdits, SplitAndMergedAgain) {
    const SpanId whole = mark(0, 4, "leak");
    const auto later = splitLabel(*study, whole, at(kHour));
    ASSERT_TRUE(later);
    EXPECT_EQ(label(whole).end, at(kHour));
    EXPECT_EQ(label(*later).start, at(kHour));
    EXPECT_EQ(label(*later).end, at(4 * kHour));
    EXPECT_EQ(kindOf(*later), "leak");
    EXPECT_FALSE(splitLabel(*study, whole, at(kHour))) << "at its edge";
    const auto one = mergeLabels(*study, {*later, whole});
    ASSERT_TRUE(one);
    EXPECT_EQ(*one, whole);
    EXPECT_EQ(label(whole).end, at(4 * kHour));
    EXPECT_EQ(count(), 1u);
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(count(), 2u);
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(label(whole).end, at(4 * kHour));
}

TEST_F(LabelEdits, OnlyMarksThatSayTheSameAreMerged) {
    const SpanId named = mark(0, 1, "leak"), other = mark(2, 3, "normal"), elsewhere = mark(0, 1, "leak", 1),
                 unnamed = mark(4, 5);
    EXPECT_FALSE(mergeLabels(*study, {named}));
    EXPECT_FALSE(mergeLabels(*study, {named, other}));
    EXPECT_FALSE(mergeLabels(*study, {named, elsewhere}));
    ASSERT_TRUE(mergeLabels(*study, {named, unnamed}));
    EXPECT_EQ(kindOf(named), "leak");
    EXPECT_EQ(label(named).end, at(5 * kHour));
}

TEST_F(LabelEdits, ARenamedKindTakesItsMarksAndTheKindsBelowIt) {
    const SpanId id = mark(0, 1, "fault");
    ASSERT_TRUE(changeLabelKind(*study, "fault", {"defect", "worse", "#332288", 'd', false, ""}));
    EXPECT_EQ(kindOf(id), "defect");
    EXPECT_EQ(findKind(study->judgement().labelBook(), "leak")->parent, "defect");
    EXPECT_FALSE(changeLabelKind(*study, "fault", {"x", "", "#332288", 0, false, ""}));
    EXPECT_FALSE(changeLabelKind(*study, "defect", {"leak", "", "#332288", 0, false, ""}));
    EXPECT_FALSE(changeLabelKind(*study, "defect", {"defect", "", "#332288", 0, false, "leak"}))
        << "goes round";
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(kindOf(id), "fault");
    EXPECT_EQ(findKind(study->judgement().labelBook(), "leak")->parent, "fault");
}

TEST_F(LabelEdits, MergedAndRemovedKindsLeaveNoMarkWithAnUnknownName) {
    const SpanId leak = mark(0, 1, "leak"), fault = mark(2, 3, "fault");
    ASSERT_TRUE(mergeLabelKinds(*study, "fault", "leak"));
    EXPECT_EQ(kindOf(fault), "leak");
    EXPECT_FALSE(findKind(study->judgement().labelBook(), "fault"));
    EXPECT_EQ(findKind(study->judgement().labelBook(), "leak")->parent, "");
    EXPECT_EQ(marksOfKind(*study, "leak"), 2u);
    ASSERT_TRUE(removeLabelKind(*study, "leak", MarksOfKind::Unnamed));
    EXPECT_EQ(kindOf(leak), "");
    ASSERT_TRUE(study->history().undo());
    ASSERT_TRUE(removeLabelKind(*study, "leak", MarksOfKind::Removed));
    EXPECT_EQ(count(), 0u);
    EXPECT_FALSE(mergeLabelKinds(*study, "normal", "normal"));
    EXPECT_FALSE(removeLabelKind(*study, "leak", MarksOfKind::Removed));
}

TEST_F(LabelEdits, ABookIsWrittenReadAndTakenOver) {
    const LabelBook book = study->judgement().labelBook();
    const auto back = readBook(bookText(book));
    ASSERT_TRUE(back);
    EXPECT_EQ(bookText(*back), bookText(book));
    mark(0, 1, "leak");
    ASSERT_TRUE(takeBook(
        *study, {{"surge", "", "#882255", 'l', false, ""}, {"normal", "calm", "#117733", 'n', true, ""}}));
    const LabelBook now = study->judgement().labelBook();
    ASSERT_EQ(now.size(), 3u) << "leak has a mark, fault has none";
    EXPECT_EQ(findKind(now, "normal")->meaning, "calm");
    EXPECT_EQ(findKind(now, "leak")->key, 0) << "the key is surge's now";
    for (const char* wrong :
         {"", "{}", "[1]", "[{\"name\": \"\"}]", "[{\"name\": \"a\", \"key\": \"ab\"}]",
          "[{\"name\": \"a\"}, {\"name\": \"a\"}]", "[{\"name\": \"a\", \"parent\": \"b\"}]"})
        EXPECT_FALSE(readBook(wrong)) << wrong;
}

TEST_F(LabelEdits, TheSitesBookIsWhereTheNextStudyBegins) {
    const std::string folder = path + "-config";
    ::setenv("XDG_CONFIG_HOME", folder.c_str(), 1);
    std::filesystem::remove_all(folder);
    ASSERT_TRUE(beginWithSiteBook(*study)) << "without one nothing happens";
    EXPECT_EQ(study->judgement().labelBook().size(), 3u);
    ASSERT_TRUE(keepAsSiteBook({{"surge", "", "#882255", 's', false, ""}}));
    ASSERT_TRUE(beginWithSiteBook(*study));
    ASSERT_EQ(study->judgement().labelBook().size(), 1u);
    EXPECT_EQ(study->judgement().labelBook()[0].name, "surge");
    std::ofstream(siteBookPath()) << "[{]";
    EXPECT_FALSE(beginWithSiteBook(*study));
    std::filesystem::remove_all(folder);
    ::unsetenv("XDG_CONFIG_HOME");
}

TEST_F(LabelEdits, FactsAreOfTheirKindAndTheLedgerSaysWhatWasBefore) {
    ASSERT_TRUE(keepFactKind(*study, {"machine", FactType::Choice, "", {"old", "new"}, "which build"}));
    EXPECT_FALSE(factChange(*study, "machine", "ancient"));
    ASSERT_TRUE(changeFacts(*study, {asset(0)}, {*factChange(*study, "machine", "OLD")}));
    ASSERT_TRUE(changeFacts(*study, {asset(0), asset(1)}, {*factChange(*study, "machine", "new")}));
    const nlohmann::json line = nlohmann::json::parse(study->history().ledger().back().detail);
    EXPECT_EQ(line["before"], nlohmann::json::parse(R"([{"machine": "old"}, {}])"));
    EXPECT_EQ(line["facts"]["machine"], "new");
    EXPECT_FALSE(keepFactKind(*study, {"machine", FactType::Number, "", {}, ""})) << "two are on record";
    ASSERT_TRUE(keepFactKind(*study, {"machine", FactType::Choice, "", {"old", "new", "third"}, ""}));
    ASSERT_TRUE(removeFactKind(*study, "machine"));
    EXPECT_FALSE(removeFactKind(*study, "machine"));
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->judgement().factKinds().size(), 1u);
    EXPECT_EQ(study->judgement().factKinds()[0].choices.size(), 3u);
    EXPECT_TRUE(study->check().empty());
}

}  // namespace
}  // namespace jacinth
