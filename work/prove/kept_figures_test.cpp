// Proofs that use what earlier ones worked out are the proofs that would be made from nothing.
#include "work/prove/kept_figures.h"

#include <random>

#include "store/history.h"
#include "work/mend/mending.h"
#include "work/prove/proving_fixture.h"

namespace jacinth {
namespace {

class KeepingFigures : public Proving {
  protected:
    /// Proved with what is kept, and from nothing.
    void expectTheSame(const ProveRequest& request) {
        const auto with = proveRule(*study, request, {}, &kept);
        ASSERT_TRUE(with) << request.rule << ": " << with.error().message;
        const Proof from = proved(request);
        EXPECT_EQ(with->alarms.size(), from.alarms.size()) << request.rule;
        for (std::size_t i = 0; i < std::min(with->alarms.size(), from.alarms.size()); ++i) {
            EXPECT_EQ(with->alarms[i].range, from.alarms[i].range) << request.rule;
            EXPECT_EQ(with->alarms[i].verdict, from.alarms[i].verdict) << request.rule;
        }
        EXPECT_EQ(with->counting, from.counting) << request.rule;
        EXPECT_EQ(std::tuple(with->caught, with->missed, with->untestable, with->falseAlarms),
                  std::tuple(from.caught, from.missed, from.untestable, from.falseAlarms))
            << request.rule;
    }
    void expectTheSame(const std::string& rule) { expectTheSame(asking(rule)); }
    std::size_t bytesAfter(const std::string& rule) {
        expectTheSame(rule);
        return kept.bytes();
    }
    KeptFigures kept;
};

TEST_F(KeepingFigures, AreUsedAgainForAnotherNumber) {
    const std::size_t first = bytesAfter("mean(@vib over 6h) > 2");
    EXPECT_GT(first, 0u);
    EXPECT_EQ(bytesAfter("mean(@vib over 6h) > 3"), first) << "nothing is new";
    EXPECT_EQ(bytesAfter("mean(@vib over 6h) between 3 and 4 for 2h"), first);
    EXPECT_GT(bytesAfter("mean(@vib over 8h) > 3"), first) << "another window is";
}

TEST_F(KeepingFigures, AnyRuleAfterAnyOtherIsProvedAsFromNothing) {
    const std::vector<std::string> rules{"@vib > 3",
                                         "mean(@vib over 6h) > 2",
                                         "mean(@vib over 6h) > 2 for 3h",
                                         "slope(@vib over 12h) > 0.1 and mean(@vib over 6h) > 2",
                                         "@vib > 1.5 * median(@vib over 7d)",
                                         "max(@vib over 6h) - min(@vib over 6h) > 2",
                                         "share(@vib > 3 over 1d) > 0.5",
                                         "mean(@vib over 3 samples) > mean(@vib over 9 samples)",
                                         "mean(mean(@vib over 6h) over 1d) > 2",
                                         "mean(@vib since \"Stops\") > 1.4",
                                         "mean(@vib over 60d) > 1.2",
                                         "not missing(@vib) and max(delay(@vib, 1h) over 2h) > 3",
                                         "elapsed(@vib > 3) < 1h"};
    std::mt19937 random(7);
    for (int i = 0; i < 60; ++i) expectTheSame(rules[random() % rules.size()]);
}

TEST_F(KeepingFigures, AFixAnImportAndTheOtherDataAreNotMissed) {
    const std::string rule = "mean(@vib over 6h) > 3";
    expectTheSame(rule);
    const TagId vib = study->catalog().tagAt("Kiln 2/Vib")->id;
    ASSERT_TRUE(enterFix(*study, {{}, vib, ShiftFix{-4}, at(0), at(kProvedDays * kDay), true, "mount"}));
    expectTheSame(rule);
    EXPECT_EQ(proveRule(*study, asking(rule), {}, &kept)->caught, 2);
    ProveRequest asLogged = asking(rule);
    asLogged.which = Which::AsLogged;
    expectTheSame(asLogged);
    EXPECT_EQ(proveRule(*study, asLogged, {}, &kept)->caught, 3);
    expectTheSame(rule);
    Series more;
    for (int h = 0; h < 48; ++h) more.push(at(kProvedDays * kDay + h * kHour), 5);
    study->samples().write(vib, more);
    expectTheSame(rule);
    ASSERT_TRUE(study->history().undo());
    expectTheSame(rule);
}

TEST_F(KeepingFigures, AnotherTagInTheRoleIsAnotherRecord) {
    const std::string rule = "mean(@vib over 6h) > 3";
    expectTheSame(rule);
    const AssetId kiln = study->catalog().assetNamed("Kiln 2")->id;
    const TagId first = study->catalog().tagInRole(kiln, "vib")->id;
    const TagId second = study->catalog().addTag(kiln, "Twin", "mm/s", TagKind::Continuous);
    Series flat;
    for (int h = 0; h < kProvedDays * 24; ++h) flat.push(at(h * kHour), 1);
    study->samples().write(second, flat);
    study->catalog().setSpacing(second, kHour);
    for (const auto& [id, role] : {std::pair{first, "old"}, {second, "vib"}}) {
        Tag tag = *study->catalog().tag(id);
        tag.role = role;
        study->catalog().updateTag(tag);
    }
    expectTheSame(rule);
    EXPECT_EQ(proveRule(*study, asking(rule), {}, &kept)->caught, 2) << "the twin saw nothing";
}

TEST_F(KeepingFigures, WhatDoesNotFitIsNotKept) {
    KeptFigures small(1000);
    const auto proof = proveRule(*study, asking("mean(@vib over 6h) > 3"), {}, &small);
    ASSERT_TRUE(proof);
    EXPECT_EQ(proof->caught, 3);
    EXPECT_EQ(small.bytes(), 0u);
}

TEST_F(KeepingFigures, MemoryStaysWithinWhatIsAllowed) {
    constexpr std::size_t kAllowed = 120'000;  // a tag of each of two kilns, and a few figures
    KeptFigures some(kAllowed);
    for (int h = 1; h < 40; ++h) {
        const auto proof =
            proveRule(*study, asking("mean(@vib over " + std::to_string(h) + "h) > 3"), {}, &some);
        ASSERT_TRUE(proof);
        EXPECT_EQ(proof->caught, proved(asking("mean(@vib over " + std::to_string(h) + "h) > 3")).caught);
        EXPECT_LE(some.bytes(), kAllowed);
        EXPECT_GT(some.bytes(), 0u);
    }
}

TEST_F(KeepingFigures, AProofThatIsStoppedLeavesNothingWrong) {
    int asked = 0;
    const auto stopped = proveRule(*study, asking("mean(@vib over 6h) > 3"),
                                   Progress([&](double) { return ++asked < 4; }), &kept);
    ASSERT_FALSE(stopped);
    EXPECT_TRUE(stopped.error().isCancelled());
    expectTheSame("mean(@vib over 6h) > 3");
    const auto wrong = proveRule(*study, asking("mean(@vib over 6h)"), {}, &kept);
    ASSERT_FALSE(wrong);
    expectTheSame("mean(@vib over 6h) > 2");
}

TEST(KeptNumbers, ForgetWhatWasNotAskedForTheLongest) {
    const auto signal = [](std::size_t n) {
        Signal out;
        for (std::size_t i = 0; i < n; ++i) {
            out.times.edit().push_back(at(static_cast<int>(i) * kSecond));
            out.values.edit().push_back(1);
        }
        return out;
    };
    KeptNumbers kept;
    for (const char* name : {"a", "b", "c"}) {
        kept.begin();
        kept.keep(name, signal(100));
    }
    EXPECT_EQ(kept.bytes(), 3u * 100 * 16);
    kept.begin();
    ASSERT_NE(kept.find("a"), nullptr);
    kept.shrinkTo(2 * 100 * 16);
    EXPECT_EQ(kept.find("b"), nullptr) << "the oldest that nobody asked for since";
    EXPECT_NE(kept.find("c"), nullptr);
    kept.shrinkTo(0);
    EXPECT_EQ(kept.size(), 2u) << "what is in use stays";
    kept.keep("a", signal(10));
    EXPECT_EQ(kept.bytes(), 110u * 16) << "in place of the other";
    kept.clear();
    EXPECT_EQ(kept.bytes(), 0u);
}

}  // namespace
}  // namespace jacinth
