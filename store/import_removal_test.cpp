// Imports in any order over the same stretch, removed in any order: the record is always what the remaining
// ones say, the newest first.
#include <gtest/gtest.h>
#include <unistd.h>

#include <filesystem>
#include <random>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/imports.h"
#include "store/sample_store.h"
#include "store/study.h"

namespace jacinth {
namespace {

using Values = std::map<Instant, double>;

class Removal : public ::testing::TestWithParam<unsigned> {
  protected:
    void SetUp() override {
        path = ::testing::TempDir() + "removal-" + std::to_string(::getpid()) + "-" +
               std::to_string(GetParam()) + ".jacinth";
        std::filesystem::remove(path);
        study = std::move(*Study::create(path));
        WriteBatch t(*study);
        tag = study->catalog().addTag(study->catalog().addAsset("K 1"), "x", "", TagKind::Continuous);
        t.commit();
    }
    void TearDown() override {
        study.reset();
        for (const char* end : {"", "-wal", "-shm"}) std::filesystem::remove(path + end);
    }

    ImportId import(const std::vector<Values>& batches) {
        WriteBatch t(*study);
        ImportRecord record;
        record.file = "f";
        record.id = study->imports().begin(record);
        for (const Values& batch : batches) {
            Series s;
            for (const auto& [at, v] : batch) s.push(at, v);
            PreparedWrite w = study->samples().prepare(tag, s);
            SampleStore::code(w);
            EXPECT_TRUE(study->samples().apply(w));
            study->imports().keepPart(record.id, w);
        }
        t.commit();
        return record.id;
    }

    Values onRecord() {
        Values out;
        const Series s = study->samples().read(tag, between(0, 1'000'000 * kSecond), {});
        for (std::size_t i = 0; i < s.size(); ++i) out[s.times[i]] = s.values[i];
        return out;
    }

    std::string path;
    std::unique_ptr<Study> study;
    TagId tag;
};

TEST_P(Removal, LeavesWhatTheOthersSay) {
    std::mt19937 random(GetParam());
    // What an import brought: a value that was on record already belongs to the import that brought it first.
    std::vector<std::pair<ImportId, Values>> imports;
    const auto expected = [&] {
        Values all;
        for (const auto& [id, values] : imports)
            for (const auto& [t, v] : values) all[t] = v;
        return all;
    };
    for (int i = 0; i < 6; ++i) {
        std::vector<Values> batches(1 + random() % 3);
        Values brought;
        Values known = expected();
        for (Values& batch : batches) {
            const Instant start = Instant(static_cast<int>(random() % 30000) * kSecond);
            const std::size_t n = 1 + random() % (random() % 2 ? 200 : 12000);
            for (std::size_t k = 0; k < n; ++k) {
                const Instant t = start + static_cast<int>(random() % 20000) * kSecond;
                const double v = static_cast<double>(random() % 5);
                batch[t] = v;
            }
            for (const auto& [t, v] : batch) {
                const auto there = known.find(t);
                if (there == known.end() || there->second != v) brought[t] = v;
                known[t] = v;
            }
        }
        imports.emplace_back(import(batches), brought);
        ASSERT_EQ(onRecord(), expected());
    }
    while (!imports.empty()) {
        const auto at = static_cast<std::ptrdiff_t>(random() % imports.size());
        const auto removed = study->imports().remove(imports[static_cast<std::size_t>(at)].first, "test");
        ASSERT_TRUE(removed) << removed.error().message;
        imports.erase(imports.begin() + at);
        ASSERT_EQ(onRecord(), expected());
        EXPECT_TRUE(study->check().empty());
    }
    EXPECT_TRUE(onRecord().empty());
}

INSTANTIATE_TEST_SUITE_P(Seeds, Removal, ::testing::Values(1u, 2u, 3u, 4u, 5u, 6u));

class RemovalOf : public Removal {};

TEST_P(RemovalOf, AnOlderImportLeavesWhatLaterOnesPutIntoItsGaps) {
    const ImportId a = import({{{at(0), 1}, {at(10 * kMinute), 1}}});
    const ImportId b = import({{{at(5 * kMinute), 2}}});
    const ImportId c = import({{{at(5 * kMinute), 3}, {at(6 * kMinute), 3}}});
    const auto done = study->imports().remove(a, "");
    ASSERT_TRUE(done);
    EXPECT_EQ(done->samples, 2);
    EXPECT_EQ(onRecord(), (Values{{at(5 * kMinute), 3}, {at(6 * kMinute), 3}}));
    ASSERT_TRUE(study->imports().remove(c, ""));
    EXPECT_EQ(onRecord(), (Values{{at(5 * kMinute), 2}}));
    ASSERT_TRUE(study->imports().remove(b, ""));
    EXPECT_TRUE(onRecord().empty());
}

TEST_P(RemovalOf, ANewerImportBringsTheOlderSamplesBack) {
    const Values first{{at(kSecond), 1}, {at(2 * kSecond), 2}, {at(3 * kSecond), 3}};
    const auto a = import({first});
    const auto b = import({{{at(2 * kSecond), 20}, {at(4 * kSecond), 40}}});
    EXPECT_EQ(onRecord(),
              (Values{{at(kSecond), 1}, {at(2 * kSecond), 20}, {at(3 * kSecond), 3}, {at(4 * kSecond), 40}}));
    const auto replaced = study->imports().replacedSamples(b);
    ASSERT_EQ(replaced.size(), 1u);
    EXPECT_EQ(replaced[0].first, tag);
    EXPECT_EQ(replaced[0].second.values, std::vector<double>{2});
    const auto done = study->imports().remove(b, "wrong file");
    ASSERT_TRUE(done);
    EXPECT_EQ(done->samples, 2);
    EXPECT_EQ(done->restored, 1);
    EXPECT_EQ(onRecord(), first);
    EXPECT_FALSE(study->imports().remove(b, "again"));
    EXPECT_FALSE(study->imports().remove(ImportId(99), "none such"));
    EXPECT_EQ(study->history().ledger().back().what, "remove import f");
    EXPECT_EQ(study->history().ledger().back().why, "wrong file");
    EXPECT_TRUE(study->imports().all()[1].removedAt.has_value());
    EXPECT_FALSE(study->imports().all()[0].removedAt.has_value());
    EXPECT_TRUE(study->imports().all()[0].removable);
    ASSERT_TRUE(study->imports().remove(a, ""));
    EXPECT_TRUE(onRecord().empty());
}

TEST_P(RemovalOf, AnotherConnectionSeesItAfterRefresh) {
    import({{ {at(kSecond), 1}, { at(2 * kSecond), 2 } }});
    auto other = std::move(*Study::open(path, true));
    EXPECT_EQ(other->samples().whole(tag).count, 2u);
    other->refresh();
    EXPECT_FALSE(other->refresh());
    const auto b = import({{{at(2 * kSecond), 5}, {at(3 * kSecond), 3}}});
    EXPECT_TRUE(other->refresh());
    EXPECT_EQ(other->samples().whole(tag).count, 3u);
    ASSERT_TRUE(study->imports().remove(b, ""));
    EXPECT_TRUE(other->refresh());
    EXPECT_EQ(other->samples().whole(tag).count, 2u);
    EXPECT_EQ(other->samples().whole(tag).greatest, 2);
}

INSTANTIATE_TEST_SUITE_P(Once, RemovalOf, ::testing::Values(100u));

}  // namespace
}  // namespace jacinth
