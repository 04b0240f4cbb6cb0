#include "core/base/parse_json.h"

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

namespace jacinth {
namespace {

std::string nested(int levels) {
    return std::string(static_cast<std::size_t>(levels), '[') +
           std::string(static_cast<std::size_t>(levels), ']');
}

TEST(ParseJson, ReadsValuesAndRefusesWhatIsNone) {
    EXPECT_EQ(parseJson(R"({"a": [1, "two"]})").dump(), R"({"a":[1,"two"]})");
    EXPECT_TRUE(parseJson("").is_discarded());
    EXPECT_TRUE(parseJson("{\"a\":").is_discarded());
    EXPECT_TRUE(parseJson("[1] 2").is_discarded());
}

TEST(ParseJson, RefusesWhatIsNestedTooDeep) {
    EXPECT_TRUE(parseJson(nested(kMostJsonLevels)).is_array());
    EXPECT_TRUE(parseJson(nested(kMostJsonLevels + 1)).is_discarded());
    EXPECT_TRUE(parseJson(nested(100'000)).is_discarded());
    EXPECT_TRUE(parseJson(std::string(1'000'000, '{')).is_discarded());
    std::string objects;
    for (int i = 0; i < 100'000; ++i) objects += "{\"a\":";
    EXPECT_TRUE(parseJson(objects).is_discarded());
}

TEST(ParseJson, BracketsInTextsDoNotCount) {
    const std::string many(1000, '[');
    EXPECT_EQ(parseJson("[\"" + many + "\\\"" + many + "\"]")[0], many + "\"" + many);
}

}  // namespace
}  // namespace jacinth
