#include "source/row_reader.h"

#include <algorithm>
#include <cstring>

namespace jacinth {
namespace {

/// Where the line that starts at `from` ends: at its line feed, or at the end of the text.
std::size_t lineEnd(std::string_view text, std::size_t from) {
    const void* newline = std::memchr(text.data() + from, '\n', text.size() - from);
    return newline ? static_cast<std::size_t>(static_cast<const char*>(newline) - text.data()) : text.size();
}

std::string_view withoutReturn(std::string_view row) {
    if (!row.empty() && row.back() == '\r') row.remove_suffix(1);
    return row;
}

/// Nothing but blanks; a line of separators is a row of empty fields.
bool isBlank(std::string_view row, char separator) {
    return std::all_of(row.begin(), row.end(),
                       [&](char c) { return c != separator && (c == ' ' || c == '\t' || c == '\r'); });
}

std::string unescaped(std::string_view inside) {
    std::string plain;
    for (std::size_t i = 0; i < inside.size(); ++i) {
        plain += inside[i];
        if (inside[i] == '"') ++i;
    }
    return plain;
}

}  // namespace

RowReader::RowReader(std::string_view text, char separator, Quotes quotes)
    : text_(text), separator_(separator), quotes_(quotes) {}

bool RowReader::next() {
    while (at_ < text_.size()) {
        const std::size_t start = at_, end = lineEnd(text_, start);
        line_ = nextLine_++;
        at_ = std::min(end + 1, text_.size());
        raw_ = withoutReturn(text_.substr(start, end - start));
        if (isBlank(raw_, separator_)) continue;
        trouble_ = "";
        switch (cut(raw_)) {
            case Cut::Whole:
                break;
            case Cut::OpenQuote:
                if (quotes_ == Quotes::OverLines && cutOverLines(start, end)) break;
                fields_.clear();
                trouble_ = "a quote is opened and not closed";
                break;
            case Cut::TextAfterQuote:
                fields_.clear();
                trouble_ = "there is text between a closing quote and the next separator";
                break;
        }
        if (usualFields_ == 0) usualFields_ = fields_.size();
        return true;
    }
    return false;
}

/// A quoted field with line ends in it: taken where it closes within reason and the row is then like the
/// others.
bool RowReader::cutOverLines(std::size_t start, std::size_t firstEnd) {
    std::size_t end = firstEnd;
    std::int64_t lines = 1;
    while (end < text_.size() && end - start < kLongestQuoted) {
        end = lineEnd(text_, end + 1);
        ++lines;
        const std::string_view row = withoutReturn(text_.substr(start, end - start));
        const Cut found = cut(row);
        if (found == Cut::OpenQuote) continue;
        if (found != Cut::Whole || (usualFields_ > 0 && fields_.size() != usualFields_)) return false;
        raw_ = row;
        at_ = std::min(end + 1, text_.size());
        nextLine_ += lines - 1;
        return true;
    }
    return false;
}

RowReader::Cut RowReader::cut(std::string_view row) {
    fields_.clear();
    quoted_.clear();
    unescaped_.clear();
    std::size_t at = 0;
    while (true) {
        if (at < row.size() && row[at] == '"') {
            const std::size_t from = ++at;
            bool doubled = false;
            while (true) {
                const std::size_t quote = row.find('"', at);
                if (quote == std::string_view::npos) return Cut::OpenQuote;
                at = quote + 1;
                if (at >= row.size() || row[at] != '"') break;
                doubled = true;
                ++at;
            }
            const std::string_view inside = row.substr(from, at - 1 - from);
            quoted_.push_back(true);
            fields_.push_back(doubled ? unescaped_.emplace_back(unescaped(inside)) : inside);
            while (at < row.size() && row[at] == ' ' && row[at] != separator_) ++at;
            if (at < row.size() && row[at] != separator_) return Cut::TextAfterQuote;
        } else {
            const std::size_t end = std::min(row.find(separator_, at), row.size());
            quoted_.push_back(false);
            fields_.push_back(row.substr(at, end - at));
            at = end;
        }
        if (at >= row.size()) return Cut::Whole;
        ++at;
    }
}

std::string_view withoutMark(std::string_view text) {
    if (text.substr(0, 3) == "\xEF\xBB\xBF") text.remove_prefix(3);
    return text;
}

}  // namespace jacinth
