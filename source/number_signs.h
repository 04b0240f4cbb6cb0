// Which sign stands before the decimals in a file, and which between groups of three digits.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace jacinth {

/// What the numbers of a file show about their signs. `1,5` has a decimal comma, `1,234.5` and `1,234,567`
/// groups; `1,234` alone can be either.
class NumberSigns {
  public:
    void add(std::string_view cell);  ///< anything but numbers is passed over
    bool decimalComma() const;
    /// The sign between groups where the decimal mark is known; 0 where none was seen.
    char thousandsWhere(bool decimalComma) const;
    /// Numbers with one sign and three digits behind it, and nothing that decides.
    bool ambiguous() const;
    const std::string& example() const { return example_; }

  private:
    struct Seen {
        std::int64_t decimal = 0, groups = 0, either = 0;
    };
    Seen point_, comma_;
    std::string example_;
};

/// The number without its groups: `1,234.5` becomes `1234.5`. None where the groups are not of three digits.
std::optional<std::string> withoutGroups(std::string_view field, char thousands, char decimal);

}  // namespace jacinth
