#include "core/base/role_name.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

TEST(RoleName, IsPlainAndOneWord) {
    EXPECT_EQ(roleFromName("Air-off temp"), "air_off_temp");
    EXPECT_EQ(roleFromName("Bed ΔP"), "bed_dp");
    EXPECT_EQ(roleFromName("Bearing vib."), "bearing_vib");
    EXPECT_EQ(roleFromName("Größe (20 °C)"), "grosse_20_c");
    EXPECT_EQ(roleFromName("CO₂ / O₂"), "co2_o2");
    EXPECT_EQ(roleFromName("µ-flow"), "u_flow");
    EXPECT_EQ(roleFromName("  2nd stage"), "_2nd_stage");
    EXPECT_EQ(roleFromName("温度 (入口)"), "温度_入口");
    EXPECT_EQ(roleFromName("±°·→"), "role");
    EXPECT_EQ(roleFromName(""), "role");
}

TEST(RoleName, OfARoleIsTheRoleAndOldOnesBecomeTheNew) {
    for (const char* role : {"air_off_temp", "bed_dp", "kiln_step", "_2nd_stage"})
        EXPECT_EQ(roleFromName(role), role);
    EXPECT_EQ(roleFromName("bed_δp"), "bed_dp");
    EXPECT_EQ(roleFromName("bearing_vib_"), "bearing_vib");
}

}  // namespace
}  // namespace jacinth
