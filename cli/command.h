// What the commands of jacinth-cli share: opening a study, the options that work everywhere, output and exit
// codes.
#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>

#include "core/base/progress.h"
#include "core/base/text.h"
#include "store/judgement.h"
#include "store/study.h"
#include "store/tracks.h"

namespace jacinth::cli {

using nlohmann::json;

/// Thrown when something cannot be done with this study or data: the message goes to standard error, the exit
/// code is 1.
struct Refusal {
    std::string message;
};

/// The value of a result; throws Refusal where there is none.
template <typename T>
T orRefuse(Result<T> result) {
    if (!result) throw Refusal{result.error().message};
    return std::move(*result);
}

/// Options that work wherever they make sense.
struct Common {
    std::string study;
    bool asJson = false;
    std::string from, to, asset;
    bool asLogged = false;

    Which which() const { return asLogged ? Which::AsLogged : Which::Mended; }
    /// With every derived tag up to date: what is stale is recalculated first, and reported on standard
    /// error.
    std::unique_ptr<Study> open(bool readOnly = true) const;
    TimeRange range(const Study& study) const;  ///< --from to --to; the record where not given
    bool hasWindow() const { return !from.empty() || !to.empty(); }
    /// Drops spans of other assets than --asset and outside of --from to --to.
    void keepInWindow(const Study& study, std::vector<Span>& spans) const;
};

/// Adds STUDY, --json and, where asked, the window and data options to a command.
struct Offers {
    bool window = false, asset = false, asLogged = false, studyOptional = false;
};
std::shared_ptr<Common> addCommon(CLI::App& command, Offers offers = {});

/// A duration option in the language's form (`20m`).
void addDuration(CLI::App& command, const std::string& name, Duration& target, const std::string& help);

/// Says how far something is on a terminal; nothing where standard error is none.
Progress progressOnStderr(const std::string& what);

/// The track of that name; fails with the names there are, and the nearest.
Track trackOrRefuse(const Study& study, const std::string& name);
/// The limits of that name, newest or a certain version; fails with the nearest name.
LimitSet limitsOrRefuse(const Study& study, const std::string& name, int version = 0);

void printJson(const json& document);
std::string stateName(const Tag& tag, double v);
/// A field of CSV: the state's name, the number, or nothing.
std::string valueText(const Tag& tag, double v);
std::string figure(double v);     ///< the number, or nothing for what is none
json rangeJson(TimeRange range);  ///< {start, end} in ISO with Z
json factsJson(const Facts& facts);

void addRecordCommands(CLI::App& app);     // demo, read, eval, check
void addTagCommands(CLI::App& app);        // tags, tag set
void addDerivedCommands(CLI::App& tag);    // tag derive, derived, remove
void addImportCommands(CLI::App& app);     // import, import-events, imports
void addSurveyCommands(CLI::App& app);     // parts, peaks, by-state, fleet, cycles
void addRunCommands(CLI::App& app);        // runs, golden, limits, screen
void addHistoryCommands(CLI::App& app);    // ledger, undo, redo, fact
void addLabelCommands(CLI::App& app);      // label
void addEvidenceCommands(CLI::App& app);   // evidence
void addFixCommands(CLI::App& app);        // fix
void addStepCommands(CLI::App& app);       // steps
void addSpikeCommands(CLI::App& app);      // spikes, stuck
void addCauseCommands(CLI::App& app);      // causes
void addRelationCommands(CLI::App& app);   // relation
void addTrustCommands(CLI::App& app);      // trust
void addJudgementCommands(CLI::App& app);  // prove, compare, report
void addSearchCommands(CLI::App& app);     // search
void addRuleCommands(CLI::App& app);       // rule

}  // namespace jacinth::cli
