// What the commands of jacinth-cli share: opening a study, the options that work everywhere, output and exit
// codes.
#pragma once

#include <CLI/CLI.hpp>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>

#include "core/base/text.h"
#include "store/study.h"

namespace jacinth::cli {

using nlohmann::json;

/// Thrown when the study or the data says no: the message goes to standard error, the exit code is 1.
struct SaysNo {
    std::string message;
};

/// Takes the value out of a result or says no.
template <typename T>
T orSayNo(Result<T> result) {
    if (!result) throw SaysNo{result.error().message};
    return std::move(*result);
}

/// Options that work wherever they make sense.
struct Common {
    std::string study;
    bool asJson = false;
    std::string from, to, asset;
    bool asLogged = false;

    Which which() const { return asLogged ? Which::AsLogged : Which::Mended; }
    /// With every derived tag up to date: what is stale is worked out first, and said on standard error.
    std::unique_ptr<Study> open(bool readOnly = true) const;
    TimeRange range(const Study& study) const;  ///< --from to --to; the record where not given
};

/// Adds STUDY, --json and, where asked, the window and data options to a command.
struct Offers {
    bool window = false, asset = false, asLogged = false;
};
std::shared_ptr<Common> addCommon(CLI::App& command, Offers offers = {});

/// A duration option in the language's form (`20m`).
void addDuration(CLI::App& command, const std::string& name, Duration& target, const std::string& help);

void printJson(const json& document);
json rangeJson(TimeRange range);  ///< {start, end} in ISO with Z
json factsJson(const Facts& facts);

void addRecordCommands(CLI::App& app);     // demo, import, import-events, tag, tags, read, eval, check
void addDerivedCommands(CLI::App& tag);    // tag derive, derived, remove
void addImportCommands(CLI::App& app);     // imports
void addSurveyCommands(CLI::App& app);     // parts, peaks, by-state, fleet, cycles
void addRunCommands(CLI::App& app);        // runs, golden, limits, screen
void addJudgementCommands(CLI::App& app);  // fix, label, prove, report

}  // namespace jacinth::cli
