#include "core/label/label_book.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>

namespace jacinth {
namespace {

// Kinds of a book are few: a parent is looked up by going through them.
constexpr std::array<NamedColour, 9> kColours{{{"#332288", "indigo"},
                                               {"#88CCEE", "cyan"},
                                               {"#44AA99", "teal"},
                                               {"#117733", "green"},
                                               {"#999933", "olive"},
                                               {"#DDCC77", "sand"},
                                               {"#CC6677", "rose"},
                                               {"#882255", "wine"},
                                               {"#AA4499", "purple"}}};

bool isColour(const std::string& text) {
    return text.size() == 7 && text[0] == '#' &&
           text.find_first_not_of("0123456789abcdefABCDEF", 1) == std::string::npos;
}

/// A parent, and its parents, end somewhere.
bool goesRound(const LabelBook& book, const LabelKind& kind) {
    const LabelKind* at = &kind;
    for (std::size_t step = 0; step <= book.size(); ++step) {
        if (at->parent.empty()) return false;
        at = findKind(book, at->parent);
        if (!at) return false;
    }
    return true;
}

}  // namespace

std::span<const NamedColour> labelColours() {
    return kColours;
}

std::string freeColour(const LabelBook& book) {
    for (const NamedColour& c : kColours)
        if (std::none_of(book.begin(), book.end(), [&](const LabelKind& k) { return k.colour == c.colour; }))
            return c.colour;
    return kColours[0].colour;
}

char freeKey(const LabelBook& book, const std::string& name) {
    for (const char letter : name) {
        const auto key = static_cast<char>(std::tolower(static_cast<unsigned char>(letter)));
        if (std::isalnum(static_cast<unsigned char>(key)) &&
            std::none_of(book.begin(), book.end(), [&](const LabelKind& k) { return k.key == key; }))
            return key;
    }
    return 0;
}

Status checkBook(const LabelBook& book) {
    for (std::size_t i = 0; i < book.size(); ++i) {
        const LabelKind& kind = book[i];
        if (!isColour(kind.colour))
            return Error{
                fmt::format("the colour of `{}` is `{}`; one is like #8A4FA3", kind.name, kind.colour)};
        for (std::size_t other = 0; other < i; ++other) {
            if (book[other].name == kind.name)
                return Error{fmt::format("there is a kind `{}` already", kind.name)};
            if (kind.key && book[other].key == kind.key)
                return Error{fmt::format("`{}` has the key {} already", book[other].name, kind.key)};
        }
        if (!kind.parent.empty() && !findKind(book, kind.parent))
            return Error{fmt::format("`{}` is said to belong to `{}`, which is not in the book", kind.name,
                                     kind.parent)};
        if (goesRound(book, kind))
            return Error{fmt::format("`{}` would belong to itself, by way of `{}`", kind.name, kind.parent)};
    }
    return Done{};
}

bool isKindOf(const LabelBook& book, const std::string& kind, const std::string& name) {
    const LabelKind* at = findKind(book, kind);
    if (!at) return kind == name;
    for (std::size_t step = 0; at && step <= book.size(); ++step) {
        if (at->name == name) return true;
        at = findKind(book, at->parent);
    }
    return false;
}

LabelBook firstLabelBook() {
    return {{"fault", "Something is wrong with the equipment", "#882255", 'f', false, {}},
            {"process", "The process left its path, the equipment is sound", "#999933", 'p', false, {}},
            {"sensor fault", "The sensor, not the process", "#88CCEE", 's', false, {}},
            {"normal", "An example of nothing being wrong", "#117733", 'n', true, {}}};
}

const LabelKind* findKind(const LabelBook& book, const std::string& name) {
    for (const LabelKind& kind : book)
        if (kind.name == name) return &kind;
    return nullptr;
}

}  // namespace jacinth
