// The label book: what it may hold, free colours and keys, and kinds that belong to others.
#include "core/label/label_book.h"

#include <gtest/gtest.h>

#include <cmath>
#include <set>

namespace jacinth {
namespace {

LabelKind kind(const char* name, const char* parent = "", char key = 0) {
    return {name, "", "#332288", key, false, parent};
}

TEST(LabelBook, TheFirstOneIsABook) {
    EXPECT_TRUE(checkBook(firstLabelBook()));
    EXPECT_EQ(freeColour(firstLabelBook()), labelColours()[0].colour);
}

TEST(LabelBook, NamesKeysAndParentsAreChecked) {
    EXPECT_TRUE(checkBook({kind("a"), kind("b", "a"), kind("c", "b")}));
    EXPECT_FALSE(checkBook({kind("a"), kind("a")}));
    EXPECT_FALSE(checkBook({kind("a", "", 'x'), kind("b", "", 'x')}));
    EXPECT_FALSE(checkBook({kind("a", "b")})) << "b is not there";
    EXPECT_FALSE(checkBook({kind("a", "a")}));
    EXPECT_FALSE(checkBook({kind("a", "c"), kind("b", "a"), kind("c", "b")})) << "they go round";
    LabelKind red = kind("a");
    red.colour = "red";
    EXPECT_FALSE(checkBook({red}));
}

TEST(LabelBook, AKindBelongsToItselfAndToItsParents) {
    const LabelBook book{kind("a"), kind("b", "a"), kind("c", "b"), kind("d")};
    EXPECT_TRUE(isKindOf(book, "c", "a"));
    EXPECT_TRUE(isKindOf(book, "c", "c"));
    EXPECT_FALSE(isKindOf(book, "a", "c"));
    EXPECT_FALSE(isKindOf(book, "d", "a"));
    EXPECT_FALSE(isKindOf(book, "gone", "a"));
    EXPECT_TRUE(isKindOf(book, "gone", "gone"));
}

TEST(LabelBook, FreeColoursAndKeysAreThoseThatNoKindHas) {
    LabelBook book;
    std::set<std::string> seen;
    for (std::size_t i = 0; i < labelColours().size(); ++i) {
        LabelKind next = kind(std::to_string(i).c_str());
        next.colour = freeColour(book);
        seen.insert(next.colour);
        book.push_back(next);
    }
    EXPECT_EQ(seen.size(), labelColours().size());
    EXPECT_EQ(freeColour(book), labelColours()[0].colour);
    EXPECT_EQ(freeKey({kind("x", "", 'f')}, "Flame"), 'l');
    EXPECT_EQ(freeKey({}, "«»"), 0);
}

/// How far two colours are apart for someone without one of the three kinds of cones: in CIE L*a*b*, after
/// the simulation of Viénot, Brettel and Mollon (1999) for protanopes and deuteranopes.
std::array<double, 3> linear(const std::string& colour) {
    std::array<double, 3> out{};
    for (std::size_t i = 0; i < 3; ++i) {
        const double v = std::stoi(colour.substr(1 + 2 * i, 2), nullptr, 16) / 255.0;
        out[i] = v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
    }
    return out;
}

std::array<double, 3> lab(const std::array<double, 3>& rgb) {
    const double x = 0.4124 * rgb[0] + 0.3576 * rgb[1] + 0.1805 * rgb[2],
                 y = 0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2],
                 z = 0.0193 * rgb[0] + 0.1192 * rgb[1] + 0.9505 * rgb[2];
    const auto f = [](double t) { return t > 0.008856 ? std::cbrt(t) : 7.787 * t + 16.0 / 116; };
    return {116 * f(y) - 16, 500 * (f(x / 0.9505) - f(y)), 200 * (f(y) - f(z / 1.089))};
}

std::array<double, 3> seenBy(bool protanope, const std::array<double, 3>& rgb) {
    const double red = protanope ? 0.11238 * rgb[0] + 0.88762 * rgb[1] : 0.29275 * rgb[0] + 0.70725 * rgb[1];
    const double blue = protanope ? 0.00401 * rgb[0] - 0.00401 * rgb[1] + rgb[2]
                                  : -0.02234 * rgb[0] + 0.02234 * rgb[1] + rgb[2];
    return {red, red, blue};
}

TEST(LabelBook, ColourBlindPeopleCanTellTheColours) {
    const auto colours = labelColours();
    for (const bool protanope : {true, false})
        for (std::size_t i = 0; i < colours.size(); ++i)
            for (std::size_t j = 0; j < i; ++j) {
                const auto a = lab(seenBy(protanope, linear(colours[i].colour))),
                           b = lab(seenBy(protanope, linear(colours[j].colour)));
                const double apart = std::hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
                EXPECT_GT(apart, 15) << colours[i].name << " and " << colours[j].name;
            }
}

}  // namespace
}  // namespace jacinth
