// Golden limits as one text: read back as they were, and refused where they cannot be.
#include "store/limit_body.h"

#include <gtest/gtest.h>

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

using nlohmann::json;

GoldenLimits someLimits(LimitMethod method, LineUp lineUp, std::int64_t first) {
    GoldenLimits out;
    out.spec.method = method;
    out.spec.lineUp = lineUp;
    out.spec.every = 90 * kSecond;
    out.spec.k = 2.5;
    out.spec.q = 0.01;
    out.spec.smooth = 5;
    out.spec.slack = 7 * kMinute;
    out.spec.leastRuns = 4;
    out.spec.indicator = lineUp == LineUp::Indicator ? "malt_moisture" : "";
    for (int i = 0; i < 6; ++i) {
        const bool known = i != 2;
        out.slices.push_back({Place((first + i) * out.spec.every), known ? 9 : 1,
                              known ? 0.1 * i : std::nan(""), known ? 0.2 * i : std::nan(""),
                              known ? 1.0 / 3 * i + 1 : std::nan("")});
    }
    if (lineUp == LineUp::Phases) out.phases = {{"Heating", 3 * kHour}, {"Drying “fine”", 90 * kMinute}};
    return out;
}

LimitSet someSet() {
    LimitSet set;
    set.name = "Usual";
    set.goldenRuns = {SpanId(3), SpanId(8), SpanId(1)};
    set.validFrom = at(5 * kDay + kNanosecond);
    set.forRuns = "product = \"Pale\"";
    set.made = at(9 * kDay);
    set.who = "R. Osen";
    set.madeFrom = "a mark";
    set.byRole["air_on_temp"] = someLimits(LimitMethod::MedianMad, LineUp::Start, 0);
    set.byRole["bed_dp"] = someLimits(LimitMethod::Quantile, LineUp::End, -5);
    set.byRole["fan_current"] = someLimits(LimitMethod::Tolerance, LineUp::Phases, 0);
    set.byRole["gas_flow"] = someLimits(LimitMethod::Envelope, LineUp::Indicator, 0);
    return set;
}

void expectSame(const GoldenLimits& a, const GoldenLimits& b, const std::string& role) {
    EXPECT_EQ(a.spec, b.spec) << role;
    ASSERT_EQ(a.slices.size(), b.slices.size()) << role;
    for (std::size_t i = 0; i < a.slices.size(); ++i) {
        const LimitSlice &x = a.slices[i], &y = b.slices[i];
        EXPECT_EQ(x.offset, y.offset) << role << i;
        EXPECT_EQ(x.n, y.n) << role << i;
        const auto same = [](double u, double v) { return u == v || (std::isnan(u) && std::isnan(v)); };
        EXPECT_TRUE(same(x.low, y.low) && same(x.centre, y.centre) && same(x.high, y.high)) << role << i;
    }
    ASSERT_EQ(a.phases.size(), b.phases.size()) << role;
    for (std::size_t i = 0; i < a.phases.size(); ++i) {
        EXPECT_EQ(a.phases[i].name, b.phases[i].name);
        EXPECT_EQ(a.phases[i].length, b.phases[i].length);
    }
}

TEST(LimitBodies, ReadBackToTheLastBit) {
    const LimitSet set = someSet();
    LimitSet back;
    const Status read = readLimitBody(limitBodyOf(set), back);
    ASSERT_TRUE(read) << read.error().message;
    EXPECT_EQ(back.goldenRuns, set.goldenRuns);
    EXPECT_EQ(back.validFrom, set.validFrom);
    EXPECT_EQ(back.forRuns, set.forRuns);
    EXPECT_EQ(back.madeFrom, set.madeFrom);
    EXPECT_EQ(back.made, set.made);
    EXPECT_EQ(back.who, set.who);
    ASSERT_EQ(back.byRole.size(), set.byRole.size());
    for (const auto& [role, limits] : set.byRole) expectSame(back.byRole.at(role), limits, role);
}

TEST(LimitBodies, PlacesBeforeTheEndThatHadNoSignAreTurned) {
    LimitSet set;
    set.byRole["bed_dp"] = someLimits(LimitMethod::MeanSd, LineUp::End, -5);
    json body = json::parse(limitBodyOf(set));
    json& slices = body["roles"]["bed_dp"]["slices"];
    std::reverse(slices.begin(), slices.end());
    for (json& s : slices) s[0] = -s[0].get<std::int64_t>();
    LimitSet back;
    const Status read = readLimitBody(body.dump(), back);
    ASSERT_TRUE(read) << read.error().message;
    expectSame(back.byRole.at("bed_dp"), set.byRole.at("bed_dp"), "bed_dp");
}

/// Changes one member of a good text and says why it is refused.
std::string refusal(const std::function<void(json&)>& spoil) {
    json body = json::parse(limitBodyOf(someSet()));
    spoil(body);
    LimitSet set;
    set.who = "as before";
    const Status read = readLimitBody(body.dump(), set);
    EXPECT_TRUE(!read || set.who != "as before");
    if (!read) {
        EXPECT_EQ(set.who, "as before") << "a refusal changes nothing";
        EXPECT_TRUE(set.byRole.empty());
    }
    return read ? "it was read" : read.error().message;
}

TEST(LimitBodies, WhatCannotBeIsRefusedWithTheRole) {
    const auto bed = [](json& body) -> json& { return body["roles"]["bed_dp"]; };
    EXPECT_EQ(refusal([](json&) {}), "it was read");
    const std::vector<std::function<void(json&)>> spoilt{
        [&](json& b) { bed(b)["method"] = "guess"; },
        [&](json& b) { bed(b)["lineUp"] = 3; },
        [&](json& b) { bed(b)["every"] = 0; },
        [&](json& b) { bed(b)["every"] = -1; },
        [&](json& b) { bed(b)["k"] = -0.5; },
        [&](json& b) { bed(b)["q"] = 0.7; },
        [&](json& b) { bed(b)["coverage"] = "most"; },
        [&](json& b) { bed(b)["leastRuns"] = 0; },
        [&](json& b) { bed(b)["slices"] = 7; },
        [&](json& b) {
            bed(b)["slices"][1] = {1, 2, 3};
        },
        [&](json& b) { bed(b)["slices"][1][2] = "low"; },
        [&](json& b) { bed(b)["slices"][1][0] = 0.5; },
        [&](json& b) {
            bed(b)["phases"] = {{{"name", 1}}};
        },
        [&](json& b) { bed(b)["phases"] = "two"; },
    };
    for (std::size_t i = 0; i < spoilt.size(); ++i)
        EXPECT_TRUE(refusal(spoilt[i]).starts_with("bed_dp: ")) << i << " " << refusal(spoilt[i]);
    EXPECT_NE(refusal([](json& b) { b["roles"] = json::array(); }).find("no limits"), std::string::npos);
    EXPECT_NE(refusal([](json& b) { b["golden"] = "all"; }), "it was read");
    EXPECT_NE(refusal([](json& b) { b["made"] = "today"; }), "it was read");
    LimitSet set;
    EXPECT_FALSE(readLimitBody("no json", set));
    EXPECT_FALSE(readLimitBody("[]", set));
}

TEST(LimitBodies, SlicesOutOfOrderAreRefused) {
    EXPECT_EQ(refusal([](json& b) {
                  json& slices = b["roles"]["air_on_temp"]["slices"];
                  std::swap(slices[3], slices[4]);
              }),
              "air_on_temp: the slices are not in order");
}

}  // namespace
}  // namespace jacinth
