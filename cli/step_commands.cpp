// steps
#include "cli/step_commands.h"

#include <fmt/format.h>

#include "core/steps/suspected_steps.h"
#include "work/mend/step_search.h"
#include "work/mend/take_out_step.h"

namespace jacinth::cli {
namespace {

struct StepOptions {
    std::vector<std::string> tags;
    double least = 0;
    bool driftEnds = false;
    std::optional<std::size_t> process, leave, forget;
    std::string why;
};

/// All steps of the record, and their numbers: those of the list without ends of drifts, from 1.
struct NumberedSteps {
    std::vector<SuspectedStep> steps;
    std::vector<std::optional<JudgedStep>> verdicts;
    std::vector<std::size_t> numbers;  ///< 0: an end of a drift has none

    std::size_t place(std::size_t number) const {
        const auto at = std::find(numbers.begin(), numbers.end(), number);
        if (number == 0 || at == numbers.end())
            throw Refusal{fmt::format("step {} is not in the list; `steps` numbers them", number)};
        return static_cast<std::size_t>(at - numbers.begin());
    }
};

NumberedSteps numberedSteps(Study& study) {
    NumberedSteps out;
    out.steps = orRefuse(findSteps(study, {}, progressOnStderr("Looking for steps"))).steps;
    out.verdicts = verdictsOn(study, out.steps);
    std::size_t number = 0;
    for (const SuspectedStep& s : out.steps)
        out.numbers.push_back(s.kind == StepKind::DriftEnd ? 0 : ++number);
    return out;
}

json pathsJson(const Study& study, const std::vector<TagId>& tags) {
    json out = json::array();
    for (const TagId id : tags)
        if (const Tag* tag = study.catalog().tag(id)) out.push_back(tag->path());
    return out;
}

json verdictJson(const std::optional<JudgedStep>& judged) {
    if (!judged) return {};
    return {{"verdict", judged->verdict == StepVerdict::Process ? "process" : "leave"},
            {"why", judged->why},
            {"who", judged->who}};
}

json stepJson(const Study& study, const NumberedSteps& all, std::size_t i) {
    const SuspectedStep& s = all.steps[i];
    const Tag* twin = s.twin ? study.catalog().tag(s.twin) : nullptr;
    return {{"number", all.numbers[i] ? json(all.numbers[i]) : json()},
            {"tag", study.catalog().tag(s.tag)->path()},
            {"kind", stepKindName(s.kind)},
            {"time", toIso(s.time)},
            {"timeLow", toIso(s.between.from)},
            {"timeHigh", toIso(s.between.to)},
            {"size", s.size},
            {"sizeLow", s.low()},
            {"sizeHigh", s.high()},
            {"significance", s.significance()},
            {"returns", s.returns ? json(toIso(*s.returns)) : json()},
            {"lonely", s.kind == StepKind::Lonely},
            {"moved", pathsJson(study, s.moved)},
            {"sharedWith", pathsJson(study, s.sharedWith)},
            {"twin", twin ? json(twin->path()) : json()},
            {"companions", pathsJson(study, s.companions)},
            {"dismissed", verdictJson(all.verdicts[i])},
            {"why", stepSentence(study, s)}};
}

void printStep(const Study& study, const NumberedSteps& all, std::size_t i) {
    const SuspectedStep& s = all.steps[i];
    const auto& judged = all.verdicts[i];
    fmt::print("{:>3}  {}  {}{}\n", all.numbers[i] ? std::to_string(all.numbers[i]) : "",
               study.zone().text(s.time), stepSentence(study, s),
               judged ? fmt::format(" Judged by {}: {}", judged->who, judged->why) : "");
}

/// What of the list was asked for.
std::vector<std::size_t> chosen(const Study& study, const NumberedSteps& all, const Common& common,
                                const StepOptions& options) {
    std::vector<TagId> tags;
    for (const std::string& path : options.tags) tags.push_back(orRefuse(study.catalog().tagAt(path)).id);
    const Asset* asset = common.asset.empty() ? nullptr : study.catalog().assetNamed(common.asset);
    if (!common.asset.empty() && !asset)
        throw Refusal{fmt::format("`{}` is not an asset of this study", common.asset)};
    const TimeRange range = common.range(study);
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < all.steps.size(); ++i) {
        const SuspectedStep& s = all.steps[i];
        if (!tags.empty() && std::find(tags.begin(), tags.end(), s.tag) == tags.end()) continue;
        if (asset && study.catalog().tag(s.tag)->asset != asset->id) continue;
        if (common.hasWindow() && (s.returns.value_or(s.time) < range.from || s.time >= range.to)) continue;
        if (std::abs(s.size) < options.least) continue;
        if (s.kind == StepKind::DriftEnd && !options.driftEnds) continue;
        out.push_back(i);
    }
    return out;
}

void judge(const Common& common, const StepOptions& o) {
    const auto study = common.open(false);
    const NumberedSteps all = numberedSteps(*study);
    const auto done = [](const Status& status) {
        if (!status) throw Refusal{status.error().message};
    };
    const std::size_t number = o.forget ? *o.forget : o.process ? *o.process : *o.leave;
    const SuspectedStep& step = all.steps[all.place(number)];
    if (o.forget)
        done(forgetVerdict(*study, step));
    else
        done(judgeStep(*study, step, o.process ? StepVerdict::Process : StepVerdict::Leave, o.why));
    fmt::print("step {} of {}: {}\n", number, study->catalog().tag(step.tag)->path(),
               o.forget    ? "the verdict is forgotten"
               : o.process ? "it is the process"
                           : "left as it is");
}

void list(const Common& common, const StepOptions& options) {
    const auto study = common.open();
    const NumberedSteps all = numberedSteps(*study);
    const auto shown = chosen(*study, all, common, options);
    if (common.asJson) {
        json out = json::array();
        for (const std::size_t i : shown) out.push_back(stepJson(*study, all, i));
        return printJson(out);
    }
    for (const std::size_t i : shown) printStep(*study, all, i);
    if (shown.empty()) fmt::print("no suspected steps\n");
}

}  // namespace

std::vector<Fix> fixesOfStep(Study& study, std::size_t number, bool alone) {
    const NumberedSteps all = numberedSteps(study);
    const std::size_t place = all.place(number);
    std::vector<Fix> out;
    for (const std::size_t i : alone ? std::vector{place} : mountMates(all.steps, place))
        out.push_back(fixOfStep(study, all.steps[i], all.steps));
    return out;
}

void addStepCommands(CLI::App& app) {
    auto* command =
        app.add_subcommand("steps", "Suspected false steps of sensors, numbered for `fix add --step`");
    const auto common = addCommon(*command, {.window = true, .asset = true});
    const auto o = std::make_shared<StepOptions>();
    command->add_option("--tag", o->tags, "Asset/Tag, one or several");
    command->add_option("--least", o->least, "Leave smaller steps out, in the tag's unit");
    command->add_flag("--drift-ends", o->driftEnds,
                      "With steps that take back a drift: calibrations, exchanges");
    auto* process =
        command->add_option("--process", o->process, "Remember that step N is the process; with --why");
    auto* leave = command->add_option("--leave", o->leave, "Remember to leave step N as it is; with --why");
    auto* forget = command->add_option("--forget", o->forget, "Forget what was judged about step N");
    command->add_option("--why", o->why, "Why");
    process->excludes(leave)->excludes(forget);
    leave->excludes(forget);
    command->callback([common, o] {
        if (o->process || o->leave || o->forget)
            judge(*common, *o);
        else
            list(*common, *o);
    });
}

}  // namespace jacinth::cli
