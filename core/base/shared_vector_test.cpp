#include "core/base/shared_vector.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

TEST(SharedVector, CopiesAreOneVectorUntilOneIsEdited) {
    SharedVector<int> a{1, 2, 3}, b = a;
    EXPECT_EQ(a.data(), b.data());
    b.edit().push_back(4);
    EXPECT_EQ(a.get(), (std::vector<int>{1, 2, 3}));
    EXPECT_EQ(b.get(), (std::vector<int>{1, 2, 3, 4}));
    const int* alone = b.data();
    b.edit()[0] = 7;
    EXPECT_EQ(b.data(), alone);  // nobody shares it: no copy
    EXPECT_EQ(b.front(), 7);
    a = b;
    EXPECT_EQ(a, b);
    a.edit() = {};
    EXPECT_TRUE(a.empty());
    EXPECT_EQ(b.size(), 4u);
}

TEST(SharedVector, EmptyAndMovedFromOnesReadAsEmpty) {
    SharedVector<double> none;
    EXPECT_TRUE(none.empty());
    EXPECT_EQ(none.begin(), none.end());
    EXPECT_EQ(none, SharedVector<double>(std::vector<double>()));
    SharedVector<double> a{1.5}, b = std::move(a);
    EXPECT_EQ(b.back(), 1.5);
    a = b;
    a.edit().clear();
    EXPECT_EQ(b.size(), 1u);
    none.edit().push_back(2);
    EXPECT_EQ(none[0], 2);
}

TEST(SharedVector, IsAVectorWhereOneIsWanted) {
    const auto sum = [](const std::vector<int>& all) {
        int out = 0;
        for (const int v : all) out += v;
        return out;
    };
    EXPECT_EQ(sum(SharedVector<int>{1, 2, 3}), 6);
}

}  // namespace
}  // namespace jacinth
