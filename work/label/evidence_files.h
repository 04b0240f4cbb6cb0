// Evidence of a study: where it is kept, its frames, and the offset of its clock; each change one undoable
// step.
#pragma once

#include <filesystem>

#include "core/label/clock_match.h"
#include "core/label/evidence.h"
#include "store/study.h"

namespace jacinth {

/// Where a source's folder or file lies: a relative path is from the folder of the study.
std::filesystem::path evidencePath(const Study& study, const EvidenceSource& source);
/// As it is kept: relative where it lies in the study's folder or below.
std::string evidencePathFor(const Study& study, const std::filesystem::path& path);

/// Pictures of the folder whose names tell a time, by time, read in the plant's zone. Fails where the folder
/// is not there or holds no such picture.
Result<std::vector<Frame>> framesOf(const Study& study, const EvidenceSource& source);

/// Adds or, with an id, changes a source. Fails on a name that another source has, and on one without a path.
Result<EvidenceId> keepEvidence(Study& study, const EvidenceSource& source);
Status removeEvidence(Study& study, EvidenceId id);
/// Says by how much the source's clock is off, and how that was found.
Status setEvidenceOffset(Study& study, EvidenceId id, Duration offset, const std::string& how);

}  // namespace jacinth
