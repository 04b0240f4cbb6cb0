// Proving rules on six kilns, and searching their settings: single proofs, the same again with another
// number, and 500 settings against one proof; over a record of n/16, n/4 and n days, and over a quarter, half
// and all of the settings. Usage: prove_bench [--json] [--days N] [--study FILE], 730 days unless told; FILE
// is used instead of the longest record.
#include <fmt/format.h>
#include <unistd.h>

#include <cstdlib>
#include <filesystem>

#include "bench/figures.h"
#include "core/base/allocation.h"
#include "demo/demo.h"
#include "work/prove/kept_figures.h"
#include "work/prove/searching.h"

using namespace jacinth;
using namespace jacinth::bench;

namespace {

struct RuleToProve {
    const char* what;
    const char* text;
    std::vector<Vary> vary;  ///< 500 settings
};

/// Over one tag every 60 s, two of them every 10 s, and a week of one.
const std::vector<RuleToProve>& rules() {
    static const std::vector<RuleToProve> all{
        {"threshold and delay",
         "@bearing_vibration > {limit} for {minutes}m",
         {{"limit", 1, 6, 50}, {"minutes", 5, 60, 10}}},
        {"mean over a window",
         "mean(@bearing_vibration over {hours}h) > {limit}",
         {{"limit", 1, 6, 50}, {"hours", 1, 19, 10}}},
        {"slope and mean",
         "slope(@bearing_vibration over 12h) > {rise} and mean(@bearing_vibration over 4h) > {limit}",
         {{"limit", 1, 6, 50}, {"rise", 0, 0.5, 10}}},
        {"slope and mean, 10 s",
         "slope(@fan_current over 12h) > {rise} and mean(@fan_current over 4h) > {limit}",
         {{"limit", 20, 60, 50}, {"rise", 0, 5, 10}}},
        {"median of a week, 10 s",
         "@fan_current < {share} * median(@fan_current over 7d) for {minutes}m",
         {{"share", 0.5, 0.99, 50}, {"minutes", 5, 60, 10}}}};
    return all;
}

template <typename T>
void orStop(const Result<T>& result) {
    if (result) return;
    fmt::print(stderr, "{}\n", result.error().message);
    std::exit(1);
}

SearchRequest requestFor(const RuleToProve& rule) {
    SearchRequest out;
    out.prove.rule = rule.text;
    out.prove.spec = {144 * kHour, 12 * kHour, 6 * kHour};
    out.vary = rule.vary;
    return out;
}

double secondsOfProof(Study& study, const RuleToProve& rule) {
    ProveRequest request = requestFor(rule).prove;
    for (const Vary& v : rule.vary) request.settings[v.name] = v.at(v.steps / 2);
    return medianSeconds([&] { orStop(proveRule(study, request)); });
}

/// From the last key to the proof: another number in a rule whose figures are kept.
void measureTyping(Figures& out, Study& study, int days) {
    constexpr double kReach = 0.1;
    for (const RuleToProve& rule : rules()) {
        KeptFigures kept;
        ProveRequest request = requestFor(rule).prove;
        const auto prove = [&](int step) {
            for (const Vary& v : rule.vary) request.settings[v.name] = v.at(v.steps / 2);
            request.settings[rule.vary[0].name] = rule.vary[0].at(step);
            return secondsOf([&] { orStop(proveRule(study, request, {}, &kept)); });
        };
        const double first = prove(rule.vary[0].steps / 2);
        std::vector<double> next;
        for (int step = 0; step < rule.vary[0].steps; ++step) next.push_back(prove(step));
        out.add(fmt::format("{} days, first proof, {}", days, rule.what), first, "s");
        out.add(fmt::format("{} days, another number, p95, {}", days, rule.what), percentile(next, 0.95), "s",
                fmt::format("{:.2f} x what is allowed, {:.0f} MB kept", percentile(next, 0.95) / kReach,
                            static_cast<double>(kept.bytes()) / 1e6));
    }
}

double secondsOfSearch(Study& study, const SearchRequest& request) {
    return secondsOf([&] {
        const auto found = searchCase(study, request);
        orStop(found);
        orStop(search(*found));
    });
}

void measure(Figures& out, Study& study, int days, bool all) {
    for (const RuleToProve& rule : rules()) {
        const double one = secondsOfProof(study, rule);
        out.add(fmt::format("{} days, one proof, {}", days, rule.what), one, "s");
        SearchRequest request = requestFor(rule);
        for (const int part : all ? std::vector{4, 2, 1} : std::vector{1}) {
            request.vary[0].steps = rule.vary[0].steps / part;
            const double many = secondsOfSearch(study, request);
            const int n = request.vary[0].steps * request.vary[1].steps;
            out.add(fmt::format("{} days, {} settings, {}", days, n, rule.what), many, "s",
                    fmt::format("{:.1f} x one proof", many / one));
        }
    }
    const auto of = searchCase(study, requestFor(rules()[1]));
    orStop(of);
    out.add(fmt::format("{} days, 500 settings, 20 searches on moved failures", days),
            secondsOf([&] { orStop(shuffled(*of, 2, 20, 1)); }), "s");
}

constexpr int kTypingDays = 61;

template <typename Measure>
void withNewStudy(int days, Measure measureIt) {
    const std::string path = fmt::format("/tmp/prove-bench-{}.jacinth", ::getpid());
    std::filesystem::remove(path);
    demo::PlantSpec spec;
    spec.days = days;
    {
        const auto study = demo::makeStudy(demo::drawTruth(spec), path);
        orStop(study);
        measureIt(**study);
    }
    std::filesystem::remove(path);
}

void measureExisting(Figures& out, const std::string& path) {
    const auto study = Study::open(path);
    orStop(study);
    const int days = static_cast<int>((*study)->record().length() / kDay);
    if (days <= kTypingDays) measureTyping(out, **study, days);
    measure(out, **study, days, true);
}

}  // namespace

int main(int argc, char** argv) {
    keepFreedMemory();  // as the program does
    Figures out(argc, argv);
    int days = 730;
    std::string existing;
    for (int i = 1; i + 1 < argc; ++i) {
        if (std::string(argv[i]) == "--days") days = std::max(32, std::atoi(argv[i + 1]));
        if (std::string(argv[i]) == "--study") existing = argv[i + 1];
    }
    if (!existing.empty()) return measureExisting(out, existing), 0;
    withNewStudy(kTypingDays, [&](Study& study) { measureTyping(out, study, kTypingDays); });
    for (const int part : {16, 4, 1})
        withNewStudy(days / part, [&](Study& study) { measure(out, study, days / part, part == 1); });
}
