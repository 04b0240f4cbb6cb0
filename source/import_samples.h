// Samples from text files, wide or long, into a study.
#pragma once

#include "source/import_record.h"
#include "source/text_layout.h"

namespace jacinth {

/// A tag that the study has in another unit than a file.
struct UnitDifference {
    std::string path, ofStudy, ofFile;
    bool convertible = false;
};

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
    std::vector<std::pair<std::string, MappedName>> names;  ///< what names become, as written
    std::vector<UnitDifference> units;  ///< tags that the study has in another unit, as far as they are shown
};
/// The zone of times without offset: as said, or else the study's.
Result<Zone> zoneOfTimes(const Study* study, const LayoutHints& hints);
Result<ImportPreview> previewImport(const Study* study, const TextSource& source, const LayoutHints& hints);
/// The names in it as the file has them: what a pattern is proposed from.
std::vector<std::string> rawNames(const ImportPreview& preview);

/// `source` may be packed with gzip; it is checked to its end before anything is stored. Dates that are not
/// year first are looked through to the end as well: where nothing decides between day first and month
/// first, or rows contradict each other, nothing is stored. Stores in batches, each one transaction: what is
/// committed stays whatever happens next. Importing the same file again changes nothing. Where a stored
/// sample has the same instant, the newest import stands. Every line of the file is a row that was read, a
/// row that was kept aside, or blank; an import whose count does not come out that way fails.
Result<ImportResult> importSamples(Study& study, const TextSource& source, const LayoutHints& hints,
                                   const Progress& progress = {});

}  // namespace jacinth
