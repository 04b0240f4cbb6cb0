#include "store/catalog.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <nlohmann/json.hpp>

namespace jacinth {
namespace {
constexpr std::array<const char*, 3> kKinds{"continuous", "stepped", "state"};
}

std::string Tag::system() const {
    const std::string said = factText(facts, "system");
    return said.empty() ? role.substr(0, role.find('_')) : said;
}

const char* tagKindName(TagKind kind) {
    return kKinds[static_cast<std::size_t>(kind)];
}

Result<TagKind> tagKindNamed(const std::string& name) {
    for (std::size_t i = 0; i < kKinds.size(); ++i)
        if (name == kKinds[i]) return static_cast<TagKind>(i);
    return Error{fmt::format("`{}` is no kind of tag; continuous, stepped and state are", name)};
}

std::string roleFromName(const std::string& name) {
    std::string out;
    for (std::size_t i = 0; i < name.size(); ++i) {
        const auto u = static_cast<unsigned char>(name[i]);
        if (u < 0x80) {
            out += std::isalnum(u) ? static_cast<char>(std::tolower(u)) : '_';
            continue;
        }
        // Letters beyond ASCII stay, in lower case where they are Latin-1 or Greek: Δ becomes δ.
        const auto next = i + 1 < name.size() ? static_cast<unsigned char>(name[i + 1]) : 0;
        if (u == 0xC3 && next >= 0x80 && next <= 0x9E && next != 0x97) {
            out += {static_cast<char>(0xC3), static_cast<char>(next + 0x20)};
            ++i;
        } else if (u == 0xCE && next >= 0x91 && next <= 0xA9) {
            out += next < 0xA0 ? std::string{static_cast<char>(0xCE), static_cast<char>(next + 0x20)}
                               : std::string{static_cast<char>(0xCF), static_cast<char>(next - 0x20)};
            ++i;
        } else {
            out += name[i];
        }
    }
    return out;
}

std::string assetKindFromName(const std::string& name) {
    std::size_t end = name.size();
    while (end > 0 && (std::isdigit(static_cast<unsigned char>(name[end - 1])) || name[end - 1] == ' '))
        --end;
    return end == 0 ? name : name.substr(0, end);
}

std::string factsToJson(const Facts& facts) {
    nlohmann::json json = nlohmann::json::object();
    for (const auto& [name, fact] : facts)
        std::visit([&json, &key = name](const auto& v) { json[key] = v; }, fact);
    return json.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

Facts factsFromJson(const std::string& text) {
    Facts out;
    const auto json = nlohmann::json::parse(text, nullptr, false);
    if (!json.is_object()) return out;
    for (const auto& [name, value] : json.items()) {
        if (value.is_number()) out[name] = value.get<double>();
        if (value.is_string()) out[name] = value.get<std::string>();
    }
    return out;
}

void Catalog::reload() {
    assets_.clear();
    tags_.clear();
    Statement assets(db_, "SELECT id, name, kind, facts FROM asset ORDER BY name");
    while (assets.step())
        assets_.push_back({assets.integer(0), assets.text(1), assets.text(2), factsFromJson(assets.text(3))});
    std::map<std::int64_t, std::vector<std::string>> states;
    Statement state(db_, "SELECT tag, name FROM state ORDER BY tag, code");
    while (state.step()) states[state.integer(0)].push_back(state.text(1));
    Statement tags(db_,
                   "SELECT tag.id, asset, asset.name, tag.name, role, unit, tag.kind, longest_gap, spacing, "
                   "tag.facts FROM tag "
                   "JOIN asset ON asset.id = asset ORDER BY asset.name, tag.id");
    while (tags.step()) {
        Tag t{tags.integer(0),
              tags.integer(1),
              tags.text(2),
              tags.text(3),
              tags.text(4),
              tags.text(5),
              static_cast<TagKind>(tags.integer(6)),
              {},
              tags.integer(8),
              states[tags.integer(0)]};
        if (!tags.isNull(7)) t.longestGap = tags.integer(7);
        t.facts = factsFromJson(tags.text(9));
        tags_.push_back(std::move(t));
    }
}

const Asset* Catalog::asset(std::int64_t id) const {
    for (const Asset& a : assets_)
        if (a.id == id) return &a;
    return nullptr;
}

const Asset* Catalog::assetNamed(const std::string& name) const {
    for (const Asset& a : assets_)
        if (a.name == name) return &a;
    return nullptr;
}

const Tag* Catalog::tag(std::int64_t id) const {
    for (const Tag& t : tags_)
        if (t.id == id) return &t;
    return nullptr;
}

Result<Tag> Catalog::tagAt(const std::string& path) const {
    std::vector<std::string> known;
    for (const Tag& t : tags_) {
        if (t.path() == path) return t;
        known.push_back(t.path());
    }
    const std::string near = nearestName(path, known);
    return Error{
        fmt::format("`{}` is no tag{}", path, near.empty() ? "" : fmt::format("; nearest is `{}`", near))};
}

const Tag* Catalog::tagInRole(std::int64_t asset, const std::string& role) const {
    for (const Tag& t : tags_)
        if (t.asset == asset && t.role == role) return &t;
    return nullptr;
}

std::vector<std::string> Catalog::roles() const {
    std::vector<std::string> out;
    for (const Tag& t : tags_)
        if (std::find(out.begin(), out.end(), t.role) == out.end()) out.push_back(t.role);
    return out;
}

Names Catalog::namesFor(std::int64_t assetId) const {
    Names names;
    if (const Asset* a = asset(assetId)) names.assetKind = a->kind;
    for (const Tag& t : tags_) {
        if (t.asset == assetId) names.roles[t.role] = t.info();
        names.paths[t.path()] = t.info();
    }
    return names;
}

std::int64_t Catalog::addAsset(const std::string& name) {
    if (const Asset* known = assetNamed(name)) return known->id;
    Statement(db_, "INSERT INTO asset(name, kind) VALUES(?, ?)").bind(name, assetKindFromName(name)).run();
    assets_.push_back({db_.lastId(), name, assetKindFromName(name), {}});
    return assets_.back().id;
}

std::int64_t Catalog::addTag(std::int64_t assetId, const std::string& name, const std::string& unit,
                             TagKind kind) {
    Tag t;
    t.asset = assetId;
    t.assetName = asset(assetId)->name;
    t.name = name;
    t.role = roleFromName(name);
    t.unit = unit;
    t.kind = kind;
    Statement(db_, "INSERT INTO tag(asset, name, role, unit, kind) VALUES(?, ?, ?, ?, ?)")
        .bind(assetId, name, t.role, unit, static_cast<int>(kind))
        .run();
    t.id = db_.lastId();
    tags_.push_back(std::move(t));
    return tags_.back().id;
}

void Catalog::updateTag(const Tag& t) {
    Statement(db_, "UPDATE tag SET role = ?, unit = ?, kind = ?, longest_gap = ?, facts = ? WHERE id = ?")
        .bind(t.role, t.unit, static_cast<int>(t.kind), t.longestGap, factsToJson(t.facts), t.id)
        .run();
    for (Tag& known : tags_)
        if (known.id == t.id) known = t;
}

int Catalog::addState(std::int64_t tagId, const std::string& name) {
    for (Tag& t : tags_) {
        if (t.id != tagId) continue;
        const auto found = std::find(t.states.begin(), t.states.end(), name);
        if (found != t.states.end()) return static_cast<int>(found - t.states.begin());
        t.states.push_back(name);
        Statement(db_, "INSERT INTO state(tag, code, name) VALUES(?, ?, ?)")
            .bind(tagId, static_cast<std::int64_t>(t.states.size() - 1), name)
            .run();
        return static_cast<int>(t.states.size() - 1);
    }
    throw StoreError("no such tag");
}

void Catalog::setSpacing(std::int64_t tagId, Duration spacing) {
    Statement(db_, "UPDATE tag SET spacing = ? WHERE id = ?").bind(spacing, tagId).run();
    for (Tag& t : tags_)
        if (t.id == tagId) t.spacing = spacing;
}

}  // namespace jacinth
