// label like, label agree
#include <fmt/format.h>

#include "cli/label_commands.h"
#include "work/label/agree.h"
#include "work/label/more_like.h"

namespace jacinth::cli {
namespace {

struct LikeOptions {
    MoreLike question;
    double percent = 0;
    std::vector<std::string> in;
};

void findAlike(const Common& common, LikeOptions o) {
    const auto study = common.open();
    o.question.asset = orRefuse(study->catalog().assetCalled(common.asset)).id;
    o.question.example = common.range(*study);
    o.question.which = common.which();
    o.question.search.stretch = o.percent / 100;
    for (const std::string& name : o.in)
        o.question.assets.push_back(orRefuse(study->catalog().assetCalled(name)).id);
    const auto found = orRefuse(moreLike(*study, o.question, progressOnStderr("label like")));
    json out = json::array();
    for (const AlikeStretch& hit : found) {
        const std::string asset = study->catalog().asset(hit.asset)->name;
        json j = rangeJson(hit.range);
        j.update({{"asset", asset}, {"distance", hit.distance}});
        out.push_back(j);
        if (!common.asJson)
            fmt::print("{:.4f}  {}  {}  {}\n", hit.distance, asset, study->zone().text(hit.range.from),
                       sayDuration(hit.range.length()));
    }
    if (common.asJson) printJson(out);
}

void agree(const Common& common, const std::string& one, const std::string& two) {
    const auto study = common.open();
    const AssetId asset =
        common.asset.empty() ? AssetId() : orRefuse(study->catalog().assetCalled(common.asset)).id;
    const Agreement made = orRefuse(agreementBetween(*study, one, two, asset, common.range(*study)));
    json differences = json::array();
    for (const Difference& d : made.differences) {
        json j = rangeJson(d.range);
        const Asset* of = study->catalog().asset(d.asset);
        j.update({{"asset", of ? of->name : ""}, {"one", d.one}, {"two", d.two}});
        differences.push_back(j);
    }
    if (common.asJson)
        return printJson({{"kappa", std::isfinite(made.kappa) ? json(made.kappa) : json()},
                          {"seconds",
                           {{"both", toSeconds(made.both)},
                            {"one", toSeconds(made.one)},
                            {"two", toSeconds(made.two)},
                            {"neither", toSeconds(made.neither)}}},
                          {"differences", differences}});
    fmt::print("kappa {:.3f}: of the time {:.1f} % agreed, {:.1f} % would by chance\n", made.kappa,
               100 * made.observed, 100 * made.byChance);
    const auto said = [](const std::string& kind) { return kind.empty() ? std::string("nothing") : kind; };
    for (const Difference& d : made.differences)
        fmt::print("  {}  {}  {}: {} / {}\n", study->catalog().asset(d.asset)->name,
                   study->zone().text(d.range.from), sayDuration(d.range.length()), said(d.one), said(d.two));
}

}  // namespace

void addLabelSearches(CLI::App& label) {
    auto* like = label.add_subcommand("like", "Stretches that look like an example, nearest first");
    const auto common = addCommon(*like, {.window = true, .asset = true, .asLogged = true});
    const auto o = std::make_shared<LikeOptions>();
    for (const char* needed : {"--from", "--to", "--asset"}) like->get_option(needed)->required();
    like->add_option("--tag", o->question.roles, "Roles that the example is about")->required();
    like->add_option("--in", o->in, "Only in these assets; in all that have the roles if not given");
    like->add_option("--most", o->question.search.most, "How many (100)")->check(CLI::Range(1, 100'000));
    like->add_option("--stretch", o->percent, "Longer and shorter ones as well, by up to this per cent")
        ->check(CLI::Range(0.0, 50.0));
    like->add_flag("--level", o->question.search.level, "Levels matter");
    addDuration(*like, "--every", o->question.every, "Step; the tags' median spacing if not given");
    like->callback([common, o] { findAlike(*common, *o); });

    auto* agreement = label.add_subcommand("agree", "How far two people's labels agree");
    const auto itsCommon = addCommon(*agreement, {.window = true, .asset = true});
    const auto names = std::make_shared<std::pair<std::string, std::string>>();
    agreement->add_option("one", names->first, "Who")->required();
    agreement->add_option("two", names->second, "And who else")->required();
    agreement->callback([itsCommon, names] { agree(*itsCommon, names->first, names->second); });
}

}  // namespace jacinth::cli
