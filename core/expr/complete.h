// What may be written at the caret: for the editor.
#pragma once

#include "core/expr/check.h"
#include "core/expr/functions.h"

namespace jacinth {

struct Completion {
    std::string insert;  ///< in place of the characters from `from` to the caret
    std::string says;    ///< one line
};

struct Completions {
    int from = 0;  ///< characters before what is being written
    std::vector<Completion> offers;
};

/// Roles after `@`, paths in back quotes, functions, facts and derived tags as words, and in quotes what fits
/// there: states after `is` and `in`, tracks, golden limits. What begins like the text comes first, then what
/// holds it. `caret` counts the characters before it.
Completions completeAt(std::string_view text, int caret, const Names& names);

/// The function whose name or brackets the caret is in; null where there is none.
const FunctionInfo* functionAt(std::string_view text, int caret);

}  // namespace jacinth
