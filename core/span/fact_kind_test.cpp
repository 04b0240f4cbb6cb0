// Typed facts: what a text says as each type, and what cannot be.
#include "core/span/fact_kind.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

const Zone kOslo = *Zone::named("Europe/Oslo");

std::string read(const FactKind& kind, const char* text) {
    const auto fact = readFact(&kind, text, kOslo);
    if (!fact) return "! " + fact.error().message;
    return *fact ? factText(**fact) : "none";
}

TEST(FactKinds, EachTypeReadsItsOwn) {
    const FactKind load{"load", FactType::Number, "t", {}, ""};
    EXPECT_EQ(read(load, "42,5 t"), "42.5");
    EXPECT_EQ(read(load, "42.5"), "42.5");
    EXPECT_EQ(read(load, " "), "none");
    EXPECT_EQ(read(load, "heavy"), "! `heavy` is not a number; load is one in t");
    EXPECT_EQ(read(load, "nan")[0], '!');
    const FactKind product{"product", FactType::Choice, "", {"Pale", "Amber"}, ""};
    EXPECT_EQ(read(product, "amber"), "Amber");
    EXPECT_EQ(read(product, "Black"), "! `Black` is not a product; these are: Pale, Amber");
    const FactKind checked{"checked", FactType::YesNo, "", {}, ""};
    EXPECT_EQ(read(checked, "Y"), "yes");
    EXPECT_EQ(read(checked, "0"), "no");
    EXPECT_EQ(read(checked, "maybe")[0], '!');
    const FactKind note{"remark", FactType::Text, "", {}, ""};
    EXPECT_EQ(read(note, "12"), "12");
    EXPECT_TRUE(std::holds_alternative<std::string>(**readFact(&note, "12", kOslo)));
}

TEST(FactKinds, TimesAreOfThePlantsClock) {
    const FactKind fitted{"fitted", FactType::Time, "", {}, ""};
    EXPECT_EQ(read(fitted, "2026-04-05 14:12"), "2026-04-05T12:12:00Z");
    EXPECT_EQ(read(fitted, "2026-04-05 14:12:30"), "2026-04-05T12:12:30Z");
    EXPECT_EQ(read(fitted, "2026-04-05T14:12:30Z"), "2026-04-05T14:12:30Z");
    EXPECT_EQ(read(fitted, "2026-03-29 02:30")[0], '!') << "clocks went forward over it";
    for (const char* wrong : {"yesterday", "2026-13-05 14:12", "2026-04-05 14:12 or so", "14:12"})
        EXPECT_EQ(read(fitted, wrong)[0], '!') << wrong;
    EXPECT_EQ(sayFact(&fitted, Fact(std::string("2026-04-05T12:12:00Z")), kOslo), "5 Apr 2026 14:12:00");
}

TEST(FactKinds, WithoutAKindNumbersAreNumbers) {
    EXPECT_TRUE(std::holds_alternative<double>(**readFact(nullptr, "12,5", kOslo)));
    EXPECT_TRUE(std::holds_alternative<std::string>(**readFact(nullptr, "12,5,1", kOslo)));
    const FactKind load{"load", FactType::Number, "t", {}, ""};
    EXPECT_EQ(sayFact(&load, Fact(42.5), kOslo), "42.5 t");
    EXPECT_EQ(sayFact(nullptr, Fact(42.5), kOslo), "42.5");
}

TEST(FactKinds, KindsThatCannotBeAreRefused) {
    const FactKind load{"load", FactType::Number, "t", {}, ""};
    EXPECT_TRUE(checkFactKinds({load}));
    EXPECT_FALSE(checkFactKinds({load, load}));
    EXPECT_FALSE(checkFactKinds({{"a", FactType::Choice, "", {}, ""}}));
    EXPECT_FALSE(checkFactKinds({{"a", FactType::Text, "", {"x"}, ""}}));
    EXPECT_FALSE(checkFactKinds({{"a", FactType::Text, "t", {}, ""}}));
    for (int i = 0; i < kFactTypes; ++i) {
        const auto type = static_cast<FactType>(i);
        EXPECT_EQ(factTypeNamed(factTypeName(type)), type);
    }
    EXPECT_FALSE(factTypeNamed("colour"));
}

}  // namespace
}  // namespace jacinth
