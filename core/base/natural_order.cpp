#include "core/base/natural_order.h"

namespace jacinth {
namespace {

bool isDigit(char c) {
    return c >= '0' && c <= '9';
}
char lower(char c) {
    return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
}
std::string_view digitsAt(std::string_view text) {
    std::size_t end = 0;
    while (end < text.size() && isDigit(text[end])) ++end;
    return text.substr(0, end);
}
std::string_view withoutZeros(std::string_view digits) {
    while (digits.size() > 1 && digits.front() == '0') digits.remove_prefix(1);
    return digits;
}

}  // namespace

bool naturallyBefore(std::string_view a, std::string_view b) {
    const std::string_view wholeA = a, wholeB = b;
    while (!a.empty() && !b.empty()) {
        const std::string_view one = digitsAt(a), other = digitsAt(b);
        if (!one.empty() && !other.empty()) {
            const std::string_view x = withoutZeros(one), y = withoutZeros(other);
            if (x.size() != y.size()) return x.size() < y.size();
            if (x != y) return x < y;
            a.remove_prefix(one.size());
            b.remove_prefix(other.size());
            continue;
        }
        const auto x = static_cast<unsigned char>(lower(a[0])), y = static_cast<unsigned char>(lower(b[0]));
        if (x != y) return x < y;
        a.remove_prefix(1);
        b.remove_prefix(1);
    }
    if (a.empty() != b.empty()) return a.empty();
    return wholeA < wholeB;
}

}  // namespace jacinth
