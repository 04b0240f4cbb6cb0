#include "test/torture/full_study.h"

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <random>

#include "core/time/times_for_tests.h"
#include "source/import_events.h"
#include "source/recipe.h"
#include "store/derived_catalog.h"
#include "store/fix_body.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/derived/derived_expressions.h"
#include "work/derived/derived_refresh.h"
#include "work/label/labels.h"
#include "work/limits/screening.h"
#include "work/mend/mending.h"
#include "work/prove/proving.h"
#include "work/runs/edit_runs.h"
#include "work/runs/find_runs.h"
#include "work/settings/tag_settings.h"

namespace jacinth::test {
namespace {

const Instant kStart = *fromIso("2026-03-01T00:00:00Z");
constexpr int kHours = 72;

template <typename T>
T orThrow(Result<T> result) {
    if (!result) throw StoreError(result.error().message);
    return std::move(*result);
}

/// Two assets that run for five hours and rest for one.
std::string record(unsigned seed) {
    std::mt19937 random(seed);
    std::string out =
        "time,Press 1/Temp [°C],Press 1/Flow,Press 1/Step,Press 2/Temp [°C],Press 2/Flow,Press 2/Step\n";
    for (int minute = 0; minute < kHours * 60; minute += 2) {
        const int in = minute % 360;
        out += toIso(kStart + minute * kMinute);
        for (int press = 0; press < 2; ++press) {
            const double noise = static_cast<double>(random() % 100) / 200;
            const double drift = press == 1 && minute > 40 * 60 ? 6 : 0;
            out += fmt::format(",{:.2f},{:.3f},{}", 40 + 20 * std::sin(in * 0.0087) + noise + drift,
                               in < 300 ? 3 + noise : 0.1,
                               in < 60    ? "Load"
                               : in < 300 ? "Hot"
                                          : "Rest");
        }
        out += '\n';
    }
    return out;
}

void import(Study& study, const std::string& name, const std::string& text) {
    orThrow(importSamples(study, {name, text, {}}, {.zone = "Europe/Oslo"}));
}

void fillEvents(Study& study) {
    const auto add = [&](const char* kind, const std::string& text) {
        orThrow(importEvents(study, {std::string(kind) + ".csv", text, {}}, kind, {}));
    };
    add("failures",
        "asset,time,kind,note\nPress 2,2026-03-02T20:00:00Z,bearing,worn\nPress "
        "1,2026-03-03T10:00:00Z,belt,\n");
    add("readings",
        "tag,time,value,by\nPress 1/Temp,2026-03-01T12:00:00Z,41.5,M. L.\nPress "
        "1/Temp,2026-03-02T12:00:00Z,42.5,M. L.\n");
    add("stops", "asset,start,end,reason\nPress 2,2026-03-02T20:00:00Z,2026-03-02T22:00:00Z,bearing\n");
    add("log",
        "time,asset,author,text\n2026-03-01T06:00:00Z,Press 1,R. O.,\"quiet, all well\"\nnever,Press 1,R. "
        "O.,lost\n");
}

}  // namespace

void fillStudy(Study& study, unsigned seed) {
    study.setWho("M. L.");
    study.setSetting("zone", "Europe/Oslo");
    study.setSetting("plant", "Two presses");
    import(study, "record.csv", record(seed));
    import(study, "again.csv",
           "time,Press 1/Temp\n2026-03-01T01:00:00Z,99\nnever,1\n2026-03-01T01:02:00Z,No Data\n");
    fillEvents(study);
    RunSearch search;
    search.where = "@step is not \"Rest\"";
    search.least = kHour;
    search.phases = "@step";
    const TrackId runs = keepRuns(study, "Runs", search, orThrow(findRuns(study, search)));
    std::vector<SpanId> golden;
    for (const Span& run : study.tracks().spans(runs))
        if (golden.size() < 9) golden.push_back(run.id);
    study.change("golden", "by eye", {}, [&] { study.judgement().setGoldenRuns(runs, golden, "by eye"); });
    LimitSpec spec = proposedLimits(study, runs);
    spec.every = 5 * kMinute;
    keepLimits(study, orThrow(makeLimits(study, "Usual", runs, {"temp", "flow"}, spec, Which::Mended)));
    ScreenSpec screen;
    screen.ignore = 10 * kMinute;
    keepExcursions(study, runs, screen, screenTrack(study, runs, "Usual", screen, Which::Mended));
    const auto temp = study.catalog().tagAt("Press 1/Temp")->id;
    orThrow(
        enterFix(study, {{}, temp, RampFix{0, 1.25}, kStart + 5 * kHour, kStart + 9 * kHour, true, "drift"}));
    orThrow(
        enterFix(study, {{}, temp, ShiftFix{-0.5}, kStart + 20 * kHour, kStart + 30 * kHour, true, "knock"}));
    orThrow(addLabelled(
        study,
        {{}, study.catalog().assetNamed("Press 2")->id, {}, kStart + 41 * kHour, kStart + 43 * kHour, {}},
        "fault", "hot"));
    study.change("rule", "", {}, [&] {
        study.judgement().putRule({"hot", "mean(@temp over 30m) > 58 for 10m", {}});
    });
    saveRecipe(study, "usual", {.zone = "Europe/Oslo"});
    orThrow(defineDerived(study, {"Work", "", "@temp * @flow", ""}));
    orThrow(refreshDerived(study));
    study.change("facts", "", {}, [&] {
        study.catalog().setAssetFacts(study.catalog().assetNamed("Press 1")->id,
                                      {{"built", 2009.0}, {"type", std::string("b")}});
    });
    study.change("to be undone", "", {}, [&] {
        study.tracks().addSpan(runs, {{}, {}, {}, at(1), at(2), {}});
    });
    orThrow(study.history().undo());
}

namespace {

std::string spanText(const Study& study, const Span& s) {
    const Asset* asset = study.catalog().asset(s.asset);
    const Tag* tag = study.catalog().tag(s.tag);
    return fmt::format("{} {} {} {} {} {}\n", s.id, asset ? asset->name : "", tag ? tag->path() : "",
                       toIso(s.start), toIso(s.end), factsToJson(s.facts));
}

void addSeries(std::string& out, const Series& s) {
    for (std::size_t i = 0; i < s.size(); ++i)
        out += fmt::format("{}={:.17g}/{} ", epochNanoseconds(s.times[i]), s.values[i],
                           static_cast<int>(s.view().qualityAt(i)));
    out += '\n';
}

void addProof(std::string& out, Study& study, const Rule& rule) {
    ProveRequest request;
    request.rule = rule.text;
    request.spec = {12 * kHour, kHour, kHour};
    const auto proof = proveRule(study, request);
    out += rule.name + " " + rule.text + "\n";
    if (!proof) {
        out += proof.error().message + "\n";
        return;
    }
    out += fmt::format("{} {} {} {:.17g}\n", proof->caught, proof->missed, proof->untestable,
                       proof->falsePerAssetMonth);
    for (const AlarmVerdict& a : proof->alarms)
        out += fmt::format("{} {} {} {}\n", a.asset, toIso(a.range.from), toIso(a.range.to),
                           verdictName(a.verdict));
}

void addScreening(std::string& out, Study& study, const Track& track) {
    for (const ScreenedRun& run : screenTrack(study, track.id, "", screenSpecOf(study), Which::Mended))
        for (const Excursion& e : run.excursions)
            out += fmt::format("{} {} {} {} {:.17g} {:.17g} {}\n", run.run.id, run.role, toIso(e.start),
                               toIso(e.end), e.peak, e.area, e.severity);
}

}  // namespace

std::string readAll(Study& study) {
    std::string out = study.zone().name() + " " + study.plantName() + "\n";
    for (const Asset& a : study.catalog().assets())
        out += fmt::format("{} {} {}\n", a.id, a.name, factsToJson(a.facts));
    const TimeRange all = study.record();
    for (const Tag& t : study.catalog().tags()) {
        const Summary whole = study.samples().whole(t.id);
        // A kill in an import may leave a tag without samples; one that is given by an expression is work.
        if (whole.count == 0 && !study.derived().definition(t.id).is_object()) continue;
        out += fmt::format("{} {} {} {} {} {} {} {:.17g} {:.17g} {} {}\n", t.id, t.path(), t.role, t.unit,
                           tagKindName(t.kind), t.spacing.count(), whole.count, whole.least, whole.greatest,
                           t.longestGap.value_or(-kNanosecond).count(), fmt::join(t.states, "|"));
        for (const Which which : {Which::AsLogged, Which::Mended}) addSeries(out, study.read(t, all, which));
        for (const Summary& c : study.columns(t, all, 300, Which::Mended))
            out += fmt::format("{} {} {:.17g} {:.17g} ", toIso(c.firstTime), c.count, c.least, c.greatest);
        for (const Fix& f : study.judgement().fixes(t.id))
            out += fmt::format("fix {} {} {} {} {} {} {} {}\n", f.id, fixKindName(f.kind()), toIso(f.from),
                               toIso(f.to), fixBodyText(f.body), f.on, f.why, f.who);
        out += study.derived().definition(t.id).dump() + "\n";
    }
    for (const Track& track : study.tracks().all()) {
        out += fmt::format("track {} {} {} {}\n", track.id, track.name, track.kind, track.definition);
        for (const Span& s : study.tracks().spans(track.id)) out += spanText(study, s);
        for (const SpanId run : study.judgement().goldenRuns(track.id))
            out += fmt::format("golden {} {}\n", run, study.judgement().goldenWhy(track.id, run));
        if (track.kind == track_kind::kRuns) addScreening(out, study, track);
    }
    for (const LimitSet& set : study.judgement().limitSets()) {
        out += fmt::format("limits {} {} {} {}\n", set.id, set.name, set.version, set.goldenRuns.size());
        for (const auto& [role, limits] : set.byRole)
            for (const LimitSlice& s : limits.slices)
                out += fmt::format("{} {} {} {:.17g} {:.17g} {:.17g}\n", role,
                                   s.offset.time_since_epoch().count(), s.n, s.low, s.centre, s.high);
    }
    for (const LabelKind& k : study.judgement().labelBook()) out += k.name + k.meaning + k.colour + "\n";
    for (const Rule& rule : study.judgement().rules()) addProof(out, study, rule);
    for (const auto& [name, hints] : recipes(study)) out += name + recipeToJson(hints) + "\n";
    return out;
}

std::string stepName(unsigned seed, int number) {
    std::mt19937 random(seed * 7919 + static_cast<unsigned>(number));
    (void)random();
    constexpr std::array<const char*, 7> kNames{"import", "fix",          "limits", "derived tag",
                                                "label",  "tag settings", "undo"};
    return kNames[random() % kNames.size()];
}

void doStep(Study& study, unsigned seed, int number) {
    std::mt19937 random(seed * 7919 + static_cast<unsigned>(number));
    const auto temp = study.catalog().tagAt("Press 1/Temp")->id;
    const Instant at = kStart + static_cast<int>(random() % (kHours * 60)) * kMinute;
    switch (random() % 7) {
        case 0: {
            std::string text =
                fmt::format("time,Press 1/Temp,Press {}/New {}\n", random() % 2 + 1, number % 5);
            for (int i = 0; i < 400; ++i)
                text +=
                    fmt::format("{},{},{}\n", toIso(at + i * 7 * kSecond), random() % 1000, random() % 1000);
            import(study, fmt::format("step {}", number), text);
            break;
        }
        case 1:
            orThrow(enterFix(
                study,
                {{}, temp, ShiftFix{1.0 + number}, at, at + kHour, true, fmt::format("step {}", number)}));
            break;
        case 2: {
            const auto runs = study.tracks().named("Runs")->id;
            LimitSpec spec = proposedLimits(study, runs);
            spec.every = 10 * kMinute;
            keepLimits(study, orThrow(makeLimits(study, fmt::format("Set {}", number % 3), runs, {"temp"},
                                                 spec, Which::AsLogged)));
            break;
        }
        case 3:
            orThrow(defineDerived(study, {fmt::format("Made {}", number % 4), "",
                                          fmt::format("@temp + {}", number), "Press 1"}));
            break;
        case 4:
            orThrow(addLabelled(study,
                                {{}, study.catalog().assetNamed("Press 2")->id, {}, at, at + kHour, {}},
                                "fault", fmt::format("step {}", number)));
            break;
        case 5: {
            TagSettings settings;
            settings.unit = fmt::format("u{}", number);
            orThrow(changeTags(study, {temp}, settings));
            break;
        }
        default:
            if (study.history().nextUndo()) (void)study.history().undo();
    }
}

}  // namespace jacinth::test
