// The command `causes` on the demo plant, by the golden runs of the README, held against what really
// happened.
#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>

#include "test/screened_demo.h"

namespace jacinth::test {
namespace {

using nlohmann::json;

class CliCauses : public testing::Test {
  protected:
    static void SetUpTestSuite() {
        folder_.emplace("causes");
        fs::copy_file(screenedDemo(), path());
        screened_ = json::parse(
            saidOfScreenedDemo("screened.json", {"screen", "--limits", "Golden limits", "--json"}));
        causes_ =
            json::parse(saidOfScreenedDemo("causes.json", {"causes", "--limits", "Golden limits", "--json"}));
    }
    static void TearDownTestSuite() { folder_.reset(); }
    static std::string path() { return *folder_ / "s.jacinth"; }

    /// The meter of kiln 5's gas flow lost what a change had raised it by before: since then it lies within.
    static bool leftExcursions(const json& step) {
        return std::any_of(screened_.begin(), screened_.end(), [&](const json& e) {
            return e["asset"].get<std::string>() + "/" + e["tag"].get<std::string>() == step["tag"] &&
                   instantOf(e["start"]) > instantOf(step["time"]);
        });
    }
    static const json* causeOf(const std::string& kind, const std::string& tag) {
        for (const json& c : causes_["causes"])
            if (c["kind"] == kind && std::find(c["tags"].begin(), c["tags"].end(), tag) != c["tags"].end())
                return &c;
        return nullptr;
    }

    static inline std::optional<Folder> folder_;
    static inline json screened_, causes_;
};

TEST_F(CliCauses, EveryExcursionHasOneCauseOrIsUnexplained) {
    std::size_t explained = 0;
    double hours = 0;
    for (const json& cause : causes_["causes"]) {
        explained += cause["excursions"].size();
        EXPECT_GT(cause["excursions"].size(), 0u);
        EXPECT_GE(cause["sure"].get<double>(), 0.5) << cause["why"];
        EXPECT_FALSE(cause["why"].get<std::string>().empty());
        hours += cause["hours"].get<double>();
    }
    EXPECT_EQ(explained + causes_["unexplained"].size(), screened_.size());
    double all = 0;
    for (const json& e : screened_) all += e["outside"].get<double>() / 3600;
    for (const json& e : causes_["unexplained"]) hours += e["outside"].get<double>() / 3600;
    EXPECT_NEAR(hours, all, 0.01);
}

TEST_F(CliCauses, TheTruthsCausesAreNamed) {
    const json truth = demoTruth();
    for (const json& change : truth["processChanges"]) {
        const std::string asset = change["asset"];
        const bool named =
            std::any_of(causes_["causes"].begin(), causes_["causes"].end(), [&](const json& c) {
                return c["kind"] == "process" && c["asset"] == asset &&
                       std::chrono::abs(instantOf(c["from"]) - instantOf(change["time"])) < kDay;
            });
        EXPECT_TRUE(named) << change;
    }
    int left = 0;
    for (const json& step : truth["falseSteps"])
        if (step["returns"].is_null() && !step["tag"].get<std::string>().ends_with("/Air-off RH") &&
            leftExcursions(step)) {
            ++left;
            EXPECT_NE(causeOf("step", step["tag"]), nullptr) << step;
        }
    EXPECT_GE(left, 2) << "steps that left excursions";
    // The belt that wears leaves the limits by single samples only, which an excursion is not made of.
    const auto worn = std::count_if(screened_.begin(), screened_.end(), [&](const json& e) {
        return e["asset"] == truth["beltKiln"] && e["tag"] == "Bed ΔP";
    });
    EXPECT_LT(worn, 6);
}

/// Of runs that went as they should, few excursions may be left unexplained.
TEST_F(CliCauses, GoodRunsAreExplained) {
    const json truth = demoTruth();
    const auto isGood = [&](const json& e) {
        const Instant start = instantOf(e["start"]);
        for (const json& r : truth["runs"])
            if (r["asset"] == e["asset"] && instantOf(r["start"]) <= start && start <= instantOf(r["end"]))
                return r["offPath"].is_null() && r["interrupted"] == false && r["complete"] == true;
        return false;
    };
    const auto good = std::count_if(screened_.begin(), screened_.end(), isGood);
    const auto unexplained =
        std::count_if(causes_["unexplained"].begin(), causes_["unexplained"].end(), isGood);
    ASSERT_GT(good, 250);
    EXPECT_LE(unexplained * 20, good);
    EXPECT_GT(causes_["unexplained"].size(), 20u) << "runs off the path are what remains to be looked at";
}

TEST_F(CliCauses, WithoutACauseItsExcursionsAreGoneAndTheOthersKeepTheirNumbers) {
    const std::string tag = "Kiln 4/Bed ΔP";
    const json* step = causeOf("step", tag);
    ASSERT_NE(step, nullptr);
    const std::string id = std::to_string((*step)["id"].get<int>());
    const json left = run({"causes", path(), "--limits", "Golden limits", "--without", id, "--json"}).json();
    std::size_t excursions = left["unexplained"].size(), others = 0;
    for (const json& cause : left["causes"]) {
        EXPECT_NE(cause["id"], (*step)["id"]);
        excursions += cause["excursions"].size();
        for (const json& before : causes_["causes"])
            if (before["id"] == cause["id"]) others += before["why"] == cause["why"];
    }
    EXPECT_EQ(others, left["causes"].size());
    EXPECT_LT(excursions, screened_.size() - (*step)["excursions"].size() * 9 / 10);
    // Taking the step out for good does the same.
    Folder f("causes-fixed");
    fs::copy_file(path(), f / "fixed.jacinth");
    const std::string fixed = f / "fixed.jacinth";
    for (const json& s : run({"steps", fixed, "--tag", tag, "--json"}).json())
        if (instantOf(s["time"]) == instantOf((*step)["from"]))
            ASSERT_EQ(run({"fix", "add", fixed, "--step", std::to_string(s["number"].get<int>()), "--why",
                           "range changed"})
                          .code,
                      0);
    const json limits = run({"limits", "list", fixed, "--json"}).json();
    EXPECT_TRUE(limits[0]["outOfDate"].get<std::string>().empty())
        << "no golden run has the step: " << limits;
    ASSERT_EQ(run({"fix", "add", fixed, "--tag", "Kiln 1/Bed ΔP", "--kind", "shift", "--by", "5", "--from",
                   "2026-03-01T00:00:00Z", "--to", "2026-03-20T00:00:00Z", "--why", "range"})
                  .code,
              0);
    const std::string old = run({"limits", "list", fixed, "--json"}).json()[0]["outOfDate"];
    EXPECT_NE(old.find("made before the fix of "), std::string::npos) << old;
    EXPECT_NE(old.find("on Kiln 1/Bed ΔP"), std::string::npos) << old;
    ASSERT_EQ(run({"undo", fixed}).code, 0);
    const json after = run({"screen", fixed, "--limits", "Golden limits", "--json"}).json();
    EXPECT_NEAR(static_cast<double>(after.size()), static_cast<double>(excursions), 4);
}

TEST_F(CliCauses, AnAssetAndAWindowNarrowTheList) {
    const json kiln =
        run({"causes", path(), "--limits", "Golden limits", "--asset", "Kiln 4", "--json"}).json();
    for (const json& cause : kiln["causes"])
        for (const json& e : cause["excursions"])
            EXPECT_TRUE(e["tag"].get<std::string>().starts_with("Kiln 4/")) << e;
    EXPECT_LT(kiln["unexplained"].size(), causes_["unexplained"].size());
    const json none = run({"causes", path(), "--limits", "Golden limits", "--from", "2027-01-01T00:00:00Z",
                           "--to", "2027-02-01T00:00:00Z", "--json"})
                          .json();
    EXPECT_TRUE(none["causes"].empty() && none["unexplained"].empty());
}

/// Limits of two products lie on two scales; what happened to a kiln is one cause all the same.
TEST_F(CliCauses, WithLimitsOfTwoProductsAChangeIsOneCause) {
    Folder f("causes-products");
    fs::copy_file(path(), f / "s.jacinth");
    const std::string s = f / "s.jacinth";
    for (const char* runs : {"product = \"Pale\"", "product != \"Pale\""})
        ASSERT_EQ(run({"limits", "build", s, "--name", "By product", "--track", "Runs", "--tag", "bed_dp",
                       "--tag", "gas_flow", "--tag", "air_on_temp", "--for", runs})
                      .code,
                  0);
    const json found = run({"causes", s, "--limits", "By product", "--json"}).json()["causes"];
    const auto count = [&](const std::string& kind, const std::string& asset) {
        return std::count_if(found.begin(), found.end(),
                             [&](const json& c) { return c["kind"] == kind && c["asset"] == asset; });
    };
    EXPECT_EQ(count("process", "Kiln 5"), 1);
    EXPECT_EQ(count("step", "Kiln 4"), 1);
}

TEST_F(CliCauses, WhatDoesNotExistIsSaid) {
    const Said limits = run({"causes", path(), "--limits", "Golden limit"});
    EXPECT_EQ(limits.code, 1);
    EXPECT_NE(limits.err.find("nearest is `Golden limits`"), std::string::npos) << limits.err;
    const Said cause = run({"causes", path(), "--limits", "Golden limits", "--without", "999"});
    EXPECT_EQ(cause.code, 1);
    EXPECT_NE(cause.err.find("cause 999 is not in the list"), std::string::npos) << cause.err;
    EXPECT_EQ(run({"causes", path()}).code, 2);
}

}  // namespace
}  // namespace jacinth::test
