// A rule proved against the failures of a study.
#pragma once

#include "core/base/progress.h"
#include "core/prove/settings.h"
#include "store/judgement.h"
#include "work/base/study_inputs.h"

namespace jacinth {

class KeptFigures;

struct ProveRequest {
    std::string rule;
    ProveSpec spec;
    std::string failures;  ///< a kind of failure (its fact `kind`), or a track of them; all where empty
    /// Tracks whose time does not count, and conditions that are true where it does not; every track of stops
    /// where empty.
    std::vector<std::string> masks;
    std::string asset;  ///< only this one; empty for all
    Which which = Which::Mended;
    Settings settings = {};  ///< the numbers of its {settings}
    bool operator==(const ProveRequest&) const = default;
};

/// Fails where the rule has an error, gives no condition, or a track is not there. After a failure, time does
/// not count until the end of a stop that begins within an hour of it. Can be stopped.
/// With `kept`, what the last proof worked out is used again.
Result<Proof> proveRule(Study& study, const ProveRequest& request, const Progress& progress = {},
                        KeptFigures* kept = nullptr);

/// The assets that a rule is asked about: of the kinds of asset that have such failures, so that a kiln is
/// among them even if it never failed.
std::vector<AssetId> assetsWithFailures(const Study& study, const std::string& kindOrTrack);

/// A rule's text, its settings filled in, for the assets that it can be proved on. See FleetNames for a text
/// that names no tag of theirs.
Result<FleetExpression> compileRule(const Study& study, const std::string& text, const std::string& failures,
                                    const std::string& onlyAsset = {});

/// Why a rule is about none of these assets; empty where it is about one, or nothing failed.
std::string whyNoneIsAboutFailures(const Study& study, const FleetExpression& fleet,
                                   const std::string& kindOrTrack);

/// Fails where it gives something else, with what it gives.
Status checkIsCondition(const Expression& expression);

/// Fails on a text that is neither a track nor a condition of this study.
Status checkMask(const Study& study, const std::string& mask);

/// What proving needs of each asset but the alarms, and what it cannot test.
struct ProveCases {
    std::vector<AssetCase>
        assets;  ///< as `fleet.byAsset`; `covered` is of the rule's tags once it is evaluated
    std::vector<UncoveredFailure> uncovered;
};
/// For a rule that is compiled already.
Result<ProveCases> casesFor(Study& study, const ProveRequest& request, const FleetExpression& fleet,
                            const Progress& progress = {});

/// Failures that are asked for, by time: those that are not counted (see kCounted) among them.
Result<std::vector<Span>> failuresOf(const Study& study, const std::string& kindOrTrack);
/// Kinds of failure on record, by name.
std::vector<std::string> failureKinds(const Study& study);
inline constexpr const char* kFailureKind = "kind";  ///< facts of a failure
inline constexpr const char* kFailureNote = "note";
/// A failure whose fact of this name is `no` is in no score; `not counted because` says why.
inline constexpr const char* kCounted = "counted";
inline constexpr const char* kNotCountedWhy = "not counted because";
bool isCounted(const Span& failure);

/// What somebody who looked at an alarm says about it, as kinds of label over it. The first two change what
/// it counts as, the others say why it was false.
inline constexpr const char* kTrueAfterAll = "true after all";
inline constexpr const char* kNearMiss = "near miss";
inline constexpr const char* kFalseByProcess = "false alarm: process";
inline constexpr const char* kFalseBySensor = "false alarm: sensor";
inline constexpr std::array<const char*, 4> kAlarmKinds{kTrueAfterAll, kNearMiss, kFalseByProcess,
                                                        kFalseBySensor};

/// How long before a failure its first alarm began: `20 h`, or `at least 48 h` where the detection window
/// ends there.
std::string warningWords(Duration warning, Duration most);

}  // namespace jacinth
