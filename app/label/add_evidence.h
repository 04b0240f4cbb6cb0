// Asks for evidence to be added: a folder of frames, a video or a picture, and when it was taken.
#pragma once

#include "app/base/session.h"
#include "core/label/evidence.h"

namespace jacinth::app {

/// None where nothing is chosen, or where it cannot be shown; why is said then.
std::optional<EvidenceSource> askForEvidence(QWidget* parent, Session& session, EvidenceKind kind);

}  // namespace jacinth::app
