// The record against a plain map: whatever is written in whatever order, it reads back as the map says.
#include <gtest/gtest.h>
#include <unistd.h>

#include <filesystem>
#include <random>

#include "core/time/times_for_tests.h"
#include "store/sample_store.h"
#include "store/study.h"

namespace jacinth {
namespace {

class AgainstAMap : public ::testing::TestWithParam<unsigned> {
  protected:
    void SetUp() override {
        path = ::testing::TempDir() + "map-" + std::to_string(::getpid()) + "-" + std::to_string(GetParam()) +
               ".jacinth";
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
    std::string path;
    std::unique_ptr<Study> study;
    TagId tag;
};

TEST_P(AgainstAMap, AnyOrderOfAnyBatches) {
    std::mt19937 random(GetParam());
    std::map<Instant, std::pair<double, Quality>> want;
    for (int batch = 0; batch < 12; ++batch) {
        Series s;
        const int n = 1 + static_cast<int>(random() % 9000);
        const Instant start = Instant(static_cast<int>(random() % 60000) * kSecond);
        std::int64_t added = 0;
        std::map<Instant, std::pair<double, Quality>> mine;
        for (int i = 0; i < n; ++i) {
            const Instant t = start + static_cast<int>(random() % 40000) * kSecond;
            const double v = static_cast<double>(random() % 10000) / (random() % 7 == 0 ? 7.0 : 100.0);
            const Quality q = random() % 50 == 0   ? Quality::Bad
                              : random() % 50 == 1 ? Quality::Uncertain
                                                   : Quality::Good;
            s.push(t, v, q);
            mine[t] = {v, q};
        }
        for (const auto& [t, v] : mine) {
            added += !want.contains(t);
            want[t] = v;
        }
        WriteBatch transaction(*study);
        EXPECT_EQ(study->samples().write(tag, s).added, added);
        transaction.commit();
        if (batch % 4 == 3) {
            study.reset();
            study = std::move(*Study::open(path));
        }
    }
    const Series all = study->samples().read(tag, between(0, kDay * 10), {});
    ASSERT_EQ(all.size(), want.size());
    std::size_t i = 0;
    for (const auto& [t, v] : want) {
        ASSERT_EQ(all.times[i], t);
        ASSERT_EQ(all.values[i], v.first);
        ASSERT_EQ(all.view().qualityAt(i), v.second);
        ++i;
    }
    EXPECT_TRUE(study->check().empty());
    // Any window is the part of the whole, with its neighbours; any zoom shows the true extremes.
    for (int k = 0; k < 40; ++k) {
        const Instant from = Instant(static_cast<int>(random() % 100000) * kSecond),
                      to = from + static_cast<int>(1 + random() % 50000) * kSecond;
        const Series part = study->samples().read(tag, {from, to}, {});
        const SeriesView inside = part.view().within({from, to}), expected = all.view().within({from, to});
        ASSERT_EQ(inside.size(), expected.size());
        EXPECT_LE(part.size(), inside.size() + 2);
        double least = 1e300, greatest = -1e300, shownLeast = 1e300, shownGreatest = -1e300;
        for (std::size_t n = 0; n < expected.size(); ++n)
            if (expected.usable(n)) {
                least = std::min(least, expected.values[n]);
                greatest = std::max(greatest, expected.values[n]);
            }
        for (const Summary& c :
             study->samples().columns(tag, {from, to}, 1 + static_cast<int>(random() % 1500), {}))
            if (c.usable) {
                shownLeast = std::min(shownLeast, c.least);
                shownGreatest = std::max(shownGreatest, c.greatest);
            }
        if (least <= greatest) {
            EXPECT_LE(shownLeast, least);
            EXPECT_GE(shownGreatest, greatest);
        }
    }
}

INSTANTIATE_TEST_SUITE_P(Seeds, AgainstAMap, ::testing::Values(1U, 2U, 3U, 4U));

TEST(Catalog, RolesAndKindsFromNames) {
    EXPECT_EQ(roleFromName("Air-off temp"), "air_off_temp");
    EXPECT_EQ(roleFromName("Bed ΔP"), "bed_dp");
    EXPECT_EQ(roleFromName("Ölstand 2"), "olstand_2");
    EXPECT_EQ(assetKindFromName("Kiln 3"), "Kiln");
    EXPECT_EQ(assetKindFromName("Site"), "Site");
    EXPECT_EQ(assetKindFromName("42"), "42");
    EXPECT_FALSE(tagKindNamed("wavy"));
    EXPECT_EQ(*tagKindNamed("stepped"), TagKind::Stepped);
}

TEST(Catalog, FactsKeepTheirTypes) {
    const Facts facts{{"load", 42.5}, {"product", std::string("Pale \"A\"")}, {"batch", std::string("17")}};
    EXPECT_EQ(factsFromJson(factsToJson(facts)), facts);
    EXPECT_TRUE(factsFromJson("no json").empty());
    EXPECT_EQ(factNumber(facts, "product", -1), -1);
    EXPECT_EQ(factText(facts, "load"), "42.5");
    EXPECT_EQ(factText(facts, "nothing"), "");
}

}  // namespace
}  // namespace jacinth
