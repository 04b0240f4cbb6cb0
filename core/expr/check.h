// Names and types of an expression, settled before anything is computed.
#pragma once

#include <map>
#include <optional>
#include <set>

#include "core/expr/ast.h"
#include "core/series/series.h"

namespace jacinth {

/// What an expression gives. A duration is kept in seconds.
enum class ValueType { Number, Condition, DurationValue, State, Text };
const char* typeName(ValueType type);

/// Does the function look over a stretch of time (`mean`, `share`) rather than at one value (`abs`)?
bool isWindowFunction(const std::string& name);

/// What is known of a tag before reading it.
struct TagInfo {
    TagKind kind = TagKind::Continuous;
    std::string unit;
    std::vector<std::string> states;  ///< by code, for a state tag
};

/// The names an expression may use: roles of the asset in question, paths of all tags, and, where the
/// expression is about a span, the names of facts.
struct Names {
    std::string assetKind = "the asset";  ///< for messages: “no role of Kiln”
    std::map<std::string, TagInfo> roles;
    std::map<std::string, TagInfo> paths;
    bool aboutSpan = false;
    std::map<std::string, ValueType> facts;
};

/// A text that may be evaluated.
struct Expression {
    NodePtr root;
    ValueType type = ValueType::Number;
    std::string text;
    std::set<std::string> roles;  ///< roles used
    std::set<std::string> paths;  ///< paths used
    Duration lookBack = 0;  ///< how far before a time its inputs are read; windows in samples add nothing
};

/// Parses and checks. The error names its column, what was found, and the nearest name or the type that would
/// fit.
Result<Expression> compileExpression(std::string_view text, const Names& names);

}  // namespace jacinth
