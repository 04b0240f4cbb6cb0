// Trust and sign-off painted on stretches of tags, each as one undoable step; the site's scales.
#pragma once

#include "store/trust_marks.h"

namespace jacinth {

/// What is painted on a stretch: either grade, or both. “not judged” takes a grade back.
struct TrustPaint {
    std::string trust, signOff;  ///< empty: as it is
    std::string why;
};

/// Paints [from, to) of these tags, as one step; marks that were there are cut to what is left of them. Fails
/// on a stretch without length, on a grade that the site does not have (with the nearest), where this person
/// may not set it, and for the last grade of sign-off where this person fixed something in the stretch and
/// the site does not allow that.
Status paintTrust(Study& study, const std::vector<TagId>& tags, TimeRange range, const TrustPaint& paint);

/// Keeps the site's scales and rules, entered in the ledger; marks of a grade that is gone stay and count as
/// not judged. Fails where they make no sense.
Status setTrustSettings(Study& study, const TrustSettings& settings);

}  // namespace jacinth
