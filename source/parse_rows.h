// Rows of a sample file to samples, tag by tag. Touches no study: pieces of a file are read on any thread.
#pragma once

#include <map>
#include <memory>

#include "source/text_layout.h"
#include "store/imports.h"
#include "store/study.h"

namespace jacinth {

/// What holds the values of a tag, as far as is known: from the study, or from rows read before. By path.
using KnownKinds = std::map<std::string, TagKind, std::less<>>;

/// One tag's samples in a piece of a file.
struct ParsedTag {
    LayoutColumn column;
    std::string path;
    /// Known before, or what most of its values in this piece are; none where there were only texts that
    /// mean “no value”.
    std::optional<TagKind> kind;
    bool known = false;  ///< the kind was known before
    /// Of a state tag, values are places in `texts`; else a text has the value valueOfText(place) and bad
    /// quality.
    Series series;
    std::vector<std::string> texts;  ///< in order of first sight
};

/// What is kept aside of a piece: the first kBadKept in full, the rest counted.
struct ParsedBad {
    static constexpr std::size_t kBadKept = 2000;
    std::vector<BadRow> kept;  ///< lines counted from 1 at the start of the piece; `cell` is set for a cell
    std::int64_t rows = 0;     ///< not read at all
    std::int64_t cells = 0;    ///< of rows that were read, wide files only
};

struct ParsedRows {
    std::int64_t rows = 0;                         ///< those kept aside included
    std::int64_t lines = 0;                        ///< rows and blank lines
    std::vector<std::unique_ptr<ParsedTag>> tags;  ///< in order of first sight
    ParsedBad bad;
    std::map<std::string, std::int64_t> noValue;  ///< samples without a value, by text
    std::int64_t twice = 0;                       ///< wall times that happened twice
    Instant last = kNoInstant;                    ///< time of the last row that could be read
    bool timesCarryZone = false;                  ///< some time named its own offset
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
    void read(const RowReader& row, RowSink& sink);
    const TimeReader& times() const { return times_; }
    std::optional<Instant> time(std::string_view text) {
        const auto t = times_.read(text);
        return t ? std::optional<Instant>(*t) : std::nullopt;
    }

  private:
    void readLong(const std::vector<std::string_view>& fields, Instant t, RowSink& sink);
    const TextLayout& layout_;
    TimeReader times_;
    std::string joined_;  ///< date and time of day
};

/// Reads whole rows (no header). `asset` is for tags that name none. The kind of a tag that is not known is
/// what most of its values are: numbers, or names of states. Texts that mean “no value” do not count for
/// either.
ParsedRows parseRows(std::string_view text, const TextLayout& layout, const std::string& asset,
                     const KnownKinds& known, TimeReader times);

}  // namespace jacinth
