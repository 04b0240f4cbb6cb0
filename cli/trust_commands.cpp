// trust set, list, scales
#include <fmt/format.h>
#include <fmt/ranges.h>

#include "cli/command.h"
#include "core/base/parse_json.h"
#include "work/mend/trust.h"

namespace jacinth::cli {
namespace {

std::vector<Tag> tagsOrRefuse(const Study& study, const std::vector<std::string>& paths) {
    std::vector<Tag> out;
    for (const std::string& path : paths) out.push_back(orRefuse(study.catalog().tagAt(path)));
    return out;
}

json stretchJson(const Tag& tag, const GradedStretch& s, const char* scale) {
    json out = rangeJson(s.range);
    out["tag"] = tag.path();
    out[scale] = s.grade;
    out["from"] = s.from;
    return out;
}

void addTrustSet(CLI::App& trust) {
    struct Options {
        std::vector<std::string> tags;
        TrustPaint paint;
    };
    auto* set = trust.add_subcommand("set", "Paint a grade of trust, of sign-off, or both, on a stretch");
    const auto common = addCommon(*set, {.window = true});
    const auto o = std::make_shared<Options>();
    set->add_option("--tag", o->tags, "Asset/Tag, one or several")->required();
    set->add_option("--trust", o->paint.trust, "How good it is; `not judged` takes it back");
    set->add_option("--sign-off", o->paint.signOff, "How far the work got; `not judged` takes it back");
    set->add_option("--why", o->paint.why, "Why");
    set->callback([common, o] {
        if (common->from.empty() || common->to.empty()) throw CLI::RequiredError("--from and --to");
        const auto study = common->open(false);
        std::vector<TagId> ids;
        for (const Tag& tag : tagsOrRefuse(*study, o->tags)) ids.push_back(tag.id);
        const TimeRange range = common->range(*study);
        if (const Status s = paintTrust(*study, ids, range, o->paint); !s) throw Refusal{s.error().message};
        if (common->asJson)
            printJson({{"tags", o->tags},
                       {"from", toIso(range.from)},
                       {"to", toIso(range.to)},
                       {"trust", o->paint.trust},
                       {"signOff", o->paint.signOff},
                       {"who", study->who()}});
        else
            fmt::print("{} tag{} painted\n", ids.size(), ids.size() == 1 ? "" : "s");
    });
}

void addTrustList(CLI::App& trust) {
    auto* list = trust.add_subcommand("list", "Trust and sign-off as they count, with what they come from");
    const auto common = addCommon(*list, {.window = true, .asset = true, .asLogged = true});
    const auto paths = std::make_shared<std::vector<std::string>>();
    list->add_option("--tag", *paths, "Asset/Tag, one or several; all if not given");
    list->callback([common, paths] {
        const auto study = common->open();
        const TimeRange range = common->range(*study);
        json out = json::array();
        const std::vector<Tag> tags = paths->empty() ? study->catalog().tags() : tagsOrRefuse(*study, *paths);
        for (const Tag& tag : tags) {
            if (!common->asset.empty() && tag.assetName != common->asset) continue;
            for (const GradedStretch& s : trustOf(*study, tag.id, range, common->which()))
                out.push_back(stretchJson(tag, s, "trust"));
            for (const GradedStretch& s : signOffOf(*study, tag.id, range))
                out.push_back(stretchJson(tag, s, "signOff"));
        }
        if (common->asJson) return printJson(out);
        for (const json& s : out)
            fmt::print("{} – {}  {:<24} {:<10} {}\n", s["start"].get<std::string>(),
                       s["end"].get<std::string>(), s["tag"].get<std::string>(),
                       (s.contains("trust") ? s["trust"] : s["signOff"]).get<std::string>(),
                       s["from"].get<std::string>());
        if (out.empty()) fmt::print("nothing is judged\n");
    });
}

std::pair<std::string, std::string> halves(const std::string& text, const char* option) {
    const auto at = text.find('=');
    if (at == std::string::npos) throw CLI::ValidationError(option, "takes NAME=VALUE");
    return {text.substr(0, at), text.substr(at + 1)};
}

std::vector<std::string> parts(const std::string& text) {
    std::vector<std::string> out;
    for (std::size_t from = 0; from <= text.size();) {
        const std::size_t to = std::min(text.find(',', from), text.size());
        const std::string part(trimmed(text.substr(from, to - from)));
        if (!part.empty()) out.push_back(part);
        from = to + 1;
    }
    return out;
}

struct ScaleOptions {
    std::string trust, signOff, soundDownTo, ownFixes;
    std::vector<std::string> rules, who;
    bool changes() const {
        return !trust.empty() || !signOff.empty() || !soundDownTo.empty() || !ownFixes.empty() ||
               !rules.empty() || !who.empty();
    }
};

TrustSettings changed(TrustSettings s, const ScaleOptions& o) {
    if (!o.trust.empty()) s.trust = parts(o.trust);
    if (!o.signOff.empty()) s.signOff = parts(o.signOff);
    if (!o.soundDownTo.empty()) s.soundDownTo = o.soundDownTo;
    if (!o.ownFixes.empty()) s.ownFixes = o.ownFixes == "yes";
    for (const std::string& rule : o.rules) {
        const auto [name, grade] = halves(rule, "--rule");
        std::string* field = name == "filled"      ? &s.filled
                             : name == "hidden"    ? &s.hidden
                             : name == "corrected" ? &s.corrected
                                                   : nullptr;
        if (!field) throw CLI::ValidationError("--rule", "takes filled=, hidden= or corrected=");
        *field = grade;
    }
    for (const std::string& one : o.who) {
        const auto [grade, people] = halves(one, "--who");
        s.who[grade] = parts(people);
    }
    return s;
}

void printScales(const TrustSettings& s) {
    fmt::print("trust, best first: {}\n  with only sound data down to: {}\n", fmt::join(s.trust, ", "),
               s.soundDownTo);
    fmt::print("  filled: {}  hidden: {}  corrected: {}\n", s.filled, s.hidden, s.corrected);
    fmt::print("sign-off: {}\n  own fixes may be signed: {}\n", fmt::join(s.signOff, ", "),
               s.ownFixes ? "yes" : "no");
    for (const auto& [grade, people] : s.who)
        if (!people.empty()) fmt::print("{} is set by {}\n", grade, fmt::join(people, ", "));
}

void addTrustScales(CLI::App& trust) {
    auto* scales = trust.add_subcommand("scales", "The site's scales and rules; with options, changes them");
    const auto common = addCommon(*scales);
    const auto o = std::make_shared<ScaleOptions>();
    scales->add_option("--trust", o->trust, "Grades of trust, best first, with commas");
    scales->add_option("--sign-off", o->signOff, "Grades of sign-off, with commas; the last ends the work");
    scales->add_option("--sound-down-to", o->soundDownTo, "With only sound data, worse grades are missing");
    scales->add_option("--rule", o->rules, "filled=, hidden= or corrected= and a grade; nothing for none");
    scales->add_option("--who", o->who, "GRADE=NAME,NAME: who may set it; nobody named: everyone");
    scales->add_option("--own-fixes", o->ownFixes, "May people sign what they fixed themselves?")
        ->check(CLI::IsMember({"yes", "no"}));
    scales->callback([common, o] {
        const auto study = common->open(!o->changes());
        if (o->changes())
            if (const Status s = setTrustSettings(*study, changed(trustSettingsOf(*study), *o)); !s)
                throw Refusal{s.error().message};
        const TrustSettings now = trustSettingsOf(*study);
        if (common->asJson)
            printJson(parseJson(trustSettingsText(now)));
        else
            printScales(now);
    });
}

}  // namespace

void addTrustCommands(CLI::App& app) {
    auto* trust = app.add_subcommand("trust", "How good a stretch is, and how far the work on it got");
    trust->require_subcommand(1);
    addTrustSet(*trust);
    addTrustList(*trust);
    addTrustScales(*trust);
}

}  // namespace jacinth::cli
