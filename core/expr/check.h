// Names and types of an expression, settled before anything is computed.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <span>

#include "core/base/shared_map.h"
#include "core/expr/ast.h"
#include "core/series/series.h"

namespace jacinth {

/// What an expression gives. A duration is kept in seconds.
enum class ValueType { Number, Condition, DurationValue, State, Text };
const char* typeName(ValueType type);

/// What is known of a tag before reading it.
struct TagInfo {
    TagKind kind = TagKind::Continuous;
    std::string unit;
    std::vector<std::string> states;  ///< by code, for a state tag
    /// Over which a line is drawn, for a continuous tag: a figure between two samples depends on the one
    /// before.
    Duration longestGap{};
};

/// The names an expression may use: roles of the asset in question, paths of all tags, tracks and golden
/// limits of the study, and, where the expression is about a span, the names of facts. A bare name is a
/// fact, or a derived tag of the asset in question.
struct Names {
    std::string assetKind = "the asset";  ///< for messages: “no role of Kiln”
    std::map<std::string, TagInfo> roles;
    /// The same for every asset of a plant, which may have a thousand: held in common.
    SharedMap<TagInfo> paths;
    /// For messages: roles that one tag of the plant has, with its path.
    SharedMap<std::string> rolesElsewhere;
    std::set<std::string> derived;  ///< roles of derived tags
    std::vector<std::string> tracks;
    std::map<std::string, std::set<std::string>> limits;  ///< roles that have limits, by the set's name
    bool aboutSpan = false;
    std::map<std::string, ValueType> facts;
    /// Grades that trust() may give, best first; the last is that nobody judged.
    std::vector<std::string> trust{"sound", "fair", "doubtful", "unusable", "not judged"};
};

/// How far back an expression may look at most. What needs all that came before (`elapsed`, `since`, windows
/// in samples) has this look-back.
inline constexpr Duration kAllBefore = 36525 * kDay;

/// A text that may be evaluated.
struct Expression {
    NodePtr root;
    ValueType type = ValueType::Number;
    std::string unit;  ///< where it is known; of a duration s
    std::string text;
    std::set<std::string> roles;  ///< roles used
    std::set<std::string> paths;  ///< paths used
    Duration lookBack{};          ///< how far before a time its inputs are read; kAllBefore at most
    std::vector<Error> warnings;  ///< that do not hinder evaluation: unlike units compared
};

/// How far before a time the value of this part there depends on its tags; kAllBefore at most.
Duration lookBackOf(const Node& part);

/// The longest look-back of any of them.
Duration longestLookBack(std::span<const Expression> expressions);

/// Parses and checks. The error names its column, what was found, and the nearest name or the type that would
/// fit.
Result<Expression> compileExpression(std::string_view text, const Names& names);

}  // namespace jacinth
