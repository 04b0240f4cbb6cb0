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

/// The folder that its frames are in.
std::filesystem::path evidenceFolder(const Study& study, const EvidenceSource& source);

/// Pictures of the folder whose names tell a time, by time, read in the plant's zone; of a single picture
/// that one. Fails where the folder or file is not there or holds no such picture, and for a video.
Result<std::vector<Frame>> framesOf(const Study& study, const EvidenceSource& source);

/// Is there what the source says, as far as it can be told without decoding it?
Status checkEvidence(const Study& study, const EvidenceSource& source);

/// That name, or with a number behind it where other evidence has it: “bearing”, “bearing 2”.
std::string freeEvidenceName(const Study& study, const std::string& wanted);

/// Adds or, with an id, changes a source. Fails on a name that another source has, and on one without a path.
Result<EvidenceId> keepEvidence(Study& study, const EvidenceSource& source);
Status removeEvidence(Study& study, EvidenceId id);
/// Says by how much the source's clock is off, and how that was found.
Status setEvidenceOffset(Study& study, EvidenceId id, Duration offset, const std::string& how);

}  // namespace jacinth
