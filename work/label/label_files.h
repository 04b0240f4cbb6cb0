// Labels as files, out and in again, and labels of others with their words for kinds.
#pragma once

#include <map>
#include <nlohmann/json_fwd.hpp>
#include <set>

#include "core/label/label_book.h"
#include "core/time/instant.h"
#include "store/study.h"

namespace jacinth {

/// Columns: asset, tags (paths within the asset, with `; ` between; empty: the whole asset), start, end (ISO
/// 8601, UTC), kind, meaning, normal (yes or no), certainty, note, by, from, then one for each fact of the
/// site's own, with kFactColumn before a name that one of the others has. Texts that look like numbers stand
/// in quotes, and so come back as texts. With `guarded`, texts are safe to open in a spreadsheet (see
/// guardedField). importLabels reads all of it back as it was.
inline constexpr const char* kFactColumn = "fact:";
/// The columns that are not facts, in their order.
const std::vector<std::string>& labelColumns();
std::string labelsAsCsv(const Study& study, const std::vector<Span>& labels, bool guarded = false);
/// An object: `book` (see bookText), and `labels`, each with id, asset, tags, start, end, kind, certainty,
/// note, by, from, facts.
std::string labelsAsJson(const Study& study, const std::vector<Span>& labels);

/// One label as an object of that form.
nlohmann::json labelToJson(const Study& study, const Span& label);

struct LabelImportSpec {
    std::map<std::string, std::string> kinds;    ///< theirs → ours; an empty one: not named yet
    std::map<std::string, std::string> columns;  ///< of a table: theirs → asset, tags, start, end, kind …
    bool addKinds = false;  ///< kinds that are in neither come into the book, as the file describes them
    std::set<std::string> newKinds;  ///< of theirs: these alone come into the book
    std::string by;                  ///< who made labels that do not say so; whoever imports where empty
    std::string timeFormat;          ///< of a table's times (source/time_reader.h); found out where empty
};

/// What a file holds, before anything of it is taken.
struct LabelFileLook {
    std::vector<std::string> columns;          ///< of a table, as written; none of JSON
    std::map<std::string, std::size_t> kinds;  ///< as written, with how many labels say so
    std::size_t labels = 0;
};
/// Fails where nothing of the text can be read. Columns are not asked to be there.
Result<LabelFileLook> lookAtLabels(std::string_view text, const std::map<std::string, std::string>& columns);

/// A label of the file that was not taken.
struct AsideLabel {
    std::int64_t line = 0;  ///< of a table; else the place in the array, from 1
    std::string why;
    std::string text;  ///< the row, or the label as JSON
};
struct LabelImport {
    std::size_t added = 0;
    std::size_t known = 0;              ///< the same label stood there already
    std::vector<std::string> newKinds;  ///< that came into the book
    std::vector<AsideLabel> aside;      ///< in the order of the file
};
/// Reads what the two functions above write, in UTF-8, UTF-16 or Latin-1, and tables with other names
/// (`spec.columns`): the labels that can be used come in as one undoable step. Kept aside, with the reason:
/// an unknown asset, tag or kind, times that cannot be read, an end that is not after the start, no part
/// within the record, a certainty that is none, and a label that overlaps another of the same kind, asset,
/// tags and author, on record or earlier in the file. Fails where nothing of the text can be read.
Result<LabelImport> importLabels(Study& study, std::string_view text, const LabelImportSpec& spec);

}  // namespace jacinth
