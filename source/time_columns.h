// Which columns of a table hold its times: one, a date and a time of day, or the parts of a date.
#pragma once

#include "source/text_layout.h"

namespace jacinth {

/// The column of a header, whatever the case of its letters; −1 for none.
int indexOf(const std::vector<std::string>& header, std::string_view name);
/// What stands in a column of the rows that were looked at, where anything does.
std::vector<std::string_view> cellsOfColumn(const TextHead& head, int column);
TimeFormEvidence evidenceOf(const TextHead& head, int column);

/// Fills timeColumn, clockColumn and dateParts: as `hints` says, by the names of the columns, or by what they
/// hold. Fails where there is none, and names the field that says it.
Status findTimeColumns(const std::string& file, const TextHead& head, const LayoutHints& hints,
                       TextLayout& layout);
/// A column called year that holds nothing else.
bool isYearAlone(const TextHead& head, int column);

}  // namespace jacinth
