#include "source/row_reader.h"

#include <algorithm>
#include <cctype>
#include <cstring>

namespace jacinth {

RowReader::RowReader(std::string_view text, char separator) : text_(text), separator_(separator) {}

bool RowReader::next() {
    while (true) {
        if (at_ >= text_.size()) return false;
        line_ = nextLine_;
        unescaped_.clear();
        fields_.clear();
        openQuote_ = false;
        const std::size_t start = at_;
        // Most rows have no quote: find the end first, then cut at separators.
        const char* begin = text_.data() + at_;
        const char* newline = static_cast<const char*>(std::memchr(begin, '\n', text_.size() - at_));
        const std::size_t end = newline ? static_cast<std::size_t>(newline - text_.data()) : text_.size();
        if (!std::memchr(begin, '"', end - at_)) {
            std::string_view row = text_.substr(at_, end - at_);
            at_ = newline ? end + 1 : end;
            ++nextLine_;
            if (!row.empty() && row.back() == '\r') row.remove_suffix(1);
            raw_ = row;
            if (row.empty()) continue;
            while (true) {
                const auto* cut = static_cast<const char*>(std::memchr(row.data(), separator_, row.size()));
                if (!cut) break;
                const auto n = static_cast<std::size_t>(cut - row.data());
                fields_.push_back(row.substr(0, n));
                row.remove_prefix(n + 1);
            }
            fields_.push_back(row);
            return true;
        }
        while (true) {
            if (at_ < text_.size() && text_[at_] == '"') {
                fields_.push_back(takeQuoted());
            } else {
                const std::size_t from = at_;
                while (at_ < text_.size() && text_[at_] != separator_ && text_[at_] != '\n') ++at_;
                std::string_view field = text_.substr(from, at_ - from);
                const bool last = at_ >= text_.size() || text_[at_] == '\n';
                if (last && !field.empty() && field.back() == '\r') field.remove_suffix(1);
                fields_.push_back(field);
            }
            if (at_ >= text_.size()) break;
            if (text_[at_++] == '\n') break;
        }
        ++nextLine_;
        raw_ = trimmed(text_.substr(start, at_ - start));
        return true;
    }
}

std::string_view RowReader::takeQuoted() {
    const std::size_t from = ++at_;
    bool doubled = false;
    while (at_ < text_.size()) {
        if (text_[at_] == '\n') ++nextLine_;
        if (text_[at_] == '"') {
            if (at_ + 1 >= text_.size() || text_[at_ + 1] != '"') break;
            doubled = true;
            ++at_;
        }
        ++at_;
    }
    openQuote_ = at_ >= text_.size();
    const std::string_view inside = text_.substr(from, at_ - from);
    // What stands between the closing quote and the separator belongs to no field.
    while (at_ < text_.size() && text_[at_] != separator_ && text_[at_] != '\n') ++at_;
    if (!doubled) return inside;
    std::string& plain = unescaped_.emplace_back();
    for (std::size_t i = 0; i < inside.size(); ++i) {
        plain += inside[i];
        if (inside[i] == '"') ++i;
    }
    return plain;
}

std::string_view withoutMark(std::string_view text) {
    if (text.substr(0, 3) == "\xEF\xBB\xBF") text.remove_prefix(3);
    return text;
}

}  // namespace jacinth
