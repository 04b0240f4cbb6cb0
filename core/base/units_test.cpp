#include "core/base/units.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

double converted(double value, const char* from, const char* to) {
    const auto conversion = unitConversion(from, to);
    EXPECT_TRUE(conversion) << from << " to " << to;
    return conversion ? (*conversion)(value) : 0;
}

TEST(Units, SpellingsOfOneUnitAreTheSame) {
    EXPECT_TRUE(isSameUnit("°C", " degC "));
    EXPECT_TRUE(isSameUnit("m³/h", "m3/h"));
    EXPECT_TRUE(isSameUnit("pieces", "pieces "));
    EXPECT_FALSE(isSameUnit("°C", "°F"));
    EXPECT_FALSE(isSameUnit("mbar", "Mbar"));
    EXPECT_FALSE(isSameUnit("pieces", "boxes"));
    EXPECT_FALSE(isSameUnit("bar", "barg"));
}

TEST(Units, BecomeEachOtherAsPublished) {
    EXPECT_DOUBLE_EQ(converted(212, "°F", "°C"), 100);
    EXPECT_DOUBLE_EQ(converted(32, "°F", "°C"), 0);
    EXPECT_NEAR(converted(-40, "°C", "°F"), -40, 1e-12);
    EXPECT_NEAR(converted(20, "°C", "K"), 293.15, 1e-12);
    EXPECT_NEAR(converted(0, "K", "°F"), -459.67, 1e-10);
    EXPECT_NEAR(converted(14.503773773, "psi", "bar"), 1, 1e-9);
    EXPECT_DOUBLE_EQ(converted(1013.25, "hPa", "kPa"), 101.325);
    EXPECT_DOUBLE_EQ(converted(1, "in", "mm"), 25.4);
    EXPECT_DOUBLE_EQ(converted(36, "km/h", "m/s"), 10);
    EXPECT_DOUBLE_EQ(converted(1, "kWh", "MJ"), 3.6);
    EXPECT_DOUBLE_EQ(converted(3000, "rpm", "Hz"), 50);
    EXPECT_DOUBLE_EQ(converted(2, "l/s", "m³/h"), 7.2);
}

TEST(Units, ThereAndBackIsTheSameValue) {
    for (const auto& [a, b] : {std::pair("°C", "°F"), std::pair("bar", "psi"), std::pair("kg", "lb"),
                               std::pair("mmHg", "inH2O"), std::pair("kN", "N")})
        EXPECT_NEAR(converted(converted(37.25, a, b), b, a), 37.25, 1e-12) << a << " " << b;
}

TEST(Units, OfDifferentThingsHaveNoConversion) {
    EXPECT_FALSE(unitConversion("°C", "bar"));
    EXPECT_FALSE(unitConversion("bar", "barg"));
    EXPECT_FALSE(unitConversion("pieces", "boxes"));
    EXPECT_FALSE(unitConversion("", "°C"));
}

}  // namespace
}  // namespace jacinth
