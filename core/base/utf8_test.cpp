#include "core/base/utf8.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

TEST(Utf8, StepsFromCharacterToCharacter) {
    const std::string text = "a°µ…𝄞z";
    std::vector<std::size_t> steps;
    for (std::size_t at = 0; at < text.size(); at = nextCharacter(text, at)) steps.push_back(at);
    EXPECT_EQ(steps, (std::vector<std::size_t>{0, 1, 3, 5, 8, 12}));
    EXPECT_EQ(nextCharacter(text, text.size()), text.size());
    EXPECT_EQ(nextCharacter(text, 99), text.size());
    EXPECT_EQ(nextCharacter("", 0), 0u);
}

TEST(Utf8, AnyCharacterCanBeWrittenAndIsRight) {
    for (const std::uint32_t c :
         {0x41u, 0x7Fu, 0x80u, 0x7FFu, 0x800u, 0xFFFDu, 0xFFFFu, 0x10000u, 0x10FFFFu}) {
        std::string text;
        appendUtf8(c, text);
        EXPECT_TRUE(isUtf8(text)) << c;
        EXPECT_EQ(nextCharacter(text, 0), text.size()) << c;
        if (text.size() > 1) {
            const std::string_view cut(text.data(), text.size() - 1);
            EXPECT_FALSE(isUtf8(cut)) << c;
            EXPECT_TRUE(isUtf8(cut, true)) << c << ", which may be cut off";
        }
    }
}

TEST(Utf8, WhatIsNotAllowedIsRefused) {
    EXPECT_FALSE(isUtf8("\xC0\x80")) << "longer than it need be";
    EXPECT_FALSE(isUtf8("\xED\xA0\x80")) << "half of a surrogate pair";
    EXPECT_FALSE(isUtf8("\xF4\x90\x80\x80")) << "beyond the last character";
    EXPECT_FALSE(isUtf8("\x80")) << "a continuation without a start";
    EXPECT_FALSE(isUtf8("a\xFFz"));
    EXPECT_TRUE(isUtf8(""));
}

TEST(Utf8, OtherTextIsMadeRightAndCutAtACharacter) {
    EXPECT_EQ(asUtf8("a\xFFz", 100), "a\xEF\xBF\xBDz");
    EXPECT_EQ(asUtf8("µµ", 3), "µ");
    EXPECT_EQ(asUtf8("µµ", 4), "µµ");
    EXPECT_EQ(asUtf8("plain", 2), "pl");
}

}  // namespace
}  // namespace jacinth
