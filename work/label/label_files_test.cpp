// Labels out and in again, labels of others, and cut-outs.
#include <gtest/gtest.h>

#include <fstream>
#include <nlohmann/json.hpp>
#include <random>
#include <set>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/label/cut_outs.h"
#include "work/label/label_files.h"
#include "work/label/labels.h"

namespace jacinth {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

class LabelFiles : public NewStudy {
  protected:
    void fill() override { fillStudy(*study); }
    static void fillStudy(Study& s) {
        s.judgement().setLabelBook(
            {{"leak", "it drips", "#88CCEE", 'l', false, ""}, {"normal", "", "#117733", 'n', true, ""}});
        for (const char* name : {"Press 1", "Press 2"}) {
            const auto asset = s.catalog().addAsset(name);
            for (const char* tag : {"Temp", "Oil"}) {
                const TagId id = s.catalog().addTag(asset, tag, "°C", TagKind::Continuous);
                Series samples;
                for (int i = 0; i < 48 * 60; ++i) samples.push(at(i * kMinute), i % 60);
                s.samples().write(id, samples);
            }
        }
        s.catalog().reload();
    }
    AssetId asset(int n) { return study->catalog().assets()[static_cast<std::size_t>(n)].id; }
    SpanId mark(Duration from, Duration to, const char* kind, int on = 0, Facts facts = {}) {
        return *addLabelled(*study, {{}, asset(on), {}, at(from), at(to), std::move(facts)}, kind, "");
    }
    void markAll() {
        mark(kHour, 2 * kHour, "leak", 0, {{"depth", 2.5}, {"where", std::string("seal, left")}});
        mark(kHour, 2 * kHour, "normal", 1, {{label_fact::kCertainty, std::string("likely")}});
        mark(90 * kMinute, 3 * kHour, "", 0);
        Span s{{}, asset(0), {}, at(5 * kHour), at(6 * kHour), {}};
        setTags(s, {study->catalog().tagAt("Press 1/Oil")->id, study->catalog().tagAt("Press 1/Temp")->id});
        ASSERT_TRUE(addLabelled(*study, s, "leak", "=2+3, \"quoted\"\nand a second line"));
    }
    /// Everything of the labels but their ids.
    static json saidBy(const Study& s) {
        json all = json::parse(labelsAsJson(s, labelsOf(s)))["labels"];
        for (json& j : all) j.erase("id");
        return all;
    }
    std::vector<std::string> reasons(const std::string& text, const LabelImportSpec& spec = {}) {
        const auto done = importLabels(*study, text, spec);
        if (!done) return {done.error().message};
        std::vector<std::string> out;
        for (const AsideLabel& a : done->aside) out.push_back(std::to_string(a.line) + ": " + a.why);
        return out;
    }
};

/// Texts that files spoil: blanks, apostrophes, numbers, formulas, quotes, line ends, other alphabets.
const std::array<const char*, 20> kHardTexts{
    "007",  "7",    "-5", "+7",    "1e5",      "1.50",       " blank",    "blank  ",       "'=1+2", "=1+2",
    "''=x", "'tis", "'",  "a,b;c", "\"said\"", "two\nlines", "tab\there", "Größe 20 °C ∅", "yes",   "@home"};

TEST_F(LabelFiles, TextsComeBackByteForByteFromEveryForm) {
    std::mt19937 random(7);
    const auto any = [&] { return std::string(kHardTexts[random() % kHardTexts.size()]); };
    for (int i = 0; i < 40; ++i) {
        Facts facts{{label_fact::kBy, any()},
                    {"free", any()},
                    {"start", any()},
                    {"Note", any()},
                    {"fact:tag", any()}};
        if (i % 2) facts["amount"] = static_cast<double>(random() % 1000) / 8;
        if (i % 3 == 0) facts["amount"] = any();
        const auto from = static_cast<int>(i) * kHour;
        ASSERT_TRUE(
            addLabelled(*study, {{}, asset(0), {}, at(from), at(from + 30 * kMinute), facts}, "leak", any()));
    }
    const json before = saidBy(*study);
    const auto labels = labelsOf(*study);
    for (const std::string& file :
         {labelsAsCsv(*study, labels), labelsAsCsv(*study, labels, true), labelsAsJson(*study, labels)}) {
        ASSERT_TRUE(study->history().undo());
        std::vector<SpanId> all;
        for (const Span& s : labelsOf(*study)) all.push_back(s.id);
        if (!all.empty()) ASSERT_TRUE(removeLabels(*study, all));
        const auto done = importLabels(*study, file, {});
        ASSERT_TRUE(done) << done.error().message;
        ASSERT_TRUE(done->aside.empty()) << done->aside.front().why << "\n" << done->aside.front().text;
        EXPECT_EQ(saidBy(*study), before) << file.substr(0, 400);
    }
}

TEST_F(LabelFiles, OfOtherEncodingsAreRead) {
    const std::string plain =
        "asset,start,end,kind,note\nPress 1,1970-01-01T01:00:00Z,1970-01-01T02:00:00Z,leak,";
    std::string wide = "\xFF\xFE";
    for (const char c : plain + "caf\xE9\n") wide += c, wide += '\0';
    for (const std::string& file :
         {plain + "caf\xE9\n", wide, plain + "café\n", "\xEF\xBB\xBF" + plain + "café\n"}) {
        const auto look = lookAtLabels(file, {});
        ASSERT_TRUE(look) << look.error().message;
        EXPECT_EQ(look->columns.front(), "asset");
        const auto done = importLabels(*study, file, {});
        ASSERT_TRUE(done) << done.error().message;
        ASSERT_EQ(done->added, 1u);
        EXPECT_EQ(factText(labelsOf(*study)[0].facts, label_fact::kNote), "café");
        ASSERT_TRUE(study->history().undo());
    }
}

TEST_F(LabelFiles, JsonDoesNotGoRoundTheLabelBook) {
    const auto file = [](const std::string& facts) {
        return R"([{"asset": "Press 1", "start": "1970-01-01T01:00:00Z", "end": "1970-01-01T02:00:00Z", )" +
               facts + "}]";
    };
    EXPECT_EQ(reasons(file(R"("facts": {"kind": "made up"})")),
              std::vector<std::string>{"1: a fact cannot be called `kind`, which is a field of the label"});
    EXPECT_EQ(
        reasons(file(R"("kind": "leak", "facts": {"certainty": "beyond doubt"})")),
        std::vector<std::string>{"1: a fact cannot be called `certainty`, which is a field of the label"});
    EXPECT_EQ(reasons(file(R"("kind": 7)")), std::vector<std::string>{"1: `kind` is not a text"});
    EXPECT_EQ(reasons(file(R"("tags": "Oil")")), std::vector<std::string>{});
    EXPECT_EQ(reasons(file(R"("tags": [7])")), std::vector<std::string>{"1: a tag in `tags` is not a text"});
    EXPECT_EQ(reasons(std::string(100'000, '[')).size(), 1u) << "nested too deeply: refused";
    EXPECT_EQ(labelsOf(*study).size(), 1u);
}

TEST_F(LabelFiles, OverlapsAreFoundAmongManyOfOneKind) {
    std::string csv = "asset,start,end,kind\n";
    const auto add = [&](Duration from, Duration to) {
        csv += "Press 1," + toIso(at(from)) + "," + toIso(at(to)) + ",leak\n";
    };
    for (int i = 0; i < 1000; ++i) add(i * kMinute, i * kMinute + 30 * kSecond);
    add(500 * kMinute, 500 * kMinute + 30 * kSecond);                 // known
    add(500 * kMinute + 10 * kSecond, 500 * kMinute + 20 * kSecond);  // within
    add(700 * kMinute + 20 * kSecond, 702 * kMinute);                 // over the end of one and a whole one
    add(900 * kMinute + 30 * kSecond, 901 * kMinute);                 // just between two
    const auto done = importLabels(*study, csv, {});
    ASSERT_TRUE(done) << done.error().message;
    EXPECT_EQ(done->added, 1001u);
    EXPECT_EQ(done->known, 1u);
    ASSERT_EQ(done->aside.size(), 2u);
    EXPECT_EQ(done->aside[0].line, 1003);
    EXPECT_EQ(done->aside[1].line, 1004);
}

TEST_F(LabelFiles, WhatGoesOutComesInAgainInBothForms) {
    markAll();
    const json before = saidBy(*study);
    const std::string csv = labelsAsCsv(*study, labelsOf(*study)),
                      text = labelsAsJson(*study, labelsOf(*study));
    for (const std::string& file : {csv, text}) {
        const std::string otherPath = path + ".other";
        fs::remove(otherPath);
        auto other = std::move(*Study::create(otherPath));
        {
            WriteBatch t(*other);
            fillStudy(*other);
            t.commit();
        }
        const auto done = importLabels(*other, file, {});
        ASSERT_TRUE(done) << done.error().message;
        EXPECT_EQ(done->added, 4u);
        EXPECT_TRUE(done->aside.empty());
        EXPECT_EQ(saidBy(*other), before) << file;
        const auto again = importLabels(*other, file, {});
        EXPECT_EQ(again->added, 0u);
        EXPECT_EQ(again->known, 4u);
        ASSERT_TRUE(other->history().undo());
        EXPECT_TRUE(labelsOf(*other).empty());
        other.reset();
        fs::remove(otherPath);
    }
}

TEST_F(LabelFiles, WhatCannotBeUsedIsKeptAsideWithItsReason) {
    const std::string head = "asset,tags,start,end,kind,certainty\n";
    const auto why = reasons(
        head +
        "Press 1,,1970-01-01T01:00:00Z,1970-01-01T02:00:00Z,leak,\n"
        "Press 1,,1970-01-01T01:30:00Z,1970-01-01T02:30:00Z,leak,\n"      // overlaps the one before
        "Press 1,,1970-01-01T01:30:00Z,1970-01-01T02:30:00Z,normal,\n"    // says something else: comes in
        "Press 2,,1970-01-01T05:00:00Z,1970-01-01T04:00:00Z,leak,\n"      // reversed
        "Press 2,,1970-01-01T05:00:00Z,1970-01-01T05:00:00Z,leak,\n"      // no length
        "Press 2,,1980-01-01T05:00:00Z,1980-01-01T06:00:00Z,leak,\n"      // out of the record
        "Press 2,,1970-01-01T05:00:00Z,1970-01-01T06:00:00Z,gremlins,\n"  // unknown kind
        "Press 9,,1970-01-01T05:00:00Z,1970-01-01T06:00:00Z,leak,\n"
        "Press 2,Weight,1970-01-01T05:00:00Z,1970-01-01T06:00:00Z,leak,\n"
        "Press 2,Press 1/Oil,1970-01-01T05:00:00Z,1970-01-01T06:00:00Z,leak,\n"
        "Press 2,,soon,1970-01-01T06:00:00Z,leak,\n"
        "Press 2,,1970-01-01T05:00:00Z,1970-01-01T06:00:00Z,leak,maybe\n"
        "Press 2,,1970-01-01T05:00:00Z\n"
        "Press 2,,1970-01-01T08:00:00Z,1970-01-01T09:00:00Z,,unsure\n");
    ASSERT_EQ(why.size(), 11u);
    EXPECT_EQ(why[0], "3: it overlaps another of the same kind, author and tags, from 1 Jan 1970 01:00:00");
    EXPECT_EQ(why[1], "5: it ends before it starts");
    EXPECT_EQ(why[2], "6: it has no length");
    EXPECT_EQ(why[3].substr(0, 43), "7: it lies outside the record, which goes f");
    EXPECT_EQ(why[4], "8: kind `gremlins` is not in the label book: say which of its kinds it is");
    EXPECT_NE(why[5].find("9: "), std::string::npos);
    EXPECT_NE(why[6].find("10: "), std::string::npos);
    EXPECT_EQ(why[7], "11: Press 1/Oil is not on Press 2");
    EXPECT_NE(why[8].find("12: "), std::string::npos);
    EXPECT_EQ(why[9], "13: `maybe` is not a certainty; these are: sure, likely, unsure");
    EXPECT_EQ(why[10], "14: 3 fields where the header has 6");
    EXPECT_EQ(labelsOf(*study).size(), 3u);
}

TEST_F(LabelFiles, TablesOfOthersComeInByAMapping) {
    const std::string text =
        "Machine;Begin;Finish;Class;Weather\n"
        "Press 1;1970-01-01 01:00;1970-01-01 02:00;drip;rain\n"
        "Press 1;1970-01-01 03:00;1970-01-01 04:00;other;\n"
        "Press 1;1970-01-01 05:00;1970-01-01 06:00;unknown thing;sun\n";
    EXPECT_EQ(reasons(text),
              std::vector<std::string>{"the table has no column `asset`; it has Machine, Begin, "
                                       "Finish, Class, Weather"});
    LabelImportSpec spec;
    spec.columns = {{"Machine", "asset"}, {"Begin", "start"}, {"Finish", "end"}, {"Class", "kind"}};
    spec.kinds = {{"drip", "leak"}, {"other", ""}};
    spec.by = "R. Osen";
    const auto done = importLabels(*study, text, spec);
    ASSERT_TRUE(done) << done.error().message;
    EXPECT_EQ(done->added, 2u);
    ASSERT_EQ(done->aside.size(), 1u);
    const auto labels = labelsOf(*study);
    EXPECT_EQ(factText(labels[0].facts, "kind"), "leak");
    EXPECT_EQ(factText(labels[0].facts, "Weather"), "rain");
    EXPECT_EQ(factText(labels[0].facts, "by"), "R. Osen");
    EXPECT_EQ(factText(labels[1].facts, "kind"), "");
    spec.addKinds = true;
    const auto more = importLabels(*study, text, spec);
    EXPECT_EQ(more->newKinds, std::vector<std::string>{"unknown thing"});
    EXPECT_EQ(more->known, 2u);
    EXPECT_TRUE(findKind(study->judgement().labelBook(), "unknown thing"));
    spec.kinds = {{"drip", "gremlins"}};
    spec.addKinds = false;
    EXPECT_FALSE(importLabels(*study, text, spec)) << "a mapping to what is not in the book";
}

TEST_F(LabelFiles, FilesThatAreNoLabelsChangeNothing) {
    for (const char* text : {"", "{}", "{\"labels\": 3}", "[", "hello", "a,b\n1,2\n"})
        EXPECT_FALSE(importLabels(*study, text, {})) << text;
    EXPECT_EQ(reasons("[1, {\"asset\": \"Press 1\"}]").size(), 2u);
    EXPECT_TRUE(labelsOf(*study).empty());
}

class Cuts : public LabelFiles {
  protected:
    void SetUp() override {
        LabelFiles::SetUp();
        out = path + "-cuts";
        fs::remove_all(out);
    }
    void TearDown() override {
        fs::remove_all(out);
        LabelFiles::TearDown();
    }
    json manifest() {
        std::ifstream file(out + "/manifest.json");
        return json::parse(file);
    }
    void addRuns() {
        study->change("runs", "", {}, [&] {
            const TrackId track = study->tracks().put("Runs", track_kind::kRuns);
            for (int on : {0, 1})
                for (int i = 0; i < 8; ++i)
                    study->tracks().addSpan(
                        track, {{}, asset(on), {}, at(i * 6 * kHour), at((i * 6 + 5) * kHour), {}});
        });
    }
    std::string out;
};

TEST_F(Cuts, TrainAndTestShareNoRun) {
    addRuns();
    for (int i = 0; i < 40; ++i)
        mark(i * kHour + 5 * kMinute, i * kHour + 50 * kMinute, i % 3 ? "leak" : "normal", i % 2);
    CutOutSpec spec;
    spec.split = SplitBy::Run;
    spec.margin = 10 * kMinute;
    spec.shares = {0.6, 0.2, 0.2};
    const auto done = cutOut(*study, out, spec);
    ASSERT_TRUE(done) << done.error().message;
    EXPECT_EQ(done->labels, 40u);
    std::map<std::int64_t, std::set<std::string>> partsOf;
    const json made = manifest();
    for (const json& label : made["labels"]) {
        EXPECT_TRUE(fs::exists(fs::path(out) / label["file"].get<std::string>()));
        for (const std::int64_t run : label["runs"]) partsOf[run].insert(label["part"]);
    }
    EXPECT_GT(partsOf.size(), 10u);
    for (const auto& [run, parts] : partsOf) EXPECT_EQ(parts.size(), 1u) << run;
    EXPECT_EQ(done->byPart.size(), 3u);
}

TEST_F(Cuts, ValuesAreThoseOfTheStepAndOnlyOfTheLabelsTags) {
    markAll();
    CutOutSpec spec;
    spec.every = 30 * kMinute;
    const auto done = cutOut(*study, out, spec);
    ASSERT_TRUE(done) << done.error().message;
    EXPECT_EQ(done->labels, 3u);
    ASSERT_EQ(done->leftOut.size(), 1u);
    EXPECT_EQ(done->leftOut[0].second, "not named yet");
    const json last = manifest()["labels"].back();
    std::ifstream file(fs::path(out) / last["file"].get<std::string>());
    const std::string text{std::istreambuf_iterator<char>(file), {}};
    EXPECT_EQ(text, "time,Oil,Temp\n1970-01-01T05:00:00Z,0,0\n1970-01-01T05:30:00Z,30,30\n");
    EXPECT_EQ(last["columns"][0]["unit"], "°C");
}

TEST_F(Cuts, WhatCannotBeCutOutLeavesNothingBehind) {
    EXPECT_FALSE(cutOut(*study, out, {})) << "there is nothing";
    markAll();
    CutOutSpec spec;
    spec.split = SplitBy::Run;
    EXPECT_NE(cutOut(*study, out, spec).error().message.find("needs runs"), std::string::npos);
    spec.runs = "Labels";
    EXPECT_FALSE(cutOut(*study, out, spec));
    EXPECT_TRUE(cutOut(*study, out, {}, [](double) { return false; }).error().isCancelled());
    EXPECT_FALSE(fs::exists(out));
    spec = {};
    spec.labels = {SpanId(999)};
    EXPECT_FALSE(cutOut(*study, out, spec));
    fs::create_directories(out);
    std::ofstream(out + "/mine.txt") << "kept";
    EXPECT_FALSE(cutOut(*study, out, {}));
    EXPECT_TRUE(fs::exists(out + "/mine.txt"));
    const fs::path making = fs::path(out).parent_path() / ("." + fs::path(out).filename().string() + ".part");
    EXPECT_FALSE(fs::exists(making));
}

CutOutSpec halvesByAsset() {
    CutOutSpec spec;
    spec.split = SplitBy::Asset;
    spec.shares = {0.5, 0, 0.5};
    spec.balance = true;
    return spec;
}

TEST_F(Cuts, AKindThatAPartLacksIsSaid) {
    for (int i = 0; i < 6; ++i) mark(i * kHour, i * kHour + 30 * kMinute, i == 0 ? "leak" : "normal", i % 2);
    const auto done = cutOut(*study, out, halvesByAsset());
    ASSERT_TRUE(done) << done.error().message;
    ASSERT_EQ(done->missing.size(), 1u);
    EXPECT_TRUE(done->missing[0] == "no leak in train" || done->missing[0] == "no leak in test")
        << done->missing[0];
    EXPECT_EQ(manifest()["missing"], json(done->missing));
}

TEST_F(Cuts, BalancedAndByAsset) {
    for (int i = 0; i < 12; ++i) mark(i * kHour, i * kHour + 30 * kMinute, i < 9 ? "leak" : "normal", i % 2);
    const auto done = cutOut(*study, out, halvesByAsset());
    ASSERT_TRUE(done) << done.error().message;
    for (const auto& [part, kinds] : done->byPart) EXPECT_EQ(kinds.at("leak"), kinds.at("normal")) << part;
    std::map<std::string, std::set<std::string>> parts;
    const json made = manifest();
    for (const json& label : made["labels"]) parts[label["asset"]].insert(label["part"]);
    for (const auto& [asset, in] : parts) EXPECT_EQ(in.size(), 1u) << asset;
    EXPECT_GT(done->leftOut.size(), 0u);
}

}  // namespace
}  // namespace jacinth
