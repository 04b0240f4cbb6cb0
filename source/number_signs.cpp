#include "source/number_signs.h"

#include <algorithm>
#include <cctype>

namespace jacinth {
namespace {

bool isDigit(char c) {
    return c >= '0' && c <= '9';
}

std::string_view withoutSign(std::string_view cell) {
    if (!cell.empty() && (cell.front() == '-' || cell.front() == '+')) cell.remove_prefix(1);
    return cell;
}

}  // namespace

void NumberSigns::add(std::string_view cell) {
    const std::string_view digits = withoutSign(cell);
    if (digits.empty() || digits.size() > 40 || !isDigit(digits.front())) return;
    // An exponent ends what is of interest here; anything else makes it no number.
    const std::size_t exponent = digits.find_first_of("eE");
    const std::string_view body = digits.substr(0, exponent);
    for (const char c : body)
        if (!isDigit(c) && c != '.' && c != ',') return;
    const auto points = std::count(body.begin(), body.end(), '.'),
               commas = std::count(body.begin(), body.end(), ',');
    if (points == 0 && commas == 0) return;
    if (points > 0 && commas > 0) {
        const bool commaLast = body.rfind(',') > body.rfind('.');
        if ((commaLast ? commas : points) > 1) return;
        ++(commaLast ? comma_ : point_).decimal;
        ++(commaLast ? point_ : comma_).groups;
        return;
    }
    Seen& sign = commas > 0 ? comma_ : point_;
    if (points + commas > 1) {
        ++sign.groups;
        return;
    }
    const std::size_t at = body.find_first_of(".,");
    // Groups have one to three digits before them and three behind; a leading zero has none.
    if (body.size() - at - 1 == 3 && at <= 3 && body.front() != '0' && exponent == std::string_view::npos) {
        ++sign.either;
        if (&sign == &comma_ && example_.empty()) example_ = cell;
    } else {
        ++sign.decimal;
    }
}

bool NumberSigns::decimalComma() const {
    if (comma_.decimal != point_.decimal) return comma_.decimal > point_.decimal;
    if (comma_.groups != point_.groups) return point_.groups > comma_.groups;
    return false;
}

char NumberSigns::thousandsWhere(bool decimalComma) const {
    if (decimalComma) return point_.groups > 0 || point_.either > 0 ? '.' : 0;
    return comma_.groups > 0 || comma_.either > 0 ? ',' : 0;
}

/// A point is a decimal point unless something speaks against it; a comma needs something that decides.
bool NumberSigns::ambiguous() const {
    return comma_.either > 0 && comma_.decimal == 0 && comma_.groups == 0 && point_.decimal == 0 &&
           point_.groups == 0;
}

std::optional<std::string> withoutGroups(std::string_view field, char thousands, char decimal) {
    const std::size_t mark = std::min(field.find(decimal), field.size());
    const std::string_view whole = field.substr(0, mark);
    std::string out;
    std::size_t run = 0, groups = 0;
    for (std::size_t i = 0; i < whole.size(); ++i) {
        if (whole[i] != thousands) {
            out += whole[i];
            run += isDigit(whole[i]);
            continue;
        }
        if (groups == 0 ? run < 1 || run > 3 : run != 3) return {};
        ++groups;
        run = 0;
    }
    if (groups > 0 && run != 3) return {};
    if (field.substr(mark).find(thousands) != std::string_view::npos) return {};
    return out + std::string(field.substr(mark));
}

}  // namespace jacinth
