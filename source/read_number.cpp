#include <fast_float/fast_float.h>

#include <array>
#include <cmath>

#include "core/base/utf8.h"
#include "source/number_signs.h"
#include "source/text_layout.h"

namespace jacinth {
namespace {

/// Up to 15 digits with a point: both parts of the quotient are exact, so their quotient is the nearest
/// double (Clinger 1990). None where the field is written otherwise.
std::optional<double> readPlainNumber(std::string_view field, char point) {
    static constexpr std::array<double, 16> kTens{1,   1e1, 1e2,  1e3,  1e4,  1e5,  1e6,  1e7,
                                                  1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15};
    std::size_t i = field[0] == '-';
    const std::size_t start = i;
    std::size_t points = 0, decimals = 0;
    std::uint64_t digits = 0;
    if (field.size() - i > 16) return {};
    for (; i < field.size(); ++i) {
        const char c = field[i];
        if (c >= '0' && c <= '9') {
            digits = digits * 10 + static_cast<std::uint64_t>(c - '0');
            decimals += points;
        } else if (c == point && points == 0 && i > start) {
            points = 1;
        } else {
            return {};
        }
    }
    if (i - start - points == 0 || i - start - points > 15) return {};
    const double value = static_cast<double>(digits) / kTens[decimals];
    return start ? -value : value;
}

}  // namespace

std::optional<double> readNumber(std::string_view field, bool decimalComma) {
    if (field.empty() || field.size() > 64) return {};
    if (const auto plain = readPlainNumber(field, decimalComma ? ',' : '.')) return plain;
    std::array<char, 64> copy;
    const char* begin = field.data();
    if (decimalComma && std::memchr(field.data(), ',', field.size())) {
        std::replace_copy(field.begin(), field.end(), copy.begin(), ',', '.');
        begin = copy.data();
    }
    if (*begin == '+') ++begin;
    const char* end =
        (begin >= copy.data() && begin <= copy.data() + 1 ? copy.data() : field.data()) + field.size();
    double value = 0;
    const auto result = fast_float::from_chars(begin, end, value);
    if (result.ec != std::errc() || result.ptr != end || !std::isfinite(value)) return {};
    return value;
}

std::optional<double> readNumber(std::string_view field, const TextLayout& layout) {
    if (layout.thousands == 0 || field.find(layout.thousands) == std::string_view::npos)
        return readNumber(field, layout.decimalComma);
    const auto plain = withoutGroups(field, layout.thousands, layout.decimalComma ? ',' : '.');
    return plain ? readNumber(*plain, layout.decimalComma) : std::nullopt;
}

}  // namespace jacinth
