// The label book: the site's kinds of label, each with a meaning, a colour and a key.
#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/base/result.h"

namespace jacinth {

struct LabelKind {
    std::string name;
    std::string meaning;
    std::string colour;   ///< #rrggbb
    char key = 0;         ///< the key that gives a mark this name; 0 for none
    bool normal = false;  ///< an example of nothing being wrong
    std::string parent;   ///< the more general kind it belongs to; empty for none
};
using LabelBook = std::vector<LabelKind>;

/// Colours for kinds that colour-blind people can tell from each other: the `muted` scheme of Paul Tol,
/// Colour Schemes, SRON/EPS/TN/09-002 (2021), each #rrggbb with its name.
struct NamedColour {
    const char* colour;
    const char* name;
};
std::span<const NamedColour> labelColours();
/// The first of them that no kind of the book has; the first where all are taken.
std::string freeColour(const LabelBook& book);
/// What a name may be turned into as key: the first letter of it that no kind has; 0 where none is free.
char freeKey(const LabelBook& book, const std::string& name);

/// Why the book cannot be: two kinds of one name or key, a colour that cannot be one, a parent that is not in
/// the book, or kinds that are each other's parents.
Status checkBook(const LabelBook& book);
/// Is the kind `name` itself, or one below it?
bool isKindOf(const LabelBook& book, const std::string& kind, const std::string& name);

/// What a study starts with.
LabelBook firstLabelBook();

const LabelKind* findKind(const LabelBook& book, const std::string& name);

}  // namespace jacinth
