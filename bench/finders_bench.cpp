// How well the finders do on plants of the zoo, family by family.
// Usage: finders_bench [--plants N a family] [--seed N] [--family F] [--list] [--json]
#include <fmt/format.h>

#include <string>

#include "bench/figures.h"
#include "zoo/step_score.h"

using namespace jacinth;
using namespace jacinth::bench;
using namespace jacinth::zoo;

namespace {

void addScore(Figures& out, const std::string& name, const StepScore& s) {
    const auto share = [&](const char* what, const StepScore::Share& of) {
        out.add(fmt::format("{}: {}", name, what), of.percent(), "%",
                fmt::format("{} of {}", of.right, of.of));
    };
    share("steps of 8 or more", s.strong);
    share("steps of 5 to 8", s.middle);
    share("steps of 3 to 5", s.weak);
    share("size within 5 %", s.sized);
    share("size in its range", s.inRange);
    share("returns", s.returns);
    share("changes of the process", s.changes);
    out.add(fmt::format("{}: wrong steps per asset-month", name), s.wrongPerAssetMonth(), "",
            fmt::format("{}", s.wrong));
}

/// Every true and every found step of one plant, in order of time.
void list(const Plant& plant, const std::vector<SuspectedStep>& found) {
    const auto day = [](Instant t) { return toHours(t - Instant{}) / 24; };
    for (std::size_t i = 0; i < plant.tags.size(); ++i)
        fmt::print("  tag {} {} noise {:.3g}, {} samples\n", i + 1, plant.tags[i].name, plant.tags[i].noise,
                   plant.tags[i].series.size());
    for (const TrueStep& s : plant.steps)
        fmt::print("  true  {} day {:7.3f} tag {} size {:9.4g} = {:.1f}{}{}\n",
                   stepFor(found, s) ? "    " : "MISS", day(s.time), s.tag + 1, s.size, s.inNoise,
                   s.returns ? fmt::format(" returns {:.3f}", day(*s.returns)) : "", s.mount ? " mount" : "");
    for (const TrueDrift& d : plant.drifts)
        fmt::print("  drift day {:7.3f} tag {} until {:.3f} end {:.4g}\n", day(d.range.from), d.tag + 1,
                   day(d.range.to), d.end);
    for (const TrueChange& c : plant.changes)
        fmt::print("  change {} day {:7.3f} of {} tags\n", isNamed(found, c) ? "    " : "UNSAID", day(c.time),
                   c.tags.size());
    for (const TrueStuck& c : plant.stuck)
        fmt::print("  stuck day {:7.3f} to {:.3f} tag {}\n", day(c.range.from), day(c.range.to), c.tag + 1);
    for (const SuspectedStep& s : found)
        fmt::print("  found {} day {:7.3f} tag {} size {:9.4g} ± {:.3g} kind {}{}{}\n",
                   s.kind == StepKind::Process || isTrue(plant, s) ? "     " : "WRONG", day(s.time),
                   s.tag.number, s.size, s.error, static_cast<int>(s.kind),
                   s.returns ? fmt::format(" returns {:.3f}", day(*s.returns)) : "",
                   s.sharedWith.empty() ? "" : " shared");
}

}  // namespace

int main(int argc, char** argv) {
    Figures out(argc, argv);
    const int plants = numberAfter(argc, argv, "--plants", 20);
    const int seed = numberAfter(argc, argv, "--seed", 1);
    const std::string only = textAfter(argc, argv, "--family", "");
    bool lists = false;
    for (int i = 1; i < argc; ++i) lists |= std::string(argv[i]) == "--list";
    StepScore all;
    for (std::size_t f = 0; f < kFamilies; ++f) {
        const Family family = static_cast<Family>(f);
        if (!only.empty() && only != nameOf(family)) continue;
        StepScore score;
        for (int i = 0; i < plants; ++i) {
            const Plant plant = makePlant(family, static_cast<std::uint64_t>(seed + i));
            const auto found = stepsIn(plant);
            if (lists) fmt::print("{} {}\n", nameOf(family), seed + i), list(plant, found);
            score.add(scoreOf(plant, found));
        }
        addScore(out, nameOf(family), score);
        all.add(score);
    }
    addScore(out, "all", all);
}
