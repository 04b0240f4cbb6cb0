// fix add, list, edit, on, off, up, down, remove
#include <fmt/format.h>

#include <iostream>

#include "cli/command.h"
#include "cli/spike_commands.h"
#include "cli/step_commands.h"
#include "store/fix_body.h"
#include "store/judgement.h"
#include "work/mend/fit_words.h"
#include "work/mend/hide_spikes.h"
#include "work/mend/mending.h"

namespace jacinth::cli {
namespace {

json orNull(double v) {
    return std::isfinite(v) ? json(v) : json();
}

/// What the kind says of itself, with times in ISO and lengths in seconds.
json bodyJson(const Study& study, const Fix& f) {
    json j = fixBodyToJson(f.body);
    if (const auto* bend = std::get_if<BendFix>(&f.body)) {
        j["knots"] = json::array();
        for (const auto& k : bend->knots) j["knots"].push_back({{"time", toIso(k.time)}, {"by", k.by}});
    } else if (const auto* curve = std::get_if<CurveFix>(&f.body)) {
        j["calibrations"] = json::array();
        for (const auto& c : curve->calibrations) {
            json points = json::array();
            for (const auto& p : c.points) points.push_back({{"at", p.at}, {"by", p.by}});
            j["calibrations"].push_back({{"time", toIso(c.time)}, {"points", points}});
        }
    } else if (const auto* hide = std::get_if<HideFix>(&f.body)) {
        j["parts"] = json::array();
        for (const TimeRange& p : hide->parts)
            j["parts"].push_back({{"from", toIso(p.from)}, {"to", toIso(p.to)}});
    } else if (const auto* clock = std::get_if<ClockFix>(&f.body)) {
        j["by"] = toSeconds(clock->by);
    } else if (const auto* borrow = std::get_if<BorrowFix>(&f.body)) {
        const Tag* twin = study.catalog().tag(borrow->twin);
        j["twin"] = twin ? json(twin->path()) : json();
    }
    for (const char* length : {"longest", "margin", "tau"})
        if (j.contains(length)) j[length] = toSeconds(Duration(j[length].get<std::int64_t>()));
    return j;
}

json fixJson(const Study& study, const Fix& f) {
    const Tag* tag = study.catalog().tag(f.tag);
    json j = bodyJson(study, f);
    j.update({{"id", f.id},
              {"tag", tag ? tag->path() : ""},
              {"kind", fixKindName(f.kind())},
              {"from", toIso(f.from)},
              {"to", toIso(f.to)},
              {"amount", fixAmount(study, f)},
              {"on", f.on},
              {"why", f.why},
              {"who", f.who},
              {"entered", toIso(f.entered)}});
    return j;
}

json figuresJson(Study& study, const Fix& fix) {
    const FixFigures f = figuresOf(study, fix);
    const auto pair = [](double before, double after) {
        return json{{"before", orNull(before)}, {"after", orNull(after)}};
    };
    return {{"start", pair(f.startBefore, f.startAfter)},
            {"end", pair(f.endBefore, f.endAfter)},
            {"mean", pair(f.meanBefore, f.meanAfter)},
            {"changed", f.changed},
            {"filled", f.filled},
            {"hidden", f.hidden},
            {"gone", f.gone}};
}

/// What is said about a fix on the command line; nothing where an option is not given.
struct FixOptions {
    std::vector<std::string> tags;
    std::string kind;
    std::optional<std::string> why, by, way, twin;
    std::optional<double> reads, startBy, endBy;
    std::optional<std::string> knots;
    std::vector<std::string> at, points;
    std::optional<std::string> longest, margin, tau;
    std::optional<bool> over;
    bool fit = false, fixedStart = false, leaveOut = false;
    bool spikes = false;
    SpikeOptions spike;
};

/// The options of every kind; whether they belong to this one is asked by checkOptions.
void addBodyOptions(CLI::App& command, FixOptions& o) {
    command.add_option("--by", o.by, "shift: by this much; clock: by this time, like -1h");
    command.add_option("--reads", o.reads, "shift: what the start must read");
    command.add_option("--start-by", o.startBy, "ramp: change at the start");
    command.add_option("--end-by", o.endBy, "ramp: change at the end");
    command.add_flag("--fit-readings", o.fit, "ramp, bend: by the check readings in the stretch");
    command.add_flag("--fixed-start", o.fixedStart, "with --fit-readings: the start keeps --start-by");
    command.add_flag("--leave-out-outlying", o.leaveOut,
                     "with --fit-readings: without readings that do not go with the others");
    command.add_option("--knots", o.knots, "bend: time=change, separated by commas");
    command.add_option("--at", o.at, "curve: time of a calibration, before its --points");
    command.add_option("--points", o.points, "curve: value:change, separated by commas; once for each --at");
    command.add_option("--way", o.way, "bridge: hold, line, cubic or spline");
    command.add_option("--longest", o.longest, "bridge: the longest gap to fill, like 6h");
    command.add_option("--twin", o.twin, "borrow: Asset/Tag of the twin");
    command.add_option("--margin", o.margin, "borrow, decay: how much on both sides is compared");
    command.add_option("--tau", o.tau,
                       "decay: time constant; fitted to what is before where it is not given");
    command.add_flag_function(
        "--over,!--gaps-alone", [&o](std::int64_t times) { o.over = times > 0; },
        "bridge, borrow, decay: in place of what is there, not in gaps alone");
}

/// Refuses options that the kind does not use.
void checkOptions(const FixOptions& o, FixKind kind) {
    const auto only = [&](bool given, const char* option, std::initializer_list<FixKind> kinds) {
        if (given && std::find(kinds.begin(), kinds.end(), kind) == kinds.end())
            throw CLI::ValidationError(fmt::format("{} is not used by a {}", option, fixKindName(kind)));
    };
    using enum FixKind;
    only(o.by.has_value(), "--by", {Shift, Clock});
    only(o.reads.has_value(), "--reads", {Shift});
    only(o.startBy.has_value(), "--start-by", {Ramp});
    only(o.endBy.has_value(), "--end-by", {Ramp});
    only(o.fit, "--fit-readings", {Ramp, Bend});
    only(o.fixedStart, "--fixed-start", {Ramp});
    only(o.knots.has_value(), "--knots", {Bend});
    only(!o.at.empty() || !o.points.empty(), "--at", {Curve});
    only(o.way.has_value(), "--way", {Bridge});
    only(o.longest.has_value(), "--longest", {Bridge});
    only(o.twin.has_value(), "--twin", {Borrow});
    only(o.margin.has_value(), "--margin", {Borrow, Decay});
    only(o.tau.has_value(), "--tau", {Decay});
    only(o.spikes || o.spike.given(), "--spikes", {Hide});
    if (o.spike.given() && !o.spikes) throw CLI::RequiredError("--spikes");
    only(o.over.has_value(), "--over", {Bridge, Borrow, Decay});
}

double numberOf(const std::string& text) {
    const auto v = finiteNumber(text);
    if (!v) throw CLI::ValidationError(fmt::format("`{}` is not a number", text));
    return *v;
}

/// With a sign, as clocks are moved back as well.
Duration signedDuration(const std::string& text) {
    const bool minus = text.starts_with('-') || text.starts_with("−");
    const std::string rest = text.substr(text.starts_with('-') || text.starts_with('+') ? 1
                                         : text.starts_with("−")                        ? 3
                                                                                        : 0);
    const auto d = parseDuration(rest);
    if (!d) throw CLI::ValidationError(d.error().message);
    return minus ? -*d : *d;
}

Duration lengthOf(const std::string& text) {
    const auto d = parseDuration(text);
    if (!d) throw CLI::ValidationError(d.error().message);
    return *d;
}

/// `a=1,b=2` to its pairs.
std::vector<std::pair<std::string, double>> pairsOf(const std::string& text, char between) {
    std::vector<std::pair<std::string, double>> out;
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t end = std::min(text.find(',', at), text.size());
        const std::string part(trimmed(std::string_view(text).substr(at, end - at)));
        const std::size_t cut = part.rfind(between);
        if (cut == std::string::npos)
            throw CLI::ValidationError(fmt::format("`{}` is not a pair with `{}` between", part, between));
        out.emplace_back(part.substr(0, cut), numberOf(part.substr(cut + 1)));
        at = end + 1;
    }
    return out;
}

CurveFix curveOf(const FixOptions& o) {
    if (o.at.size() != o.points.size()) throw CLI::ValidationError("a curve has one --points for each --at");
    CurveFix curve;
    for (std::size_t i = 0; i < o.at.size(); ++i) {
        CurveFix::Calibration c{orRefuse(fromIso(o.at[i])), {}};
        for (const auto& [at, by] : pairsOf(o.points[i], ':')) c.points.push_back({numberOf(at), by});
        std::sort(c.points.begin(), c.points.end(), [](const auto& a, const auto& b) { return a.at < b.at; });
        curve.calibrations.push_back(std::move(c));
    }
    std::sort(curve.calibrations.begin(), curve.calibrations.end(),
              [](const auto& a, const auto& b) { return a.time < b.time; });
    return curve;
}

json numberOrNull(double v) {
    return std::isfinite(v) ? json(v) : json();
}

json recalibrationsJson(const Study& study, const Fix& fix) {
    json out = json::array();
    for (const Recalibration& r : recalibrationsIn(study, fix))
        out.push_back({{"time", toIso(r.time)}, {"words", r.words}});
    return out;
}

std::string fitWords(const Study& study, const Fix& fix, const std::string& sure) {
    const std::string within = recalibrationWords(recalibrationsIn(study, fix), study.zone());
    return within.empty() ? sure : sure + "\n" + within;
}

/// By the check readings; `said` takes the figures of the fit.
FixBody fittedBody(Study& study, const Fix& fix, const FixOptions& o, json& said) {
    const TimeRange stretch{fix.from, fix.to};
    const Tag* tag = study.catalog().tag(fix.tag);
    const std::string unit = tag ? tag->unit : "";
    std::vector<ReadingOff> readings = readingsOf(study, fix);
    json outlying = json::array();
    for (const ReadingOff& r : readings)
        if (r.outlying)
            outlying.push_back({{"time", toIso(r.reading.time)}, {"value", r.reading.value}, {"off", r.off}});
    if (o.leaveOut) std::erase_if(readings, [](const ReadingOff& r) { return r.outlying; });
    const auto say = [&](const auto& fit) {
        said = {{"readings", fit.readings},
                {"misfitBefore", fit.misfitBefore},
                {"misfitAfter", fit.misfitAfter},
                {"outlying", outlying},
                {"recalibrations", recalibrationsJson(study, fix)}};
    };
    if (fix.kind() == FixKind::Bend) {
        const BendFit fit = orRefuse(fitBend(readings));
        say(fit);
        json sure = json::array();
        for (const int of : fit.readingsAt) sure.push_back(numberOrNull(fit.knotSure(of)));
        said["knotSure"] = sure;
        said["words"] = fitWords(study, fix, sureWords(fit, unit));
        return fit.bend;
    }
    const double start = o.startBy.value_or(std::get<RampFix>(fix.body).startBy);
    const RampFit fit =
        orRefuse(fitRamp(readings, stretch, o.fixedStart ? std::optional(start) : std::nullopt));
    say(fit);
    said["startSure"] = numberOrNull(fit.startSure);
    said["endSure"] = numberOrNull(fit.endSure);
    said["words"] = fitWords(study, fix, sureWords(fit, o.fixedStart, unit));
    return RampFix{fit.startBy, fit.endBy};
}

/// Puts what the options say into the fix, whose kind is set and whose members hold what was said before.
void takeOptions(Study& study, Fix& fix, const FixOptions& o, json& said) {
    const Tag& tag = *study.catalog().tag(fix.tag);
    if (o.fit) {
        fix.body = fittedBody(study, fix, o, said);
        return;
    }
    if (auto* shift = std::get_if<ShiftFix>(&fix.body)) {
        if (o.by) shift->by = numberOf(*o.by);
        if (o.reads) {
            const double now = study.valueAt(tag, fix.from, fixesBefore(study, fix));
            if (!std::isfinite(now)) throw Refusal{tag.path() + " has no value at the start of the fix"};
            shift->by = *o.reads - now;
        }
    } else if (auto* ramp = std::get_if<RampFix>(&fix.body)) {
        ramp->startBy = o.startBy.value_or(ramp->startBy);
        ramp->endBy = o.endBy.value_or(ramp->endBy);
    } else if (auto* bend = std::get_if<BendFix>(&fix.body); bend && o.knots) {
        bend->knots.clear();
        for (const auto& [time, by] : pairsOf(*o.knots, '='))
            bend->knots.push_back({orRefuse(fromIso(time)), by});
        std::sort(bend->knots.begin(), bend->knots.end(),
                  [](const auto& a, const auto& b) { return a.time < b.time; });
    } else if (auto* curve = std::get_if<CurveFix>(&fix.body); curve && !o.at.empty()) {
        *curve = curveOf(o);
    } else if (auto* bridge = std::get_if<BridgeFix>(&fix.body)) {
        if (o.way) bridge->way = orRefuse(bridgeWayNamed(*o.way));
        if (o.longest) bridge->longest = lengthOf(*o.longest);
        bridge->over = o.over.value_or(bridge->over);
    } else if (auto* borrow = std::get_if<BorrowFix>(&fix.body)) {
        if (o.twin) borrow->twin = orRefuse(study.catalog().tagAt(*o.twin)).id;
        if (o.margin) borrow->margin = lengthOf(*o.margin);
        borrow->over = o.over.value_or(borrow->over);
    } else if (auto* decay = std::get_if<DecayFix>(&fix.body)) {
        if (o.tau) decay->tau = lengthOf(*o.tau);
        if (o.margin) decay->margin = lengthOf(*o.margin);
        decay->over = o.over.value_or(decay->over);
    } else if (auto* clock = std::get_if<ClockFix>(&fix.body)) {
        if (o.by) clock->by = signedDuration(*o.by);
    }
}

/// Amounts without which a new fix would change nothing by oversight.
void askForAmounts(const FixOptions& o, FixKind kind) {
    if (kind == FixKind::Shift && !o.by && !o.reads) throw CLI::RequiredError("--by or --reads");
    if (kind == FixKind::Ramp && !o.fit && !(o.startBy && o.endBy))
        throw CLI::RequiredError("--start-by and --end-by, or --fit-readings");
    if (kind == FixKind::Bend && !o.fit && !o.knots) throw CLI::RequiredError("--knots or --fit-readings");
    if (kind == FixKind::Curve && o.at.empty()) throw CLI::RequiredError("--at and --points");
    if (kind == FixKind::Borrow && !o.twin) throw CLI::RequiredError("--twin");
    if (kind == FixKind::Clock && !o.by) throw CLI::RequiredError("--by");
}

FixBody emptyBody(FixKind kind) {
    return orRefuse(readFixBody(kind, kind == FixKind::Curve ? R"({"calibrations":[]})" : "{}"));
}

/// The fix as it is now, with its figures, printed.
void printFix(Study& study, const Common& common, FixId id, const json& fit, const char* done) {
    const Fix fix = orRefuse(fixOf(study, id));
    if (!common.asJson) {
        const FixFigures f = figuresOf(study, fix);
        const bool nothing = f.changed + f.filled + f.hidden + f.gone == 0;
        fmt::print("fix {} {}: {}, {}{}\n", id, done, fixName(study, fix), fixAmount(study, fix),
                   nothing ? "; no sample is changed by it" : "");
        if (!fit.is_null()) fmt::print("{}\n", fit.at("words").get<std::string>());
        return;
    }
    json out = fixJson(study, fix);
    out["figures"] = figuresJson(study, fix);
    if (!fit.is_null()) out["fit"] = fit;
    printJson(out);
}

/// A fix of the kind over the stretch for each tag named; `fits` takes what fitting said.
std::vector<Fix> fixesByOptions(Study& study, const FixOptions& o, TimeRange range, std::vector<json>& fits) {
    const auto kind = fixKindNamed(o.kind);
    if (!kind) throw CLI::ValidationError(kind.error().message);
    std::vector<Fix> out;
    for (const std::string& path : o.tags) {
        Fix f;
        f.tag = orRefuse(study.catalog().tagAt(path)).id;
        f.body = emptyBody(*kind);
        f.from = range.from, f.to = range.to;
        if (o.spikes) f = orRefuse(hidingFix(f.tag, spikesIn(study, path, range, o.spike)));
        takeOptions(study, f, o, fits.emplace_back());
        out.push_back(std::move(f));
    }
    return out;
}

void enterAll(Study& study, const Common& common, const std::vector<Fix>& fixes,
              const std::vector<json>& fits) {
    const std::vector<FixId> ids = orRefuse(enterFixes(study, fixes));
    if (ids.size() == 1) return printFix(study, common, ids[0], fits.empty() ? json() : fits[0], "entered");
    json all = json::array();
    for (const FixId id : ids) {
        const Fix f = orRefuse(fixOf(study, id));
        all.push_back(fixJson(study, f));
        all.back()["figures"] = figuresJson(study, f);
        if (!common.asJson) fmt::print("fix {} entered: {}\n", id, fixName(study, f));
    }
    if (common.asJson) printJson(all);
}

/// What was said is enough for a fix and does not contradict itself.
void checkAdd(const CLI::App& add, const FixOptions& o, bool byStep) {
    if (byStep) return;
    for (const char* needed : {"--tag", "--kind", "--from", "--to"})
        if (add.count(needed) == 0) throw CLI::RequiredError(fmt::format("{}, or --step", needed));
    const auto kind = fixKindNamed(o.kind);
    if (!kind) throw CLI::ValidationError(kind.error().message);
    checkOptions(o, *kind);
    askForAmounts(o, *kind);
}

void addFixAdd(CLI::App& fix) {
    auto o = std::make_shared<FixOptions>();
    auto step = std::make_shared<std::optional<std::size_t>>();
    auto alone = std::make_shared<bool>(false);
    auto* add = fix.add_subcommand("add", "Enter a fix in the ledger");
    auto common = addCommon(*add, {true});
    add->add_option("--tag", o->tags, "Asset/Tag; several are mended together, as one step");
    add->add_option("--kind", o->kind, "shift, ramp, bend, curve, bridge, borrow, decay, hide, cut or clock");
    add->add_option("--why", o->why, "Why")->required();
    addBodyOptions(*add, *o);
    addSpikeOptions(*add, o->spike);
    add->add_flag("--spikes", o->spikes, "hide: the spikes in the stretch, as one class");
    auto* byStep = add->add_option("--step", *step, "Take out step N of `steps`, with the tags of its mount");
    add->add_flag("--alone", *alone, "with --step: of this tag alone")->needs(byStep);
    for (const char* other : {"--tag", "--kind", "--from", "--to"}) byStep->excludes(add->get_option(other));
    add->callback([o, step, alone, common, add] {
        checkAdd(*add, *o, step->has_value());
        const auto study = common->open(false);
        std::vector<json> fits;
        std::vector<Fix> fixes = *step ? fixesOfStep(*study, **step, *alone)
                                       : fixesByOptions(*study, *o, common->range(*study), fits);
        for (Fix& f : fixes) f.why = *o->why;
        enterAll(*study, *common, fixes, fits);
    });
}

void addFixEdit(CLI::App& fix) {
    auto o = std::make_shared<FixOptions>();
    auto* edit = fix.add_subcommand("edit", "Change what a fix does; it keeps its place and its kind");
    auto common = addCommon(*edit, {true});
    auto id = std::make_shared<FixId>();
    edit->add_option("id", *id, "Id of the fix")->required();
    edit->add_option("--why", o->why, "Why, in place of the reason before");
    addBodyOptions(*edit, *o);
    edit->callback([o, common, id] {
        const auto study = common->open(false);
        Fix f = orRefuse(fixOf(*study, *id));
        checkOptions(*o, f.kind());
        if (!common->from.empty()) f.from = orRefuse(fromIso(common->from));
        if (!common->to.empty()) f.to = orRefuse(fromIso(common->to));
        if (o->why) f.why = *o->why;
        json said;
        takeOptions(*study, f, *o, said);
        orRefuse(editFix(*study, f));
        printFix(*study, *common, *id, said, "edited");
    });
}

void addFixList(CLI::App& fix) {
    auto* list = fix.add_subcommand("list", "The fixes, in the order in which they act");
    auto common = addCommon(*list, {true, true});
    list->callback([common] {
        const auto study = common->open();
        const TimeRange range = common->range(*study);
        json out = json::array();
        for (const Fix& f : study->judgement().allFixes()) {
            const Tag* tag = study->catalog().tag(f.tag);
            if (!common->asset.empty() && (!tag || tag->assetName != common->asset)) continue;
            if (common->hasWindow() && !f.touches(range)) continue;
            out.push_back(fixJson(*study, f));
            if (!common->asJson)
                fmt::print("{:>4} {} {:<24} {:<6} {} {}  {}  {}\n", f.id, f.on ? "on " : "off",
                           out.back()["tag"].get<std::string>(), fixKindName(f.kind()), toIso(f.from),
                           toIso(f.to), fixAmount(*study, f), f.why);
        }
        if (common->asJson) printJson(out);
    });
}

void addFixAction(CLI::App& fix, const char* name, const char* help,
                  const std::function<Status(Study&, FixId)>& act) {
    auto* command = fix.add_subcommand(name, help);
    auto common = addCommon(*command);
    auto id = std::make_shared<FixId>();
    command->add_option("id", *id, "Id of the fix")->required();
    command->callback([common, id, act, action = std::string(name)] {
        const auto study = common->open(false);
        orRefuse(act(*study, *id));
        if (!common->asJson) return;
        if (action == "remove") return printJson({{"id", *id}, {"removed", true}});
        printJson(fixJson(*study, orRefuse(fixOf(*study, *id))));
    });
}

}  // namespace

void addFixCommands(CLI::App& app) {
    auto* fix = app.add_subcommand("fix", "Mending: recorded steps over untouched samples");
    fix->require_subcommand(1);
    addFixAdd(*fix);
    addFixList(*fix);
    addFixEdit(*fix);
    addFixAction(*fix, "on", "Switch a fix on", [](Study& s, FixId id) { return switchFix(s, id, true); });
    addFixAction(*fix, "off", "Switch a fix off", [](Study& s, FixId id) { return switchFix(s, id, false); });
    addFixAction(*fix, "up", "Let a fix act before the one ahead of it",
                 [](Study& s, FixId id) { return moveFix(s, id, true); });
    addFixAction(*fix, "down", "Let a fix act after the one behind it",
                 [](Study& s, FixId id) { return moveFix(s, id, false); });
    addFixAction(*fix, "remove", "Remove a fix", [](Study& s, FixId id) { return removeFix(s, id); });
}

}  // namespace jacinth::cli
