#include "core/base/role_name.h"

#include <array>
#include <cctype>
#include <map>

#include "core/base/utf8.h"

namespace jacinth {
namespace {

/// Characters beyond ASCII that have a plain spelling.
const std::map<std::string_view, std::string_view>& plainSpellings() {
    static const std::map<std::string_view, std::string_view> all{
        {"À", "a"}, {"Á", "a"}, {"Â", "a"}, {"Ã", "a"},  {"Ä", "a"},  {"Å", "a"},   {"Æ", "ae"},  {"Ç", "c"},
        {"È", "e"}, {"É", "e"}, {"Ê", "e"}, {"Ë", "e"},  {"Ì", "i"},  {"Í", "i"},   {"Î", "i"},   {"Ï", "i"},
        {"Ð", "d"}, {"Ñ", "n"}, {"Ò", "o"}, {"Ó", "o"},  {"Ô", "o"},  {"Õ", "o"},   {"Ö", "o"},   {"Ø", "o"},
        {"Ù", "u"}, {"Ú", "u"}, {"Û", "u"}, {"Ü", "u"},  {"Ý", "y"},  {"à", "a"},   {"á", "a"},   {"â", "a"},
        {"ã", "a"}, {"ä", "a"}, {"å", "a"}, {"æ", "ae"}, {"ç", "c"},  {"è", "e"},   {"é", "e"},   {"ê", "e"},
        {"ë", "e"}, {"ì", "i"}, {"í", "i"}, {"î", "i"},  {"ï", "i"},  {"ð", "d"},   {"ñ", "n"},   {"ò", "o"},
        {"ó", "o"}, {"ô", "o"}, {"õ", "o"}, {"ö", "o"},  {"ø", "o"},  {"ù", "u"},   {"ú", "u"},   {"û", "u"},
        {"ü", "u"}, {"ý", "y"}, {"ÿ", "y"}, {"ß", "ss"}, {"Œ", "oe"}, {"œ", "oe"},  {"Š", "s"},   {"š", "s"},
        {"Ž", "z"}, {"ž", "z"}, {"Č", "c"}, {"č", "c"},  {"Ć", "c"},  {"ć", "c"},   {"Ł", "l"},   {"ł", "l"},
        {"Ń", "n"}, {"ń", "n"}, {"Ę", "e"}, {"ę", "e"},  {"Ą", "a"},  {"ą", "a"},   {"Ř", "r"},   {"ř", "r"},
        {"Α", "a"}, {"α", "a"}, {"Β", "b"}, {"β", "b"},  {"Γ", "g"},  {"γ", "g"},   {"Δ", "d"},   {"δ", "d"},
        {"∆", "d"}, {"Ε", "e"}, {"ε", "e"}, {"Η", "h"},  {"η", "h"},  {"Θ", "th"},  {"θ", "th"},  {"ϑ", "th"},
        {"Κ", "k"}, {"κ", "k"}, {"Λ", "l"}, {"λ", "l"},  {"μ", "u"},  {"µ", "u"},   {"Μ", "m"},   {"Ν", "n"},
        {"ν", "n"}, {"Π", "p"}, {"π", "p"}, {"Ρ", "r"},  {"ρ", "r"},  {"Σ", "s"},   {"σ", "s"},   {"Τ", "t"},
        {"τ", "t"}, {"Φ", "f"}, {"φ", "f"}, {"Χ", "x"},  {"χ", "x"},  {"Ψ", "psi"}, {"ψ", "psi"}, {"Ω", "o"},
        {"ω", "o"}, {"₀", "0"}, {"₁", "1"}, {"₂", "2"},  {"₃", "3"},  {"₄", "4"},   {"²", "2"},   {"³", "3"}};
    return all;
}

/// Beyond the signs of Latin-1, punctuation, symbols and arrows.
bool isLetterElsewhere(std::string_view character) {
    const auto first = static_cast<unsigned char>(character[0]);
    if (first < 0xC3) return false;  // up to U+00BF
    if (character == "×" || character == "÷" || character == "\uFFFD") return false;
    const auto second = character.size() > 1 ? static_cast<unsigned char>(character[1]) : 0;
    if (first == 0xE2 && second < 0xB0) return false;  // U+2000 to U+2BFF
    return !(first == 0xE3 && second == 0x80);         // U+3000 to U+303F
}

}  // namespace

std::string roleFromName(std::string_view name) {
    std::string out;
    bool apart = false;
    const auto add = [&](std::string_view letters) {
        if (apart && !out.empty()) out += '_';
        apart = false;
        out += letters;
    };
    for (std::size_t at = 0; at < name.size();) {
        const std::size_t next = nextCharacter(name, at);
        const std::string_view character = name.substr(at, next - at);
        const auto first = static_cast<unsigned char>(character[0]);
        if (first < 0x80 && std::isalnum(first)) {
            const char lower = static_cast<char>(std::tolower(first));
            add({&lower, 1});
        } else if (const auto known = plainSpellings().find(character); known != plainSpellings().end()) {
            add(known->second);
        } else if (isLetterElsewhere(character)) {
            add(character);
        } else {
            apart = true;
        }
        at = next;
    }
    if (out.empty()) return "role";
    return std::isdigit(static_cast<unsigned char>(out[0])) ? "_" + out : out;
}

}  // namespace jacinth
