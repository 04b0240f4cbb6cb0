#include "work/label/label_files.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <nlohmann/json.hpp>
#include <set>

#include "core/base/parse_json.h"
#include "core/base/text.h"
#include "store/judgement.h"
#include "work/label/kinds.h"
#include "work/label/labels.h"

namespace jacinth {
namespace {

using nlohmann::json;

std::vector<std::string> tagNames(const Study& study, const Span& label) {
    std::vector<std::string> out;
    for (const TagId id : tagsOf(label))
        if (const Tag* tag = study.catalog().tag(id)) out.push_back(tag->name);
    return out;
}

std::string assetName(const Study& study, AssetId id) {
    const Asset* asset = study.catalog().asset(id);
    return asset ? asset->name : std::string();
}

std::string columnOfFact(const std::string& name) {
    const std::string plain = lowerCase(trimmed(name));
    const bool taken =
        std::ranges::count(labelColumns(), plain) > 0 || plain == "tag" || name.starts_with(kFactColumn);
    return taken ? kFactColumn + name : name;
}

}  // namespace

const std::vector<std::string>& labelColumns() {
    static const std::vector<std::string> columns{"asset",  "tags",      "start", "end", "kind", "meaning",
                                                  "normal", "certainty", "note",  "by",  "from"};
    return columns;
}

std::string labelsAsCsv(const Study& study, const std::vector<Span>& labels, bool guarded) {
    const LabelBook book = study.judgement().labelBook();
    const auto field = [&](const std::string& text) {
        return guarded ? guardedField(text) : csvField(withGuardEscaped(text));
    };
    // A text that would be read as a number stands in quotes.
    const auto factField = [&](const std::string& text) {
        return looksLikeNumber(text) ? quotedField(text) : field(text);
    };
    std::set<std::string> facts;
    for (const Span& s : labels)
        for (const auto& [name, value] : ownFacts(s)) facts.insert(name);
    std::string out = fmt::format("{}", fmt::join(labelColumns(), ","));
    for (const std::string& name : facts) out += "," + csvField(columnOfFact(name));
    out += "\n";
    for (const Span& s : labels) {
        const std::string kind = factText(s.facts, label_fact::kKind);
        const LabelKind* known = findKind(book, kind);
        out += fmt::format(
            "{},{},{},{},{},{},{},{},{},{},{}", field(assetName(study, s.asset)),
            field(fmt::format("{}", fmt::join(tagNames(study, s), "; "))), toIso(s.start), toIso(s.end),
            field(kind), field(known ? known->meaning : ""), known && known->normal ? "yes" : "no",
            certaintyOf(s), field(factText(s.facts, label_fact::kNote)),
            field(factText(s.facts, label_fact::kBy)), field(factText(s.facts, label_fact::kFrom)));
        for (const std::string& name : facts) {
            const auto own = s.facts.find(name);
            const bool number = own != s.facts.end() && std::holds_alternative<double>(own->second);
            out += "," + (number ? factText(own->second) : factField(factText(s.facts, name)));
        }
        out += "\n";
    }
    return out;
}

std::string labelsAsJson(const Study& study, const std::vector<Span>& labels) {
    json all = json::array();
    for (const Span& s : labels) all.push_back(labelToJson(study, s));
    return json{{"book", parseJson(bookText(study.judgement().labelBook()))}, {"labels", all}}.dump(2) + "\n";
}

json labelToJson(const Study& study, const Span& s) {
    json out{{"id", s.id},
             {"asset", assetName(study, s.asset)},
             {"tags", tagNames(study, s)},
             {"start", toIso(s.start)},
             {"end", toIso(s.end)},
             {"kind", factText(s.facts, label_fact::kKind)},
             {"certainty", certaintyOf(s)},
             {"note", factText(s.facts, label_fact::kNote)},
             {"by", factText(s.facts, label_fact::kBy)},
             {"facts", parseJson(factsToJson(ownFacts(s)))},
             {"from", json()}};
    if (const std::string from = factText(s.facts, label_fact::kFrom); !from.empty()) out["from"] = from;
    return out;
}

}  // namespace jacinth
