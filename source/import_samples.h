// Samples from text files, wide or long, into a study.
#pragma once

#include <functional>
#include <memory>

#include "core/base/progress.h"
#include "source/text_layout.h"
#include "store/imports.h"
#include "store/study.h"

namespace jacinth {

/// What a file would give, before anything is stored.
struct ImportPreview {
    std::string name;
    std::int64_t bytes = 0;
    std::int64_t rows = 0;  ///< below the header; counted by line ends; of a packed file: of its first 4 MB
    bool rowsEstimated = false;  ///< of a large file: from the length of its first rows
    bool packed = false;         ///< with gzip
    TextLayout layout;
    std::string zone;             ///< that times without offset would be read in
    bool timesCarryZone = false;  ///< the times name their own offset
    std::vector<std::string> header;
    std::vector<std::vector<std::string>> firstRows;
    std::vector<std::string> tags;                ///< paths, as far as the first rows show them
    std::vector<BadRow> badRows;                  ///< among the first rows
    std::map<std::string, std::int64_t> noValue;  ///< texts read as “no value” among the first rows
    std::optional<TimeRange> firstTimes;          ///< of the first rows
};
/// The zone of times without offset: as said, or else the study's.
Result<Zone> zoneOfTimes(const Study* study, const LayoutHints& hints);
Result<ImportPreview> previewImport(const Study* study, const TextSource& source, const LayoutHints& hints);

inline constexpr std::size_t kBadRowsShown = 100;

struct ImportResult {
    ImportId import;
    std::int64_t rows = 0;          ///< of the file below its header, those kept aside included
    std::int64_t badRowCount = 0;   ///< kept aside as a whole
    std::int64_t badCellCount = 0;  ///< kept aside of rows whose other cells were read (wide files)
    std::int64_t samples = 0, replaced = 0, unchanged = 0;
    std::int64_t sameTime = 0;    ///< samples of a tag at a time that a later row has again; that row stands
    std::vector<BadRow> badRows;  ///< the first kBadRowsShown; the study keeps the first kMostBadRows
    std::map<std::string, std::int64_t> noValue;  ///< samples without a value, by the text that said so
    std::vector<std::string> tags;                ///< paths
    std::vector<std::string> notes;  ///< what is worth knowing: an hour that happened twice, for one
    bool cancelled = false;

    void add(const ImportResult& next);  ///< that of one more file
};
inline constexpr std::size_t kMostBadRows = 10'000;  ///< kept in the study of one import; the rest is counted

/// `source` may be packed with gzip; it is checked to its end before anything is stored. Dates that are not
/// year first are looked through to the end as well: where nothing decides between day first and month
/// first, or rows contradict each other, nothing is stored. Stores in batches, each one transaction: what is
/// committed stays whatever happens next. Importing the same file again changes nothing. Where a stored
/// sample has the same instant, the newest import stands. Every line of the file is a row that was read, a
/// row that was kept aside, or blank; an import whose count does not come out that way fails.
Result<ImportResult> importSamples(Study& study, const TextSource& source, const LayoutHints& hints,
                                   const Progress& progress = {});

}  // namespace jacinth
