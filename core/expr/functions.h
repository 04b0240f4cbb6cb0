// The functions of the language: what each takes, gives and means. Checking, completion, help and the table
// in docs/expressions.md all come from here.
#pragma once

#include <string>
#include <vector>

namespace jacinth {

/// What an argument may be.
enum class Takes {
    Number,
    Measure,  ///< a number or a duration
    Condition,
    Anything,  ///< a number, a duration, a state or a condition
    Length,    ///< a duration that is written down, like `2h`
    Level,     ///< a number from 0 to 1 that is written down
    Limits,    ///< the name of golden limits, in quotes
    Model,     ///< the name of a learned model, in quotes
    Track,     ///< the name of a track, in quotes
    Tag,       ///< a tag itself: `@role` or a path
    Counted,   ///< a number, or the name of a track
};
/// What comes out; SameAsValue is the type of the first argument that is a value (`if`: of the second).
enum class Gives { Number, Length, Condition, State, SameAsValue };
/// What the function looks back over.
enum class Looks {
    Nowhere,
    Back,         ///< a duration, a number of samples, `since` or `during` a track
    BackByTime,   ///< a duration only
    BackOrCount,  ///< a duration or a number of samples
};
/// The unit that comes out, from the unit that goes in.
enum class UnitRule { None, Same, PerHour, TimesHour };

struct FunctionInfo {
    const char* name;
    std::vector<Takes> takes;
    Gives gives;
    Looks looks;
    UnitRule unit;
    const char* form;     ///< `clip(x, lo, hi)`
    const char* means;    ///< one line
    const char* example;  ///< on the demo plant
};

/// In the order of the teaching page: plain ones, those that look back, those about time and quality, those
/// about limits, models and tracks.
const std::vector<FunctionInfo>& functions();
const FunctionInfo* functionNamed(const std::string& name);  ///< null where there is none
const std::vector<std::string>& functionNames();

/// Does the function look over a stretch of time, and over the whole span in an expression about a span?
bool isWindowFunction(const std::string& name);

}  // namespace jacinth
