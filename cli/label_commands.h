// The parts of `label`.
#pragma once

#include "cli/command.h"

namespace jacinth::cli {

void addLabelKinds(CLI::App& label);     // kinds
void addLabelFiles(CLI::App& label);     // list, export, import, cut
void addLabelSearches(CLI::App& label);  // like, agree

}  // namespace jacinth::cli
