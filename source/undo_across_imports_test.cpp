// Imports, their removal, changes of kind, declared states, other steps, undo and redo in any order: what was
// read always reads the same, every code has its name, and no step of another sort is taken back in silence.
#include <gtest/gtest.h>

#include <fmt/format.h>
#include <unistd.h>

#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <random>

#include "core/series/text_value.h"
#include "core/time/times_for_tests.h"
#include "source/import_samples.h"
#include "store/history.h"
#include "store/imports.h"
#include "store/sample_store.h"
#include "store/tag_kind.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

namespace fs = std::filesystem;
using Texts = std::map<Instant, std::string>;

class UndoAcrossImports : public ::testing::TestWithParam<unsigned> {
  protected:
    void SetUp() override {
        path =
            (fs::temp_directory_path() / fmt::format("jacinth-undo-{}-{}.jacinth", ::getpid(), GetParam()));
        for (const char* end : {"", "-wal", "-shm"}) fs::remove(path + end);
        study = std::move(*Study::create(path));
        random.seed(GetParam());
    }
    void TearDown() override {
        study.reset();
        for (const char* end : {"", "-wal", "-shm"}) fs::remove(path + end);
    }
    int upTo(int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); }
    Tag tag() { return *study->catalog().tagAt("K 1/a"); }
    bool isState() { return study->catalog().find("K 1/a") && tag().kind == TagKind::State; }

    ImportId import(const Texts& rows) {
        std::string text = "time,K 1/a\n";
        for (const auto& [t, value] : rows) text += toIso(t) + "," + value + "\n";
        const auto done = importSamples(*study, {"f.csv", text}, {});
        EXPECT_TRUE(done) << done.error().message;
        EXPECT_EQ(done->badRowCount + done->badCellCount, 0) << text;
        // What stood there already stays with the import that brought it.
        Texts brought;
        const Texts before = expected();
        for (const auto& [t, value] : rows)
            if (const auto was = before.find(t); was == before.end() || was->second != value)
                brought[t] = value;
        imports.emplace_back(done->import, brought);
        return done->import;
    }
    Texts someRows(bool texts) {
        const std::array<const char*, 5> words{"7", "8", "9", "Auto", "Off"};
        Texts rows;
        const int n = 1 + upTo(4);
        for (int i = 0; i < n; ++i)
            rows[at(upTo(30) * kMinute)] = words[static_cast<std::size_t>(upTo(texts ? 5 : 3))];
        return rows;
    }
    void turn(TagKind kind) {
        study->changeWithSamples("kind", "", {}, [&] { changeTagKind(*study, tag().id, kind); });
    }
    void label() {
        study->change("label", "", {}, [&] {
            study->tracks().addSpan(study->tracks().put("Labels", track_kind::kLabels),
                                    {{}, {}, {}, at(0), at(kHour), {}});
        });
    }
    std::size_t labels() { return study->tracks().spansOf(track_kind::kLabels).size(); }

    Texts expected() const {
        Texts out;
        for (const auto& [id, rows] : imports)
            for (const auto& [t, value] : rows) out[t] = value;
        return out;
    }
    Texts onRecord() {
        Texts out;
        const Tag now = tag();
        const Series s = study->read(now, between(0, 1'000'000 * kSecond), Which::AsLogged);
        for (std::size_t i = 0; i < s.size(); ++i) {
            const double v = s.values[i];
            const auto code =
                now.kind == TagKind::State ? std::optional(static_cast<std::uint32_t>(v)) : textOfValue(v);
            if (code && *code >= now.states.size())
                out[s.times[i]] = "no name";
            else
                out[s.times[i]] = code ? now.states[*code] : fmt::format("{}", v);
        }
        return out;
    }
    void expectSame(const char* after) {
        study->refresh();
        ASSERT_EQ(onRecord(), expected()) << after;
        const auto faults = study->check();
        ASSERT_TRUE(faults.empty()) << after << ": " << faults.front();
    }

    std::string path;
    std::unique_ptr<Study> study;
    std::mt19937 random;
    std::vector<std::pair<ImportId, Texts>> imports;
};

TEST_P(UndoAcrossImports, WhatWasReadReadsTheSameWhateverIsUndone) {
    import(someRows(false));
    int refused = 0, undone = 0;
    for (int step = 0; step < 60; ++step) {
        const char* what = "";
        switch (upTo(8)) {
            case 0:
            case 1:
                what = "import";
                import(someRows(isState()));
                break;
            case 2:
                what = "kind";
                turn(isState() ? TagKind::Continuous : TagKind::State);
                break;
            case 3:
                what = "declared state";
                if (isState())
                    study->changeWithSamples("states", "", {}, [&] {
                        study->catalog().addState(tag().id, fmt::format("state {}", step));
                    });
                break;
            case 4: {
                what = "removal";
                if (imports.size() < 2) break;
                const auto which = imports.begin() + upTo(static_cast<int>(imports.size()));
                // One that brought nothing new has nothing to be removed.
                ASSERT_EQ(study->imports().remove(which->first, "test").operator bool(),
                          !which->second.empty());
                imports.erase(which);
                break;
            }
            case 5:
                what = "label";
                label();
                break;
            case 6: {
                what = "redo";
                const std::size_t before = labels();
                const std::string name = study->history().redoName();
                if (!study->history().redo())
                    EXPECT_EQ(labels(), before);
                else if (name != "label")
                    EXPECT_EQ(labels(), before);
                break;
            }
            default: {
                what = "undo";
                const auto next = study->history().nextUndo();
                const bool past = upTo(2) == 0;
                const std::size_t before = labels();
                const Status done =
                    study->history().undo({}, past ? History::Imports::PassOver : History::Imports::Stop);
                ++(done ? undone : refused);
                if (next && next->isImport && !past)
                    EXPECT_FALSE(done) << "an import was passed over in silence";
                if (!done) EXPECT_EQ(labels(), before);
                break;
            }
        }
        expectSame(what);
        if (HasFatalFailure()) return;
    }
    EXPECT_GT(refused, 0);
    EXPECT_GT(undone, 0);
}
INSTANTIATE_TEST_SUITE_P(Seeds, UndoAcrossImports, ::testing::Range(1u, 41u));

using UndoAfterImport = UndoAcrossImports;

TEST_P(UndoAfterImport, OfAChangeOfKindIsRefusedWithItsReason) {
    import({{at(0), "7"}, { at(kMinute), "8" }});
    turn(TagKind::State);
    import({{at(2 * kMinute), "Auto"}, { at(3 * kMinute), "9" }});
    const Status stopped = study->history().undo();
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().message, "the last change is “import f.csv”, which undo does not take back");
    const Status past = study->history().undo({}, History::Imports::PassOver);
    ASSERT_FALSE(past);
    EXPECT_NE(past.error().message.find("“kind” changed the samples, the kind or the states"),
              std::string::npos)
        << past.error().message;
    EXPECT_NE(past.error().message.find("“import f.csv” came after it"), std::string::npos);
    expectSame("undo");
}

TEST_P(UndoAfterImport, TakesBackAnOlderStepOnlyWhenItIsMeant) {
    const ImportId first = import({{at(0), "7"}, {at(kMinute), "8"}});
    label();
    ASSERT_EQ(labels(), 1u);
    import({{ at(2 * kMinute), "9" }});
    ASSERT_TRUE(study->imports().remove(first, "wrong file"));
    imports.erase(imports.begin());
    const Status stopped = study->history().undo();
    ASSERT_FALSE(stopped);
    EXPECT_NE(stopped.error().message.find("remove import f.csv"), std::string::npos);
    EXPECT_EQ(labels(), 1u);
    EXPECT_EQ(study->history().nextUndo()->name, "remove import f.csv");
    EXPECT_EQ(study->history().nextUndoPastImports()->name, "label");
    ASSERT_TRUE(study->history().undo({}, History::Imports::PassOver));
    EXPECT_EQ(labels(), 0u);
    ASSERT_TRUE(study->history().redo());
    EXPECT_EQ(labels(), 1u);
    expectSame("redo");
}

TEST_P(UndoAfterImport, AnotherTagsImportDoesNotHinderIt) {
    import({{ at(0), "7" }});
    turn(TagKind::State);
    ASSERT_TRUE(importSamples(*study, {"g.csv", "time,K 1/b\n2026-01-01T00:00Z,1\n"}, {}));
    EXPECT_FALSE(study->history().undo());
    ASSERT_TRUE(study->history().undo({}, History::Imports::PassOver));
    EXPECT_EQ(tag().kind, TagKind::Continuous);
    expectSame("undo");
}

TEST_P(UndoAfterImport, WhatWasUndoneBeforeItCannotBeRedone) {
    import({{ at(0), "7" }});
    turn(TagKind::State);
    ASSERT_TRUE(study->history().undo());
    import({{ at(kMinute), "8" }});
    EXPECT_EQ(study->history().redoName(), "");
    EXPECT_FALSE(study->history().redo());
    expectSame("redo");
}

INSTANTIATE_TEST_SUITE_P(Once, UndoAfterImport, ::testing::Values(100u));

}  // namespace
}  // namespace jacinth
