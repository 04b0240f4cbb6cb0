#include "core/base/natural_order.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <string>
#include <vector>

namespace jacinth {
namespace {

TEST(NaturalOrder, PutsNumbersInNamesBySize) {
    std::vector<std::string> names{"Line 10", "line 2",   "Line 1", "",   "Line 02",
                                   "Line",    "Line 2 b", "Ü",      "10", "9"};
    std::sort(names.begin(), names.end(), naturallyBefore);
    EXPECT_EQ(names, (std::vector<std::string>{"", "9", "10", "Line", "Line 1", "Line 02", "line 2",
                                               "Line 2 b", "Line 10", "Ü"}));
}

TEST(NaturalOrder, IsStrict) {
    const std::vector<std::string> names{"a1", "A1", "a01", "a1b", "a",   "",
                                         "1",  "01", "a1 ", "b",   "a10", "a9"};
    for (const std::string& a : names)
        for (const std::string& b : names) {
            EXPECT_FALSE(naturallyBefore(a, b) && naturallyBefore(b, a)) << a << "|" << b;
            EXPECT_EQ(a == b, !naturallyBefore(a, b) && !naturallyBefore(b, a)) << a << "|" << b;
        }
    EXPECT_TRUE(naturallyBefore("99999999999999999999998", "99999999999999999999999"));
}

}  // namespace
}  // namespace jacinth
