// Rows of a sample file to samples, tag by tag. Touches no study: pieces of a file are read on any thread.
#pragma once

#include <map>
#include <memory>

#include "source/text_layout.h"
#include "store/study.h"

namespace jacinth {

/// What holds the values of a tag, as far as is known: from the study, or from rows read before. By path.
using KnownKinds = std::map<std::string, TagKind, std::less<>>;

/// One tag's samples in a piece of a file.
struct ParsedTag {
    LayoutColumn column;
    std::string path;
    TagKind kind = TagKind::Continuous;
    Series series;                    ///< of a state tag: places in `states`
    std::vector<std::string> states;  ///< in order of first sight
};

struct ParsedRows {
    std::int64_t rows = 0;
    std::int64_t lines = 0;                        ///< line ends
    std::vector<std::unique_ptr<ParsedTag>> tags;  ///< in order of first sight
    std::vector<BadRow> bad;                       ///< lines counted from 1 at the start of the piece
    std::int64_t twice = 0;                        ///< wall times that happened twice
    Instant last = kNoInstant;                     ///< time of the last row that could be read
    bool timesCarryZone = false;                   ///< some time named its own offset
};

/// Where a row's fields go.
class RowSink {
  public:
    virtual ~RowSink() = default;
    /// `column` −1 in a long file; then `tagName` says which tag.
    virtual void sample(int column, std::string_view tagName, Instant t, std::string_view value,
                        Quality q) = 0;
    virtual void badRow(std::string reason) = 0;
};

/// Reads rows in their layout and hands on what they say.
class RowInterpreter {
  public:
    RowInterpreter(const TextLayout& layout, TimeReader times) : layout_(layout), times_(std::move(times)) {}
    void read(const std::vector<std::string_view>& fields, RowSink& sink);
    const TimeReader& times() const { return times_; }
    std::optional<Instant> time(std::string_view text) {
        const auto t = times_.read(text);
        return t ? std::optional<Instant>(*t) : std::nullopt;
    }

  private:
    void readLong(const std::vector<std::string_view>& fields, Instant t, RowSink& sink);
    const TextLayout& layout_;
    TimeReader times_;
};

/// Reads whole rows (no header). `asset` is for tags that name none. A tag whose kind is not known is what
/// its first value says: a number, or a state.
ParsedRows parseRows(std::string_view text, const TextLayout& layout, const std::string& asset,
                     const KnownKinds& known, TimeReader times);

}  // namespace jacinth
