// Where to begin with a setting of a rule: what it is compared with, and round numbers from what that does.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/prove/search.h"

namespace jacinth {

/// Above: the rule is true where the measure is above the setting, as in `mean(@x over 6h) > {limit}`.
enum class SettingSide { Above, Below };

/// A setting as it stands in a rule.
struct SettingPlace {
    std::string unit;  ///< of time, written behind it: `{hours}h`; empty where it is a plain number
    /// What the setting is compared with, the comparison put in terms of it, where that can be: `@a` in
    /// `@a > {limit}`, `(@a) / (@b)` in `@a < {times} * @b`. May hold other settings. Empty elsewhere.
    std::string measure;
    SettingSide side = SettingSide::Above;
};
/// At the first place where it stands; none where it is not in the text.
std::optional<SettingPlace> placeOfSetting(const std::string& text, const std::string& name);

/// A value to begin with and a range to search, in steps of 1, 2 or 5 times a power of ten.
struct StartingRange {
    Vary vary;
    double value = 1;  ///< one of the steps
};

/// From values of the measure: begins at the 99 % quantile (1 % where the rule is true below), searches from
/// the median to the greatest value, but at most four times as far from the median as the 99.9 % quantile, so
/// that a spike does not stretch it. None from fewer than 20 values, and where they hardly differ. Sorts.
std::optional<StartingRange> rangeFromValues(const std::string& name, std::vector<double>& values,
                                             SettingSide side);
/// For a length of time: a part of the scale in which the unit is used.
std::optional<StartingRange> rangeForTime(const std::string& name, const std::string& unit);
/// Half to double of a number of which nothing is known.
StartingRange rangeAround(const std::string& name, double value);
/// Its steps go on until they reach the number.
void reach(Vary& vary, double value);

}  // namespace jacinth
