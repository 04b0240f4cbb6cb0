// The expression language as a tree, and how a text becomes one.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/time/instant.h"

namespace jacinth {

struct FunctionInfo;

enum class NodeKind {
    Number,
    DurationLiteral,
    Text,
    Role,  ///< @name: that role's tag on the asset in question
    Path,  ///< `Asset/Tag`: that very tag
    Name,  ///< a fact of a span (in backquotes where it is not one word), or a derived tag of the asset
    Negate,
    Not,
    Add,
    Subtract,
    Multiply,
    Divide,
    Power,
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    Equal,
    NotEqual,
    Between,  ///< children: value, low, high
    Is,
    In,  ///< child: a state tag; `states`: the names; `negated` for `is not`, `not in`
    And,
    Or,
    For,   ///< child: a condition; `duration`
    Call,  ///< `function`, and its name in `text`; children: arguments; a window where there is one
};

/// What a function looks back over: a duration, a number of samples, the time since the last span of a track
/// ended, or the span of a track that holds the moment, as far as it has come.
struct Window {
    Duration duration{};
    int samples = 0;
    std::string since, during;
    int column = 0;  ///< of the duration, the number or the track
    bool given() const {
        return duration > Duration::zero() || samples > 0 || !since.empty() || !during.empty();
    }
};

struct Node {
    NodeKind kind;
    int column = 1;  ///< where it starts in the text, from 1, in characters
    double number = 0;
    Duration duration{};
    std::string text;
    const FunctionInfo* function = nullptr;  ///< of a call; null where there is none of that name
    std::vector<std::string> states;
    bool negated = false;
    Window window;
    std::vector<std::shared_ptr<const Node>> children;
    std::string key;  ///< the same for parts that mean the same, wherever they stand; of parsed trees
};
using NodePtr = std::shared_ptr<const Node>;

/// Is it true, false or unknown? Of a part that is not a call of a function whose type is that of an
/// argument.
bool isCondition(const Node& n);

/// Reads a text. Gives the tree, or one error with its column, what was found and what would fit. Texts
/// longer than 20 000 bytes or nested deeper than 100 are refused, so no text can exhaust memory or the
/// stack.
Result<NodePtr> parseExpression(std::string_view text);

/// Names and kinds of the pieces of a text, for colouring it. Reads on past errors.
enum class TokenKind { Number, DurationWord, Text, Role, Path, Word, Keyword, Symbol, Comment, Unknown, End };
struct Token {
    TokenKind kind;
    std::string text;  ///< without quotes, @ or back quotes
    double number = 0;
    Duration duration{};
    int column = 1;  ///< in characters, from 1
    int length = 0;  ///< in characters
};
std::vector<Token> tokenize(std::string_view text);

/// A tag's path as it stands in an expression: in back quotes, one inside written twice.
std::string quotedPath(const std::string& path);
/// A length of time as it stands in an expression: one number and one unit, exact to the millisecond: `90m`,
/// `28h`.
std::string durationWord(Duration d);

/// The entry of `known` that is fewest edits away, or empty where none is near.
std::string nearestName(const std::string& name, const std::vector<std::string>& known);
/// The same for the end of a message: “; nearest is `…`”, or nothing.
std::string sayNearest(const std::string& name, const std::vector<std::string>& known);

}  // namespace jacinth
