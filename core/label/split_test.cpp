// Examples split without leakage: what hangs together stays together, shares and kinds come out as asked.
#include "core/label/split.h"

#include <gtest/gtest.h>

#include <map>
#include <random>
#include <set>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

Example example(const char* kind, int asset, int hour, std::vector<std::int64_t> groups, int hours = 1) {
    return {kind, AssetId(asset), between(hour * kHour, (hour + hours) * kHour), std::move(groups)};
}

std::vector<Example> many(unsigned seed, int n) {
    std::mt19937 random(seed);
    std::vector<Example> out;
    for (int i = 0; i < n; ++i) {
        const int asset = 1 + static_cast<int>(random() % 6), hour = static_cast<int>(random() % 1400);
        out.push_back(example(random() % 4 ? "a" : "b", asset, hour, {asset * 1000 + hour / 30}));
    }
    return out;
}

TEST(Split, NoGroupAndNoOverlapIsInTwoParts) {
    for (unsigned seed = 0; seed < 40; ++seed) {
        const auto examples = many(seed, 150);
        const auto parts = splitApart(examples, {0.7, 0.15, 0.15}, seed);
        std::map<std::int64_t, std::set<Part>> of;
        for (std::size_t i = 0; i < examples.size(); ++i) {
            of[examples[i].groups[0]].insert(parts[i]);
            for (std::size_t j = 0; j < i; ++j) {
                const bool overlap = examples[i].asset == examples[j].asset &&
                                     examples[i].cut.from < examples[j].cut.to &&
                                     examples[j].cut.from < examples[i].cut.to;
                if (overlap) EXPECT_EQ(parts[i], parts[j]);
            }
        }
        for (const auto& [group, in] : of) EXPECT_EQ(in.size(), 1u) << group;
    }
}

TEST(Split, SharesHoldForEachKind) {
    for (unsigned seed = 0; seed < 10; ++seed) {
        const auto examples = many(seed, 400);
        const auto parts = splitApart(examples, {0.6, 0.2, 0.2}, seed);
        std::map<std::string, std::array<double, 3>> count;
        std::map<std::string, double> total;
        for (std::size_t i = 0; i < examples.size(); ++i) {
            ++count[examples[i].kind][static_cast<std::size_t>(parts[i])];
            ++total[examples[i].kind];
        }
        for (const auto& [kind, c] : count) {
            EXPECT_NEAR(c[0] / total[kind], 0.6, 0.05) << kind;
            EXPECT_NEAR(c[2] / total[kind], 0.2, 0.05) << kind;
        }
    }
}

TEST(Split, WhatHangsTogetherThroughOthersStaysTogether) {
    // The second touches the runs of the first and of the third.
    const std::vector<Example> examples{example("a", 1, 0, {1}), example("a", 1, 30, {1, 2}),
                                        example("a", 1, 60, {2}), example("a", 2, 0, {7})};
    const auto parts = splitApart(examples, {0.5, 0, 0.5}, 3);
    EXPECT_EQ(parts[0], parts[1]);
    EXPECT_EQ(parts[1], parts[2]);
    EXPECT_NE(parts[0], parts[3]);
    // A long one overlaps a later one that starts after a short one in between.
    const std::vector<Example> nested{example("a", 1, 0, {1}, 10), example("a", 1, 1, {2}),
                                      example("a", 1, 8, {3})};
    const auto together = splitApart(nested, {0.5, 0, 0.5}, 1);
    EXPECT_EQ(together[0], together[1]);
    EXPECT_EQ(together[0], together[2]);
}

TEST(Split, TheSeedDecidesAmongEquals) {
    const auto examples = many(3, 60);
    EXPECT_EQ(splitApart(examples, {0.7, 0.15, 0.15}, 5), splitApart(examples, {0.7, 0.15, 0.15}, 5));
    EXPECT_NE(splitApart(examples, {0.7, 0.15, 0.15}, 5), splitApart(examples, {0.7, 0.15, 0.15}, 6));
    EXPECT_TRUE(splitApart({}, {1, 0, 0}, 1).empty());
}

TEST(Split, BalancedKeepsAsManyOfEachKind) {
    const auto examples = many(8, 200);
    const auto parts = splitApart(examples, {0.5, 0.25, 0.25}, 1);
    const auto keep = balanced(examples, parts, 1);
    std::map<std::pair<Part, std::string>, int> count;
    for (std::size_t i = 0; i < keep.size(); ++i)
        if (keep[i]) ++count[{parts[i], examples[i].kind}];
    for (const Part part : {Part::Train, Part::Validation, Part::Test}) {
        EXPECT_EQ(count.at({part, "a"}), count.at({part, "b"}));
        EXPECT_GT(count.at({part, "a"}), 0);
    }
}

TEST(Split, SharesAreReadAsPeopleWriteThem) {
    EXPECT_EQ((*readShares("70, 15,15")), (std::array<double, 3>{0.7, 0.15, 0.15}));
    EXPECT_EQ((*readShares("80,20")), (std::array<double, 3>{0.8, 0, 0.2}));
    for (const char* wrong : {"", "100", "70,15", "70,15,10,5", "a,b,c", "-10,110", "nan,50,50"})
        EXPECT_FALSE(readShares(wrong)) << wrong;
}

}  // namespace
}  // namespace jacinth
