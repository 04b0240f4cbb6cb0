#include "core/base/id.h"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <sstream>
#include <type_traits>
#include <unordered_set>

namespace jacinth {
namespace {

// Two kinds do not mix, and numbers become ids by an explicit conversion alone.
static_assert(!std::is_constructible_v<SpanId, TagId>);
static_assert(!std::is_convertible_v<TagId, std::int64_t>);
static_assert(!std::is_convertible_v<std::int64_t, TagId>);
static_assert(!std::is_constructible_v<TagId, double>);

TEST(Ids, NoneIsFalseAndEqualsNone) {
    EXPECT_FALSE(TagId());
    EXPECT_TRUE(TagId(7));
    EXPECT_EQ(TagId(0), TagId());
    EXPECT_LT(TagId(3), TagId(7));
    EXPECT_EQ(std::unordered_set<TagId>({TagId(1), TagId(1), TagId(2)}).size(), 2u);
}

TEST(Ids, CrossTheBordersAsPlainNumbers) {
    EXPECT_EQ(fmt::format("{:>3}", TagId(42)), " 42");
    const nlohmann::json json{{"run", SpanId(9'007'199'254'740'993)}};
    EXPECT_EQ(json.dump(), R"({"run":9007199254740993})");
    EXPECT_EQ(json["run"].get<SpanId>(), SpanId(9'007'199'254'740'993));
    std::istringstream typed("12 x");
    ImportId first, second;
    typed >> first;
    EXPECT_EQ(first, ImportId(12));
    EXPECT_FALSE(typed >> second);
}

}  // namespace
}  // namespace jacinth
