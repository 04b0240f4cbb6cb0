#include "source/name_mapping.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "core/base/parse_json.h"
#include "core/base/text.h"
#include "source/encoding.h"
#include "source/row_reader.h"

namespace jacinth {
namespace {

using nlohmann::json;

constexpr const char* kAsset = "asset";
constexpr const char* kTag = "tag";
constexpr const char* kRole = "role";
constexpr const char* kUnit = "unit";

bool hasMeaning(const std::string& field) {
    return field == kAsset || field == kTag || field == kRole || field == kUnit;
}

}  // namespace

std::pair<std::string, std::string> nameAndUnit(std::string_view text) {
    std::string_view name = trimmed(text);
    if (name.empty() || name.back() != ']') return {std::string(name), {}};
    const std::size_t open = name.rfind('[');
    if (open == std::string_view::npos) return {std::string(name), {}};
    return {std::string(trimmed(name.substr(0, open))),
            std::string(trimmed(name.substr(open + 1, name.size() - open - 2)))};
}

MappedName cutAtFirstSlash(std::string_view text, const std::string& otherwise) {
    MappedName out;
    const auto [name, unit] = nameAndUnit(text);
    out.unit = unit;
    const std::size_t slash = name.find('/');
    out.asset = slash == std::string::npos ? otherwise
                                           : std::string(trimmed(std::string_view(name).substr(0, slash)));
    out.tag =
        slash == std::string::npos ? name : std::string(trimmed(std::string_view(name).substr(slash + 1)));
    return out;
}

Result<std::vector<NameMapping::Piece>> NameMapping::piecesOf(const std::string& text) {
    std::vector<Piece> out(1);
    std::set<std::string> seen;
    for (std::size_t at = 0; at < text.size();) {
        if (text[at] != '{') {
            if (text[at] == '}') return Error{fmt::format("`{}` has a `}}` without a `{{`", text)};
            out.back().literal += text[at++];
            continue;
        }
        const std::size_t end = text.find('}', at);
        if (end == std::string::npos) return Error{fmt::format("`{}` has a `{{` that is not closed", text)};
        const std::string field(trimmed(std::string_view(text).substr(at + 1, end - at - 1)));
        if (field.empty() || field.find('{') != std::string::npos)
            return Error{fmt::format("`{}` has a field without a name", text)};
        if (!seen.insert(field).second)
            return Error{fmt::format("`{}` has the field `{}` twice", text, field)};
        out.push_back({field, {}});
        at = end + 1;
    }
    return out;
}

Result<std::shared_ptr<const NameMapping>> NameMapping::from(const NameSettings& settings) {
    auto out = std::make_shared<NameMapping>();
    out->pattern_ = settings.pattern;
    out->onlyTable_ = settings.onlyTable;
    for (const auto& [name, mapped] : settings.table) out->table_[name] = mapped;
    if (!settings.pattern.empty()) {
        auto pieces = piecesOf(settings.pattern);
        if (!pieces) return pieces.error();
        out->pieces_ = std::move(*pieces);
        for (std::size_t i = 1; i + 1 < out->pieces_.size(); ++i)
            if (out->pieces_[i].literal.empty())
                return Error{
                    fmt::format("in `{}` nothing stands between {{{}}} and {{{}}}: where one ends is "
                                "not said",
                                settings.pattern, out->pieces_[i].field, out->pieces_[i + 1].field)};
        if (std::ranges::none_of(out->pieces_, [](const Piece& p) { return p.field == kTag; }))
            return Error{fmt::format("`{}` has no {{tag}}", settings.pattern)};
    }
    if (!settings.assetName.empty()) {
        auto pieces = piecesOf(settings.assetName);
        if (!pieces) return pieces.error();
        out->assetName_ = std::move(*pieces);
        for (const Piece& wanted : out->assetName_)
            if (!wanted.field.empty() &&
                std::ranges::none_of(out->pieces_, [&](const Piece& p) { return p.field == wanted.field; }))
                return Error{fmt::format("`{}` has no field {{{}}}, which names assets", settings.pattern,
                                         wanted.field)};
    }
    return std::shared_ptr<const NameMapping>(std::move(out));
}

/// Each field takes as little as it can up to the text that follows it, the last one the rest.
bool NameMapping::take(std::string_view name, std::vector<std::string>& values) const {
    if (!name.starts_with(pieces_[0].literal)) return false;
    name.remove_prefix(pieces_[0].literal.size());
    for (std::size_t i = 1; i < pieces_.size(); ++i) {
        const std::string& literal = pieces_[i].literal;
        const bool last = i + 1 == pieces_.size();
        std::size_t end = name.size();
        if (last && !literal.empty()) {
            if (!name.ends_with(literal)) return false;
            end = name.size() - literal.size();
        } else if (!literal.empty()) {
            end = name.find(literal);
            if (end == std::string_view::npos) return false;
        }
        const std::string_view value = trimmed(name.substr(0, end));
        if (value.empty()) return false;
        values.emplace_back(value);
        name.remove_prefix(std::min(name.size(), end + literal.size()));
    }
    return name.empty();
}

MappedName NameMapping::fromValues(std::string_view name, const std::vector<std::string>& values) const {
    MappedName out;
    std::map<std::string, std::string> byField;
    bool afterTag = false;
    for (std::size_t i = 1; i < pieces_.size(); ++i) {
        const std::string &field = pieces_[i].field, &value = values[i - 1];
        byField[field] = value;
        if (field == kAsset) out.asset = value;
        if (field == kRole) out.role = value;
        if (field == kUnit) out.unit = value;
        if (field == kTag) {
            out.tag = value;
            afterTag = true;
        } else if (!hasMeaning(field)) {
            (afterTag ? out.tagFacts : out.assetFacts)[field] = value;
            // Else the measured value and the set point of one loop would be one tag.
            if (afterTag) {
                const std::size_t begin = name.find(out.tag);
                const std::size_t end = name.find(value, begin + out.tag.size());
                out.tag = std::string(trimmed(name.substr(begin, end + value.size() - begin)));
            }
        }
    }
    if (assetName_.empty()) return out;
    out.asset = assetName_[0].literal;
    for (std::size_t i = 1; i < assetName_.size(); ++i)
        out.asset += byField[assetName_[i].field] + assetName_[i].literal;
    return out;
}

Result<MappedName> NameMapping::map(std::string_view text, const std::string& otherwise) const {
    const auto [name, unit] = nameAndUnit(text);
    MappedName out;
    auto known = table_.find(std::string(trimmed(text)));
    if (known == table_.end()) known = table_.find(name);
    if (known != table_.end()) {
        out = known->second;
    } else if (onlyTable_) {
        return Error{fmt::format("`{}` is not in the table of names", name)};
    } else if (pieces_.empty()) {
        out = cutAtFirstSlash(text, otherwise);
    } else {
        std::vector<std::string> values;
        if (!take(name, values)) return Error{fmt::format("`{}` is not of the form {}", name, pattern_)};
        out = fromValues(name, values);
    }
    if (out.unit.empty()) out.unit = unit;
    if (out.asset.empty()) out.asset = otherwise;
    return out;
}

namespace {

/// The text between fields that all names have alike: `/` three times, or a `.` once.
std::size_t countOf(const std::string& name, char c) {
    return static_cast<std::size_t>(std::ranges::count(name, c));
}

}  // namespace

std::string proposedPattern(const std::vector<std::string>& all) {
    std::vector<std::string> names;
    for (const std::string& name : all) names.push_back(nameAndUnit(name).first);
    if (names.empty()) return {};
    const auto alike = [&](char c) {
        return std::ranges::all_of(names,
                                   [&](const auto& n) { return countOf(n, c) == countOf(names[0], c); });
    };
    const std::size_t slashes = countOf(names[0], '/');
    if (slashes >= 2 && alike('/')) {
        static constexpr std::array<const char*, 3> kGroups{"{area}/", "{area}/{line}/",
                                                            "{site}/{area}/{line}/"};
        if (slashes - 2 < kGroups.size()) return std::string(kGroups[slashes - 2]) + "{asset}/{tag}";
        std::string out;
        for (std::size_t i = 1; i < slashes; ++i) out += fmt::format("{{group {}}}/", i);
        return out + "{asset}/{tag}";
    }
    if (slashes == 0 && countOf(names[0], '.') == 1 && alike('.')) return "{asset}.{tag}";
    return {};
}

std::vector<std::string> clashesOf(const std::vector<std::pair<std::string, MappedName>>& mapped,
                                   std::size_t most) {
    std::vector<std::string> out;
    std::map<std::string, const MappedName*> assets;
    std::map<std::pair<std::string, std::string>, const std::string*> tags;
    std::set<std::string> said;
    for (const auto& [name, m] : mapped) {
        const auto [tag, newTag] = tags.emplace(std::pair(m.asset, m.tag), &name);
        if (!newTag && *tag->second != name)
            out.push_back(fmt::format("{} and {} would both be {}/{}", *tag->second, name, m.asset, m.tag));
        const auto [asset, newAsset] = assets.emplace(m.asset, &m);
        if (!newAsset && asset->second->assetFacts != m.assetFacts && said.insert(m.asset).second) {
            std::string where, other;
            for (const auto& [fact, value] : m.assetFacts)
                if (const auto was = asset->second->assetFacts.find(fact);
                    was != asset->second->assetFacts.end() && was->second != value)
                    where = fact + " " + was->second, other = value;
            out.push_back(
                fmt::format("{} is in {} and in {}: give assets names that say which, like "
                            "{{line}} {{asset}}",
                            m.asset, where, other));
        }
        if (out.size() >= most) break;
    }
    return out;
}

Result<std::vector<std::pair<std::string, MappedName>>> readNameTable(std::string_view file) {
    const std::string text = decoded(file);
    const std::string_view head = std::string_view(text).substr(0, text.find('\n'));
    const char separator = *std::max_element(std::begin(",;\t"), std::end(",;\t") - 1, [&](char a, char b) {
        return std::ranges::count(head, a) < std::ranges::count(head, b);
    });
    RowReader rows(text, separator, Quotes::OverLines);
    if (!rows.next()) return Error{"the table of names is empty"};
    std::vector<std::string> header;
    for (const std::string_view h : rows.fields()) header.emplace_back(trimmed(h));
    for (const char* needed : {"name", kTag})
        if (std::ranges::count(header, needed) == 0)
            return Error{fmt::format("the table of names has no column `{}`", needed)};
    std::vector<std::pair<std::string, MappedName>> out;
    std::set<std::string> seen;
    while (rows.next()) {
        if (rows.fields().size() != header.size())
            return Error{fmt::format("line {}: {} fields where the header has {}", rows.line(),
                                     rows.fields().size(), header.size())};
        auto& [name, mapped] = out.emplace_back();
        for (std::size_t i = 0; i < header.size(); ++i) {
            const std::string value(trimmed(rows.fields()[i]));
            const std::string& column = header[i];
            if (column == "name")
                name = value;
            else if (column == kAsset)
                mapped.asset = value;
            else if (column == kTag)
                mapped.tag = value;
            else if (column == kRole)
                mapped.role = value;
            else if (column == kUnit)
                mapped.unit = value;
            else if (!value.empty() && column.starts_with("tag:"))
                mapped.tagFacts[column.substr(4)] = value;
            else if (!value.empty())
                mapped.assetFacts[column] = value;
        }
        if (name.empty() || mapped.tag.empty())
            return Error{fmt::format("line {}: a row needs a name and a tag", rows.line())};
        if (!seen.insert(name).second)
            return Error{fmt::format("line {}: `{}` stands twice", rows.line(), name)};
    }
    return out;
}

std::string nameSettingsText(const NameSettings& s) {
    json table = json::array();
    for (const auto& [name, m] : s.table)
        table.push_back({{"name", name},
                         {"asset", m.asset},
                         {"tag", m.tag},
                         {"role", m.role},
                         {"unit", m.unit},
                         {"assetFacts", m.assetFacts},
                         {"tagFacts", m.tagFacts}});
    return json{
        {"pattern", s.pattern}, {"assetName", s.assetName}, {"onlyTable", s.onlyTable}, {"table", table}}
        .dump(-1, ' ', false, json::error_handler_t::replace);
}

namespace {

std::string textIn(const json& object, const char* name) {
    const auto found = object.find(name);
    return found != object.end() && found->is_string() ? found->get<std::string>() : std::string();
}

std::map<std::string, std::string> factsIn(const json& object, const char* name) {
    std::map<std::string, std::string> out;
    const auto found = object.find(name);
    if (found != object.end() && found->is_object())
        for (const auto& [fact, value] : found->items())
            if (value.is_string()) out[fact] = value.get<std::string>();
    return out;
}

}  // namespace

NameSettings nameSettingsFrom(const std::string& text) {
    NameSettings out;
    const json all = parseJson(text);
    if (!all.is_object()) return out;
    out.pattern = textIn(all, "pattern");
    out.assetName = textIn(all, "assetName");
    out.onlyTable = all.contains("onlyTable") && all["onlyTable"] == true;
    if (all.contains("table") && all["table"].is_array())
        for (const json& row : all["table"])
            if (row.is_object() && !textIn(row, "name").empty())
                out.table.emplace_back(
                    textIn(row, "name"),
                    MappedName{textIn(row, "asset"), textIn(row, "tag"), textIn(row, "unit"),
                               textIn(row, "role"), factsIn(row, "assetFacts"), factsIn(row, "tagFacts")});
    return NameMapping::from(out) ? out : NameSettings{};
}

}  // namespace jacinth
