// How far a stretch of a tag may be believed, and how far the work on it got: two scales of the site's own,
// painted on stretches, and trust that follows from fixes.
#pragma once

#include <map>
#include <span>
#include <string>
#include <vector>

#include "core/mend/fix.h"

namespace jacinth {

/// What a stretch without any grade is called. Not a grade of either scale.
inline constexpr const char* kNotJudged = "not judged";

/// The two scales of a site and its rules.
struct TrustSettings {
    std::vector<std::string> trust{"sound", "fair", "doubtful", "unusable"};  ///< best first
    std::vector<std::string> signOff{"draft", "checked", "signed"};           ///< the last one ends the work
    /// With only sound data, grades after this one are missing. What is not judged counts.
    std::string soundDownTo = "fair";
    std::map<std::string, std::vector<std::string>>
        who;  ///< who may set a grade; everyone where none is named
    // The grade that a fix gives to its stretch; empty for none.
    std::string filled = "fair";      ///< bridge, borrow, decay
    std::string hidden = "unusable";  ///< hide, cut
    std::string corrected = "fair";   ///< shift, ramp, bend, curve, clock
    bool ownFixes = false;            ///< one may sign what one fixed
    bool operator==(const TrustSettings&) const = default;

    bool isTrust(const std::string& grade) const;
    bool isSignOff(const std::string& grade) const;
    /// Left out with only sound data.
    bool isUnsound(const std::string& grade) const;
    bool maySet(const std::string& grade, const std::string& person) const;
};

/// Grades must be there, not be called “not judged”, and differ; rules and soundDownTo must be grades of
/// trust.
Status validateTrustSettings(const TrustSettings& settings);

/// A grade that somebody gave to a stretch: [range.from, range.to).
struct TrustMark {
    TimeRange range{};
    std::string grade;
    bool signOff = false;  ///< of the second scale
    std::string who, why;
    Instant set{};
};

/// A stretch with one grade, and what it comes from: who painted it, or which kind of fix.
struct GradedStretch {
    TimeRange range{};
    std::string grade, from;
    bool operator==(const GradedStretch&) const = default;
};

/// Trust over a range, by time: a mark goes before what the fixes that are on say, and of these the worst
/// counts. Stretches that nobody judged and no fix touches are left out.
std::vector<GradedStretch> trustOver(const TrustSettings& settings, std::span<const TrustMark> marks,
                                     std::span<const Fix> fixes, TimeRange range);

/// Sign-off over a range, by time. A fix that was entered after a mark and acts in it takes it back to the
/// first grade there.
std::vector<GradedStretch> signOffOver(const TrustSettings& settings, std::span<const TrustMark> marks,
                                       std::span<const Fix> fixes, TimeRange range);

}  // namespace jacinth
