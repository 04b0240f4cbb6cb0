// The functions of the language, one row each: what a function takes, gives and means, and what calculates
// it. Parsing, checking, evaluation, completion, help and the table in docs/expressions.md all use these
// rows. A new function is a new row; only one that no kind of implementation fits needs a new kind, which
// then does not compile until every evaluator handles it.
#pragma once

#include <string>
#include <variant>
#include <vector>

#include "core/expr/window.h"

namespace jacinth {

class Evaluator;
struct Node;

/// What an argument may be.
enum class Takes {
    Number,
    Measure,  ///< a number or a duration
    Condition,
    Anything,  ///< a number, a duration, a state or a condition
    Length,    ///< a duration that is written down, like `2h`
    Level,     ///< a number from 0 to 1 that is written down
    Limits,    ///< the name of golden limits, in quotes
    Track,     ///< the name of a track, in quotes
    Tag,       ///< a tag itself: `@role` or a path
    Counted,   ///< a number, or the name of a track
};
/// What comes out; SameAsValue is the type of the argument that valueArgument() names.
enum class Gives { Number, Length, Condition, State, SameAsValue };
/// Which window may, or must, be written with the function.
enum class Looks {
    Nowhere,
    Back,         ///< a duration, a number of samples, `since` or `during` a track
    BackByTime,   ///< a duration only
    BackOrCount,  ///< a duration or a number of samples
};
/// How far before a moment its arguments are needed.
enum class Reach {
    Now,
    Window,      ///< as far as the window that is written
    JustBefore,  ///< what was true a nanosecond before
    Delay,       ///< by the second argument
    Fading,      ///< until the window, a time constant, has faded below rounding
    AllBefore,
};
/// The unit that comes out, from the unit that goes in.
enum class UnitRule { None, Same, PerHour, TimesHour };

/// The kinds of implementation. Evaluators visit them all.
namespace implementation {
/// A number from the numbers of the same moment. NaN and infinity stand for a missing value.
struct OfOne {
    double (*of)(double);
};
struct OfTwo {
    double (*of)(double, double);
};
struct Clip {};
struct If {};
struct Fill {};
/// Of a number, a condition or a state alike.
struct Delay {};
struct IsMissing {};
/// Over a window of a number.
struct OverWindow {
    WindowFigure figure;
};
/// Over a window of a condition, which counts as 1 or 0.
struct OfCondition {
    WindowFigure figure;
};
/// A function of the evaluator's own.
struct ByNumber {
    Signal (Evaluator::*make)(const Node&);
};
struct ByState {
    Signal (Evaluator::*make)(const Node&);
};
struct ByCondition {
    Condition (Evaluator::*make)(const Node&);
};
}  // namespace implementation

using Implementation =
    std::variant<implementation::OfOne, implementation::OfTwo, implementation::Clip, implementation::If,
                 implementation::Fill, implementation::Delay, implementation::IsMissing,
                 implementation::OverWindow, implementation::OfCondition, implementation::ByNumber,
                 implementation::ByState, implementation::ByCondition>;

struct FunctionInfo {
    const char* name;
    std::vector<Takes> takes;
    Gives gives;
    Looks looks;
    Reach reach;
    UnitRule unit;
    Implementation by;
    const char* form;     ///< `clip(x, lo, hi)`
    const char* means;    ///< one line
    const char* example;  ///< on the demo plant

    template <typename Kind>
    bool is() const {
        return std::holds_alternative<Kind>(by);
    }
};

/// In the order of the teaching page: plain ones, those that look back, those about time and quality, those
/// about limits and tracks. The rows stay where they are: their addresses identify the functions.
const std::vector<FunctionInfo>& functions();
const FunctionInfo* functionNamed(const std::string& name);  ///< null where there is none
const std::vector<std::string>& functionNames();

/// The argument that gives the result its type and unit: the first that is a measure, or else the first.
std::size_t valueArgument(const FunctionInfo& f);

double leastOf(double a, double b);  ///< NaN where one is
double mostOf(double a, double b);

}  // namespace jacinth
