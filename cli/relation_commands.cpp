// relation
#include <fmt/format.h>

#include "cli/command.h"
#include "work/mend/relation_check.h"

namespace jacinth::cli {
namespace {

struct RelationOptions {
    std::string of, every = "1h", kinds = "point,level";
    std::vector<std::string> on;
    RelationQuestion question;
};

json fitJson(const LeastSquares& fit, const Diagnostics& diagnostics, std::size_t coefficients) {
    json list = json::array();
    for (std::size_t i = 0; i < coefficients; ++i) {
        const Coefficient& c = fit.coefficients[i];
        list.push_back(
            {{"name", c.name}, {"value", c.value}, {"error", c.error}, {"t", c.t}, {"p", c.probability}});
    }
    return {{"coefficients", list},
            {"r2", fit.r2},
            {"s", fit.s},
            {"autocorrelationP", diagnostics.autocorrelation},
            {"normalityP", diagnostics.normality}};
}

json relationJson(const TagRelation& made) {
    const Relation& r = made.relation;
    json found = json::array();
    for (const FoundIndicator& f : r.found)
        found.push_back({{"kind", indicatorKindName(f.kind)},
                         {"time", toIso(made.times[f.row])},
                         {"size", f.size},
                         {"error", f.error},
                         {"t", f.t}});
    const std::size_t k = r.before.coefficients.size();
    return {{"n", made.times.size()},
            {"leftOut", made.leftOut},
            {"candidates", r.candidates},
            {"expectedByChance", r.expectedByChance},
            {"before", fitJson(r.before, r.diagnosticsBefore, k)},
            {"after", fitJson(r.after, r.diagnosticsAfter, k)},
            {"found", found}};
}

void print(const Study& study, const TagRelation& made) {
    const Relation& r = made.relation;
    fmt::print("{} rows; {} periods without a value in every tag are left out\n", made.times.size(),
               made.leftOut);
    const auto fit = [&](const char* words, const LeastSquares& f, const Diagnostics& d) {
        fmt::print("{}: R² {:.4f}, s {:.4g}; p {:.3f} of no autocorrelation, {:.3f} of a normal remainder\n",
                   words, f.r2, f.s, d.autocorrelation, d.normality);
        for (std::size_t i = 0; i < r.before.coefficients.size(); ++i) {
            const Coefficient& c = f.coefficients[i];
            fmt::print("  {:<28} {:>12.5g} ± {:<10.3g} t {:>8.2f}\n", c.name, c.value, c.error, c.t);
        }
    };
    fit("before", r.before, r.diagnosticsBefore);
    fit("after", r.after, r.diagnosticsAfter);
    fmt::print("{} found among {} candidates; {:.1f} by chance\n", r.found.size(), r.candidates,
               r.expectedByChance);
    for (const FoundIndicator& f : r.found)
        fmt::print("  {:<6} {}  {:+.4g} ± {:.2g}  t {:.1f}\n", indicatorKindName(f.kind),
                   study.zone().text(made.times[f.row]), f.size, f.error, f.t);
}

std::vector<IndicatorKind> kindsIn(const std::string& text) {
    std::vector<IndicatorKind> out;
    for (std::size_t from = 0; from < text.size();) {
        const std::size_t to = std::min(text.find(',', from), text.size());
        const auto kind = indicatorKindNamed(text.substr(from, to - from));
        if (!kind) throw CLI::ValidationError("--kinds", kind.error().message);
        if (std::find(out.begin(), out.end(), *kind) == out.end()) out.push_back(*kind);
        from = to + 1;
    }
    return out;
}

void check(const Common& common, RelationOptions o) {
    const auto every = periodNamed(o.every);
    if (!every) throw CLI::ValidationError("--every", every.error().message);
    o.question.every = *every;
    o.question.search.kinds = kindsIn(o.kinds);
    o.question.which = common.which();
    const auto study = common.open();
    o.question.range = common.range(*study);
    o.question.of = orRefuse(study->catalog().tagAt(o.of)).id;
    for (const std::string& path : o.on) o.question.on.push_back(orRefuse(study->catalog().tagAt(path)).id);
    const TagRelation made = orRefuse(checkRelation(*study, o.question, progressOnStderr("relation")));
    if (common.asJson)
        printJson(relationJson(made));
    else
        print(*study, made);
}

}  // namespace

void addRelationCommands(CLI::App& app) {
    auto* command =
        app.add_subcommand("relation", "A tag against companions, and where the relation does not hold");
    const auto common = addCommon(*command, {.window = true, .asLogged = true});
    const auto o = std::make_shared<RelationOptions>();
    command->add_option("--tag", o->of, "Asset/Tag to be explained")->required();
    command->add_option("--on", o->on, "Asset/Tag of companions; without any, the tag's level alone");
    command->add_option("--every", o->every, "Means of this period: 1h, 15m, day");
    command
        ->add_option("--alpha", o->question.search.alpha, "Share of the rows that survives by chance (0.01)")
        ->check(CLI::Range(1e-6, 0.2));
    command->add_option("--kinds", o->kinds, "Of point, level and trend, with commas (point,level)");
    command->add_flag("--log", o->question.logarithms, "Of logarithms; values not above 0 are missing");
    command->add_flag("--difference", o->question.differences, "Of differences from row to row");
    command->callback([common, o] { check(*common, *o); });
}

}  // namespace jacinth::cli
