// What is next worth labelling: near the unsure, and far from everything labelled.
#include "core/label/worth_labelling.h"

#include <gtest/gtest.h>

#include <cmath>

namespace jacinth {
namespace {

StretchFigures plain(double a, double b) {
    return {{a, b}, false, false};
}

TEST(WorthLabelling, TheOddOneComesFirstAndLabelledOnesNever) {
    std::vector<StretchFigures> all;
    for (int i = 0; i < 20; ++i) all.push_back(plain(i % 5, i % 3));
    all[4].labelled = true;
    all.push_back(plain(40, 1));  // unlike anything
    const auto next = worthLabelling(all, 5);
    ASSERT_EQ(next.size(), 5u);
    EXPECT_EQ(next[0].stretch, 20u);
    EXPECT_EQ(next[0].nearest, 4u);
    EXPECT_FALSE(next[0].likeUnsure);
    for (const auto& w : next) EXPECT_NE(w.stretch, 4u);
    all[20].labelled = true;
    EXPECT_NE(worthLabelling(all, 5)[0].stretch, 20u);
}

TEST(WorthLabelling, WhatIsNearAnUnsureOneComesBeforeThat) {
    std::vector<StretchFigures> all;
    for (int i = 0; i < 10; ++i) all.push_back(plain(i, i * i));
    all[2].labelled = all[2].unsure = true;
    all[9].labelled = true;
    const auto next = worthLabelling(all, 4);
    ASSERT_EQ(next.size(), 4u);
    EXPECT_TRUE(next[0].likeUnsure);
    EXPECT_TRUE(next[0].stretch == 1 || next[0].stretch == 3);
    EXPECT_EQ(next[0].nearest, 2u);
    EXPECT_FALSE(next[3].likeUnsure) << "half of them at most";
}

TEST(WorthLabelling, MissingFiguresAndNothingAtAll) {
    EXPECT_TRUE(worthLabelling({}, 3).empty());
    std::vector<StretchFigures> all;
    for (int i = 0; i < 6; ++i) all.push_back(plain(i, std::nan("")));
    all.push_back(plain(std::nan(""), std::nan("")));
    const auto next = worthLabelling(all, 10);
    EXPECT_EQ(next.size(), 6u) << "without a figure nothing can be said";
    EXPECT_TRUE(next[0].stretch == 0 || next[0].stretch == 5);
}

}  // namespace
}  // namespace jacinth
