// Rows of a sample file to samples, tag by tag. Touches no study: pieces of a file are read on any thread.
#pragma once

#include "source/record_source.h"
#include "source/text_layout.h"

namespace jacinth {

/// A block of a file, and how it fits behind the block before.
struct ParsedRows : RecordBlock {
    std::int64_t lines = 0;       ///< rows and blank lines
    std::int64_t twice = 0;       ///< wall times that happened twice
    Instant last = kNoInstant;    ///< time of the last row that could be read
    bool timesCarryZone = false;  ///< some time named its own offset
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
