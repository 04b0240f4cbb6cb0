// What tags are, set by the engineer: one undoable step for the window and the command line alike.
#pragma once

#include "store/study.h"

namespace jacinth {

/// What is to change; what is absent stays.
struct TagSettings {
    std::optional<std::string> role, unit;
    std::optional<TagKind> kind;
    std::optional<std::optional<Duration>> longestGap;  ///< none inside: ten median spacings
    std::vector<std::string> states;  ///< declared, so that rules can name them before they occur
};

/// Of all these tags alike. Fails, without effect, on a tag that is not there, on a role that no expression
/// can name or that another tag of the asset has or would get, on a longest gap that is not above 0, on a
/// kind that a derived tag cannot have, and on states of a tag that has none. Changing between numbers and
/// states converts the samples (store/tag_kind.h).
Status changeTags(Study& study, const std::vector<TagId>& tags, const TagSettings& settings);

/// Can an expression name it, as in `@bearing_vibration`? Letters, digits and `_`, no digit first.
Status checkRole(const std::string& role);

}  // namespace jacinth
