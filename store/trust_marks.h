// Trust and sign-off as they are in the study: the site's scales, and what was painted on tags.
#pragma once

#include "core/mend/trust.h"
#include "store/study.h"

namespace jacinth {

/// Name of the track that holds the marks; its kind is track_kind::kTrust.
inline constexpr const char* kTrustTrack = "Trust";

/// The site's; the usual ones where the study says nothing, or nothing that can be read.
TrustSettings trustSettingsOf(const Study& study);
/// As JSON, as it is kept. Not a step that can be undone; see work/mend/trust.
std::string trustSettingsText(const TrustSettings& settings);
void keepTrustSettings(Study& study, const TrustSettings& settings);

/// A mark as a span and back.
Span spanOfMark(const TrustMark& mark, AssetId asset, TagId tag);
TrustMark markOfSpan(const Span& span);

/// Trust and sign-off of a tag; as logged no fix counts.
std::vector<GradedStretch> trustOf(const Study& study, TagId tag, TimeRange range, Which which);
std::vector<GradedStretch> signOffOf(const Study& study, TagId tag, TimeRange range);

}  // namespace jacinth
