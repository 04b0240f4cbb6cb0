// jacinth-cli: the same core without a window.
#include <fmt/format.h>
#include <poll.h>
#include <unistd.h>

#include <chrono>
#include <cmath>
#include <csignal>
#include <cstdio>
#include <iostream>

#include "cli/command.h"
#include "core/base/allocation.h"
#include "core/base/parse_json.h"
#include "store/tracks.h"
#include "work/base/log.h"

namespace jacinth::cli {

TimeRange Common::range(const Study& s) const {
    TimeRange out = s.record();
    if (!from.empty()) out.from = orRefuse(fromIso(from));
    if (!to.empty()) out.to = orRefuse(fromIso(to));
    if (out.to < out.from) throw Refusal{"--to lies before --from"};
    return out;
}

void Common::keepInWindow(const Study& s, std::vector<Span>& spans) const {
    const TimeRange window = range(s);
    const Asset* only = asset.empty() ? nullptr : s.catalog().assetNamed(asset);
    std::erase_if(spans, [&](const Span& span) {
        return (only && span.asset != only->id) ||
               (hasWindow() && (span.end < window.from || span.start >= window.to));
    });
}

LimitSet limitsOrRefuse(const Study& study, const std::string& name, int version) {
    return orRefuse(study.judgement().limitSetCalled(name, version));
}

Track trackOrRefuse(const Study& study, const std::string& name) {
    if (const auto track = study.tracks().named(name)) return *track;
    std::vector<std::string> known;
    for (const Track& t : study.tracks().all()) known.push_back(t.name);
    throw Refusal{fmt::format("`{}` is not a track; the study has {}{}", name,
                              known.empty() ? "none yet" : fmt::format("{}", fmt::join(known, ", ")),
                              sayNearest(name, known))};
}

std::shared_ptr<Common> addCommon(CLI::App& command, Offers offers) {
    auto common = std::make_shared<Common>();
    auto* study = command.add_option("study", common->study, "The study file");
    if (!offers.studyOptional) study->required();
    command.add_flag("--json", common->asJson, "One JSON document on standard output");
    if (offers.window) {
        command.add_option("--from", common->from, "First moment, ISO 8601 with zone or Z");
        command.add_option("--to", common->to, "Moment after the last, ISO 8601 with zone or Z");
    }
    if (offers.asset) command.add_option("--asset", common->asset, "Only this asset");
    if (offers.asLogged) command.add_flag("--as-logged", common->asLogged, "Without fixes");
    return common;
}

void addDuration(CLI::App& command, const std::string& name, Duration& target, const std::string& help) {
    command.add_option_function<std::string>(
        name,
        [&target](const std::string& text) {
            const auto d = parseDuration(text);
            if (!d) throw CLI::ValidationError(d.error().message);
            target = *d;
        },
        help);
}

Progress progressOnStderr(const std::string& what) {
    if (!::isatty(2)) return {};
    // What is done within a second needs no words.
    using Clock = std::chrono::steady_clock;
    return [what, begun = Clock::now(), shown = std::make_shared<bool>(false)](double share) {
        *shown = *shown || Clock::now() - begun > std::chrono::seconds(1);
        if (*shown)
            std::fprintf(stderr, "\r%s %3.0f %%%s", what.c_str(), share * 100, share >= 1 ? "\n" : "");
        return true;
    };
}

std::string stateName(const Tag& tag, double v) {
    if (v >= 0 && v < static_cast<double>(tag.states.size())) return tag.states[static_cast<std::size_t>(v)];
    return fmt::format("(state {} is lost)", v);
}

std::string valueText(const Tag& tag, double v) {
    if (!std::isfinite(v)) return "";
    return tag.kind == TagKind::State ? csvField(stateName(tag, v)) : fmt::format("{}", v);
}

std::string figure(double v) {
    return std::isfinite(v) ? fmt::format("{}", v) : "";
}

void printJson(const json& document) {
    std::cout << document.dump(2, ' ', false, json::error_handler_t::replace) << "\n";
}

json rangeJson(TimeRange range) {
    return {{"start", toIso(range.from)}, {"end", toIso(range.to)}};
}

json factsJson(const Facts& facts) {
    return parseJson(factsToJson(facts));
}

}  // namespace jacinth::cli

namespace {

void logStart(bool verbose, int argc, char** argv) {
    jacinth::startLog("jacinth-cli", verbose);
    std::string command;
    for (int i = 1; i < argc; ++i) command += std::string(i > 1 ? " " : "") + argv[i];
    jacinth::log(jacinth::LogLevel::Info, command);
}

}  // namespace

int main(int argc, char** argv) {
    jacinth::keepFreedMemory();
    std::ios::sync_with_stdio(false);
    // A reader that goes away is an error like a full disk: said, exit 1.
    std::signal(SIGPIPE, SIG_IGN);
    CLI::App app{
        "Jacinth without a window: the record, runs, golden limits, fixes, labels and rules of a study.",
        "jacinth-cli"};
    app.require_subcommand(1);
    app.fallthrough();
    app.set_help_all_flag("--help-all", "Help for every command");
    bool verbose = false;
    app.add_flag("--verbose", verbose, "Write the log to standard error as well");
    const auto begun = std::chrono::steady_clock::now();
    // Before the command runs: its options are read by then.
    app.parse_complete_callback([&] { logStart(verbose, argc, argv); });
    jacinth::cli::addRecordCommands(app);
    jacinth::cli::addTagCommands(app);
    jacinth::cli::addImportCommands(app);
    jacinth::cli::addSurveyCommands(app);
    jacinth::cli::addRunCommands(app);
    jacinth::cli::addLabelCommands(app);
    jacinth::cli::addEvidenceCommands(app);
    jacinth::cli::addFixCommands(app);
    jacinth::cli::addStepCommands(app);
    jacinth::cli::addSpikeCommands(app);
    jacinth::cli::addCauseCommands(app);
    jacinth::cli::addTrustCommands(app);
    jacinth::cli::addRelationCommands(app);
    jacinth::cli::addJudgementCommands(app);
    jacinth::cli::addRuleCommands(app);
    jacinth::cli::addSearchCommands(app);
    jacinth::cli::addHistoryCommands(app);
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        const int code = app.exit(e, std::cout, std::cerr);
        return code == 0 ? 0 : 2;
    } catch (const jacinth::cli::Refusal& e) {
        std::cerr << "jacinth-cli: " << e.message << "\n";
        jacinth::log(jacinth::LogLevel::Warning, e.message);
        return 1;
    } catch (const std::exception& e) {
        std::cerr << "jacinth-cli: " << e.what() << "\n";
        jacinth::log(jacinth::LogLevel::Error, e.what());
        return 1;
    }
    jacinth::log(jacinth::LogLevel::Debug,
                 fmt::format("done in {} ms", std::chrono::duration_cast<std::chrono::milliseconds>(
                                                  std::chrono::steady_clock::now() - begun)
                                                  .count()));
    std::cout.flush();
    if (std::cout && std::fflush(stdout) == 0) return 0;
    // Whoever read has read enough, as `head` does: that is not an error.
    pollfd out{STDOUT_FILENO, POLLOUT, 0};
    if (::poll(&out, 1, 0) == 1 && (out.revents & POLLERR)) return 0;
    std::cerr << "jacinth-cli: standard output cannot be written\n";
    return 1;
}
