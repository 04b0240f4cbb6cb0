// The label book: the site's kinds of label, each with a meaning, a colour and a key.
#pragma once

#include <string>
#include <vector>

namespace jacinth {

struct LabelKind {
    std::string name;
    std::string meaning;
    std::string colour;   ///< #rrggbb
    char key = 0;         ///< the key that gives a mark this name; 0 for none
    bool normal = false;  ///< an example of nothing being wrong
};
using LabelBook = std::vector<LabelKind>;

/// What a study starts with.
LabelBook firstLabelBook();

const LabelKind* findKind(const LabelBook& book, const std::string& name);

}  // namespace jacinth
