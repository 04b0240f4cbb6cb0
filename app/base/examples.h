// Examples for empty fields, made from the tags of the study itself.
#pragma once

#include "app/base/session.h"

namespace jacinth::app {

/// States in which equipment rests, by the tag's fact `rest states` (separated by commas). They are drawn
/// faintly, and a run is what lies between them.
std::vector<std::string> restStatesOf(const Tag& tag);

/// A condition that would be true while a run lasts.
QString exampleCondition(const Session& session);

/// The role of a tag of numbers; of the asset in view where it has one. `temp` in a study without.
QString exampleRole(Session& session);

}  // namespace jacinth::app
