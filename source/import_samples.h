// Samples from text files, wide or long, into a study.
#pragma once

#include <functional>
#include <memory>

#include "source/text_layout.h"
#include "store/study.h"

namespace jacinth {

/// What a file would give, before anything is stored.
struct ImportPreview {
    std::string name;
    std::int64_t bytes = 0;
    std::int64_t rows = 0;  ///< below the header; counted by line ends; of a packed file: of its first 4 MB
    bool rowsEstimated = false;  ///< of a large file: told from the length of its first rows
    bool packed = false;         ///< with gzip
    TextLayout layout;
    std::string zone;             ///< that times without offset would be read in
    bool timesCarryZone = false;  ///< the times name their own offset
    std::vector<std::string> header;
    std::vector<std::vector<std::string>> firstRows;
    std::vector<std::string> tags;        ///< paths, as far as the first rows show them
    std::vector<BadRow> badRows;          ///< among the first rows
    std::optional<TimeRange> firstTimes;  ///< of the first rows
};
/// The text of a file, or of a packed one its first 4 MB in whole rows.
struct TextHeadSource {
    std::string_view text;
    std::shared_ptr<std::string> held;  ///< what `text` looks at, where it was unpacked
    bool packed = false;
};
Result<TextHeadSource> headOf(const TextSource& source);
/// The zone of times without offset: as said, or else the study's.
Result<Zone> zoneOfTimes(const Study* study, const LayoutHints& hints);
Result<ImportPreview> previewImport(const Study* study, const TextSource& source, const LayoutHints& hints);

struct ImportResult {
    std::int64_t import = 0;
    std::int64_t rows = 0, samples = 0, replaced = 0, unchanged = 0, badRowCount = 0;
    std::vector<BadRow> badRows;     ///< the first 100; all of them are kept in the study
    std::vector<std::string> tags;   ///< paths
    std::vector<std::string> notes;  ///< what is worth telling: an hour that happened twice, for one
    bool cancelled = false;
};

/// Called between batches with the share done, 0 to 1; returning false stops after what is committed.
using Progress = std::function<bool(double)>;

/// `source` may be packed with gzip; it is checked to its end before anything is stored. Stores in batches,
/// each one transaction: what is committed stays whatever happens next. Importing the same file again changes
/// nothing. Where a stored sample has the same instant, the newest import stands.
Result<ImportResult> importSamples(Study& study, const TextSource& source, const LayoutHints& hints,
                                   const Progress& progress = {});

}  // namespace jacinth
